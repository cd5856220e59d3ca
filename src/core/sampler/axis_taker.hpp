// A sampler's axes. What most frames need is inlined into advance(): each slot up to the cut becomes a record of the
// frame. The rest is in axis_taker.cpp.
#pragma once

#include <algorithm>
#include <bit>
#include <cstdint>
#include <utility>

#include "core/inlet/event_count.hpp"
#include "core/sampler/frame_context.hpp"
#include "core/sampler/late_order.hpp"

namespace cursorum::detail {

/// Takes axes from inlets into a frame.
class AxisTaker : public OrderedStream<AxisSlot, &InletHistory::axes_, &OtherState::OfInlet::axes> {
public:
    /// Finds the state at `start`, as far back as the history reaches.
    static void start_at(FrameContext& of, unsigned inlet, std::int64_t start) noexcept;
    /// Takes all slots up to `until` that are before the position `end`; returns whether none of them is left.
    static bool take(FrameContext& of, const InletHistory& inlet, unsigned number, std::int64_t until,
                     std::uint64_t end) noexcept;
    // What is taken between these two falls into a pause, which ends at `to`.
    void begin_skip(FrameContext& of) noexcept { skipped_from_ = of.other_entries_.axis_count; }
    void end_skip(FrameContext& of, std::int64_t to) const noexcept;

private:
    static bool make_room(FrameContext& of) noexcept;
    static void add(FrameContext& of, const AxisSlot& slot) noexcept;
    static void heal(FrameContext& of, unsigned inlet, std::int64_t until) noexcept;

    std::uint32_t skipped_from_ = 0;  // how many records there were when the pause began
};

[[gnu::always_inline]] inline bool AxisTaker::take(FrameContext& of, const InletHistory& inlet, unsigned number,
                                                   std::int64_t until, std::uint64_t end) noexcept {
    const AxisRing& ring = inlet.axes_;
    const auto places = ring.places();
    OtherEntries& entries = of.other_entries_;
    const std::uint64_t from = of.others_.inlets[number].axes;
    std::uint64_t at = from;
    AxisRecord* records = entries.axes.data();
    std::int64_t* stamps = of.entries_.stamps.data();
    std::uint32_t count = entries.axis_count, stamp_count = of.entries_.stamp_count, late = 0, moved = 0;
    bool has_room = true;
    for (AxisSlot slot; at != end; ++at) {
        const auto* const words = places.of(at);
        slot.time = static_cast<std::int64_t>(words[0].load(std::memory_order_acquire));
        if (slot.time > until) break;
        slot.what = words[1].load(std::memory_order_acquire);
        slot.value = std::bit_cast<double>(words[2].load(std::memory_order_acquire));
        slot.shaped = std::bit_cast<double>(words[3].load(std::memory_order_acquire));
        if (slot.track() >= axis_capacity) [[unlikely]]  // torn
            break;
        if (count == entries.axis_room) [[unlikely]] {
            has_room = make_room(of);
            if (!has_room) break;
            records = entries.axes.data();
            stamps = of.entries_.stamps.data();
        }
        stamps[stamp_count] = slot.time;
        stamp_count += slot.counts();
        if (slot.time < of.state_.t0) [[unlikely]] {
            const bool is_late = slot.time < of.state_.late_before;
            late += slot.counts() & is_late;
            moved += slot.counts() & !is_late;
            slot.time = std::max(slot.time, of.state_.late_before);  // see AxisRecord
        }
        records[count] = {slot.time, slot.value, slot.shaped,
                          std::exchange(entries.axis_last[slot.track()], entries.axis_base + count), slot.tag()};
        ++count;
    }
    const AxisSlot last{0, places.of(at - 1)[1].load(std::memory_order_acquire), 0};
    if (!ring.still_has(from)) [[unlikely]] {
        for (; count > entries.axis_count; --count)
            entries.axis_last[records[count - 1].track()] = records[count - 1].link;
        heal(of, number, until);
        return false;
    }
    if (at != from) {
        entries.axis_count = count;
        of.entries_.stamp_count = stamp_count;
        OtherState::OfInlet& known = of.others_.inlets[number];
        of.state_.taken += EventCount::of_axes(known.axes_alone, last.counted());
        if ((late | moved) != 0) [[unlikely]] {
            of.state_.late += late;
            of.state_.moved += moved;
        }
        known.axes_alone = last.counted();
        known.axes = at;
    } else if (has_room) {
        of.note_head(ring.time_at(at));
    }
    if (!has_room) [[unlikely]]
        heal(of, number, until);
    return at == end && has_room;
}

}  // namespace cursorum::detail
