#include "cursorum/core/shaping.hpp"

#include <algorithm>
#include <cmath>

namespace cursorum {
namespace {

bool is_valid(const AxisRange& range, bool both_sides) {
    const bool finite = std::isfinite(range.least) && std::isfinite(range.centre) && std::isfinite(range.greatest);
    return finite && range.centre < range.greatest && (!both_sides || range.least < range.centre);
}

bool is_valid(const ResponseCurve& r) {
    return r.dead_zone >= 0 && r.outer_zone >= 0 && r.dead_zone + r.outer_zone < 1 && r.curve >= 0 && r.curve <= 1;
}

/// In proportion to the range, limited so that squares stay finite.
double in_range(const AxisRange& range, double raw) noexcept {
    const double from_centre = raw - range.centre;
    const double span = from_centre > 0 ? range.greatest - range.centre : range.centre - range.least;
    const double share = span == 1 ? from_centre : from_centre / span;  // the usual range saves a division
    if (!(share == share)) return 0;
    return std::clamp(share, -4.0, 4.0);
}

double respond(const ResponseCurve& r, double m) noexcept {
    const double span = 1 - r.outer_zone - r.dead_zone;
    const double u = std::clamp((m - r.dead_zone) / span, 0.0, 1.0);
    return (1 - r.curve) * u + r.curve * (u * u * u);
}

/// Rounding may leave a vector a hair longer than 1.
Vector2 at_most_one(Vector2 v) noexcept {
    const double square = v.x * v.x + v.y * v.y;
    if (square <= 1) return v;
    const double length = std::sqrt(square);
    v = {v.x / length, v.y / length};
    constexpr double hair = 1 - 0x1p-52;
    while (v.x * v.x + v.y * v.y > 1) v = {v.x * hair, v.y * hair};
    return v;
}

double with_sign(double magnitude, double sign) noexcept { return sign < 0 ? -magnitude : magnitude; }

// Where a direction ends, as the ratio of the shorter to the longer component: the middle between two directions, and
// 7.5 degrees to either side of it.
constexpr double tan_15 = 0.2679491924311227, tan_30 = 0.5773502691896257;  // about 22.5 degrees
constexpr double tan_22_5 = 0.41421356237309503;
constexpr double tan_37_5 = 0.7673269879789604;  // about 45 degrees

constexpr std::uint8_t bit(Direction d) { return static_cast<std::uint8_t>(1U << static_cast<unsigned>(d)); }

}  // namespace

bool DeviceShaping::is_valid() const noexcept {
    bool valid = thresholds.release >= 0 && thresholds.release < thresholds.press && thresholds.press <= 1;
    for (const StickShaping& stick : sticks)
        valid = valid && cursorum::is_valid(stick.x, true) && cursorum::is_valid(stick.y, true) &&
                cursorum::is_valid(stick.response);
    for (const PullShaping& pull : pulls)
        valid = valid && cursorum::is_valid(pull.range, false) && cursorum::is_valid(pull.response);
    return valid;
}

Vector2 shape(const StickShaping& shaping, Vector2 raw) noexcept {
    const Vector2 n{in_range(shaping.x, raw.x), in_range(shaping.y, raw.y)};
    if (shaping.zone == StickShaping::Zone::axial)
        return at_most_one({with_sign(respond(shaping.response, std::abs(n.x)), n.x),
                            with_sign(respond(shaping.response, std::abs(n.y)), n.y)});
    const double length = std::sqrt(n.x * n.x + n.y * n.y);
    const double wanted = respond(shaping.response, length);
    if (!(length > 0) || wanted == 0) return {};
    return at_most_one({n.x / length * wanted, n.y / length * wanted});
}

double shape(const PullShaping& shaping, double raw) noexcept {
    const double share = (raw - shaping.range.centre) / (shaping.range.greatest - shaping.range.centre);
    if (!(share > 0)) return 0;
    return respond(shaping.response, share);
}

std::uint8_t directions_of(Vector2 shaped, std::uint8_t before, StickDirections count,
                           const ButtonThresholds& thresholds) noexcept {
    const double square = shaped.x * shaped.x + shaped.y * shaped.y;
    // Far from the threshold no root is needed.
    if (before == 0 && square < thresholds.press * thresholds.press * 0.999) return 0;
    const double length = std::sqrt(square);
    if (before == 0 ? length < thresholds.press : length <= thresholds.release) return 0;
    const double x = std::abs(shaped.x), y = std::abs(shaped.y);
    if (length == 0) return 0;
    const std::uint8_t across = bit(shaped.x < 0 ? Direction::left : Direction::right);
    const std::uint8_t along = bit(shaped.y < 0 ? Direction::up : Direction::down);
    constexpr std::uint8_t all_across = bit(Direction::left) | bit(Direction::right);
    constexpr std::uint8_t all_along = bit(Direction::up) | bit(Direction::down);
    const bool was_across = (before & all_across) != 0, was_along = (before & all_along) != 0;
    if (count == StickDirections::four) {
        // Whoever is in a direction stays there until the other component is clearly the greater one.
        if (was_across && !was_along) return x < tan_37_5 * y ? along : across;
        if (was_along && !was_across) return y < tan_37_5 * x ? across : along;
        return x >= y ? across : along;
    }
    const double border = was_across && was_along ? tan_15 : was_across || was_along ? tan_30 : tan_22_5;
    if (y <= border * x) return across;
    if (x <= border * y) return along;
    return across | along;
}

}  // namespace cursorum
