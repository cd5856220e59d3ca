// A sampler's work, for its own files: its state at the frame's start, and what the frame took since. How each stream
// is taken is in a file of its own.
#pragma once

#include <algorithm>
#include <array>
#include <cstddef>
#include <cstdint>
#include <memory>
#include <span>

#include "core/frame/frame_core.hpp"
#include "core/frame/sampler_state.hpp"
#include "core/inlet/timeline_core.hpp"
#include "core/rings/thread_guard.hpp"
#include "cursorum/core/sampler.hpp"

namespace cursorum {

/// A sampler, as its public class calls it.
class SamplerCore {
public:
    SamplerCore(const TimelineCore& timeline, const SamplerOptions& options);
    ~SamplerCore();
    SamplerCore(const SamplerCore&) = delete;
    SamplerCore& operator=(const SamplerCore&) = delete;

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

    // Driving: sampler.cpp, sampler_several.cpp, sampler_skip.cpp, sampler_saving.cpp.
    struct Healing;
    struct SavedCut;
    struct RestoredCut;
    template <typename Archive, typename Cut>
    static void visit_state(Archive& of, Cut& cut) noexcept;
    void open_frame() noexcept;
    void take(std::int64_t until) noexcept;
    void make_room_for_others();
    void forget_searches() noexcept;
    void take_of_several(std::int64_t until) noexcept;
    template <typename NextTime, typename Take>
    void take_in_order(unsigned inlets, std::int64_t until, NextTime&& next_time, Take&& take) noexcept;
    void take_others_if_changed(const detail::InletHistory& inlet, unsigned number, std::int64_t until) noexcept;
    void take_others(const detail::InletHistory& inlet, unsigned number, std::int64_t until,
                     std::uint64_t others) noexcept;

    // Motion: motion/motion_taker.
    bool take_motions(const detail::InletHistory& inlet, unsigned number, std::int64_t until,
                      std::uint64_t end) noexcept;
    struct Stretch {
        std::uint64_t from, to;  // positions in a ring
    };
    Stretch find_motions(unsigned number, std::int64_t until, std::uint64_t end) noexcept;
    void count_late_motions(const detail::MotionRing& ring, std::uint64_t from, std::uint64_t to,
                            std::uint64_t counts_before) noexcept;
    void lose_motions(unsigned inlet, std::uint64_t from, std::uint64_t to) noexcept;
    std::size_t keep_motions(unsigned inlet, std::uint64_t from, std::uint64_t to) noexcept;

    // Axes: axes/axis_taker.
    bool take_axes(const detail::InletHistory& inlet, unsigned number, std::int64_t until, std::uint64_t end) noexcept;
    bool make_axis_room() noexcept;
    void add_axis(const detail::AxisSlot& slot) noexcept;
    void heal_axes(unsigned inlet, std::int64_t until) noexcept;

    // Occasions: occasions/occasion_taker.cpp.
    bool take_occasions(unsigned inlet, std::int64_t until, std::uint64_t end) noexcept;
    bool takes_press(unsigned inlet, detail::OccasionSlot& occasion) noexcept;
    void add_occasion(detail::OccasionSlot occasion) noexcept;
    void heal_occasions(unsigned inlet, std::int64_t until) noexcept;

    // The order of several inlets.
    std::int64_t healing_time(unsigned inlet, std::int64_t until) const noexcept;
    static void show_connected(const detail::InletHistory& inlet, detail::DeviceBits& connected) noexcept;
    /// Of one inlet, what comes before one of its late events: how far it was looked through.
    struct Before {
        Before() = default;
        Before(const detail::InletPosition& taken, const detail::OtherState::OfInlet& desk) noexcept
            : edges{taken.edges}, motions{taken.motions}, axes{desk.axes} {}
        std::uint64_t edges = 0, motions = 0, axes = 0;
        std::int64_t greatest = INT64_MIN;  // stamp
    };
    using BeforeOfAll = std::array<Before, inlet_capacity>;
    std::int64_t queue_time_of(detail::Slot late, std::uint64_t position, unsigned inlet,
                               Before& before) const noexcept;
    /// The time of the next slot in the rings other than that of edges, among all inlets.
    std::int64_t queue_time_of(std::int64_t time, std::uint64_t late_at, unsigned inlet, Before& before) const noexcept;
    void take_others_of_several(std::int64_t until, const BeforeOfAll& start) noexcept;
    void place_pointer_of_several() noexcept;
    void note_head(std::int64_t time) noexcept { head_ = std::max(head_, time); }

    // Buttons: buttons/edge_taker.hpp, buttons/edge_healing.cpp.
    bool take_some_merging(const detail::InletHistory& inlet, unsigned number, std::uint64_t stop, std::int64_t limit,
                           Before& before) noexcept;
    void take_edges(const detail::InletHistory& inlet, unsigned number, std::uint64_t end, std::int64_t limit,
                    Before& before) noexcept;
    bool take_some_after_gap(const detail::InletHistory& inlet, unsigned number, std::uint64_t stop, std::int64_t limit,
                             Before& before) noexcept;
    template <bool merges, bool has_gap>
    bool take_some(const detail::InletHistory& inlet, unsigned number, std::uint64_t stop, std::int64_t limit,
                   Before& before) noexcept;
    std::size_t free_slots() const noexcept;
    bool make_room() noexcept;
    void heal(unsigned inlet, std::int64_t until) noexcept;

    // Pauses.
    void take_late_others(std::int64_t before) noexcept;
    void skip(std::int64_t from, std::int64_t to) noexcept;
    void skip_buttons(std::int64_t to) noexcept;
    void skip_others(std::int64_t to) noexcept;
    void skip_axes() noexcept;
    void skip_occasions(std::int64_t to) noexcept;

    // Starting and healing.
    void add_change(detail::SlotKind kind, unsigned hold, const detail::Slot& of) noexcept;
    void apply_changes(unsigned number, std::int64_t time) noexcept;
    void start_at(unsigned inlet, std::int64_t start) noexcept;
    void start_motion_at(unsigned inlet, std::int64_t start) noexcept;
    void start_axes_at(unsigned inlet, std::int64_t start) noexcept;
    void start_occasions_at(unsigned inlet, std::int64_t start) noexcept;
    bool find_beginning(const detail::InletHistory& inlet, std::uint64_t position, detail::Slot& hold) const noexcept;
    void settle(const detail::Slot& hold) noexcept;
    void start_merging() noexcept;
    void start_merging(const std::array<detail::Slot, detail::no_hold + 1>& holds) noexcept;

    const TimelineCore* timeline_;
    detail::SamplerState state_;
    detail::OtherState others_;
    detail::OtherEntries other_entries_;
    FrameCore entries_;
    Frame frame_;
    std::unique_ptr<Healing> healing_;
    std::unique_ptr<SamplerCore> peeking_;  // the sampler that peeks
    mutable detail::ThreadGuard guard_;
    bool growing_;
    bool open_ = false;
    /// For the current frame: its size when a pause before it began.
    struct SkipBegins {
        std::uint32_t records, stamps, axes, occasions;
        std::uint64_t taken, late, moved;
        std::size_t kept;
        bool moved_by_person, moved_by_program;
    };
    SkipBegins skip_begins_{};
    std::int64_t head_ = 0;  // of what the last cut left for later: the latest of the next events' times
};

}  // namespace cursorum
