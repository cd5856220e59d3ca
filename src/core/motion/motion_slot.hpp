// How motion and the wheel are stored: with running totals in each slot, so that the motion of a frame is one
// subtraction, and a sampler that misses slots loses no distance.
#pragma once

#include <array>
#include <cstdint>

#include "core/rings/word_ring.hpp"
#include "core/rules/fixed_point.hpp"

namespace cursorum::detail {

/// Motion and wheel: one slot per event. Totals accumulate from slot to slot, so that a frame's motion is one
/// subtraction and a consumer that misses slots loses no distance.
struct MotionSlot {
    std::int64_t time = 0;  ///< the latest stamp that the inlet had seen; it never decreases
    /// Device in the low 8 bits, the flags below, from bit 12 the last 12 bits of how many slots the ring of edges had
    /// when it was posted, and from bit 24 how late it was.
    std::uint64_t what = 0;
    FixedDistance motion{}, raw{}, wheel{}, position{};
    std::uint64_t steps = 0;  ///< whole steps of the wheel, x in the low half, y in the high one, modulo 2^32
    /// Slots up to this one, in 21 bits each, modulo 2^21: late; of virtual devices; of events that are counted
    /// elsewhere.
    std::uint64_t counts = 0;

    static constexpr std::uint64_t one_late = 1, one_virtual = std::uint64_t{1} << 21,
                                   one_extra = std::uint64_t{1} << 42, count_mask = (std::uint64_t{1} << 21) - 1;
    /// The number of slots from `before` to `after`, less than 2^21.
    static constexpr std::uint64_t counted(std::uint64_t before, std::uint64_t after, std::uint64_t one) noexcept {
        return (after / one - before / one) & count_mask;
    }

    /// The difference from `before` to `after`, separately for each half.
    static constexpr std::uint64_t steps_between(std::uint64_t before, std::uint64_t after) noexcept {
        const auto half = [](std::uint64_t a, std::uint64_t b) {
            return std::uint64_t{static_cast<std::uint32_t>(b) - static_cast<std::uint32_t>(a)};
        };
        return half(before, after) | half(before >> 32, after >> 32) << 32;
    }

    static constexpr std::uint64_t wheel_bit = 0x100, virtual_bit = 0x200, places_bit = 0x400, placed_bit = 0x800;
    static constexpr unsigned edges_shift = 12;
    static constexpr std::uint64_t edges_mask = 0xFFF;
    /// The stored number of edge slots written before it.
    static constexpr std::uint64_t after_edges(std::uint64_t edges) noexcept {
        return (edges & edges_mask) << edges_shift;
    }
    /// Whether it was posted after the edge that stands at that place in the ring, if both have the same time. (Up
    /// to 2,047 edges of one time may lie between them.)
    bool is_after_edge(std::uint64_t place) const noexcept {
        return (((what >> edges_shift) - (place + 1)) & edges_mask) <= edges_mask / 2;
    }
    static constexpr std::uint64_t most_late = 0xFF'FFFF'FFFF;
    static constexpr unsigned late_shift = 24;
    unsigned device() const noexcept { return static_cast<unsigned>(what & 0xFF); }
    bool is_wheel() const noexcept { return (what & wheel_bit) != 0; }
    bool is_virtual() const noexcept { return (what & virtual_bit) != 0; }
    /// Its event had a position.
    bool places() const noexcept { return (what & places_bit) != 0; }
    /// The pointer's position is known after it.
    bool is_placed() const noexcept { return (what & placed_bit) != 0; }
    /// By how many nanoseconds its stamp was earlier than `time`, at most 2^40 - 1 (18 minutes).
    std::int64_t late_by() const noexcept { return static_cast<std::int64_t>(what >> late_shift); }
    std::int64_t stamp() const noexcept { return time - late_by(); }
};
static_assert(sizeof(MotionSlot) == 12 * 8);

using MotionRing = WordRing<MotionSlot>;

}  // namespace cursorum::detail
