// What happened, in order.
#pragma once

#include <cstddef>
#include <optional>

#include "cursorum/core/inlet.hpp"

namespace cursorum {

/// One device as the timeline knows it. `info.name` lives until the device connects again.
struct DeviceStatus {
    DeviceId id{};
    DeviceInfo info;
    bool connected = false;
    ButtonSet down;  ///< as of the last event posted
};

/// All inlets together and a bounded history of what their events did. It knows no frames: samplers cut it.
///
/// Lifetime: outlives its samplers; neither copied nor moved.
/// Threads: one thread for now, for posting, sampling and asking.
/// Memory: allocated here, once, by TimelineOptions (about 90 KB by default); nothing after.
class Timeline {
public:
    explicit Timeline(const TimelineOptions& options = {}) : desk_{options} {}
    Timeline(const Timeline&) = delete;
    Timeline& operator=(const Timeline&) = delete;

    /// The inlet that every timeline has.
    Inlet& desk() noexcept { return desk_; }
    const Inlet& desk() const noexcept { return desk_; }

    /// Devices seen so far, connected or not; they are numbered in the order of their first connect.
    std::size_t device_count() const noexcept { return desk_.devices_.size(); }
    /// The device of that number, below device_count().
    DeviceStatus device(std::size_t number) const noexcept;
    /// The device of that id; nothing if it never connected.
    std::optional<DeviceStatus> find_device(DeviceId id) const noexcept;

private:
    Inlet desk_;
};

}  // namespace cursorum
