// Sets of the buttons that are made of a device's axes.
#pragma once

#include <bit>
#include <cstdint>

#include "cursorum/core/axis.hpp"
#include "cursorum/core/control.hpp"

namespace cursorum::detail {

/// Some of the buttons that are made of a device's axes.
struct AxisButtons {
    std::uint64_t sides = 0;       // bit 2 * axis + side
    std::uint64_t directions = 0;  // bit 4 * stick + direction
    static constexpr unsigned side_count = 2 * axis_kinds;
    static_assert(side_count == 64);

    void turn(Button button) noexcept {
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

}  // namespace cursorum::detail
