// A timeline as samplers and frames see it: from a number of a device or hold to the inlet that has it, and until when
// everything has been posted.
#pragma once

#include <array>
#include <atomic>
#include <cstddef>
#include <cstdint>
#include <memory>
#include <vector>

#include "core/devices/device_directory.hpp"
#include "core/inlet/inlet_history.hpp"
#include "cursorum/core/timeline.hpp"

namespace cursorum {

class InletCore;

/// All inlets, and the numbers of their devices.
class TimelineCore {
public:
    explicit TimelineCore(const TimelineOptions& options);
    ~TimelineCore();
    TimelineCore(const TimelineCore&) = delete;
    TimelineCore& operator=(const TimelineCore&) = delete;

    unsigned inlet_count() const noexcept { return static_cast<unsigned>(histories_.size()); }
    const detail::InletHistory& inlet(unsigned number) const noexcept { return *histories_[number]; }
    Inlet& public_inlet(unsigned number) const noexcept;

    /// By the number that slots have; null if there is none.
    const detail::Device* device_numbered(unsigned number) const noexcept {
        return number < inlet_of_.size() ? histories_[inlet_of_[number]]->device_numbered(number) : nullptr;
    }
    /// The number of the inlet that a device's number belongs to.
    unsigned inlet_of(unsigned device) const noexcept { return device < inlet_of_.size() ? inlet_of_[device] : 0; }
    const detail::Device* device_known_as(DeviceId id) const noexcept;
    /// One more than the greatest number that a device can have.
    unsigned device_room() const noexcept { return inlet_count() * devices_of_each_; }
    DeviceStatus status(const detail::Device& device) const noexcept;

    Time complete_until(Time now) const noexcept;
    std::uint64_t silent_count() const noexcept { return silent_.load(std::memory_order_relaxed); }

private:
    detail::DeviceDirectory directory_;
    std::vector<std::unique_ptr<InletCore>> inlets_;
    std::vector<const detail::InletHistory*> histories_;  // the same
    unsigned devices_of_each_;
    std::array<std::uint8_t, device_capacity> inlet_of_{};  // by the device's number
    std::int64_t silent_limit_;
    mutable std::atomic<std::uint64_t> silent_{0};
};

inline const TimelineCore& core_of(const Timeline& timeline) noexcept { return *timeline.core_; }

}  // namespace cursorum
