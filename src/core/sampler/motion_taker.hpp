// A sampler's motion and wheel. What most frames need is inlined into advance(): it finds the last slot before the cut,
// and reads that one alone. The rest is in motion_taker.cpp.
#pragma once

#include <algorithm>
#include <cstddef>
#include <cstdint>

#include "core/sampler/frame_context.hpp"

namespace cursorum::detail {

/// Takes motion from inlets into a frame.
class MotionTaker {
public:
    /// Finds the state at `start`, as far back as the history reaches.
    static void start_at(FrameContext& of, unsigned inlet, std::int64_t start) noexcept;
    /// Takes all slots up to `until` that are before the position `end`; returns whether none of them is left.
    static bool take(FrameContext& of, const InletHistory& inlet, unsigned number, std::int64_t until,
                     std::uint64_t end) noexcept;
    /// Called when all of several inlets have been taken up to the cut. `kept_before`: how many slots a growing frame
    /// had kept.
    static void end_several(FrameContext& of, std::size_t kept_before) noexcept;
    /// The result of the last search beyond a cut is not valid at another position.
    static void forget_searches(FrameContext& of) noexcept;
    // What is taken between these two falls into a pause, which ends at `to`.
    void begin_skip(FrameContext& of) noexcept;
    void end_skip(FrameContext& of, std::int64_t to) const noexcept;

    /// Its slots are only summed, so their order among inlets does not matter.
    static constexpr bool is_summed = true;
    using Slot = MotionSlot;
    static const MotionRing& ring(const InletHistory& inlet) noexcept { return inlet.motions_; }
    static std::uint64_t& taken(FrameContext& of, unsigned inlet) noexcept { return of.state_.inlets[inlet].motions; }
    static std::int64_t stamp_of(const InletHistory&, const MotionSlot& slot) noexcept { return slot.stamp(); }

private:
    static void place_pointer_of_several(FrameContext& of) noexcept;
    struct Stretch {
        std::uint64_t from, to;  // positions in a ring
    };
    static Stretch find(FrameContext& of, unsigned number, std::int64_t until, std::uint64_t end) noexcept;
    static void count_late(FrameContext& of, const MotionRing& ring, std::uint64_t from, std::uint64_t to,
                           std::uint64_t counts_before) noexcept;
    static void lose(FrameContext& of, unsigned inlet, std::uint64_t from, std::uint64_t to) noexcept;
    static std::size_t keep(FrameContext& of, unsigned inlet, std::uint64_t from, std::uint64_t to) noexcept;

    // When the pause began.
    std::size_t kept_ = 0;
    bool moved_by_person_ = false, moved_by_program_ = false;
};

// All at once: a few probes find the slots up to `until`, and only the last slot's totals are kept.
[[gnu::always_inline]] inline bool MotionTaker::take(FrameContext& of, const InletHistory& inlet, unsigned number,
                                                     std::int64_t until, std::uint64_t end) noexcept {
    const MotionRing& ring = inlet.motions_;
    OtherEntries& entries = of.other_entries_;
    MotionSpan& span = entries.spans[number];
    const MotionSlot& before = span.after();
    MotionSlot& moved = span.next();
    std::uint64_t from = of.state_.inlets[number].motions, to = ring.quick_later_than(until, from, end, span.usual);
    if (to != from) [[likely]]
        ring.read(to - 1, moved);
    if (of.growing_ || !ring.still_has(from)) [[unlikely]] {
        const Stretch found = find(of, number, until, end);
        from = found.from;
        to = found.to;
    }
    if (to == from) [[unlikely]] {
        if (to != end) of.note_head(ring.time_at(to));
        return to == end;
    }
    of.state_.inlets[number].motions = to;
    if (!span.any) {
        span.any = true;
        span.from = from;
    }
    span.to = to;
    span.take();
    const std::uint64_t counts_before = before.counts;
    const std::uint64_t count = to - from;
    span.usual = (span.usual + count + 1) / 2;
    of.state_.taken += count;
    if (moved.counts == counts_before) {
        entries.moved_by_person = true;
    } else {
        of.state_.taken -= std::min(MotionSlot::counted(counts_before, moved.counts, MotionSlot::one_extra), count);
        of.state_.late += MotionSlot::counted(counts_before, moved.counts, MotionSlot::one_late);
        const std::uint64_t programs = MotionSlot::counted(counts_before, moved.counts, MotionSlot::one_virtual);
        entries.moved_by_program |= programs != 0;
        entries.moved_by_person |= programs != count;
    }
    // Late too, though in order: what came after a cut with an earlier stamp. (What the last look left for later is
    // none of it.)
    if ((from != span.known_later || of.entries_.has_gap) && ring.time_at(from) < of.state_.t0) [[unlikely]]
        count_late(of, ring, from, to, counts_before);
    span.known_later = to == end ? UINT64_MAX : to;
    if (moved.is_placed() && (!entries.placed || moved.position != before.position)) {
        entries.placed = true;
        entries.pointer = moved.position;
    }
    return to == end;
}

}  // namespace cursorum::detail
