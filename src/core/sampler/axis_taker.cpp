// The rare parts of taking axes: overruns, starting in the midst of a history, the end of a pause. The common part is
// in axis_taker.hpp.
#include "core/sampler/axis_taker.hpp"

#include <algorithm>
#include <array>
#include <utility>

namespace cursorum::detail {

// For a growing sampler; returns false if the sampler may not grow.
bool AxisTaker::make_room(FrameContext& of) noexcept {
    if (!of.growing_) return false;
    of.other_entries_.axis_room *= 2;
    of.other_entries_.axes.resize(std::size_t{of.other_entries_.axis_room} + axis_capacity);
    of.entries_.make_stamp_room(of.entries_.stamp_room + of.other_entries_.axis_room);
    return true;
}

// A value that does not come from the next slot in order.
void AxisTaker::add(FrameContext& of, const AxisSlot& slot) noexcept {
    if (slot.track() >= axis_capacity) return;
    OtherEntries& entries = of.other_entries_;
    const AxisRecord* const last = entries.axis_record(entries.axis_last[slot.track()]);
    const double before = last ? last->value : of.others_.axis_values[slot.track()];
    const std::uint32_t ordinal = entries.axis_base + entries.axis_count;
    entries.axes[entries.axis_count++] = {
        std::max(slot.time, of.state_.t0), slot.value, slot.shaped,
        std::exchange(entries.axis_last[slot.track()], ordinal),
        AxisTag::of(slot.device(), slot.axis(), slot.track(), slot.value == before, true)};
}

// The present values, as changes at `until`.
void AxisTaker::heal(FrameContext& of, unsigned number, std::int64_t until) noexcept {
    const InletHistory& inlet = of.timeline_->inlet(number);
    std::array<AxisSlot, axis_capacity> values;
    const unsigned first = inlet.numbers_.first_track, room = inlet.numbers_.track_room;
    const auto place_of = [&](const AxisSlot& slot) { return slot.track() - first; };
    std::uint64_t position = 0;
    if (!try_often([&] { return inlet.axis_table_.try_read(inlet.axes_, 0, room, values.data(), position, place_of); }))
        return;  // the next frame detects the overrun again
    ++of.state_.overruns;
    OtherState::OfInlet& taken = of.others_.inlets[number];
    taken.axes = position;
    std::uint32_t missed = 0;  // the newest slot is the last of some track
    for (unsigned i = 0; i < room; ++i)
        if (const std::uint32_t ahead = EventCount::of_axes(taken.axes_alone, values[i].counted());
            values[i].what != 0 && ahead <= AxisSlot::counted_mask / 2)
            missed = std::max(missed, ahead);
    taken.axes_alone += missed;
    taken.axes_alone &= AxisSlot::counted_mask;
    of.state_.lost += missed;
    if (of.growing_)
        of.other_entries_.axes.resize(
            std::max<std::size_t>(of.other_entries_.axes.size(), of.other_entries_.axis_count + 2 * axis_capacity));
    for (unsigned i = 0; i < room && of.other_entries_.axis_count < of.other_entries_.axes.size(); ++i) {
        AxisSlot slot = values[i];
        if (slot.time == 0 && slot.what == 0 && slot.value == 0) continue;  // not in use
        slot.time = of.healing_time(number, until);
        add(of, slot);
    }
}

// The last value of each axis that moved, at the frame's start.
void AxisTaker::end_skip(FrameContext& of, std::int64_t) const noexcept {
    OtherEntries& entries = of.other_entries_;
    std::array<AxisRecord, axis_capacity> last;
    unsigned count = 0;
    for (std::uint32_t i = entries.axis_count; i > skipped_from_; --i) {
        const AxisRecord& record = entries.axes[i - 1];
        const bool is_known = std::any_of(last.begin(), last.begin() + count,
                                          [&](const AxisRecord& other) { return other.track() == record.track(); });
        if (!is_known && count < last.size()) last[count++] = record;
        entries.axis_last[record.track()] = record.link;
    }
    entries.axis_count = skipped_from_;
    of.entries_.skip_axes_at = skipped_from_;
    for (unsigned i = count; i > 0; --i)
        add(of, {of.state_.t0, last[i - 1].tag.bits, last[i - 1].value, last[i - 1].shaped});
    of.entries_.skip_axes_to = entries.axis_count;
}

void AxisTaker::start_at(FrameContext& of, unsigned number, std::int64_t start) noexcept {
    const InletHistory& inlet = of.timeline_->inlet(number);
    OtherState::OfInlet& of_inlet = of.others_.inlets[number];
    const unsigned first = inlet.numbers_.first_track, room = inlet.numbers_.track_room;
    std::array<AxisSlot, axis_capacity> values;
    const auto track_of = [&](const AxisSlot& s) { return s.track() - first; };
    if (!try_often(
            [&] { return inlet.axis_table_.try_read(inlet.axes_, 0, room, values.data(), of_inlet.axes, track_of); })) {
        of_inlet.axes = 0;  // the first frame heals
        values = {};
    }
    // Back to `start`: an axis that has changed since then had the value of its last change before it.
    std::array<bool, axis_capacity> undone{};
    AxisSlot back;
    std::uint64_t at = of_inlet.axes;
    for (; at > inlet.axes_.oldest() && inlet.axes_.try_read(at - 1, back) && back.time > start; --at)
        if (back.track() - first < room) undone[back.track() - first] = true;
    of_inlet.axes = at;
    if (at > inlet.axes_.oldest() && inlet.axes_.try_read(at - 1, back))
        of_inlet.axes_alone = back.counted();
    else if (at != inlet.axes_.published() && inlet.axes_.try_read(at, back))
        of_inlet.axes_alone = (back.counted() - back.counts()) & AxisSlot::counted_mask;
    for (unsigned i = 0; i < room; ++i) {
        if (undone[i]) values[i].value = values[i].shaped = 0;
        if (values[i].what == 0 && values[i].value == 0 && values[i].time == 0) continue;
        of.others_.axis_values[first + i] = values[i].value;
        of.others_.axis_shaped[first + i] = values[i].shaped;
    }
    for (; at > inlet.axes_.oldest() && inlet.axes_.try_read(at - 1, back); --at) {
        const unsigned i = back.track() - first;
        if (i >= room || !undone[i]) continue;
        of.others_.axis_values[first + i] = back.value;
        of.others_.axis_shaped[first + i] = back.shaped;
        undone[i] = false;
    }
}

}  // namespace cursorum::detail
