// Shaping as callers use it: whether settings are valid, one value at a time, and the four or eight directions of a
// stick with their hysteresis. The formulas are in shaping_formulas.hpp.
#include "cursorum/core/shaping.hpp"

#include <algorithm>
#include <cmath>

#include "core/rules/shaping_formulas.hpp"

namespace cursorum {
namespace {

bool is_valid(const AxisRange& range, bool both_sides) {
    const bool finite = std::isfinite(range.least) && std::isfinite(range.centre) && std::isfinite(range.greatest);
    return finite && range.centre < range.greatest && (!both_sides || range.least < range.centre);
}

bool is_valid(const ResponseCurve& r) {
    return r.dead_zone >= 0 && r.outer_zone >= 0 && r.dead_zone + r.outer_zone < 1 && r.curve >= 0 && r.curve <= 1;
}

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

Vector2 shape(const StickShaping& shaping, Vector2 raw) noexcept { return detail::shaped(shaping, raw); }
double shape(const PullShaping& shaping, double raw) noexcept { return detail::shaped(shaping, raw); }

std::uint8_t directions_of(Vector2 shaped, std::uint8_t before, StickDirections count,
                           const ButtonThresholds& thresholds) noexcept {
    const double square = shaped.x * shaped.x + shaped.y * shaped.y;
    if (before == 0 && detail::is_surely_below(thresholds.press, square)) return 0;
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
        // Hysteresis: a direction is kept until the other component is clearly greater.
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
