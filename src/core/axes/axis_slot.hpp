// How values of axes are stored in their ring: raw and shaped value, and in one word the device, the axis, its track
// and whether anybody moved it.
#pragma once

#include <cstdint>

#include "core/buttons/edge_ring.hpp"
#include "core/rings/word_ring.hpp"

namespace cursorum::detail {

/// The low half of a slot's `what`: the device in the low 8 bits, then 8 bits axis, 14 bits track, whether nobody moved
/// it (focus was lost, a state adopted, other shaping set), and whether only the shaped value changed.
struct AxisTag {
    std::uint32_t bits;

    static constexpr std::uint32_t forced_bit = std::uint32_t{1} << 30, same_bit = std::uint32_t{1} << 31;
    static constexpr AxisTag of(unsigned device, unsigned axis, unsigned track, bool is_same, bool is_forced) noexcept {
        return {device | axis << 8 | track << 16 | is_same * same_bit | is_forced * forced_bit};
    }
    constexpr unsigned device() const noexcept { return bits & 0xFF; }
    constexpr unsigned axis() const noexcept { return bits >> 8 & 0xFF; }
    constexpr unsigned track() const noexcept { return bits >> 16 & 0x3FFF; }
    constexpr bool is_forced() const noexcept { return (bits & forced_bit) != 0; }
    constexpr bool is_same() const noexcept { return (bits & same_bit) != 0; }
};

/// A device's axis value and its shaped value; either may be unchanged. An event that is in time and only moves axes
/// has slots in this ring alone, and its first slot counts it. Any other event also has slots in the ring of edges,
/// which count it and record whether it was late.
struct AxisSlot {
    std::int64_t time = 0;
    /// The lower half as above, then two flags, and in the upper 30 bits how many events were counted here up to this
    /// slot.
    std::uint64_t what = 0;
    double value = 0, shaped = 0;
    std::uint64_t late_at = in_time;  ///< position of its event's slot `late` in the ring of edges, if it has one

    static constexpr std::uint64_t virtual_bit = std::uint64_t{1} << 32, counts_bit = std::uint64_t{1} << 33;
    static constexpr unsigned counted_shift = 34;
    static constexpr std::uint32_t counted_mask = (std::uint32_t{1} << 30) - 1;
    bool counts() const noexcept { return (what & counts_bit) != 0; }
    std::uint32_t counted() const noexcept { return static_cast<std::uint32_t>(what >> counted_shift); }
    AxisTag tag() const noexcept { return {static_cast<std::uint32_t>(what)}; }
    unsigned device() const noexcept { return tag().device(); }
    unsigned axis() const noexcept { return tag().axis(); }
    unsigned track() const noexcept { return tag().track(); }
    bool is_virtual() const noexcept { return (what & virtual_bit) != 0; }
};

using AxisRing = WordRing<AxisSlot>;

}  // namespace cursorum::detail
