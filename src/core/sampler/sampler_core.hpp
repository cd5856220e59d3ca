// A sampler's work, for its own files. How each stream is taken is in a file of its own.
#pragma once

#include <cstddef>
#include <cstdint>
#include <memory>
#include <span>
#include <tuple>

#include "core/rings/thread_guard.hpp"
#include "core/sampler/axis_taker.hpp"
#include "core/sampler/edge_taker.hpp"
#include "core/sampler/frame_context.hpp"
#include "core/sampler/late_order.hpp"
#include "core/sampler/motion_taker.hpp"
#include "core/sampler/occasion_taker.hpp"
#include "core/sampler/text_taker.hpp"
#include "cursorum/core/sampler.hpp"

namespace cursorum {

/// A sampler, as its public class calls it: it opens and cuts frames, and a taker for each stream does the rest.
class SamplerCore : private detail::FrameContext {
public:
    SamplerCore(const TimelineCore& timeline, const SamplerOptions& options);
    ~SamplerCore();

    const Frame& advance(Time cut) noexcept;
    const Frame& advance(const Tick& tick) noexcept;
    void gather(Time until) noexcept;
    const Frame& peek(Time time) noexcept;
    const Frame& frame() const noexcept { return frame_; }
    /// Writes the part in use to `bytes`, which must have room for the maximum; returns the number of bytes written.
    std::size_t save_to(std::byte* bytes) const noexcept;
    void restore(const std::byte* bytes) noexcept;
    void set_hold_beginnings(std::span<const HoldBeginning> beginnings) noexcept;
    bool set_repeat(const Repeat& repeat) noexcept;
    bool set_repeat(Button button, const Repeat& repeat) noexcept;
    void cancel_presses() noexcept;
    SamplerCounters counters() const noexcept;

private:
    struct WithoutPeek {};
    SamplerCore(const TimelineCore& timeline, const SamplerOptions& options, WithoutPeek);

    struct SavedCut;
    struct RestoredCut;
    template <typename Archive, typename Cut>
    static void visit_state(Archive& of, Cut& cut) noexcept;
    void open_frame() noexcept;
    void take(std::int64_t until) noexcept;
    void take_others_if_changed(const detail::InletHistory& inlet, unsigned number, std::int64_t until) noexcept;
    void take_others(const detail::InletHistory& inlet, unsigned number, std::int64_t until,
                     std::uint64_t others) noexcept;
    void take_of_several(std::int64_t until) noexcept;
    template <typename NextTime, typename Take>
    void take_in_order(unsigned inlets, std::int64_t until, NextTime&& next_time, Take&& take) noexcept;
    void take_others_of_several(std::int64_t until, const detail::BeforeLateOfAll& start) noexcept;
    template <typename Stream, typename EndOf>
    void take_in_order_of_time(Stream& stream, std::int64_t until, const detail::BeforeLateOfAll& start,
                               EndOf&& end_of) noexcept;
    void take_late_others(std::int64_t before) noexcept;
    void skip(std::int64_t from, std::int64_t to) noexcept;

    // One for each stream; those other than edges in the order in which they are taken. A new stream is added here.
    detail::EdgeTaker edges_;
    std::tuple<detail::MotionTaker, detail::AxisTaker, detail::OccasionTaker, detail::TextTaker> other_streams_;

    /// Calls `visit(taker)` for each stream other than edges, in order.
    template <typename Visit>
    [[gnu::always_inline]] void for_each_other(Visit&& visit) noexcept {
        std::apply([&](auto&... taker) { (visit(taker), ...); }, other_streams_);
    }
    template <typename Visit>
    void for_each_stream(Visit&& visit) noexcept {
        visit(edges_);
        for_each_other(visit);
    }

    Frame frame_;
    std::unique_ptr<SamplerCore> peeking_;  // the sampler that peeks
    mutable detail::ThreadGuard guard_;
    bool open_ = false;
};

}  // namespace cursorum
