// How values of axes are stored in their ring: raw and shaped value, and in one word the device, the axis, its track
// and whether anybody moved it.
#pragma once

#include <cstdint>

#include "core/buttons/edge_ring.hpp"
#include "core/rings/word_ring.hpp"

namespace cursorum::detail {

/// A device's axis value and its shaped value; either may be unchanged. An event that is in time and only moves axes
/// has slots in this ring alone, and its first slot counts it. Any other event also has slots in the ring of edges,
/// which count it and record whether it was late.
struct AxisSlot {
    std::int64_t time = 0;
    /// Device in the low 8 bits, then 8 bits axis, 14 bits track, the flags, and in the upper 30 bits how many events
    /// were counted here up to this slot.
    std::uint64_t what = 0;
    double value = 0, shaped = 0;
    std::uint64_t late_at = in_time;  ///< position of its event's slot `late` in the ring of edges, if it has one

    static constexpr std::uint64_t forced_bit = std::uint64_t{1} << 30, same_bit = std::uint64_t{1} << 31,
                                   virtual_bit = std::uint64_t{1} << 32, counts_bit = std::uint64_t{1} << 33;
    static constexpr unsigned counted_shift = 34;
    static constexpr std::uint32_t counted_mask = (std::uint32_t{1} << 30) - 1;
    bool counts() const noexcept { return (what & counts_bit) != 0; }
    std::uint32_t counted() const noexcept { return static_cast<std::uint32_t>(what >> counted_shift); }
    unsigned device() const noexcept { return static_cast<unsigned>(what & 0xFF); }
    unsigned axis() const noexcept { return static_cast<unsigned>(what >> 8 & 0xFF); }
    unsigned track() const noexcept { return static_cast<unsigned>(what >> 16 & 0x3FFF); }
    bool is_virtual() const noexcept { return (what & virtual_bit) != 0; }
    /// Device, axis, track, whether nobody moved it (focus was lost, a state adopted, other shaping set), and whether
    /// only the shaped value changed, as above.
    std::uint32_t who() const noexcept { return static_cast<std::uint32_t>(what); }
};

using AxisRing = WordRing<AxisSlot>;

}  // namespace cursorum::detail
