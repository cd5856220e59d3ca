// A constant for every control: controls::KeyW, controls::MouseLeft, controls::PadSouth, controls::Shift; the axes,
// controls::PadStickLeftX; the sticks, controls::PadStickLeft.
// The list with numbers, USB HID usages and Linux codes is control_list.hpp; `cursorum keys` prints it.
#pragma once

#include "cursorum/core/axis.hpp"
#include "cursorum/core/control.hpp"

namespace cursorum::controls {

#define CURSORUM_BUTTON(name, number, hid_page, hid_usage, linux_code, what) inline constexpr Button name{number};
#include "cursorum/core/control_list.hpp"
#undef CURSORUM_BUTTON

inline constexpr Axis PadStickLeftX{0}, PadStickLeftY{1}, PadStickRightX{2}, PadStickRightY{3}, PadPullLeft{4},
    PadPullRight{5};
inline constexpr Stick PadStickLeft{0}, PadStickRight{1};

}  // namespace cursorum::controls
