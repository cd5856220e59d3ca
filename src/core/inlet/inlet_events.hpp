// The steps that every event of an inlet goes through: begin, one rule, finish. Inline, since posting costs only a few
// nanoseconds.
#pragma once

#include <algorithm>
#include <cassert>
#include <cstdint>

#include "core/inlet/inlet_core.hpp"
#include "core/rules/merging.hpp"

namespace cursorum {

constexpr unsigned no_hold_there = hold_capacity;

inline std::int64_t within_time(std::int64_t stamp) noexcept {
    return std::clamp(stamp, nanoseconds(earliest_time), nanoseconds(latest_time));
}

inline void InletCore::begin(Time stamp) noexcept {
    event_begin_ = ring_.next();
    late_slots_ = 0;
    late_at_ = detail::in_time;
    const std::int64_t time = nanoseconds(stamp), latest = latest_.get();
    stamp_ = time;
    if (time >= latest && time <= accepted_until_) [[likely]]
        latest_.set(time);
    else
        begin_out_of_order(time);
}

// The low half of the slot that is written next.
inline std::uint32_t InletCore::next_tag(unsigned hold, bool is_virtual) noexcept {
    return detail::make_tag(hold, is_virtual, event_count_.add_slot(ring_.next() == event_begin_));
}

inline Outcome InletCore::finish(Outcome outcome) noexcept {
    if (ring_.next() - event_begin_ == late_slots_) {
        ring_.write(
            detail::Slot::of(latest_.get(), next_tag(no_hold_there, false) | detail::unusual_bit, button_capacity, 0,
                             detail::What::of(detail::SlotKind::plain, detail::Effect::none, late_slots_ == 0, false)));
        ring_.publish();
    } else {
        ring_.publish();
        show_holds();
    }
    outcomes_[static_cast<unsigned>(outcome)].add(1);
    return outcome;
}

// After the ring has published them: see HoldTable.
inline void InletCore::show_holds() noexcept {
    for (std::uint64_t at = event_begin_; at != ring_.next(); ++at)
        if (const detail::Slot slot = ring_.own(at); slot.ends_or_begins_hold())
            holds_.show(detail::hold_of(slot.tag()), slot);
}

inline void InletCore::write_slot(detail::SlotKind kind, const detail::Device& device, unsigned button, unsigned hold,
                                  bool was_pressed) noexcept {
    const detail::Effect effect = merge(holders_[button], kind, was_pressed);
    const bool first = ring_.next() == event_begin_;
    const std::uint32_t unusual = is_of_axes(Button{static_cast<std::uint16_t>(button)}) * detail::unusual_bit;
    ring_.write(detail::Slot::of(latest_.get(), next_tag(hold, device.is_virtual) | unusual, button, device.number,
                                 detail::What::of(kind, effect, first, is_held(holders_[button]))));
}

inline void InletCore::write(detail::SlotKind kind, const detail::Device& device, Button button, unsigned trait,
                             unsigned hold, bool was_pressed) noexcept {
    using detail::Cell;
    if (trait - Cell::either_side < Cell::mouse_button - Cell::either_side) [[unlikely]]
        write_slot(kind, device, first_either_side + trait - Cell::either_side, hold, was_pressed);
    write_slot(kind, device, button.number, hold, was_pressed);
}

/// A device's buttons, in the form that the rules expect.
struct InletCore::Keys {
    InletCore& inlet;
    detail::Device& device;

    bool is_down(Button button) const noexcept { return device.cell(button).is_down(); }
    bool marks_repeats() const noexcept { return device.marks_repeats; }
    bool edge(detail::SlotKind kind, Button button) const noexcept { return inlet.edge(kind, device, button); }
    void system_repeat(Button button) const noexcept {
        inlet.write(detail::SlotKind::system_repeat, device, button, device.cell(button).trait(), no_hold_there, false);
    }
};

inline detail::Device* InletCore::find_device(DeviceId id) noexcept {
    if (recent_device_->id == id && recent_device_->number != no_device) [[likely]]
        return recent_device_;
    const unsigned place = directory_->find(id) - numbers_.first_device;
    return place < device_count_ ? recent_device_ = &devices_[place] : nullptr;
}

// Changes the level of a device's button and writes the edge; false if there is no room for one more hold. Without
// branches on the direction, since a processor cannot predict the order of presses and releases.
inline bool InletCore::edge(detail::SlotKind kind, detail::Device& device, Button button) noexcept {
    using detail::Cell;
    Cell cell = device.cell(button);
    if (cell.hold() >= hold_capacity) [[unlikely]] {
        if (!try_bind_hold(device, button)) return false;
        cell = device.cell(button);
    }
    const bool pressed = kind == detail::SlotKind::press, down = pressed || kind == detail::SlotKind::adopt;
    assert(cell.is_down() != down);
    write(kind, device, button, cell.trait(), cell.hold(), cell.is_pressed());
    device.set(button, cell.with_level(down * Cell::down_bit | pressed * Cell::pressed_bit));
    if (cell.trait() >= Cell::mouse_button) [[unlikely]] {
        if (cell.trait() == Cell::mouse_button)
            clicks_.follow_edge(kind, device, button);
        else
            device.axis_buttons.flip(button);
    }
    return true;
}

}  // namespace cursorum
