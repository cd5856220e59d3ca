// A constant for every button: controls::KeyW, controls::MouseLeft, controls::PadSouth, controls::Shift.
// The list with numbers, USB HID usages and Linux codes is control_list.hpp; `cursorum keys` prints it.
#pragma once

#include "cursorum/core/control.hpp"

namespace cursorum::controls {

#define CURSORUM_BUTTON(name, number, hid_page, hid_usage, linux_code, what) inline constexpr Button name{number};
#include "cursorum/core/control_list.hpp"
#undef CURSORUM_BUTTON

}  // namespace cursorum::controls
