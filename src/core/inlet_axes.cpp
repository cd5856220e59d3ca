// Axes, and the buttons that are made of them.
#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <utility>

#include "core/inlet_events.hpp"
#include "core/one_thread.hpp"

namespace cursorum {

using detail::AxisButtons;
using detail::AxisSlot;
using detail::Device;
using detail::SlotKind;

Outcome Inlet::axis(DeviceId device, Axis axis, double value, Time when) noexcept {
    return post_axes(device, std::array{AxisValue{axis.number, value}}, when);
}

Outcome Inlet::stick(DeviceId device, Stick stick, double x, double y, Time when) noexcept {
    return post_axes(device, std::array{AxisValue{stick.x().number, x}, AxisValue{stick.y().number, y}}, when);
}

Outcome Inlet::post_axes(DeviceId id, std::span<const AxisValue> values, Time when) noexcept {
    const OneThread here{door_};
    begin(when);
    Device* const device = find_device(id);
    if (!device || !device->listens) return finish(deaf(device));
    if (values.back().axis >= axis_kinds) return finish(Outcome::refused_control);
    std::uint32_t changed = 0;
    Outcome outcome = Outcome::taken;
    for (const AxisValue& value : values) outcome = std::max(outcome, change_axis(*device, value, changed));
    update_axis_buttons(*device, changed, false);
    // What sticks and triggers tell most of the time: nothing but axes, in time. It needs no slot beside its own.
    const bool alone = changed != 0 && ring_.next() == event_begin_;
    write_axes(*device, changed, alone);
    if (!alone) return finish(outcome);
    outcomes_[static_cast<unsigned>(outcome)].add(1);
    return outcome;
}

bool Inlet::set_shaping(DeviceId id, const DeviceShaping& shaping) noexcept {
    const OneThread here{door_};
    Device* const device = find_device(id);
    if (!device || device->number == nobody || !shaping.is_valid()) return false;
    device->shaped_by = shaping;
    device->shaping.set(shaping);
    device->stale_axes = ~std::uint32_t{0};
    return true;
}

Outcome Inlet::apply_axes(Device& device, const AxisValues& axes, bool adopting) noexcept {
    std::uint32_t changed = 0;
    Outcome outcome = Outcome::taken;
    for (std::uint32_t rest = axes.present; rest != 0; rest &= rest - 1) {
        const auto axis = static_cast<unsigned>(std::countr_zero(rest));
        outcome = std::max(outcome, change_axis(device, {axis, axes.values[axis]}, changed));
    }
    update_axis_buttons(device, changed, adopting);
    write_axes(device, changed, false);
    return outcome != Outcome::taken || !adopting ? outcome : Outcome::state_adopted;
}

// `changed`: a bit for each axis.
Outcome Inlet::change_axis(Device& device, AxisValue to, std::uint32_t& changed) noexcept {
    if (!std::isfinite(to.value)) return Outcome::refused_value;
    const double least = is_pull({static_cast<std::uint8_t>(to.axis)}) ? 0 : -1;
    limited_.add(to.value < least || to.value > 1);
    const double value = std::clamp(to.value, least, 1.0) + 0.0;  // no negative zero
    if (value == device.axes[to.axis]) return Outcome::taken;
    if (device.tracks[to.axis] == Device::no_track && !try_bind_track(device, to.axis)) return Outcome::refused_axes;
    device.axes[to.axis] = value;
    changed |= std::uint32_t{1} << to.axis;
    return Outcome::taken;
}

// An axis keeps its track for good.
bool Inlet::try_bind_track(Device& device, unsigned axis) noexcept {
    if (tracks_used_ == place_.track_room) return false;
    device.tracks[axis] = static_cast<std::uint16_t>(place_.first_track + tracks_used_++);
    return true;
}

// `counts`: the event has no slots but these.
void Inlet::write_axes(const Device& device, std::uint32_t changed, bool counts) noexcept {
    if (counts) {
        lone_axes_time_ = latest_.get();
        lone_axes_.add(1);
    }
    const std::uint64_t counted = (lone_axes_.get() & AxisSlot::counted_mask) << AxisSlot::counted_shift;
    std::uint64_t count_here = counts * AxisSlot::counts_bit;
    for (; changed != 0; changed &= changed - 1) {
        const auto axis = static_cast<unsigned>(std::countr_zero(changed));
        const unsigned track = device.tracks[axis];
        const AxisSlot slot{latest_.get(),
                            device.number | std::uint64_t{axis} << 8 | std::uint64_t{track} << 16 |
                                device.is_virtual * AxisSlot::virtual_bit | std::exchange(count_here, 0) | counted,
                            device.axes[axis], late_at_};
        axes_.write_and_publish(slot);
        beside_.publish(beside_.get() + 1);
        axis_table_.show(track - place_.first_track, slot);
    }
    if (counts) lone_axes_end_ = axes_.next();
}

void Inlet::write_undo(const Device& device) noexcept {
    const bool first = ring_.next() == event_begin_;
    ring_.write(detail::Slot::of(latest_.get(), next_low(no_hold_there, device.is_virtual) | detail::unusual_bit,
                                 button_capacity, device.number,
                                 detail::What::of(SlotKind::undo, detail::Effect::none, first, false)));
}

// Only of the axes that changed: those of the others are as they were.
void Inlet::update_axis_buttons(Device& device, std::uint32_t changed, bool adopting) noexcept {
    changed |= std::exchange(device.stale_axes, 0);
    if (changed == 0) return;
    const AxisButtons down = device.axis_buttons;
    // One time is one stamp, and nothing with a later one between.
    const std::array<std::int64_t, 2> time{stamp_, latest_.get()};
    if (device.axes_time != time) {
        device.axes_time = time;
        device.axis_buttons_before = down;
    }
    const AxisButtons before = device.axis_buttons_before;
    AxisButtons now = down;
    const DeviceShaping& shaping = device.shaped_by;
    const auto set_side = [&](Axis axis, AxisSide side, double value) {
        const std::uint64_t bit = std::uint64_t{1} << (2U * axis.number + (side == AxisSide::negative));
        const bool was = (before.sides & bit) != 0;
        const bool is = was ? value > shaping.thresholds.release : value >= shaping.thresholds.press;
        now.sides = is ? now.sides | bit : now.sides & ~bit;
    };
    const auto set_both = [&](Axis axis, double value) {
        set_side(axis, AxisSide::positive, value);
        set_side(axis, AxisSide::negative, -value);
    };
    for (std::uint8_t i = 0; i < stick_kinds; ++i) {
        if ((changed >> 2 * i & 3) == 0) continue;
        const Stick stick{i};
        const Vector2 v = shape(shaping.sticks[i], {device.axes[stick.x().number], device.axes[stick.y().number]});
        set_both(stick.x(), v.x);
        set_both(stick.y(), v.y);
        constexpr std::uint64_t four = 0xF;
        const auto was = static_cast<std::uint8_t>(before.directions >> 4 * i & four);
        const std::uint64_t is = directions_of(v, was, shaping.sticks[i].directions, shaping.thresholds);
        now.directions = (now.directions & ~(four << 4 * i)) | is << 4 * i;
    }
    for (std::uint8_t number = 2 * stick_kinds; changed >> number != 0; ++number) {
        const Axis axis{number};
        if ((changed >> number & 1) == 0) continue;
        if (is_pull(axis))
            set_side(axis, AxisSide::positive, shape(shaping.pulls[number - 2 * stick_kinds], device.axes[number]));
        else
            set_both(axis, device.axes[number]);
        if (number == axis_kinds - 1) break;
    }
    if (now == down) return;
    // Ended before started, each by its number.
    // What one axis did and the next one at the same time undid has not happened.
    const AxisButtons turned = now ^ down, undone = (down ^ before) & turned;
    const auto change = [&](AxisButtons which, SlotKind kind) {
        which.for_each([&](Button button) {
            if (!adopting && undone.has(button)) write_undo(device);
            edge(kind, device, button);
        });
    };
    change(turned & down, adopting ? SlotKind::cancel : SlotKind::release);
    change(turned & now, adopting ? SlotKind::adopt : SlotKind::press);
}

}  // namespace cursorum
