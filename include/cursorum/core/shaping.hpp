// Shaping: from the values that a stick or trigger reports to those that a game can use.
#pragma once

#include <array>
#include <cstdint>

#include "cursorum/core/axis.hpp"
#include "cursorum/core/export.hpp"

namespace cursorum {

/// The values that one axis reports at rest and at its ends. For a trigger, `least` is not used.
struct AxisRange {
    double centre = 0;
    double least = -1;    ///< below the centre
    double greatest = 1;  ///< above the centre

    friend constexpr bool operator==(const AxisRange&, const AxisRange&) = default;
};

/// Maps 0..1 to 0..1, continuously: 0 up to the border of the dead zone, 1 from the border of the outer zone on.
struct ResponseCurve {
    double dead_zone = 0;   ///< a share of the range, 0 to less than 1 - outer_zone; values within it become 0
    double outer_zone = 0;  ///< a share of the range, from 0; values that near to the end become 1
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

/// When an axis counts as a button, by its shaped value: down from `press` on, and up again only at `release` or below,
/// so that a value near one of them does not bounce.
struct ButtonThresholds {
    double press = 0.5;    ///< greater than release, at most 1
    double release = 0.4;  ///< at least 0

    friend constexpr bool operator==(const ButtonThresholds&, const ButtonThresholds&) = default;
};

/// The shaping of one gamepad, set by Inlet::set_shaping.
struct CURSORUM_API DeviceShaping {
    std::array<StickShaping, stick_kinds> sticks{};
    std::array<PullShaping, 2> pulls{};
    ButtonThresholds thresholds{};  ///< of all its axes and directions

    /// Returns whether all numbers are finite and in the ranges above, and least < centre < greatest (for a trigger,
    /// centre < greatest).
    bool is_valid() const noexcept;
    friend constexpr bool operator==(const DeviceShaping&, const DeviceShaping&) = default;
};

// The formulas use only + - * / and square roots, never contracted, so that the results are the same to the bit on
// every machine. NaN counts as rest.
//
//   axis:    n = (raw - centre) / (greatest - centre), or / (centre - least) below the centre
//   radial:  m = sqrt(nx^2 + ny^2); in the direction of (nx, ny), by the length r(m)
//   r(m):    u = (m - dead_zone) / (1 - outer_zone - dead_zone), limited to 0..1; (1 - curve) u + curve u^3

/// A stick's deflection, never longer than 1.
CURSORUM_API Vector2 shape(const StickShaping& shaping, Vector2 raw) noexcept;
/// A trigger's travel, 0 to 1.
CURSORUM_API double shape(const PullShaping& shaping, double raw) noexcept;

/// Which of up, down, left, right (bit n: Direction n) a shaped stick is pushed to, given those of before. It is
/// pushed from the press threshold on, by its length, until it is at the release threshold; between two directions it
/// changes 7.5 degrees beyond the middle.
CURSORUM_API std::uint8_t directions_of(Vector2 shaped, std::uint8_t before, StickDirections count,
                                        const ButtonThresholds& thresholds) noexcept;

}  // namespace cursorum
