// Ids that last, for devices that are plugged in, unplugged and plugged in again.
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
/// A device that connects gets the id that is reserved for a device of the same kind, vendor, product, name and serial
/// number, or else for one that is the same without the serial number. Otherwise a gamepad gets the id that has been
/// reserved for a gamepad for the longest time (the player uses another gamepad now), if there is one; all other
/// devices get a new id. A device gets none if all ids are in use or reserved for other kinds.
/// Threads: one, the source's. Nothing allocates.
class CURSORUM_API DeviceIds {
public:
    static constexpr std::size_t capacity = 64;

    /// Ids count from `first` up; there are at most `room` of them.
    explicit DeviceIds(DeviceId first, std::size_t room = capacity) noexcept;

    /// The id to connect the device with; nothing if no id is left. `serial` distinguishes devices of the same
    /// model; it may be empty.
    std::optional<DeviceId> connect(const DeviceInfo& info, std::string_view serial, Time when) noexcept;
    /// The device was unplugged: its id is reserved for it.
    void disconnect(DeviceId device, Time when) noexcept;
    /// Frees the id, as if the device had never connected.
    void forget(DeviceId device) noexcept;

private:
    struct Slot {
        bool is_used = false, is_there = false;
        DeviceKind kind{};
        std::uint64_t model = 0, serial = 0;  // of texts, 64-bit FNV-1a
        Time since;                           // it waits
    };

    std::uint32_t first_;
    std::size_t room_;
    std::array<Slot, capacity> slots_{};
};

}  // namespace cursorum
