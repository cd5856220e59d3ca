// The buttons that a device can have, as a set made at compile time: those with a name that are neither made of axes
// nor stand for either side.
#pragma once

#include "cursorum/core/button_set.hpp"
#include "cursorum/core/inlet.hpp"

namespace cursorum {

#define CURSORUM_BUTTON(name, number, hid_page, hid_usage, linux_code, what) Button{number},
inline constexpr ButtonSet postable_buttons{
#include "core/controls/control_list.hpp"
};
#undef CURSORUM_BUTTON

/// The keys of USB HID page 0x07: their numbers are their usages.
#define CURSORUM_BUTTON(name, number, hid_page, hid_usage, linux_code, what) Button{hid_page == 0x07 ? number : 0},
inline constexpr ButtonSet hid_keys =
    ButtonSet{
#include "core/controls/control_list.hpp"
    } -
    ButtonSet{Button{0}};
#undef CURSORUM_BUTTON

/// Mouse buttons belong to the desk's mouse, all others to its keyboard.
constexpr bool is_mouse_button(Button button) noexcept {
    return button.number >= first_mouse_button && button.number < end_of_mouse_buttons;
}
constexpr DeviceId desk_device(Button button) noexcept { return is_mouse_button(button) ? desk_mouse : desk_keyboard; }

}  // namespace cursorum
