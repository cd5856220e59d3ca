// Which devices a reading is of. Not for callers.
#pragma once

#include <array>
#include <cstdint>

namespace cursorum::detail {

/// Devices, bit by number.
using DeviceBits = std::array<std::uint64_t, 4>;
inline bool has_bit(const DeviceBits& bits, unsigned number) noexcept {
    return (bits[number / 64 % 4] >> number % 64 & 1) != 0;
}
inline void set_bit(DeviceBits& bits, unsigned number, bool on) noexcept {
    std::uint64_t& word = bits[number / 64 % 4];
    word = (word & ~(std::uint64_t{1} << number % 64)) | std::uint64_t{on} << number % 64;
}

/// A device by its number, or one of a frame's numbers for several (every device, a person's …), or those of a set,
/// which outlives the reading.
struct DeviceFilter {
    unsigned device = 0;
    const DeviceBits* set = nullptr;

    constexpr DeviceFilter(unsigned number) noexcept : device{number} {}
    constexpr DeviceFilter(unsigned number, const DeviceBits& of) noexcept : device{number}, set{&of} {}
    friend constexpr bool operator==(const DeviceFilter& filter, unsigned number) noexcept {
        return filter.device == number;
    }
};

}  // namespace cursorum::detail
