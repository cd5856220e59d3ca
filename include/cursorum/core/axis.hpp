// Axes and sticks: controls that have a value instead of a level.
#pragma once

#include <cstdint>
#include <optional>
#include <string_view>

#include "cursorum/core/control.hpp"
#include "cursorum/core/export.hpp"

namespace cursorum {

/// Two numbers that belong together, right and down positive: a stick's deflection.
struct Vector2 {
    double x = 0, y = 0;

    friend constexpr bool operator==(const Vector2&, const Vector2&) = default;
};

/// One axis of a gamepad. The constants are in controls.hpp: `controls::PadStickLeftX` and so on, -1 to 1, right and
/// down positive; `controls::PadPullLeft` and `PadPullRight`, a trigger's travel, 0 to 1; `controls::PadAxisExtra1` and
/// so on for whatever else a device has (throttles, pedals, rudders), -1 to 1 over its whole range.
struct Axis {
    std::uint8_t number = 0;

    friend constexpr bool operator==(Axis, Axis) = default;
};

/// Axis numbers are below this.
inline constexpr unsigned axis_kinds = 32;

/// Two axes of one stick: `controls::PadStickLeft`, `controls::PadStickRight`.
struct Stick {
    std::uint8_t number = 0;

    constexpr Axis x() const noexcept { return {static_cast<std::uint8_t>(number * 2)}; }
    constexpr Axis y() const noexcept { return {static_cast<std::uint8_t>(number * 2 + 1)}; }
    friend constexpr bool operator==(Stick, Stick) = default;
};

inline constexpr unsigned stick_kinds = 2;

/// A trigger's travel rather than one of a stick's two axes.
constexpr bool is_pull(Axis axis) noexcept { return axis.number / 2 == stick_kinds; }

/// The number of `controls::PadAxisExtra1`: the axes from here on are neither a stick's nor a trigger's. They are not
/// shaped, since their rest position is unknown.
inline constexpr unsigned first_extra_axis = 2 * stick_kinds + 2;
constexpr bool is_extra(Axis axis) noexcept { return axis.number >= first_extra_axis && axis.number < axis_kinds; }

/// Which half of an axis: right and down (and a pulled trigger) are positive.
enum class AxisSide : std::uint8_t { positive, negative };

/// How many buttons are made of axes, from first_of_axes on.
inline constexpr unsigned buttons_of_axes = 2 * axis_kinds + 4 * stick_kinds;

/// Whether a button is made of an axis: a trigger, one side of an axis, or a stick's direction.
constexpr bool is_of_axes(Button button) noexcept {
    return button.number >= first_of_axes && button.number < first_of_axes + buttons_of_axes;
}

/// A stick pushed up, down, to the left or to the right, as a button: the same as controls::PadStickLeftUp and so on.
/// With four directions one of them is down at a time, with eight two at a diagonal.
enum class Direction : std::uint8_t { up, down, left, right };
constexpr Button direction_button(Stick stick, Direction direction) noexcept {
    if (stick.number >= stick_kinds) return {};
    return {static_cast<std::uint16_t>(first_of_axes + 2 * axis_kinds + stick.number * 4U +
                                       static_cast<unsigned>(direction))};
}

/// An axis pushed to one side, as a button that frames can be asked for: `frame[axis_button(PadPullLeft)].pressed()`.
/// It is pressed and released at the two thresholds of the device's shaping (shaping.hpp), by every event, like any
/// button: with exact times, repeats, adoption and cancelling, merged over devices. The sides of a stick's axes are the
/// stick's directions. A trigger has no negative side: no button.
constexpr Button axis_button(Axis axis, AxisSide side = AxisSide::positive) noexcept {
    const bool is_negative = side == AxisSide::negative;
    if (axis.number >= axis_kinds || (is_negative && is_pull(axis))) return {};
    if (axis.number >= 2 * stick_kinds)
        return {static_cast<std::uint16_t>(first_of_axes + axis.number * 2 + is_negative)};
    const bool is_vertical = axis.number % 2 != 0;
    return direction_button(Stick{static_cast<std::uint8_t>(axis.number / 2)},
                            is_vertical ? (is_negative ? Direction::up : Direction::down)
                                        : (is_negative ? Direction::left : Direction::right));
}

/// The axis and the side that a button is made of: the reverse of axis_button().
struct AxisPush {
    Axis axis;
    AxisSide side{};

    friend constexpr bool operator==(const AxisPush&, const AxisPush&) = default;
};
/// Nothing if the button is not made of an axis. Cost: it tries all axes.
constexpr std::optional<AxisPush> axis_behind(Button button) noexcept {
    for (std::uint8_t axis = 0; axis < axis_kinds; ++axis)
        for (const AxisSide side : {AxisSide::positive, AxisSide::negative})
            if (button && axis_button(Axis{axis}, side) == button) return AxisPush{Axis{axis}, side};
    return std::nullopt;
}

/// "PadStickLeftX"; empty when the number has none.
CURSORUM_API std::string_view name_of(Axis axis) noexcept;
/// "PadStickLeft"; likewise.
CURSORUM_API std::string_view name_of(Stick stick) noexcept;
/// The axis of that name, exactly as written; nothing if there is none.
CURSORUM_API std::optional<Axis> find_axis(std::string_view name) noexcept;
/// The axis with the given ABS code of <linux/input-event-codes.h>; nothing if there is none (the hats, which are
/// buttons, and axes of devices other than gamepads).
CURSORUM_API std::optional<Axis> axis_of_linux_code(unsigned code) noexcept;
/// The axis's place when all names are sorted as bytes; 65535 when the number has no name.
CURSORUM_API std::uint16_t name_rank(Axis axis) noexcept;

}  // namespace cursorum
