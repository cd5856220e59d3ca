// The shaping formulas stated in cursorum/core/shaping.hpp, from the four operations and square roots alone. Inline,
// because an inlet evaluates them with each event.
#pragma once

#include <algorithm>
#include <cmath>

#include "cursorum/core/shaping.hpp"

namespace cursorum::detail {

// The usual range saves a division.
inline double in_proportion(double value, double span) noexcept { return span == 1 ? value : value / span; }

// Relative to the range, limited so that squares stay finite.
inline double in_range(const AxisRange& range, double raw) noexcept {
    const double from_centre = raw - range.centre;
    const double span = from_centre > 0 ? range.greatest - range.centre : range.centre - range.least;
    const double share = in_proportion(from_centre, span);
    if (!(share == share)) return 0;
    return std::clamp(share, -4.0, 4.0);
}

inline double respond(const ResponseCurve& r, double m) noexcept {
    const double span = 1 - r.outer_zone - r.dead_zone;
    const double u = std::clamp((m - r.dead_zone) / span, 0.0, 1.0);
    return (1 - r.curve) * u + r.curve * (u * u * u);
}

// Rounding may leave a vector slightly longer than 1.
inline Vector2 at_most_one(Vector2 v) noexcept {
    const double square = v.x * v.x + v.y * v.y;
    if (square <= 1) return v;
    const double length = std::sqrt(square);
    v = {v.x / length, v.y / length};
    constexpr double hair = 1 - 0x1p-52;
    while (v.x * v.x + v.y * v.y > 1) v = {v.x * hair, v.y * hair};
    return v;
}

inline double with_sign(double magnitude, double sign) noexcept { return sign < 0 ? -magnitude : magnitude; }

inline Vector2 shaped(const StickShaping& shaping, Vector2 raw) noexcept {
    const Vector2 n{in_range(shaping.x, raw.x), in_range(shaping.y, raw.y)};
    if (shaping.zone == StickShaping::Zone::axial)
        return at_most_one({with_sign(respond(shaping.response, std::abs(n.x)), n.x),
                            with_sign(respond(shaping.response, std::abs(n.y)), n.y)});
    const double length = std::sqrt(n.x * n.x + n.y * n.y);
    const double wanted = respond(shaping.response, length);
    if (!(length > 0) || wanted == 0) return {};
    return at_most_one({n.x / length * wanted, n.y / length * wanted});
}

inline double shaped(const PullShaping& shaping, double raw) noexcept {
    const double share = in_proportion(raw - shaping.range.centre, shaping.range.greatest - shaping.range.centre);
    if (!(share > 0)) return 0;
    return respond(shaping.response, share);
}

/// Whether a vector is shorter than a threshold, by the square of its length and without a root: near the threshold it
/// says no.
inline bool is_surely_below(double threshold, double square) noexcept { return square < threshold * threshold * 0.999; }

}  // namespace cursorum::detail
