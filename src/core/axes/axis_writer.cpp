// Axes, and the buttons that are made of them.
#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <utility>

#include "core/inlet/inlet_events.hpp"
#include "core/rings/one_thread.hpp"
#include "cursorum/core/shaping.hpp"

namespace cursorum {
namespace {

// An axis pushed to either side, by where it was before.
void turn_sides(std::uint64_t& now, std::uint64_t before, unsigned axis, double value,
                const ButtonThresholds& thresholds) noexcept {
    for (const unsigned side : {2 * axis, 2 * axis + 1}) {
        const std::uint64_t bit = std::uint64_t{1} << side;
        const bool is = (before & bit) != 0 ? value > thresholds.release : value >= thresholds.press;
        now = is ? now | bit : now & ~bit;
        value = -value;
    }
}

}  // namespace

using detail::AxisButtons;
using detail::AxisSlot;
using detail::Device;
using detail::SlotKind;

Outcome Inlet::axis(DeviceId device, Axis axis, double value, Time when) noexcept {
    return core_of(*this).post_axes(device, std::array{InletCore::AxisValue{axis.number, value}}, when);
}

Outcome Inlet::stick(DeviceId device, Stick stick, double x, double y, Time when) noexcept {
    // The numbers of further sticks would be those of triggers.
    if (stick.number >= stick_kinds) return axis(device, Axis{axis_kinds}, x, when);
    using AxisValue = InletCore::AxisValue;
    return core_of(*this).post_axes(device, std::array{AxisValue{stick.x().number, x}, AxisValue{stick.y().number, y}},
                                    when);
}

[[gnu::flatten]] Outcome InletCore::post_axes(DeviceId id, std::span<const AxisValue> values, Time when) noexcept {
    const OneThread here{guard_};
    begin(when);
    Device* const device = find_device(id);
    if (!device || !device->listens) return finish(not_listening(device));
    if (values.back().axis >= axis_kinds) return finish(Outcome::refused_control);
    AxisChanges changes;
    Outcome outcome = Outcome::taken;
    for (const AxisValue& value : values) outcome = std::max(outcome, change_axis(*device, value, changes));
    if (changes.touched == 0) return finish(outcome);
    reshape(*device, changes);
    update_axis_buttons(*device, changes.touched, false);
    // What sticks and triggers report most of the time: nothing but axes, in time. It needs no slot of any other kind.
    const bool alone = (changes.values | changes.shaped) != 0 && ring_.next() == event_begin_;
    write_axes(*device, changes, alone);
    if (!alone) return finish(outcome);
    outcomes_[static_cast<unsigned>(outcome)].add(1);
    return outcome;
}

Outcome Inlet::set_shaping(DeviceId device, const DeviceShaping& shaping, Time when) noexcept {
    return core_of(*this).post_shaping(device, shaping, when);
}

Outcome InletCore::post_shaping(DeviceId id, const DeviceShaping& shaping, Time when) noexcept {
    const OneThread here{guard_};
    begin(when);
    Device* const device = find_device(id);
    if (!device) return finish(Outcome::stray_device);
    if (!shaping.is_valid()) return finish(Outcome::refused_value);
    device->shaping = shaping;
    device->axes_stamp = Device::no_time;  // what it does to buttons is not undone by axes of the same time
    AxisChanges changes{.touched = device->posted_axes};
    reshape(*device, changes);
    update_axis_buttons(*device, changes.touched, true);
    write_axes(*device, changes, false);
    return finish(Outcome::taken);
}

Outcome InletCore::apply_axes(Device& device, const AxisValues& axes, bool adopting) noexcept {
    AxisChanges changes;
    Outcome outcome = Outcome::taken;
    for (std::uint32_t rest = axes.present; rest != 0; rest &= rest - 1) {
        const auto axis = static_cast<unsigned>(std::countr_zero(rest));
        outcome = std::max(outcome, change_axis(device, {axis, axes.values[axis]}, changes));
    }
    reshape(device, changes);
    update_axis_buttons(device, changes.touched, adopting);
    write_axes(device, changes, false);
    return outcome != Outcome::taken || !adopting ? outcome : Outcome::state_adopted;
}

Outcome InletCore::change_axis(Device& device, AxisValue to, AxisChanges& changes) noexcept {
    if (!std::isfinite(to.value)) return Outcome::refused_value;
    const double least = is_pull({static_cast<std::uint8_t>(to.axis)}) ? 0 : -1;
    limited_.add(to.value < least || to.value > 1);
    const double value = std::clamp(to.value, least, 1.0) + 0.0;  // no negative zero
    const std::uint32_t bit = std::uint32_t{1} << to.axis;
    const bool is_same = value == device.axes[to.axis];
    // An axis that was not posted since it was at rest is at zero, but zero need not be at rest once it is shaped.
    if (is_same && (device.posted_axes & bit) != 0) return Outcome::taken;
    if (!is_same && !try_bind_track(device, to.axis)) return Outcome::refused_axes;
    device.axes[to.axis] = value;
    device.posted_axes |= bit;
    changes.touched |= bit;
    changes.values |= is_same ? 0 : bit;
    return Outcome::taken;
}

// Works out the shaped values of the axes that were touched, and of what moves with them.
void InletCore::reshape(Device& device, AxisChanges& changes) noexcept {
    const auto set = [&](unsigned axis, double value) {
        if (value == device.shaped[axis] || !try_bind_track(device, axis)) return;
        device.shaped[axis] = value;
        changes.shaped |= std::uint32_t{1} << axis;
    };
    std::uint32_t rest = changes.touched;
    while (rest != 0) {
        const auto axis = static_cast<unsigned>(std::countr_zero(rest));
        if (axis < 2 * stick_kinds) {
            const unsigned x = axis & ~1U, y = x + 1;
            const Vector2 v = shape(device.shaping.sticks[axis / 2], {device.axes[x], device.axes[y]});
            set(x, v.x);
            set(y, v.y);
            rest &= ~(std::uint32_t{3} << x);
            continue;
        }
        const bool is_extra = axis >= first_extra_axis;
        set(axis,
            is_extra ? device.axes[axis] : shape(device.shaping.pulls[axis - 2 * stick_kinds], device.axes[axis]));
        rest &= rest - 1;
    }
}

// An axis keeps its track for good; both axes of a stick get theirs together. Returns false if the capacity is
// exceeded.
bool InletCore::try_bind_track(Device& device, unsigned axis) noexcept {
    if (device.tracks[axis] != Device::no_track) [[likely]]
        return true;
    const bool is_stick = axis < 2 * stick_kinds;
    const unsigned first = is_stick ? axis & ~1U : axis, count = is_stick ? 2 : 1;
    if (!tracks_.has_room_for(count)) return false;
    for (unsigned i = first; i < first + count; ++i)
        device.tracks[i] =
            static_cast<std::uint16_t>(tracks_.bind(device.number, device.id, {static_cast<std::uint8_t>(i)}));
    return true;
}

// `counts`: the event has no slots but these.
void InletCore::write_axes(const Device& device, const AxisChanges& changes, bool counts) noexcept {
    if (counts) {
        axes_alone_time_ = latest_.get();
        axes_alone_.add(1);
    }
    const std::uint64_t counted = (axes_alone_.get() & AxisSlot::counted_mask) << AxisSlot::counted_shift;
    std::uint64_t count_here = counts * AxisSlot::counts_bit;
    for (std::uint32_t rest = changes.values | changes.shaped; rest != 0; rest &= rest - 1) {
        const auto axis = static_cast<unsigned>(std::countr_zero(rest));
        const unsigned track = device.tracks[axis];
        const bool is_same = (changes.values >> axis & 1) == 0;
        // Word by word, from registers: a wide load of what was just stored narrowly would wait.
        const std::array<std::uint64_t, 5> slot{
            static_cast<std::uint64_t>(latest_.get()),
            device.number | std::uint64_t{axis} << 8 | std::uint64_t{track} << 16 | is_same * AxisSlot::same_bit |
                device.is_virtual * AxisSlot::virtual_bit | std::exchange(count_here, 0) | counted,
            std::bit_cast<std::uint64_t>(device.axes[axis]), std::bit_cast<std::uint64_t>(device.shaped[axis]),
            late_at_};
        axes_.write_words(slot);
        axes_.publish();
        changes_of_others_.publish(changes_of_others_.get() + 1);
        axis_table_.show_words(track - numbers_.first_track, slot);
    }
    if (counts) axes_alone_end_ = axes_.next();
}

void InletCore::write_undo(const Device& device) noexcept {
    const bool first = ring_.next() == event_begin_;
    ring_.write(detail::Slot::of(latest_.get(), next_tag(no_hold_there, device.is_virtual) | detail::unusual_bit,
                                 button_capacity, device.number,
                                 detail::What::of(SlotKind::undo, detail::Effect::none, first, false)));
}

// Only of the axes that were touched: those of the others are as they were.
void InletCore::update_axis_buttons(Device& device, std::uint32_t touched, bool adopting) noexcept {
    if (touched == 0) return;
    const AxisButtons down = device.axis_buttons;
    // One time is one stamp, and nothing with a later one between.
    if (const std::int64_t latest = latest_.get(); device.axes_stamp != stamp_ || device.axes_latest != latest) {
        device.axes_stamp = stamp_;
        device.axes_latest = latest;
        device.axis_buttons_before = down;
    }
    const AxisButtons before = device.axis_buttons_before;
    AxisButtons now = down;
    const ButtonThresholds& thresholds = device.shaping.thresholds;
    for (; touched != 0; touched &= touched - 1) {
        const auto number = static_cast<unsigned>(std::countr_zero(touched));
        if (number < 2 * stick_kinds) {
            const unsigned x = number & ~1U, y = x + 1, stick = x / 2;
            turn_sides(now.sides, before.sides, x, device.shaped[x], thresholds);
            turn_sides(now.sides, before.sides, y, device.shaped[y], thresholds);
            constexpr std::uint64_t four = 0xF;
            const auto was = static_cast<std::uint8_t>(before.directions >> 4 * stick & four);
            const std::uint64_t is = directions_of({device.shaped[x], device.shaped[y]}, was,
                                                   device.shaping.sticks[stick].directions, thresholds);
            now.directions = (now.directions & ~(four << 4 * stick)) | is << 4 * stick;
            touched &= ~(std::uint32_t{3} << x) | std::uint32_t{1} << number;
        } else {
            turn_sides(now.sides, before.sides, number, device.shaped[number], thresholds);
        }
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
