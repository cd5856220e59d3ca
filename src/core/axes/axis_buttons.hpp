// Sets of the buttons that are made of a device's axes: sides of axes, and directions of sticks. Each is one bit, so
// that what an event changes is one exclusive or.
#pragma once

#include <bit>
#include <cstdint>

#include "core/rules/shaping_formulas.hpp"
#include "cursorum/core/axis.hpp"
#include "cursorum/core/button_set.hpp"
#include "cursorum/core/control.hpp"
#include "cursorum/core/shaping.hpp"

namespace cursorum::detail {

/// A set of buttons that are made of a device's axes.
struct AxisButtons {
    std::uint64_t sides = 0;       // bit 2 * axis + side
    std::uint64_t directions = 0;  // bit 4 * stick + direction
    static constexpr unsigned side_count = 2 * axis_kinds;
    static_assert(side_count == 64);

    /// The intersection with the set.
    static AxisButtons of(const ButtonSet& set) noexcept {
        AxisButtons some;
        set.for_each([&some](Button button) {
            if (is_of_axes(button)) some.flip(button);
        });
        return some;
    }
    void flip(Button button) noexcept {
        const unsigned bit = button.number - first_of_axes;
        (bit < side_count ? sides : directions) ^= std::uint64_t{1} << bit % side_count;
    }
    /// In the order of numbers.
    template <typename Visit>
    void for_each(Visit visit) const {
        for (const unsigned first : {0U, side_count})
            for (std::uint64_t rest = first == 0 ? sides : directions; rest != 0; rest &= rest - 1)
                visit(Button{static_cast<std::uint16_t>(first_of_axes + first + unsigned(std::countr_zero(rest)))});
    }
    bool has(Button button) const noexcept {
        const unsigned bit = button.number - first_of_axes;
        return ((bit < side_count ? sides : directions) >> bit % side_count & 1) != 0;
    }
    friend AxisButtons operator&(AxisButtons a, AxisButtons b) noexcept {
        return {a.sides & b.sides, a.directions & b.directions};
    }
    friend AxisButtons operator^(AxisButtons a, AxisButtons b) noexcept {
        return {a.sides ^ b.sides, a.directions ^ b.directions};
    }
    friend bool operator==(const AxisButtons&, const AxisButtons&) = default;
};

/// To which sides an axis is pushed: bit 0 the positive side, bit 1 the negative one; by where it was before.
inline std::uint64_t sides_of(double value, std::uint64_t before, const ButtonThresholds& thresholds) noexcept {
    const auto is_pushed = [&](double v, bool was) { return was ? v > thresholds.release : v >= thresholds.press; };
    return std::uint64_t{is_pushed(value, (before & 1) != 0)} | std::uint64_t{is_pushed(-value, (before & 2) != 0)}
                                                                    << 1;
}

/// Which buttons made of the axis `first`, or of the stick of which it is the first axis, are down, by the shaped
/// values of `count` axes. `before`: what was down before the event; `now`: what has been worked out of it so far.
template <unsigned count>
inline void update_axis_buttons(unsigned first, const double* shaped, const AxisButtons& before,
                                const DeviceShaping& shaping, AxisButtons& now) noexcept {
    constexpr std::uint64_t mask = (std::uint64_t{1} << 2 * count) - 1;
    const ButtonThresholds& thresholds = shaping.thresholds;
    const unsigned at = 2 * first;
    const auto set = [at](std::uint64_t& bits, std::uint64_t to) { bits = (bits & ~(mask << at)) | to << at; };
    if constexpr (count == 1) {
        set(now.sides, sides_of(shaped[0], before.sides >> at & mask, thresholds));
    } else {
        // A stick's directions stand where its axes' sides would, two bits for each axis. Near its centre none is down.
        const std::uint64_t any = (now.directions | before.directions) >> at & mask;
        const double square = shaped[0] * shaped[0] + shaped[1] * shaped[1];
        if (any == 0 && is_surely_below(thresholds.press, square)) return;
        set(now.directions,
            directions_of({shaped[0], shaped[1]}, static_cast<std::uint8_t>(before.directions >> at & mask),
                          shaping.sticks[first / 2].directions, thresholds));
    }
}

}  // namespace cursorum::detail
