// Key tables: the numbers that event sources have for keys and buttons, to ours and back.
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <string_view>

#include "cursorum/core/axis.hpp"
#include "cursorum/core/control.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/export.hpp"

namespace cursorum {

/// The tables of numbers by which event sources name keys and buttons. docs/your-own-pump.md shows which source has
/// which, and `cursorum keys` lists them.
enum class KeyTable : std::uint8_t {
    linux_code,  ///< KEY_ and BTN_ of <linux/input-event-codes.h>: kernel event devices, and what builds on them
    x_keycode,   ///< X11: the Linux code plus 8, as servers with the evdev rules of the X keyboard database have them
    hid_usage,   ///< USB HID Usage Tables, page 0x07: keyboards' reports
    /// Scan codes of set 1 as a keyboard sends them, and as raw input has them: 0 to 0x7F, 0xE000 plus the code behind
    /// a prefix 0xE0, and 0xE11D for Pause.
    scan_code,
    /// The same in window messages, which have an "extended" bit instead of the prefix: add 0xE000 if it is set. Two
    /// keys are exchanged: Num Lock is 0xE045, and Pause is 0x45.
    message_scan_code,
    /// Virtual key numbers as of the layout of the United States. They name what is printed on a key, so on other
    /// layouts they are other keys: prefer the scan code of the same message. 0xE00D is Enter with the extended bit,
    /// the numpad's.
    virtual_key,
    macintosh,    ///< the virtual key codes of the Macintosh's events, which name positions
    standard_pad  ///< the order of buttons in the standard gamepad of the W3C Gamepad specification, 0 to 16
};

/// The button with that number in a table; no button if the table has none. Buttons of the virtual-key table that stand
/// for either of two keys (Shift, Control, Alt without a side) have none. Cost: logarithmic at most.
CURSORUM_API Button button_of(KeyTable table, unsigned number) noexcept;

/// The reverse: a button's number in a table; nothing if it has none. Cost: proportional to the table's rows.
CURSORUM_API std::optional<unsigned> number_in(KeyTable table, Button button) noexcept;

/// The button of each of a caller's 256 key numbers; no button (number 0) for unused ones.
using KeyNumbering = std::array<Button, 256>;
/// A table's numbers below 256, for keys_from_bytes() and keys_from_bits().
CURSORUM_API const KeyNumbering& numbering_of(KeyTable table) noexcept;

/// The key with that value of the `code` member of a browser's keyboard events (W3C UI Events KeyboardEvent code
/// values, which our names are, and two older names of the Meta keys); no button for an unknown one, and for other
/// controls.
CURSORUM_API Button button_of_code(std::string_view code) noexcept;

/// The axes of the standard gamepad of the W3C Gamepad specification, in their order. Its triggers are the values of
/// its buttons 6 and 7: post them as PadPullLeft and PadPullRight.
inline constexpr std::array<Axis, 4> standard_pad_axes{controls::PadStickLeftX, controls::PadStickLeftY,
                                                       controls::PadStickRightX, controls::PadStickRightY};

}  // namespace cursorum
