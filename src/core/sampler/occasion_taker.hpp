// A sampler's clicks, drags, contacts, devices and lock keys. After a pause, clicks count anew, what was in progress is
// cancelled, and contacts go on without having begun.
#pragma once

#include <cstdint>

#include "core/sampler/frame_context.hpp"
#include "core/sampler/late_order.hpp"

namespace cursorum::detail {

/// Takes occasions from inlets into a frame.
class OccasionTaker : public OrderedStream<OccasionSlot, &InletHistory::occasions_, &OtherState::OfInlet::occasions> {
public:
    /// Finds the state at `start`, as far back as the history reaches.
    static void start_at(FrameContext& of, unsigned inlet, std::int64_t start) noexcept;
    /// Takes all slots up to `until` that are before the position `end`; returns whether none of them is left.
    static bool take(FrameContext& of, const InletHistory& inlet, unsigned number, std::int64_t until,
                     std::uint64_t end) noexcept;
    // What is taken between these two falls into a pause, which ends at `to`.
    void begin_skip(FrameContext& of) noexcept { skipped_from_ = of.other_entries_.occasion_count; }
    void end_skip(FrameContext& of, std::int64_t to) const noexcept;

private:
    static bool takes_press(FrameContext& of, unsigned inlet, OccasionSlot& occasion) noexcept;
    static void add(FrameContext& of, OccasionSlot occasion) noexcept;
    static void heal(FrameContext& of, unsigned inlet, std::int64_t until) noexcept;
    static void show_connected(const InletHistory& inlet, DeviceBits& connected) noexcept;

    std::uint32_t skipped_from_ = 0;  // how many there were when the pause began
};

}  // namespace cursorum::detail
