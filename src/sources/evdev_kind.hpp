// What kind of device an event device of the kernel is, by the codes that it has: a keyboard has letters, a gamepad has
// the gamepad's buttons, a touch surface reports contacts.
#pragma once

#include <string_view>
#include <vector>

#include "cursorum/core/button_set.hpp"
#include "cursorum/core/device.hpp"
#include "cursorum/core/export.hpp"

struct libevdev;

namespace cursorum {

struct EvdevKind {
    /// Usually one. Several for a node that is, say, a keyboard and a mouse. None if it is not read, see `ignored`.
    std::vector<DeviceKind> kinds{};
    /// Why a device that is not read is not: "it is a touchpad".
    std::string_view ignored{};
    /// One that somebody could miss, such as a touchpad: no lid, no power button, no sensor that a pad has besides.
    bool could_be_missed = true;
    /// It reports positions instead of distances: a tablet of a virtual machine.
    bool is_absolute_mouse = false;
    /// Only some keys, such as those for media: of a keyboard's second node, mostly.
    bool is_small_keyboard = false;
};

/// `is_named`: the user named its node, so that a device of which it is not clear, such as a power button, is a
/// keyboard.
CURSORUM_API EvdevKind kind_of(const libevdev* device, bool is_named);

/// The buttons that the device has.
CURSORUM_API ButtonSet buttons_of(const libevdev* device);

}  // namespace cursorum
