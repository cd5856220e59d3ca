// The part of taking motion that most frames need, inlined into advance(): it finds the last slot before the cut, and
// reads that one alone. The rest is in motion_taker.cpp.
#pragma once

#include <algorithm>

#include "core/sampler/sampler_core.hpp"

namespace cursorum {

// All at once: a few probes find the slots up to `until`, and only the last slot's totals are kept.
[[gnu::always_inline]] inline bool SamplerCore::take_motions(const detail::InletHistory& inlet, unsigned number,
                                                             std::int64_t until, std::uint64_t end) noexcept {
    const detail::MotionRing& ring = inlet.motions_;
    detail::OtherEntries& entries = other_entries_;
    detail::MotionSpan& span = entries.spans[number];
    const detail::MotionSlot& before = span.after();
    detail::MotionSlot& moved = span.next();
    std::uint64_t from = state_.inlets[number].motions, to = ring.quick_later_than(until, from, end, span.usual);
    if (to != from) [[likely]]
        ring.read(to - 1, moved);
    if (growing_ || !ring.still_has(from)) [[unlikely]] {
        const Stretch found = find_motions(number, until, end);
        from = found.from;
        to = found.to;
    }
    if (to == from) [[unlikely]] {
        if (to != end) note_head(ring.time_at(to));
        return to == end;
    }
    state_.inlets[number].motions = to;
    if (!span.any) {
        span.any = true;
        span.from = from;
    }
    span.to = to;
    span.take();
    const std::uint64_t counts_before = before.counts;
    const std::uint64_t count = to - from;
    span.usual = (span.usual + count + 1) / 2;
    state_.taken += count;
    if (moved.counts == counts_before) {
        entries.moved_by_person = true;
    } else {
        state_.taken -=
            std::min(detail::MotionSlot::counted(counts_before, moved.counts, detail::MotionSlot::one_extra), count);
        state_.late += detail::MotionSlot::counted(counts_before, moved.counts, detail::MotionSlot::one_late);
        const std::uint64_t programs =
            detail::MotionSlot::counted(counts_before, moved.counts, detail::MotionSlot::one_virtual);
        entries.moved_by_program |= programs != 0;
        entries.moved_by_person |= programs != count;
    }
    // Late too, though in order: what came after a cut with an earlier stamp. (What the last look left for later is
    // none of it.)
    if ((from != span.known_later || entries_.has_gap) && ring.time_at(from) < state_.t0) [[unlikely]]
        count_late_motions(ring, from, to, counts_before);
    span.known_later = to == end ? UINT64_MAX : to;
    if (moved.is_placed() && (!entries.placed || moved.position != before.position)) {
        entries.placed = true;
        entries.pointer = moved.position;
    }
    return to == end;
}

}  // namespace cursorum
