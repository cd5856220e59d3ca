// An inlet's holds: which button on which device is down, and what each edge of one is when all devices are merged.
// Every edge goes through here, those of axes and of contacts that act as pointer included.
#pragma once

#include <array>
#include <cassert>
#include <cstdint>

#include "core/inlet/inlet_posting.hpp"
#include "core/occasions/click_tracker.hpp"
#include "core/rules/merging.hpp"

namespace cursorum::detail {

/// The devices of an inlet that an event affects.
struct Reach {
    enum class Kind : std::uint8_t { one, foreground, everything };
    Kind kind;
    const Device* one = nullptr;

    bool includes(const Device& device) const noexcept {
        return kind == Kind::everything || (kind == Kind::one ? &device == one : !device.background);
    }
};

/// Writes the edges of an inlet's buttons.
class ButtonWriter {
public:
    ButtonWriter(InletPosting& to, ClickTracker& clicks) noexcept : to_{to}, clicks_{clicks} {}

    /// Changes the level of a device's button and writes the edge. Returns false if all holds are in use.
    bool edge(SlotKind kind, Device& device, Button button) noexcept;
    void system_repeat(const Device& device, Button button) noexcept {
        write(SlotKind::system_repeat, device, button, device.cell(button).trait(), hold_capacity, false);
    }
    ButtonSet down_on(const Device& device) const noexcept;
    /// Cancels all buttons that are down on those devices, by device and then by name.
    void cancel(Reach reach) noexcept;

    /// The number of holds of a button on all devices: see merging.hpp.
    Holders& holders(Button button) noexcept { return holders_[button.number]; }

private:
    /// Which button on which device has a hold's number.
    struct Bound {
        Device* device = nullptr;
        Button button;
    };

    bool try_bind_hold(Device& device, Button button) noexcept;
    void write(SlotKind kind, const Device& device, Button button, unsigned trait, unsigned hold,
               bool was_pressed) noexcept;
    void write_slot(SlotKind kind, const Device& device, unsigned button, unsigned hold, bool was_pressed) noexcept;

    InletPosting& to_;
    ClickTracker& clicks_;
    unsigned next_hold_ = 0;
    std::array<Holders, button_capacity> holders_{};
    std::array<Bound, hold_capacity> bound_{};
};

/// A device's buttons, in the form that the rules expect.
struct DeviceKeys {
    ButtonWriter& buttons;
    Device& device;

    bool is_down(Button button) const noexcept { return device.cell(button).is_down(); }
    bool marks_repeats() const noexcept { return device.marks_repeats; }
    bool edge(SlotKind kind, Button button) const noexcept { return buttons.edge(kind, device, button); }
    void system_repeat(Button button) const noexcept { buttons.system_repeat(device, button); }
};

inline void ButtonWriter::write_slot(SlotKind kind, const Device& device, unsigned button, unsigned hold,
                                     bool was_pressed) noexcept {
    const Effect effect = merge(holders_[button], kind, was_pressed);
    const std::uint32_t unusual = is_of_axes(Button{static_cast<std::uint16_t>(button)}) * unusual_bit;
    to_.write_slot(kind, effect, device.number, device.is_virtual, button, hold, unusual, is_held(holders_[button]));
}

inline void ButtonWriter::write(SlotKind kind, const Device& device, Button button, unsigned trait, unsigned hold,
                                bool was_pressed) noexcept {
    if (trait - Cell::either_side < Cell::mouse_button - Cell::either_side) [[unlikely]]
        write_slot(kind, device, first_either_side + trait - Cell::either_side, hold, was_pressed);
    write_slot(kind, device, button.number, hold, was_pressed);
}

// Without branches on the direction, since a processor cannot predict the order of presses and releases.
inline bool ButtonWriter::edge(SlotKind kind, Device& device, Button button) noexcept {
    Cell cell = device.cell(button);
    if (cell.hold() >= hold_capacity) [[unlikely]] {
        if (!try_bind_hold(device, button)) return false;
        cell = device.cell(button);
    }
    const bool pressed = kind == SlotKind::press, down = pressed || kind == SlotKind::adopt;
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

}  // namespace cursorum::detail
