// Distances as whole multiples of 1/65536, so that sums depend on no order and no cut. Rounded to nearest, ties to
// even, without a mathematical function.
#pragma once

#include <array>
#include <bit>
#include <cstdint>

#include "cursorum/core/space.hpp"

namespace cursorum {

namespace detail {
/// Distances or positions in two directions, in 1/65536, modulo 2^64.
using FixedDistance = std::array<std::uint64_t, 2>;
}  // namespace detail

/// The accepted limit: farther than any pointer moves in one event.
inline constexpr double most_distance = 2147483648.0;

/// False for NaN, and for more than most_distance.
constexpr bool has_fixed(double value) noexcept { return value >= -most_distance && value <= most_distance; }

/// The nearest multiple of 1/65536, ties to the even one. Scaling by a power of two is exact; adding 1.5 * 2^52 rounds
/// to a whole number, which then stands in the low bits.
constexpr std::int64_t to_fixed(double value) noexcept {
    constexpr double rounder = 6755399441055744.0;
    static_assert(most_distance * 65536.0 < 2251799813685248.0);  // 2^51
    return std::bit_cast<std::int64_t>(value * 65536.0 + rounder) - std::bit_cast<std::int64_t>(rounder);
}

/// Exact up to 2^53 / 65536.
constexpr double from_fixed(std::int64_t fixed) noexcept { return static_cast<double>(fixed) / 65536.0; }

/// Both directions, in the form in which totals and positions are stored.
inline WindowPoint point_of(const detail::FixedDistance& fixed) noexcept {
    return {from_fixed(static_cast<std::int64_t>(fixed[0])), from_fixed(static_cast<std::int64_t>(fixed[1]))};
}

}  // namespace cursorum
