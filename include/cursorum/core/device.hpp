// Devices: what they are and what they can do.
#pragma once

#include <array>
#include <cstdint>
#include <string_view>

#include "cursorum/core/axis.hpp"
#include "cursorum/core/button_set.hpp"
#include "cursorum/core/export.hpp"

namespace cursorum {

/// A device's number, chosen by whoever connects it, unique in its timeline. It stays reserved after a disconnect.
enum class DeviceId : std::uint32_t {};

enum class DeviceKind : std::uint8_t { keyboard, mouse, gamepad, touch };

/// Values of some of a device's axes.
struct AxisValues {
    std::array<double, axis_kinds> values{};
    std::uint32_t present = 0;  ///< bit n: the value of axis n is present

    constexpr void set(Axis axis, double value) noexcept {
        if (axis.number >= axis_kinds) return;
        values[axis.number] = value;
        present |= 1U << axis.number;
    }
    constexpr bool has(unsigned axis) const noexcept { return (present >> axis & 1) != 0; }
    friend constexpr bool operator==(const AxisValues&, const AxisValues&) = default;
};

/// What is known of a device when it connects.
struct DeviceInfo {
    DeviceKind kind = DeviceKind::keyboard;
    std::string_view name{};            ///< UTF-8, for people; copied, cut at 63 bytes
    bool marks_repeats = false;         ///< its source distinguishes system repeats from presses (Event::system_repeat)
    bool background = false;            ///< exempt from focus
    bool is_virtual = false;            ///< a script or a bot instead of a person
    bool first_contact_points = false;  ///< its first contact acts as a mouse: position, motion, MouseLeft
    std::uint16_t vendor = 0, product = 0;  ///< USB numbers; 0 if unknown
    ButtonSet buttons{};                    ///< the buttons that it has; empty if unknown
    std::uint32_t axes = 0;                 ///< bit n: it has axis n; 0 if it has none, or if unknown
};

/// What a contact on a touch surface did.
enum class ContactPhase : std::uint8_t { begin, move, end, cancel };

CURSORUM_API std::string_view name_of(DeviceKind kind) noexcept;
CURSORUM_API std::string_view name_of(ContactPhase phase) noexcept;

}  // namespace cursorum
