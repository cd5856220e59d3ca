// What most frames take beside edges, and how a frame becomes the next one's start: inline in advance(), since calling
// all this costs as much as doing it. What is seldom is in sampler_desk.cpp.
#pragma once

#include <algorithm>
#include <bit>
#include <utility>

#include "cursorum/core/sampler.hpp"

namespace cursorum {

inline void detail::DeskEntries::commit(detail::DeskState& state) const noexcept {
    for (std::uint32_t i = 0; i < axis_count; ++i) {
        const detail::AxisRecord& record = axes[i];
        state.axis_values[record.track] = record.value;
        state.axis_owners[record.track] = record.owner;
    }
    state.tracks = tracks;
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
    kept.clear();
    moved_by_person = moved_by_program = false;
    axis_base += axis_count;
    axis_count = fact_count = 0;
    if (axis_base < 0x80000000U) return;
    axis_base = 1;
    axis_last = {};
}

// All at once: what there is up to `until` is found with a few looks, and the last slot's totals are all that is kept.
[[gnu::always_inline]] inline bool Sampler::take_motions(const Inlet& inlet, unsigned number,
                                                         std::int64_t until) noexcept {
    const detail::MotionRing& ring = inlet.motions_;
    std::uint64_t& place = state_.inlets[number].motions;
    detail::DeskEntries& entries = desk_entries_;
    detail::MotionSpan& span = entries.spans[number];
    const detail::MotionSlot& before = span.after();
    detail::MotionSlot& moved = span.next();
    const std::uint64_t end = ring.published();
    std::uint64_t from = 0, to = 0;
    for (;;) {
        from = ring.still_has(place) ? place : std::min(ring.oldest(), end);
        to = ring.later_than(until, from, end, span.usual);
        if (from == place && to == from) return to == end;

        if (!span.any) {
            span.any = true;
            span.from = from;
        }
        span.to = to;
        if (from != place) [[unlikely]]
            lose_motions(number, from, to);
        place = to;
        if (to == from) return to == end;
        const std::size_t kept = growing_ ? keep_motions(number, from, to) : 0;
        // Word by word: a wide load of what was just stored narrowly would wait.
        if (ring.try_read(to - 1, moved)) [[likely]]
            break;
        // The producer went round the whole ring meanwhile.
        if (growing_) entries.kept.resize(kept);
        place = from;
    }
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
    if (from != span.known_later && ring.time_at(from) < state_.t0) [[unlikely]] {
        const std::uint64_t first = ring.later_than(state_.t0 - 1, from, to, 0);
        detail::MotionSlot until_then;
        state_.late += first - from;
        if (ring.try_read(first - 1, until_then))
            state_.late -= detail::MotionSlot::counted(counts_before, until_then.counts, detail::MotionSlot::one_late);
    }
    span.known_later = to == end ? UINT64_MAX : to;
    if (moved.is_placed() && (!entries.placed || moved.position != before.position)) {
        entries.placed = true;
        entries.pointer = moved.position;
    }
    return to == end;
}

[[gnu::always_inline]] inline void Sampler::add_axis(const detail::AxisSlot& slot) noexcept {
    if (slot.track() >= axis_capacity) return;
    detail::DeskEntries& entries = desk_entries_;
    entries.tracks = std::max<std::uint32_t>(entries.tracks, slot.track() + 1U);
    const std::uint32_t ordinal = entries.axis_base + entries.axis_count;
    entries.axes[entries.axis_count++] = {
        std::max(slot.time, state_.t0), slot.value, std::exchange(entries.axis_last[slot.track()], ordinal),
        static_cast<std::uint16_t>(slot.track()), static_cast<std::uint16_t>(slot.device() | slot.axis() << 8)};
}

[[gnu::always_inline]] inline bool Sampler::take_axes(const Inlet& inlet, unsigned number,
                                                      std::int64_t until) noexcept {
    const detail::AxisRing& ring = inlet.axes_;
    std::uint64_t place = desk_.inlets[number].axes;
    const std::uint64_t end = ring.published();
    const auto places = ring.places();
    for (detail::AxisSlot slot; place != end; ++place) {
        const auto* const words = places.of(place);
        slot.time = static_cast<std::int64_t>(words[0].load(std::memory_order_acquire));
        if (slot.time > until && ring.still_has(place)) break;
        slot.what = words[1].load(std::memory_order_acquire);
        slot.value = std::bit_cast<double>(words[2].load(std::memory_order_acquire));
        const bool has_room = desk_entries_.axis_count < desk_entries_.axis_room;
        if (!ring.still_has(place) || (!has_room && !growing_)) [[unlikely]] {
            heal_axes(number, until);
            return false;
        }
        if (!has_room) [[unlikely]] {
            desk_entries_.axis_room *= 2;
            desk_entries_.axes.resize(std::size_t{desk_entries_.axis_room} + axis_capacity);
            entries_.make_stamp_room(entries_.stamp_room + desk_entries_.axis_room);
        }
        entries_.stamps[entries_.stamp_count] = slot.time;
        entries_.stamp_count += slot.counts();
        state_.taken += slot.counts();
        if (slot.time < state_.t0) [[unlikely]]
            state_.late += slot.counts();
        desk_.inlets[number].lone_axes = slot.counted();
        add_axis(slot);
    }
    desk_.inlets[number].axes = place;
    return place == end;
}

[[gnu::always_inline]] inline void Sampler::take_all_beside(const Inlet& inlet, unsigned number, std::int64_t until,
                                                            std::uint64_t beside) noexcept {
    detail::DeskState::Place& place = desk_.inlets[number];
    desk_entries_.has_any = true;
    bool all = true;  // nothing is left for a later cut
    if (inlet.motions_.published() != state_.inlets[number].motions) all &= take_motions(inlet, number, until);
    if (inlet.axes_.published() != place.axes) all &= take_axes(inlet, number, until);
    if (inlet.facts_.published() != place.facts) all &= take_facts(number, until);
    if (all) place.beside = beside;
}

}  // namespace cursorum
