// The number of each device, by its id: one table for all inlets of a timeline, since a device belongs to the inlet
// that connected it first. A place is taken once and never given back.
#pragma once

#include <atomic>
#include <bit>
#include <cstddef>
#include <cstdint>
#include <memory>

#include "cursorum/core/event.hpp"

namespace cursorum::detail {

/// The number of each device, by id. The first inlet that connects an id owns it permanently. A table with open
/// addressing, at most half full. Any thread; no waiting.
class DeviceDirectory {
public:
    /// In place of a number.
    static constexpr unsigned none = 0xFFFF;

    explicit DeviceDirectory(std::size_t most_devices)
        : mask_{std::bit_ceil(2 * most_devices + 1) - 1},
          entries_{std::make_unique<std::atomic<std::uint64_t>[]>(mask_ + 1)} {}

    /// The number of the id: `number`, unless it has another one already.
    unsigned take(DeviceId id, unsigned number) noexcept {
        const std::uint64_t wanted = entry_of(id, number);
        for (std::size_t i = 0, at = first_of(id); i <= mask_; ++i, ++at) {
            std::uint64_t found = 0;
            if (entries_[at & mask_].compare_exchange_strong(found, wanted, std::memory_order_relaxed)) return number;
            if (found >> 32 == wanted >> 32) return number_of(found);
        }
        return none;
    }
    unsigned find(DeviceId id) const noexcept {
        for (std::size_t i = 0, at = first_of(id); i <= mask_; ++i, ++at) {
            const std::uint64_t found = entries_[at & mask_].load(std::memory_order_relaxed);
            if (found == 0) break;
            if (found >> 32 == static_cast<std::uint32_t>(id)) return number_of(found);
        }
        return none;
    }

private:
    static std::uint64_t entry_of(DeviceId id, unsigned number) noexcept {
        return std::uint64_t{static_cast<std::uint32_t>(id)} << 32 | (number + 1);
    }
    static unsigned number_of(std::uint64_t entry) noexcept { return static_cast<std::uint32_t>(entry) - 1; }
    // Fibonacci hashing (Knuth, The Art of Computer Programming 3, 6.4).
    static std::size_t first_of(DeviceId id) noexcept { return static_cast<std::uint32_t>(id) * 0x9E3779B9U >> 16; }

    std::size_t mask_;
    std::unique_ptr<std::atomic<std::uint64_t>[]> entries_;
};

}  // namespace cursorum::detail
