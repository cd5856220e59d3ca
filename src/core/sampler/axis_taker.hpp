// The part of taking axes that most frames need, inlined into advance(): each slot up to the cut becomes a record of
// the frame. The rest is in axis_taker.cpp.
#pragma once

#include <algorithm>
#include <bit>
#include <utility>

#include "core/inlet/event_count.hpp"
#include "core/sampler/sampler_core.hpp"

namespace cursorum {

[[gnu::always_inline]] inline bool SamplerCore::take_axes(const detail::InletHistory& inlet, unsigned number,
                                                          std::int64_t until, std::uint64_t end) noexcept {
    const detail::AxisRing& ring = inlet.axes_;
    const auto places = ring.places();
    detail::OtherEntries& entries = other_entries_;
    const std::uint64_t from = others_.inlets[number].axes;
    std::uint64_t at = from;
    detail::AxisRecord* records = entries.axes.data();
    std::int64_t* stamps = entries_.stamps.data();
    std::uint32_t count = entries.axis_count, stamp_count = entries_.stamp_count, late = 0, moved = 0;
    bool has_room = true;
    for (detail::AxisSlot slot; at != end; ++at) {
        const auto* const words = places.of(at);
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
            slot.time = std::max(slot.time, state_.late_before);  // see AxisRecord
        }
        records[count] = {slot.time, slot.value, slot.shaped,
                          std::exchange(entries.axis_last[slot.track()], entries.axis_base + count), slot.tag()};
        ++count;
    }
    const detail::AxisSlot last{0, places.of(at - 1)[1].load(std::memory_order_acquire), 0};
    if (!ring.still_has(from)) [[unlikely]] {
        for (; count > entries.axis_count; --count)
            entries.axis_last[records[count - 1].track()] = records[count - 1].link;
        heal_axes(number, until);
        return false;
    }
    if (at != from) {
        entries.axis_count = count;
        entries_.stamp_count = stamp_count;
        detail::OtherState::OfInlet& known = others_.inlets[number];
        state_.taken += detail::EventCount::of_axes(known.axes_alone, last.counted());
        if ((late | moved) != 0) [[unlikely]] {
            state_.late += late;
            state_.moved += moved;
        }
        known.axes_alone = last.counted();
        known.axes = at;
    } else if (has_room) {
        note_head(ring.time_at(at));
    }
    if (!has_room) [[unlikely]]
        heal_axes(number, until);
    return at == end && has_room;
}

}  // namespace cursorum
