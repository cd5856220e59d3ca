// Polled device states in: for programs that have no events, only what is down now.
#pragma once

#include <array>
#include <cstdint>
#include <span>

#include "cursorum/core/button_set.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/inlet.hpp"
#include "cursorum/core/shaping.hpp"

namespace cursorum {

/// The button of each of a caller's 256 key numbers; no button (number 0) for unused ones.
using KeyNumbering = std::array<Button, 256>;

/// By the usages of USB HID page 0x07.
CURSORUM_API const KeyNumbering& hid_numbering() noexcept;
/// By the codes of <linux/input-event-codes.h>, those below 256.
CURSORUM_API const KeyNumbering& linux_numbering() noexcept;

/// The keys that are down, from one bit each: key n is bit n % 8 of byte n / 8.
CURSORUM_API ButtonSet keys_from_bits(std::span<const std::uint8_t, 32> bits,
                                      const KeyNumbering& numbering = hid_numbering()) noexcept;
/// The keys that are down, from one byte each: those with a bit of `mask` set. Cost: about 20 ns, with
/// 16 bytes at a time where the processor supports it.
CURSORUM_API ButtonSet keys_from_bytes(std::span<const std::uint8_t, 256> bytes, std::uint8_t mask = 0xFF,
                                       const KeyNumbering& numbering = hid_numbering()) noexcept;

/// A mouse's polled state. Its motion is the difference from its previous position, as in Inlet::moved_to.
struct PolledMouse {
    ButtonSet down{};
    double x = 0, y = 0;
};

/// A gamepad's polled state.
struct PolledPad {
    ButtonSet down{};
    Vector2 left{}, right{};  ///< sticks, -1 to 1, right and down positive
    double pull_left = 0, pull_right = 0;

    AxisValues axes() const noexcept;
};

// Each compares the polled state with the device's previous one: differences are presses and releases at the time of
// the poll (adopts and cancels after a connect, a focus gain or an interruption). They can be mixed with events of the
// same device: whichever comes first counts, and nothing counts twice. For a keyboard, Inlet::state does the same.

CURSORUM_API Outcome post(Inlet& inlet, DeviceId device, const PolledMouse& mouse, Time when) noexcept;
CURSORUM_API Outcome post(Inlet& inlet, DeviceId device, const PolledPad& pad, Time when) noexcept;

}  // namespace cursorum
