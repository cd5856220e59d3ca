// What all streams of a sampler share while a frame is made: the state at the frame's start, and what the frame has
// taken since. Every call of a taker gets it as a parameter, since a reference in each would cost instructions.
#pragma once

#include <algorithm>
#include <array>
#include <cstddef>
#include <cstdint>
#include <memory>

#include "core/frame/frame_core.hpp"
#include "core/frame/sampler_state.hpp"
#include "core/inlet/timeline_core.hpp"

namespace cursorum::detail {

/// Working memory of healing and of a pause's end: too large for a small stack, and nothing may be allocated then.
struct HealingMemory {
    struct Change {
        std::uint64_t order;  // ended before started, by device, then by name
        Slot slot;
    };
    SamplerState now;
    InletHistory::HoldsCopy copy;
    std::array<Change, 2 * hold_capacity> changes;
    unsigned count = 0;
};

/// A sampler's state and its frame, for the takers of all streams. The sampler's thread alone uses it.
struct FrameContext {
    FrameContext(const TimelineCore& timeline, bool growing);
    FrameContext(const FrameContext&) = delete;
    FrameContext& operator=(const FrameContext&) = delete;

    /// Notes that something that takes effect at `time` is left for a later cut.
    void note_head(std::int64_t time) noexcept { head_ = std::max(head_, time); }
    /// When the present of an inlet that was overrun is taken: at the cut (or when another inlet's event is next), or
    /// at its last event, if that is earlier. Never before what was taken already, so never outside the frame.
    std::int64_t healing_time(unsigned inlet, std::int64_t until) const noexcept {
        const std::int64_t latest = std::min(until, nanoseconds(timeline_->inlet(inlet).latest()));
        return std::max({state_.effective, state_.t0, latest});
    }
    /// Healing may end and start every hold, each with a record for an either-side name, of which a device has eight
    /// keys; the end of a pause likewise.
    std::size_t healing_room() const noexcept {
        const std::size_t either_side = std::min(8 * timeline_->device_room(), hold_capacity);
        return 2 * 2 * (hold_capacity + either_side);
    }

    const TimelineCore* timeline_;
    SamplerState state_;
    OtherState others_;
    OtherEntries other_entries_;
    FrameCore entries_;
    const std::unique_ptr<HealingMemory> healing_ = std::make_unique<HealingMemory>();
    const bool growing_;
    const bool has_ledgers_;
    std::int64_t head_ = 0;  // of what the last cut left for later: the latest of the next events' times
};

}  // namespace cursorum::detail
