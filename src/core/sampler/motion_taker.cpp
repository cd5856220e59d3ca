// The rare parts of taking motion and the wheel: overruns, late motion, pauses, samplers that start in the midst of a
// history. The common part is in motion_taker.hpp.
#include "core/sampler/motion_taker.hpp"

#include <algorithm>
#include <utility>

namespace cursorum::detail {

void MotionTaker::forget_searches(FrameContext& of) noexcept {
    for (unsigned i = 0; i < of.timeline_->inlet_count(); ++i) of.other_entries_.spans[i].known_later = UINT64_MAX;
}

// Takes slots up to `until` if some may have been overwritten, and for frames that keep a copy of each slot.
MotionTaker::Stretch MotionTaker::find(FrameContext& of, unsigned number, std::int64_t until,
                                       std::uint64_t end) noexcept {
    const MotionRing& ring = of.timeline_->inlet(number).motions_;
    MotionSpan& span = of.other_entries_.spans[number];
    std::uint64_t& taken = of.state_.inlets[number].motions;
    Stretch found{taken, taken};
    try_often([&] {
        const std::uint64_t from = std::max(taken, std::min(ring.oldest(), end));
        const std::uint64_t to = ring.later_than(until, from, end, span.usual);
        if (from != taken) {
            lose(of, number, from, to);
            span.to = to;
        }
        taken = from;
        found = {from, from};  // nothing is taken if the producer wraps around the whole ring meanwhile
        if (to == from) return true;
        const std::size_t kept = of.growing_ ? keep(of, number, from, to) : 0;
        if (!ring.try_read(to - 1, span.next())) {
            if (of.growing_) of.other_entries_.kept.resize(kept);
            return false;
        }
        taken = to;
        found.to = to;
        return true;
    });
    return found;
}

// Of those that were in time on their inlet, how many came after a cut with an earlier stamp, or are moved to the end
// of a gap.
void MotionTaker::count_late(FrameContext& of, const MotionRing& ring, std::uint64_t from, std::uint64_t to,
                             std::uint64_t counts_before) noexcept {
    MotionSlot last;
    const auto in_time_before = [&](std::int64_t time) {
        const std::uint64_t first = ring.later_than(time - 1, from, to, 0);
        std::uint64_t count = first - from;
        if (first != from && ring.try_read(first - 1, last))  // those that are counted elsewhere
            for (const std::uint64_t one : {MotionSlot::one_late, MotionSlot::one_extra})
                count -= std::min(count, MotionSlot::counted(counts_before, last.counts, one));
        return count;
    };
    const std::uint64_t late = in_time_before(of.state_.late_before);
    of.state_.late += late;
    if (of.state_.t0 != of.state_.late_before) of.state_.moved += in_time_before(of.state_.t0) - late;
}

// Some slots were overwritten. The increment of the oldest remaining one is unknown: it counts only in the sums.
void MotionTaker::lose(FrameContext& of, unsigned number, std::uint64_t from, std::uint64_t to) noexcept {
    const std::uint64_t lost = from - of.state_.inlets[number].motions;
    ++of.state_.overruns;
    of.state_.lost += lost;
    MotionSpan& span = of.other_entries_.spans[number];
    span.any = true;
    span.from = from;
    span.has_gap = to != from && of.timeline_->inlet(number).motions_.try_read(from, span.gap);
    if (span.has_gap) ++span.from;
}

// For frames that outlast the history: a copy of each slot, with its increments in place of the totals.
std::size_t MotionTaker::keep(FrameContext& of, unsigned number, std::uint64_t from, std::uint64_t to) noexcept {
    const std::size_t kept = of.other_entries_.kept.size();
    const MotionRing& ring = of.timeline_->inlet(number).motions_;
    const MotionSlot& moved = of.other_entries_.spans[number].after();
    FixedDistance motion = moved.motion, wheel = moved.wheel, raw = moved.raw;
    std::uint64_t steps = moved.steps;
    for (MotionSlot slot; from != to; ++from) {
        if (!ring.try_read(from, slot)) continue;
        for (unsigned axis = 0; axis < 2; ++axis) {
            slot.motion[axis] -= std::exchange(motion[axis], slot.motion[axis]);
            slot.raw[axis] -= std::exchange(raw[axis], slot.raw[axis]);
            slot.wheel[axis] -= std::exchange(wheel[axis], slot.wheel[axis]);
        }
        const std::uint64_t before = std::exchange(steps, slot.steps);
        slot.steps = MotionSlot::steps_between(before, slot.steps);
        of.other_entries_.kept.push_back(slot);
    }
    return kept;
}

void MotionTaker::start_at(FrameContext& of, unsigned number, std::int64_t start) noexcept {
    const InletHistory& inlet = of.timeline_->inlet(number);
    InletPosition& taken = of.state_.inlets[number];
    OtherState::OfInlet& of_inlet = of.others_.inlets[number];
    const MotionRing& ring = inlet.motions_;
    MotionSlot slot;
    try_often([&] {
        const std::uint64_t end = ring.published(), oldest = std::min(ring.oldest(), end);
        taken.motions = ring.later_than(start, oldest, end, end - oldest);
        if (taken.motions == 0) return true;
        // The totals before the next slot; for the oldest remaining slot, its own.
        if (taken.motions == oldest && taken.motions != end) ++taken.motions;
        if (!ring.try_read(taken.motions - 1, slot)) return false;
        of_inlet.moved = slot;
        if (slot.is_placed()) of.others_.placed = true, of.others_.pointer = slot.position;
        return true;
    });
}

// The pointer's position is that of the inlet that reported it last.
void MotionTaker::place_pointer_of_several(FrameContext& of) noexcept {
    std::int64_t latest = INT64_MIN;
    for (unsigned i = 0; i < of.timeline_->inlet_count(); ++i) {
        const MotionSpan& span = of.other_entries_.spans[i];
        if (!span.any || !span.after().is_placed()) continue;
        const MotionRing& ring = of.timeline_->inlet(i).motions_;
        MotionSlot slot;
        for (std::uint64_t at = span.to; at != span.from; --at) {
            if (!ring.try_read(at - 1, slot)) break;
            if (!slot.places()) continue;
            if (slot.time >= latest) {
                latest = slot.time;
                of.other_entries_.pointer = slot.position;
            }
            break;
        }
    }
}

void MotionTaker::begin_skip(FrameContext& of) noexcept {
    kept_ = of.other_entries_.kept.size();
    moved_by_person_ = of.other_entries_.moved_by_person;
    moved_by_program_ = of.other_entries_.moved_by_program;
    for (unsigned i = 0; i < of.timeline_->inlet_count(); ++i) of.other_entries_.spans[i].begin_hole();
}

void MotionTaker::end_several(FrameContext& of, std::size_t kept_before) noexcept {
    std::vector<MotionSlot>& kept = of.other_entries_.kept;
    if (of.growing_)
        std::stable_sort(kept.begin() + static_cast<std::ptrdiff_t>(kept_before), kept.end(),
                         [](const MotionSlot& a, const MotionSlot& b) { return a.time < b.time; });
    place_pointer_of_several(of);
}

void MotionTaker::end_skip(FrameContext& of, std::int64_t) const noexcept {
    of.other_entries_.moved_by_person = moved_by_person_;
    of.other_entries_.moved_by_program = moved_by_program_;
    if (of.growing_) of.other_entries_.kept.resize(kept_);
    for (unsigned i = 0; i < of.timeline_->inlet_count(); ++i) of.other_entries_.spans[i].end_hole();
}

}  // namespace cursorum::detail
