// Axes, and the buttons that are made of them.
#include <algorithm>
#include <bit>
#include <cmath>
#include <utility>

#include "core/inlet_events.hpp"
#include "core/one_thread.hpp"

namespace cursorum {

using detail::AxisSlot;
using detail::Device;
using detail::SlotKind;

Outcome Inlet::axis(DeviceId device, Axis axis, double value, Time when) noexcept {
    AxisValues values;
    values.set(axis, value);
    return post_axes(device, values, when);
}

Outcome Inlet::stick(DeviceId device, Stick stick, double x, double y, Time when) noexcept {
    AxisValues values;
    values.set(stick.x(), x);
    values.set(stick.y(), y);
    return post_axes(device, values, when);
}

Outcome Inlet::post_axes(DeviceId id, const AxisValues& axes, Time when) noexcept {
    const OneThread here{door_};
    begin(when);
    Device* const device = find_device(id);
    if (!device || !device->listens) return finish(deaf(device));
    if (axes.present == 0) return finish(Outcome::refused_control);
    std::uint32_t changed = 0;
    const Outcome outcome = change_axes(*device, axes, changed);
    update_axis_buttons(*device, false);
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
    return true;
}

Outcome Inlet::apply_axes(Device& device, const AxisValues& axes, bool adopting) noexcept {
    std::uint32_t changed = 0;
    const Outcome outcome = change_axes(device, axes, changed);
    update_axis_buttons(device, adopting);
    write_axes(device, changed, false);
    return outcome != Outcome::taken || !adopting ? outcome : Outcome::state_adopted;
}

// `changed`: a bit for each axis.
Outcome Inlet::change_axes(Device& device, const AxisValues& axes, std::uint32_t& changed) noexcept {
    Outcome outcome = Outcome::taken;
    for (unsigned axis = 0; axis < axis_kinds; ++axis) {
        if (!axes.has(axis)) continue;
        double value = axes.values[axis];
        if (!std::isfinite(value)) {
            outcome = Outcome::refused_value;
            continue;
        }
        const double least = is_pull({static_cast<std::uint8_t>(axis)}) ? 0 : -1;
        limited_.add(value < least || value > 1);
        value = std::clamp(value, least, 1.0) + 0.0;  // no negative zero
        if (value == device.axes[axis]) continue;
        if (device.tracks[axis] == Device::no_track && !try_bind_track(device, axis)) {
            outcome = Outcome::refused_axes;
            continue;
        }
        device.axes[axis] = value;
        changed |= std::uint32_t{1} << axis;
    }
    return outcome;
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

void Inlet::update_axis_buttons(Device& device, bool adopting) noexcept {
    const DeviceShaping& shaping = device.shaped_by;
    std::uint32_t down = 0, now = 0;  // bit n: button first_of_axes + n
    for (unsigned i = 0; i < buttons_of_axes; ++i) {
        const Button button{static_cast<std::uint16_t>(first_of_axes + i)};
        down |= std::uint32_t{device.cell(button).is_down()} << i;
    }
    // One time is one stamp, and nothing with a later one between.
    const std::array<std::int64_t, 2> time{stamp_, latest_.get()};
    if (device.axes_time != time) {
        device.axes_time = time;
        device.down_before = down;
    }
    const std::uint32_t before = device.down_before;
    const auto side = [&](Axis axis, AxisSide which, double value) {
        const unsigned bit = axis_button(axis, which).number - first_of_axes;
        const bool was = (before >> bit & 1) != 0;
        const bool is = was ? value > shaping.thresholds.release : value >= shaping.thresholds.press;
        now |= std::uint32_t{is} << bit;
    };
    for (std::uint8_t i = 0; i < stick_kinds; ++i) {
        const Stick stick{i};
        const Vector2 v = shape(shaping.sticks[i], {device.axes[stick.x().number], device.axes[stick.y().number]});
        side(stick.x(), AxisSide::positive, v.x);
        side(stick.x(), AxisSide::negative, -v.x);
        side(stick.y(), AxisSide::positive, v.y);
        side(stick.y(), AxisSide::negative, -v.y);
        const unsigned first = direction_button(stick, Direction::up).number - first_of_axes;
        const auto directions = static_cast<std::uint8_t>(before >> first & 0xFU);
        now |= std::uint32_t{directions_of(v, directions, shaping.sticks[i].directions, shaping.thresholds)} << first;
    }
    for (std::uint8_t i = 0; i < 2; ++i) {
        const Axis pull{static_cast<std::uint8_t>(2 * stick_kinds + i)};
        side(pull, AxisSide::positive, shape(shaping.pulls[i], device.axes[pull.number]));
    }
    // Ended before started, each by its number.
    // What one axis did and the next one at the same time undid has not happened.
    const std::uint32_t undone = adopting ? 0 : (down ^ before) & ~(now ^ before);
    const auto change = [&](std::uint32_t changed, SlotKind kind) {
        for (unsigned i = 0; i < buttons_of_axes; ++i) {
            if ((changed >> i & 1) == 0) continue;
            if ((undone >> i & 1) != 0) write_undo(device);
            edge(kind, device, {static_cast<std::uint16_t>(first_of_axes + i)});
        }
    };
    change(down & ~now, adopting ? SlotKind::cancel : SlotKind::release);
    change(now & ~down, adopting ? SlotKind::adopt : SlotKind::press);
}

}  // namespace cursorum
