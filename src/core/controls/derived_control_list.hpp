// The buttons that are made of others, or of axes: they can be read and bound, but never posted. In the form of
// control_list.hpp, and expanded like it, with two macros that are CURSORUM_BUTTON unless they are defined:
//
//   CURSORUM_DIRECTION(name, number, what)
//   CURSORUM_EITHER_SIDE(name, number, left, right, what)
//
// This file has no include guard: it is expanded several times.

// clang-format off
// A stick pushed in a direction, with hysteresis (see shaping.hpp), and other axes pushed to their negative side (pushed
// to the positive one, an axis has its own name as a button).
#ifndef CURSORUM_DIRECTION
#define CURSORUM_DIRECTION(name, number, what) CURSORUM_BUTTON(name, number, 0, 0, 0, what)
#endif
CURSORUM_DIRECTION(PadAxisExtra1Negative, 365, "gamepad: axis 1 beyond the usual ones pushed to its negative side, as a button")
CURSORUM_DIRECTION(PadAxisExtra2Negative, 367, "gamepad: axis 2 beyond the usual ones pushed to its negative side, as a button")
CURSORUM_DIRECTION(PadAxisExtra3Negative, 369, "gamepad: axis 3 beyond the usual ones pushed to its negative side, as a button")
CURSORUM_DIRECTION(PadAxisExtra4Negative, 371, "gamepad: axis 4 beyond the usual ones pushed to its negative side, as a button")
CURSORUM_DIRECTION(PadAxisExtra5Negative, 373, "gamepad: axis 5 beyond the usual ones pushed to its negative side, as a button")
CURSORUM_DIRECTION(PadAxisExtra6Negative, 375, "gamepad: axis 6 beyond the usual ones pushed to its negative side, as a button")
CURSORUM_DIRECTION(PadAxisExtra7Negative, 377, "gamepad: axis 7 beyond the usual ones pushed to its negative side, as a button")
CURSORUM_DIRECTION(PadAxisExtra8Negative, 379, "gamepad: axis 8 beyond the usual ones pushed to its negative side, as a button")
CURSORUM_DIRECTION(PadAxisExtra9Negative, 381, "gamepad: axis 9 beyond the usual ones pushed to its negative side, as a button")
CURSORUM_DIRECTION(PadAxisExtra10Negative, 383, "gamepad: axis 10 beyond the usual ones pushed to its negative side, as a button")
CURSORUM_DIRECTION(PadAxisExtra11Negative, 385, "gamepad: axis 11 beyond the usual ones pushed to its negative side, as a button")
CURSORUM_DIRECTION(PadAxisExtra12Negative, 387, "gamepad: axis 12 beyond the usual ones pushed to its negative side, as a button")
CURSORUM_DIRECTION(PadAxisExtra13Negative, 389, "gamepad: axis 13 beyond the usual ones pushed to its negative side, as a button")
CURSORUM_DIRECTION(PadAxisExtra14Negative, 391, "gamepad: axis 14 beyond the usual ones pushed to its negative side, as a button")
CURSORUM_DIRECTION(PadAxisExtra15Negative, 393, "gamepad: axis 15 beyond the usual ones pushed to its negative side, as a button")
CURSORUM_DIRECTION(PadAxisExtra16Negative, 395, "gamepad: axis 16 beyond the usual ones pushed to its negative side, as a button")
CURSORUM_DIRECTION(PadAxisExtra17Negative, 397, "gamepad: axis 17 beyond the usual ones pushed to its negative side, as a button")
CURSORUM_DIRECTION(PadAxisExtra18Negative, 399, "gamepad: axis 18 beyond the usual ones pushed to its negative side, as a button")
CURSORUM_DIRECTION(PadAxisExtra19Negative, 401, "gamepad: axis 19 beyond the usual ones pushed to its negative side, as a button")
CURSORUM_DIRECTION(PadAxisExtra20Negative, 403, "gamepad: axis 20 beyond the usual ones pushed to its negative side, as a button")
CURSORUM_DIRECTION(PadAxisExtra21Negative, 405, "gamepad: axis 21 beyond the usual ones pushed to its negative side, as a button")
CURSORUM_DIRECTION(PadAxisExtra22Negative, 407, "gamepad: axis 22 beyond the usual ones pushed to its negative side, as a button")
CURSORUM_DIRECTION(PadAxisExtra23Negative, 409, "gamepad: axis 23 beyond the usual ones pushed to its negative side, as a button")
CURSORUM_DIRECTION(PadAxisExtra24Negative, 411, "gamepad: axis 24 beyond the usual ones pushed to its negative side, as a button")
CURSORUM_DIRECTION(PadAxisExtra25Negative, 413, "gamepad: axis 25 beyond the usual ones pushed to its negative side, as a button")
CURSORUM_DIRECTION(PadAxisExtra26Negative, 415, "gamepad: axis 26 beyond the usual ones pushed to its negative side, as a button")
CURSORUM_DIRECTION(PadStickLeftUp,    416, "gamepad: left stick pushed up, as a button")
CURSORUM_DIRECTION(PadStickLeftDown,  417, "gamepad: left stick pushed down, as a button")
CURSORUM_DIRECTION(PadStickLeftLeft,  418, "gamepad: left stick pushed to the left, as a button")
CURSORUM_DIRECTION(PadStickLeftRight, 419, "gamepad: left stick pushed to the right, as a button")
CURSORUM_DIRECTION(PadStickRightUp,    420, "gamepad: right stick pushed up, as a button")
CURSORUM_DIRECTION(PadStickRightDown,  421, "gamepad: right stick pushed down, as a button")
CURSORUM_DIRECTION(PadStickRightLeft,  422, "gamepad: right stick pushed to the left, as a button")
CURSORUM_DIRECTION(PadStickRightRight, 423, "gamepad: right stick pushed to the right, as a button")
#undef CURSORUM_DIRECTION

// Names that stand for either of two keys.
#ifndef CURSORUM_EITHER_SIDE
#define CURSORUM_EITHER_SIDE(name, number, left, right, what) CURSORUM_BUTTON(name, number, 0, 0, 0, what)
#endif
CURSORUM_EITHER_SIDE(Control,       444, ControlLeft, ControlRight, "either Control key")
CURSORUM_EITHER_SIDE(Shift,         445, ShiftLeft, ShiftRight, "either Shift key")
CURSORUM_EITHER_SIDE(Alt,           446, AltLeft, AltRight, "either Alt key")
CURSORUM_EITHER_SIDE(Meta,          447, MetaLeft, MetaRight, "either Meta key")
#undef CURSORUM_EITHER_SIDE
// clang-format on
