// What most frames take beside edges, and how a frame becomes the next one's start: inline in advance(), since calling
// all this costs as much as doing it. What is seldom is in sampler_desk.cpp.
#pragma once

#include <algorithm>
#include <bit>
#include <utility>

#include "core/sampler/sampler_core.hpp"

namespace cursorum {

inline void detail::DeskEntries::commit(detail::DeskState& state) const noexcept {
    for (std::uint32_t i = 0; i < axis_count; ++i) {
        const detail::AxisRecord& record = axes[i];
        state.axis_values[record.track()] = record.value;
        state.axis_shaped[record.track()] = record.shaped;
    }
    if (fact_count != 0) state.connected = connected;
    for (std::uint32_t i = 0; i < fact_count; ++i) {
        const detail::FactSlot& fact = facts[i];
        if (fact.is_press())
            state.presses[fact.place()] = fact;
        else if (fact.is_contact())
            state.contacts[fact.place()] = fact;
    }
    state.placed = placed;
    state.outside = outside;
    state.locked = locked;
    state.locks = locks;
    state.pointer = pointer;
}

// What is as of the end stays: it is as of the next frame's start, too.
inline void detail::DeskEntries::clear(unsigned inlets) noexcept {
    spans[0].clear();
    for (unsigned i = 1; i < inlets; ++i) spans[i].clear();
    has_any = false;
    if (keeps) kept.clear();
    moved_by_person = moved_by_program = false;
    axis_base += axis_count;
    axis_count = fact_count = 0;
    if (axis_base < 0x80000000U) return;
    axis_base = 1;
    axis_last = {};
}

// All at once: what there is up to `until` is found with a few looks, and the last slot's totals are all that is kept.
[[gnu::always_inline]] inline bool SamplerCore::take_motions(const detail::InletHistory& inlet, unsigned number,
                                                             std::int64_t until, std::uint64_t end) noexcept {
    const detail::MotionRing& ring = inlet.motions_;
    detail::DeskEntries& entries = desk_entries_;
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

[[gnu::always_inline]] inline bool SamplerCore::take_axes(const detail::InletHistory& inlet, unsigned number,
                                                          std::int64_t until, std::uint64_t end) noexcept {
    const detail::AxisRing& ring = inlet.axes_;
    const auto places = ring.places();
    detail::DeskEntries& entries = desk_entries_;
    const std::uint64_t from = desk_.inlets[number].axes;
    std::uint64_t place = from;
    detail::AxisRecord* records = entries.axes.data();
    std::int64_t* stamps = entries_.stamps.data();
    std::uint32_t count = entries.axis_count, stamp_count = entries_.stamp_count, late = 0, moved = 0;
    bool has_room = true;
    for (detail::AxisSlot slot; place != end; ++place) {
        const auto* const words = places.of(place);
        slot.time = static_cast<std::int64_t>(words[0].load(std::memory_order_acquire));
        if (slot.time > until) break;
        slot.what = words[1].load(std::memory_order_acquire);
        slot.value = std::bit_cast<double>(words[2].load(std::memory_order_acquire));
        slot.shaped = std::bit_cast<double>(words[3].load(std::memory_order_acquire));
        if (slot.track() >= axis_capacity) [[unlikely]]  // torn
            break;
        if (count == entries.axis_room) [[unlikely]] {
            has_room = make_axis_room();
            if (!has_room) break;
            records = entries.axes.data();
            stamps = entries_.stamps.data();
        }
        stamps[stamp_count] = slot.time;
        stamp_count += slot.counts();
        if (slot.time < state_.t0) [[unlikely]] {
            const bool is_late = slot.time < state_.late_before;
            late += slot.counts() & is_late;
            moved += slot.counts() & !is_late;
            slot.time = state_.t0;
        }
        records[count] = {slot.time, slot.value, slot.shaped,
                          std::exchange(entries.axis_last[slot.track()], entries.axis_base + count), slot.who()};
        ++count;
    }
    const detail::AxisSlot last{0, places.of(place - 1)[1].load(std::memory_order_acquire), 0};
    if (!ring.still_has(from)) [[unlikely]] {
        for (; count > entries.axis_count; --count)
            entries.axis_last[records[count - 1].track()] = records[count - 1].link;
        heal_axes(number, until);
        return false;
    }
    if (place != from) {
        entries.axis_count = count;
        entries_.stamp_count = stamp_count;
        detail::DeskState::Place& known = desk_.inlets[number];
        state_.taken += detail::AxisSlot::counted_from(known.lone_axes, last.counted());
        if ((late | moved) != 0) [[unlikely]] {
            state_.late += late;
            state_.moved += moved;
        }
        known.lone_axes = last.counted();
        known.axes = place;
    } else if (has_room) {
        note_head(ring.time_at(place));
    }
    if (!has_room) [[unlikely]]
        heal_axes(number, until);
    return place == end && has_room;
}

inline constexpr std::int64_t nothing_more = INT64_MAX;

/// Takes from several inlets in the order of their next events' times, ties by number. `turn(i)` is that time, or
/// `nothing_more`; `take(i, limit)` takes what comes no later than `limit`, and returns false if it could not. Each
/// round takes at least one slot of those that were there at the beginning, or leaves an inlet out.
template <typename Turn, typename Take>
void SamplerCore::take_in_turn(unsigned inlets, std::int64_t until, Turn&& turn, Take&& take) noexcept {
    std::array<std::int64_t, inlet_capacity> heads;
    for (unsigned i = 0; i < inlets; ++i) heads[i] = turn(i);
    for (;;) {
        unsigned least = 0;
        for (unsigned i = 1; i < inlets; ++i)
            if (heads[i] < heads[least]) least = i;
        if (heads[least] > until) break;
        // It goes on until another's head comes first.
        std::int64_t limit = until;
        for (unsigned i = 0; i < inlets; ++i)
            if (i != least && heads[i] != nothing_more) limit = std::min(limit, heads[i] - (i < least));
        heads[least] = take(least, limit) ? turn(least) : nothing_more;
    }
    for (unsigned i = 0; i < inlets; ++i)
        if (heads[i] != nothing_more) note_head(heads[i]);
}

[[gnu::always_inline]] inline void SamplerCore::take_all_beside(const detail::InletHistory& inlet, unsigned number,
                                                                std::int64_t until, std::uint64_t beside) noexcept {
    detail::DeskState::Place& place = desk_.inlets[number];
    desk_entries_.has_any = true;
    bool all = true;  // nothing is left for a later cut
    if (const std::uint64_t end = inlet.motions_.published(); end != state_.inlets[number].motions)
        all &= take_motions(inlet, number, until, end);
    if (const std::uint64_t end = inlet.axes_.published(); end != place.axes)
        all &= take_axes(inlet, number, until, end);
    if (const std::uint64_t end = inlet.facts_.published(); end != place.facts) all &= take_facts(number, until, end);
    if (all) place.beside = beside;
}

}  // namespace cursorum
