// Contacts on touch surfaces.
#pragma once

#include "cursorum/core/device.hpp"
#include "cursorum/core/space.hpp"
#include "cursorum/core/time.hpp"

namespace cursorum {

/// One contact during a frame: a finger on a touch screen or on a gamepad's touch surface. Contacts that began and
/// ended within the frame are included.
struct ContactReading {
    DeviceId device{};
    std::uint32_t contact = 0;  ///< its id among the contacts on the surface
    bool began = false;         ///< in this frame
    bool down = false;          ///< at the frame's end
    bool ended = false;         ///< lifted in this frame
    bool cancelled = false;     ///< cancelled in this frame: focus loss, unplugged, a lost end
    Time since;                 ///< when it began
    WindowPoint from;           ///< where it began; a pad's surface has its own square, -1 to 1
    WindowPoint before;         ///< at the frame's start, or where it began
    WindowPoint position;       ///< at the frame's end, or where it ended
    double pressure = 0;        ///< 0 to 1, as reported last
};

/// A device that connected or disconnected.
struct DeviceChange {
    Time time;
    DeviceId device{};
    bool connected = false;  ///< false: disconnected
    DeviceKind kind{};
    unsigned place = 0;                 ///< its lasting place among the devices of its kind, from 0
    std::array<char, 64> name_bytes{};  ///< zero-terminated; as of the present

    std::string_view name() const noexcept { return name_bytes.data(); }
};

}  // namespace cursorum
