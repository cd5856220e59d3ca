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
inline constexpr Axis PadAxisExtra1{6}, PadAxisExtra2{7}, PadAxisExtra3{8}, PadAxisExtra4{9}, PadAxisExtra5{10},
    PadAxisExtra6{11}, PadAxisExtra7{12}, PadAxisExtra8{13}, PadAxisExtra9{14}, PadAxisExtra10{15}, PadAxisExtra11{16},
    PadAxisExtra12{17}, PadAxisExtra13{18}, PadAxisExtra14{19}, PadAxisExtra15{20}, PadAxisExtra16{21},
    PadAxisExtra17{22}, PadAxisExtra18{23}, PadAxisExtra19{24}, PadAxisExtra20{25}, PadAxisExtra21{26},
    PadAxisExtra22{27}, PadAxisExtra23{28}, PadAxisExtra24{29}, PadAxisExtra25{30}, PadAxisExtra26{31};
inline constexpr Stick PadStickLeft{0}, PadStickRight{1};

}  // namespace cursorum::controls
