// Polled device states in: for programs that have no events, only what is down now.
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <span>
#include <string_view>

#include "cursorum/core/button_set.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/inlet.hpp"
#include "cursorum/core/key_tables.hpp"
#include "cursorum/core/shaping.hpp"
#include "cursorum/core/snapshot.hpp"

namespace cursorum {

/// The keys that are down, from one bit each: key n is bit n % 8 of byte n / 8.
CURSORUM_API ButtonSet keys_from_bits(std::span<const std::uint8_t, 32> bits,
                                      const KeyNumbering& numbering = numbering_of(KeyTable::hid_usage)) noexcept;
/// The keys that are down, from one byte each: those with a bit of `mask` set. Cost: about 20 ns, with
/// 16 bytes at a time where the processor supports it.
CURSORUM_API ButtonSet keys_from_bytes(std::span<const std::uint8_t, 256> bytes, std::uint8_t mask = 0xFF,
                                       const KeyNumbering& numbering = numbering_of(KeyTable::hid_usage)) noexcept;

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

/// Which axis a caller's number is, and what it reports at both ends: left, up or released, and right, down or pulled.
/// A `least` above `greatest` inverts it. No axis: the number is not used.
struct PolledAxis {
    std::optional<Axis> axis{};
    double least = -1, greatest = 1;
};

/// The button and the axis of each of a caller's numbers for the parts of a gamepad; no button for unused numbers.
struct PadNumbering {
    std::array<Button, 64> buttons{};
    std::array<PolledAxis, 16> axes{};
};

/// The "standard gamepad" of the W3C Gamepad specification: 17 buttons, 4 axes. Its triggers are buttons 6 and 7; their
/// values are posted as well, if they follow the four axes.
CURSORUM_API const PadNumbering& standard_pad_numbering() noexcept;

/// One of the places in which an engine keeps its gamepads, as it is polled: with or without one.
struct PadSlot {
    bool is_connected = false;
    std::uint64_t buttons = 0;      ///< bit n: the button of number n is down; see bits_of_bytes()
    std::span<const float> axes{};  ///< by number; fewer than the numbering has is allowed
    std::string_view name{};        ///< of the pad, for people; used when it connects
};
/// Bit n: the byte n is not zero. For up to 64 bytes, or values of type bool.
CURSORUM_API std::uint64_t bits_of_bytes(std::span<const std::uint8_t> bytes) noexcept;

/// Posts one slot: connects the device when a pad is there for the first time, disconnects it when it is gone, and
/// posts its state in between. Call it for each slot in each iteration of the loop, with one device for each slot (1
/// and 2 are the desk's):
///
///     for (std::uint32_t n = 0; n < 4; ++n)
///         post(desk, DeviceId{20 + n}, slot_of(my_pads[n]), standard_pad_numbering(), Clock::now());
///
/// Returns what became of the state; Outcome::unchanged if there is no pad.
CURSORUM_API Outcome post(Inlet& inlet, DeviceId device, const PadSlot& slot, const PadNumbering& numbering,
                          Time when) noexcept;

// Without a timeline: the previous and the current state of a pad, and what changed between them.
//
//     DeviceSnapshot before = now;
//     now = snapshot_of(my_pad(), before, Clock::now());
//     if (compare(before, now)[PadSouth].pressed()) …

/// A pad's polled state as a snapshot. `before`: the snapshot of the previous poll (an empty one at first), since a
/// stick or trigger that is down as a button stays so until the lower one of two thresholds.
CURSORUM_API DeviceSnapshot snapshot_of(const PolledPad& pad, const DeviceSnapshot& before, Time time,
                                        const DeviceShaping& shaping = {}) noexcept;

}  // namespace cursorum
