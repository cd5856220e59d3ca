// Straight lines toward a target: value and integral are exact however the time is cut into frames. An axis through
// zero falls first and then rises; a vector goes straight, at the speed that was decided when its target stepped.
#include "actions/ramps.hpp"

#include <cmath>

namespace cursorum {

namespace {
constexpr double nanosecond = 1e-9;
}

double move_toward(double& value, double target, const Ramps& ramps, std::int64_t span) noexcept {
    double integral = 0;
    auto left = static_cast<double>(span);
    while (value != target) {
        const bool crosses = value != 0 && (value < 0) != (target < 0);
        const double aim = crosses ? 0 : target;
        const bool rises = std::abs(aim) > std::abs(value);
        const auto whole = static_cast<double>((rises ? ramps.rise : ramps.fall).count());
        const double needed = std::abs(aim - value) * whole;
        if (needed > left) {
            const double step = left / whole, next = value + (aim > value ? step : -step);
            integral += (value + next) / 2 * left;
            value = next;
            return integral * nanosecond;
        }
        integral += (value + aim) / 2 * needed;
        value = aim;
        left -= needed;
    }
    return (integral + value * left) * nanosecond;
}

void set_target(VectorMotion& motion, Vector2 target) noexcept {
    if (target == motion.target) return;
    const auto square = [](Vector2 v) { return v.x * v.x + v.y * v.y; };
    motion.target = target;
    // A turn at the same length rises, whatever the last bits are.
    motion.rises = square(target) >= square(motion.value) * (1 - 0x1p-40);
}

Vector2 move_on(VectorMotion& motion, const Ramps& ramps, std::int64_t span) noexcept {
    auto left = static_cast<double>(span);
    Vector2 integral, &value = motion.value;
    const Vector2 target = motion.target;
    const auto add = [&](Vector2 next, double time) {
        integral.x += (value.x + next.x) / 2 * time;
        integral.y += (value.y + next.y) / 2 * time;
        value = next;
    };
    if (value != target) {
        const double x = target.x - value.x, y = target.y - value.y;
        const double needed =
            std::sqrt(x * x + y * y) * static_cast<double>((motion.rises ? ramps.rise : ramps.fall).count());
        if (needed > left) {
            const double part = left / needed;
            add({value.x + x * part, value.y + y * part}, left);
            return {integral.x * nanosecond, integral.y * nanosecond};
        }
        add(target, needed);
        left -= needed;
    }
    add(value, left);
    return {integral.x * nanosecond, integral.y * nanosecond};
}

}  // namespace cursorum
