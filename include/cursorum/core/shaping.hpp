// Shaping: from what a stick or trigger reports to what a game can use.
#pragma once

#include <array>
#include <cstdint>

#include "cursorum/core/axis.hpp"

namespace cursorum {

/// Two numbers that belong together, right and down positive: a stick's deflection.
struct Vector2 {
    double x = 0, y = 0;

    friend constexpr bool operator==(const Vector2&, const Vector2&) = default;
};

/// What one axis reports at rest and at its ends. For a trigger rest is at 0 and `least` means nothing.
struct AxisRange {
    double centre = 0;
    double least = -1;    ///< below the centre
    double greatest = 1;  ///< above the centre

    friend constexpr bool operator==(const AxisRange&, const AxisRange&) = default;
};

/// How a value in 0..1 becomes another in 0..1. Continuous: 0 up to the dead zone's border, 1 from the outer zone's.
struct ResponseCurve {
    double dead_zone = 0;   ///< of the range, from 0 up to less than 1 - outer_zone; what is within it is 0
    double outer_zone = 0;  ///< of the range, from 0; what is as near to the end as that is 1
    double curve = 0;       ///< 0 straight to 1 cubic (fine near the centre); (1 - curve) m + curve m^3

    friend constexpr bool operator==(const ResponseCurve&, const ResponseCurve&) = default;
};

/// How many directions a stick has as buttons.
enum class StickDirections : std::uint8_t { four, eight };

struct StickShaping {
    /// Radial: by how far the stick is from its centre, so that diagonals are not cut and no direction is favoured.
    /// Axial: each axis by itself, so that the stick keeps to the axes.
    enum class Zone : std::uint8_t { radial, axial };

    AxisRange x{}, y{};
    ResponseCurve response{.dead_zone = 0.15, .outer_zone = 0.05, .curve = 0};
    Zone zone = Zone::radial;
    StickDirections directions = StickDirections::four;

    friend constexpr bool operator==(const StickShaping&, const StickShaping&) = default;
};

struct PullShaping {
    AxisRange range{.centre = 0, .least = 0, .greatest = 1};
    ResponseCurve response{};

    friend constexpr bool operator==(const PullShaping&, const PullShaping&) = default;
};

/// When an axis counts as a button, on the shaped value: down from `press` up, and up again only at `release` or below,
/// so that a value hovering between the two, or at one of them, does not chatter.
struct ButtonThresholds {
    double press = 0.5;    ///< more than release, at most 1
    double release = 0.4;  ///< at least 0

    friend constexpr bool operator==(const ButtonThresholds&, const ButtonThresholds&) = default;
};

/// All of one gamepad. Set by Inlet::set_shaping; frames read it when a stick is asked for.
struct DeviceShaping {
    std::array<StickShaping, stick_kinds> sticks{};
    std::array<PullShaping, 2> pulls{};
    ButtonThresholds thresholds{};  ///< of all its axes and directions

    /// Everything finite, in the ranges told above, least < centre < greatest (for a trigger centre < greatest).
    bool is_valid() const noexcept;
    friend constexpr bool operator==(const DeviceShaping&, const DeviceShaping&) = default;
};

// The formulas. Nothing but + - * / and square roots, never contracted: the same to the bit on every machine. A value
// that is no number counts as rest.
//
//   axis:    n = (raw - centre) / (greatest - centre), or / (centre - least) below the centre
//   radial:  m = sqrt(nx^2 + ny^2); in the direction of (nx, ny), by the length r(m)
//   r(m):    u = (m - dead_zone) / (1 - outer_zone - dead_zone), limited to 0..1; (1 - curve) u + curve u^3

/// A stick's deflection, never longer than 1.
Vector2 shape(const StickShaping& shaping, Vector2 raw) noexcept;
/// A trigger's travel, 0 to 1.
double shape(const PullShaping& shaping, double raw) noexcept;

/// Which of up, down, left, right (bit n: Direction n) a shaped stick is pushed to, given those of before. It is
/// pushed from the press threshold on, by its length, until it is at the release threshold; between two directions it
/// changes 7.5 degrees beyond the middle.
std::uint8_t directions_of(Vector2 shaped, std::uint8_t before, StickDirections count,
                           const ButtonThresholds& thresholds) noexcept;

}  // namespace cursorum
