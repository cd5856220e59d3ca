// Which devices a reading is of. Not for callers.
#pragma once

#include <array>
#include <cstdint>

namespace cursorum::detail {

/// A set of devices: bit n is the device of that number in the timeline.
using DeviceBits = std::array<std::uint64_t, 4>;
inline bool has_bit(const DeviceBits& bits, unsigned number) noexcept {
    return (bits[number / 64 % 4] >> number % 64 & 1) != 0;
}
inline void set_bit(DeviceBits& bits, unsigned number, bool on) noexcept {
    std::uint64_t& word = bits[number / 64 % 4];
    word = (word & ~(std::uint64_t{1} << number % 64)) | std::uint64_t{on} << number % 64;
}

/// All devices, one of them, those of persons or of programs, or those of a set, which must outlive the reading.
struct DeviceFilter {
    enum class Kind : std::uint8_t { every, one, none, persons, programs, set };

    Kind kind = Kind::every;
    std::uint8_t number = 0;  ///< of `one`, in the timeline
    const DeviceBits* devices = nullptr;

    static constexpr DeviceFilter one(unsigned number) noexcept {
        return {Kind::one, static_cast<std::uint8_t>(number), nullptr};
    }
    static constexpr DeviceFilter set(const DeviceBits& devices) noexcept { return {Kind::set, 0, &devices}; }
    constexpr bool is_every() const noexcept { return kind == Kind::every; }
    friend constexpr bool operator==(const DeviceFilter&, const DeviceFilter&) = default;
};

}  // namespace cursorum::detail
