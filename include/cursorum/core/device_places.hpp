// Which id a device gets that comes, or comes back.
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <optional>
#include <string_view>

#include "cursorum/core/event.hpp"
#include "cursorum/core/time.hpp"

namespace cursorum {

/// Gives ids to the devices that a source finds, so that one which was unplugged gets its own back: with the id come
/// its seat, its shaping and its bindings.
///
/// A device that comes takes, of the places that wait, the one of the same kind whose device told the same of itself:
/// vendor, product, name and serial number, then all but the serial number. Else, if there is one for a gamepad, the
/// gamepad's place that waits longest (somebody borrowed another pad); a keyboard, mouse or touch surface gets a place
/// of its own. With all places taken, or waiting for other kinds: none.
/// Threads: one, the source's. Nothing allocates.
class DevicePlaces {
public:
    static constexpr std::size_t capacity = 64;

    /// Ids count from `first` up; `room` places at most.
    explicit DevicePlaces(DeviceId first, std::size_t room = capacity) noexcept;

    /// The id to connect the device with. `serial`: what tells two of the same make apart; empty if it tells nothing.
    std::optional<DeviceId> came(const DeviceInfo& info, std::string_view serial, Time when) noexcept;
    /// It was unplugged: its place waits.
    void went(DeviceId device, Time when) noexcept;

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
