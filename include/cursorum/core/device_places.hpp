// Lasting ids for devices that are plugged in, unplugged and plugged in again.
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <optional>
#include <string_view>

#include "cursorum/core/device.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/time.hpp"

namespace cursorum {

/// Gives ids to the devices that a source finds, so that a device that was unplugged gets its former id back, and with
/// it its seat, its shaping and its bindings.
///
/// A device that is plugged in gets the vacant place of the same kind whose former device had the same vendor, product,
/// name and serial number, or else the same without the serial number. Otherwise a gamepad gets the gamepad place that
/// has been vacant for the longest time (the player uses another gamepad now), if there is one; all other devices get a
/// new place. It gets none if all places are taken or vacant for other kinds.
/// Threads: one, the source's. Nothing allocates.
class CURSORUM_API DevicePlaces {
public:
    static constexpr std::size_t capacity = 64;

    /// Ids count from `first` up; there are at most `room` places.
    explicit DevicePlaces(DeviceId first, std::size_t room = capacity) noexcept;

    /// The id to connect the device with; nothing if all places are taken. `serial` distinguishes devices of the same
    /// model; it may be empty.
    std::optional<DeviceId> came(const DeviceInfo& info, std::string_view serial, Time when) noexcept;
    /// The device was unplugged: its place is vacant and is kept for it.
    void went(DeviceId device, Time when) noexcept;
    /// Frees the place, as if the device had never connected.
    void forget(DeviceId device) noexcept;

private:
    struct Place {
        bool is_used = false, is_there = false;
        DeviceKind kind{};
        std::uint64_t model = 0, serial = 0;  // of texts, 64-bit FNV-1a
        Time since;                           // it waits
    };

    std::uint32_t first_;
    std::size_t room_;
    std::array<Place, capacity> places_{};
};

}  // namespace cursorum
