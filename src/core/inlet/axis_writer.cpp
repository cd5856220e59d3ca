// The steps of an axis's event, and the members of Inlet that post one.
#include "core/inlet/axis_writer.hpp"

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <type_traits>
#include <utility>

#include "core/inlet/inlet_core.hpp"
#include "core/rings/one_thread.hpp"
#include "core/rules/shaping_formulas.hpp"
#include "cursorum/core/shaping.hpp"

namespace cursorum {
namespace {

// Visits what changes together: a trigger or extra axis alone, a stick's two axes. The visitor takes the first axis and
// how many there are, as a constant.
template <typename Visit>
void for_each_group(std::uint32_t touched, Visit&& visit) {
    while (touched != 0) {
        const auto axis = static_cast<unsigned>(std::countr_zero(touched));
        if (axis < 2 * stick_kinds) {
            const unsigned x = axis & ~1U;
            visit(x, std::integral_constant<unsigned, 2>{});
            touched &= ~(std::uint32_t{3} << x);
        } else {
            visit(axis, std::integral_constant<unsigned, 1>{});
            touched &= touched - 1;
        }
    }
}

}  // namespace

namespace detail {

template <std::size_t count>
inline Outcome AxisWriter::post(Device& device, const std::array<Value, count>& values) noexcept {
    Changes changes;
    Outcome outcome = Outcome::taken;
    for (const Value& value : values) outcome = std::max(outcome, change(device, value, changes));
    if (changes.touched == 0) return to_.finish(outcome);
    const unsigned axis = values[0].axis;
    const AxisButtons down = begin_buttons(device);
    AxisButtons now = down;
    if (axis < 2 * stick_kinds) {
        changes.shaped = reshape<2>(device, axis & ~1U);
        update_buttons<2>(device, axis & ~1U, now);
    } else {
        changes.shaped = reshape<1>(device, axis);
        update_buttons<1>(device, axis, now);
    }
    if (now != down) change_buttons(device, down, now, false);
    // The common case for sticks and triggers: only axes, in time. It needs slots of no other kind.
    const bool alone = (changes.values | changes.shaped) != 0 && to_.has_no_slots();
    write(device, changes, alone);
    return alone ? to_.counted(outcome) : to_.finish(outcome);
}

void AxisWriter::set_shaping(Device& device, const DeviceShaping& shaping) noexcept {
    device.shaping = shaping;
    device.shared_shaping.set(shaping);
    device.shaping_count.publish(device.shaping_count.get() + 1);
    // Its effect on buttons is not undone by axes of the same time, before it or after it.
    device.axes_stamp = Device::no_time;
    Changes changes{.touched = device.posted_axes, .is_forced = true};
    apply_changes(device, changes, true);
    device.axes_stamp = Device::no_time;
    write(device, changes, false);
}

void AxisWriter::rest(Device& device) noexcept {
    device.axes_stamp = Device::no_time;
    Changes changes{.is_forced = true};
    device.posted_axes = 0;
    for (unsigned axis = 0; axis < axis_kinds; ++axis) {
        changes.values |= std::uint32_t{std::exchange(device.axes[axis], 0.0) != 0} << axis;
        changes.shaped |= std::uint32_t{std::exchange(device.shaped[axis], 0.0) != 0} << axis;
    }
    write(device, changes, false);
}

Outcome AxisWriter::apply(Device& device, const AxisValues& axes, bool adopting) noexcept {
    Changes changes{.is_forced = adopting};
    Outcome outcome = Outcome::taken;
    for (std::uint32_t rest = axes.present; rest != 0; rest &= rest - 1) {
        const auto axis = static_cast<unsigned>(std::countr_zero(rest));
        outcome = std::max(outcome, change(device, {axis, axes.values[axis]}, changes));
    }
    apply_changes(device, changes, adopting);
    write(device, changes, false);
    return outcome != Outcome::taken || !adopting ? outcome : Outcome::state_adopted;
}

// Only for the axes that changed; the others are unchanged.
void AxisWriter::apply_changes(Device& device, Changes& changes, bool adopting) noexcept {
    if (changes.touched == 0) return;
    for_each_group(changes.touched,
                   [&](unsigned first, auto count) { changes.shaped |= reshape<count()>(device, first); });
    const AxisButtons down = begin_buttons(device);
    AxisButtons now = down;
    for_each_group(changes.touched, [&](unsigned first, auto count) { update_buttons<count()>(device, first, now); });
    if (now != down) change_buttons(device, down, now, adopting);
}

inline Outcome AxisWriter::change(Device& device, Value to, Changes& changes) noexcept {
    if (!std::isfinite(to.value)) return Outcome::refused_value;
    const double least = is_pull({static_cast<std::uint8_t>(to.axis)}) ? 0 : -1;
    double value = to.value + 0.0;  // no negative zero
    if (value < least || value > 1) [[unlikely]] {
        to_.limited_.add(1);
        value = std::clamp(value, least, 1.0);
    }
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

// Computes the shaped values of axes that change together; returns those that changed.
template <unsigned count>
inline std::uint32_t AxisWriter::reshape(Device& device, unsigned first) noexcept {
    const auto set = [&](unsigned axis, double value) -> std::uint32_t {
        if (value == device.shaped[axis] || !try_bind_track(device, axis)) return 0;
        device.shaped[axis] = value;
        return std::uint32_t{1} << axis;
    };
    if constexpr (count == 2) {
        const Vector2 v = shaped(device.shaping.sticks[first / 2], {device.axes[first], device.axes[first + 1]});
        const std::uint32_t x = set(first, v.x);
        return x | set(first + 1, v.y);
    } else {
        const bool is_extra = first >= first_extra_axis;
        return set(first, is_extra ? device.axes[first]
                                   : shaped(device.shaping.pulls[first - 2 * stick_kinds], device.axes[first]));
    }
}

// An axis keeps its track permanently; both axes of a stick get tracks together. Returns false if the capacity is
// exceeded.
inline bool AxisWriter::try_bind_track(Device& device, unsigned axis) noexcept {
    if (device.tracks[axis] != Device::no_track) [[likely]]
        return true;
    const bool is_stick = axis < 2 * stick_kinds;
    const unsigned first = is_stick ? axis & ~1U : axis, count = is_stick ? 2 : 1;
    if (!to_.tracks_.has_room_for(count)) return false;
    for (unsigned i = first; i < first + count; ++i)
        device.tracks[i] =
            static_cast<std::uint16_t>(to_.tracks_.bind(device.number, device.id, {static_cast<std::uint8_t>(i)}));
    return true;
}

// `counts`: these are the event's only slots.
void AxisWriter::write(const Device& device, Changes changes, bool counts) noexcept {
    if (counts) to_.event_count_.add_axes_alone();
    const std::uint64_t counted = std::uint64_t{to_.event_count_.axes_alone()} << AxisSlot::counted_shift;
    std::uint64_t count_here = counts * AxisSlot::counts_bit;
    for (std::uint32_t rest = changes.values | changes.shaped; rest != 0; rest &= rest - 1) {
        const auto axis = static_cast<unsigned>(std::countr_zero(rest));
        const unsigned track = device.tracks[axis];
        const bool is_same = (changes.values >> axis & 1) == 0;
        // Word by word, from registers: a wide load of what was just stored narrowly would wait.
        const std::array<std::uint64_t, 5> slot{
            static_cast<std::uint64_t>(to_.latest_.get()),
            AxisTag::of(device.number, axis, track, is_same, changes.is_forced).bits |
                device.is_virtual * AxisSlot::virtual_bit | std::exchange(count_here, 0) | counted,
            std::bit_cast<std::uint64_t>(device.axes[axis]), std::bit_cast<std::uint64_t>(device.shaped[axis]),
            to_.late_at()};
        to_.axes_.write_words(slot);
        to_.axes_.publish();
        to_.changes_of_others_.publish(to_.changes_of_others_.get() + 1);
        to_.axis_table_.show_words(track - to_.numbers_.first_track, slot);
    }
    if (counts) to_.end_axes_alone();
}

void AxisWriter::write_undo(const Device& device) noexcept {
    to_.write_slot(SlotKind::undo, Effect::none, device.number, device.is_virtual, button_capacity, hold_capacity,
                   unusual_bit, false);
}

// The buttons made of axes that are down before this event. One time is one stamp, and nothing with a later one
// between.
inline AxisButtons AxisWriter::begin_buttons(Device& device) noexcept {
    if (const std::int64_t latest = to_.latest_.get();
        device.axes_stamp != to_.stamp() || device.axes_latest != latest) {
        device.axes_stamp = to_.stamp();
        device.axes_latest = latest;
        device.axis_buttons_before = device.axis_buttons;
    }
    return device.axis_buttons;
}

template <unsigned count>
inline void AxisWriter::update_buttons(const Device& device, unsigned first, AxisButtons& now) noexcept {
    update_axis_buttons<count>(first, &device.shaped[first], device.axis_buttons_before, device.shaping, now);
}

// Ended holds before started ones, each by number.
void AxisWriter::change_buttons(Device& device, const AxisButtons& down, const AxisButtons& now,
                                bool adopting) noexcept {
    // If one axis presses a button and the next one releases it at the same time, nothing has happened.
    const AxisButtons changed = now ^ down, undone = (down ^ device.axis_buttons_before) & changed;
    const auto change = [&](AxisButtons which, SlotKind kind) {
        which.for_each([&](Button button) {
            if (!adopting && undone.has(button)) write_undo(device);
            buttons_.edge(kind, device, button);
        });
    };
    change(changed & down, adopting ? SlotKind::cancel : SlotKind::release);
    change(changed & now, adopting ? SlotKind::adopt : SlotKind::press);
}

}  // namespace detail

// ---- posting

using detail::AxisWriter;
using detail::Device;

Outcome Inlet::axis(DeviceId device, Axis axis, double value, Time when) noexcept {
    return core_of(*this).post_axes(device, std::array{AxisWriter::Value{axis.number, value}}, when);
}

Outcome Inlet::stick(DeviceId device, Stick stick, double x, double y, Time when) noexcept {
    // The numbers of further sticks would be those of triggers.
    if (stick.number >= stick_kinds) return axis(device, Axis{axis_kinds}, x, when);
    return core_of(*this).post_axes(
        device, std::array{AxisWriter::Value{stick.x().number, x}, AxisWriter::Value{stick.y().number, y}}, when);
}

template <bool noted, std::size_t number>
[[gnu::flatten, gnu::noinline]] Outcome InletCore::set_axes(DeviceId id,
                                                            const std::array<AxisWriter::Value, number>& values,
                                                            Time when) noexcept {
    const OneThread here{guard_};
    begin(when);
    if constexpr (noted)
        for (const AxisWriter::Value& value : values) ledger_->note_axis(stamp(), id, value.axis, value.value);
    Device* const device = find_device(id);
    if (!device || !device->listens) [[unlikely]]
        return finish(not_listening(device));
    if (values[0].axis >= axis_kinds) [[unlikely]]
        return finish(Outcome::refused_control);
    return axis_writer_.post(*device, values);
}

template <std::size_t number>
inline Outcome InletCore::post_axes(DeviceId id, const std::array<AxisWriter::Value, number>& values,
                                    Time when) noexcept {
    return ledger_ ? set_axes<true>(id, values, when) : set_axes<false>(id, values, when);
}

Outcome Inlet::set_shaping(DeviceId device, const DeviceShaping& shaping, Time when) noexcept {
    return core_of(*this).post_shaping(device, shaping, when);
}

Outcome InletCore::post_shaping(DeviceId id, const DeviceShaping& shaping, Time when) noexcept {
    const OneThread here{guard_};
    begin(when);
    if (ledger_) ledger_->note_other(stamp(), Event::shaped(when, id, shaping));
    Device* const device = find_device(id);
    if (!device) return finish(Outcome::stray_device);
    if (!shaping.is_valid()) return finish(Outcome::refused_value);
    axis_writer_.set_shaping(*device, shaping);
    return finish(Outcome::taken);
}

}  // namespace cursorum
