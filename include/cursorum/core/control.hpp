// Controls: what a person operates, by number and by name.
#pragma once

#include <cstddef>
#include <cstdint>
#include <string_view>

#include "cursorum/core/export.hpp"

namespace cursorum {

/// Numbers of buttons are below this. A set of buttons has as many bits (56 bytes).
inline constexpr unsigned button_capacity = 448;

/// One button or key, by number. Keys of USB HID page 0x07 have their usage as their number; others have the remaining
/// numbers. The default, number 0, means no button. The constants are in controls.hpp (`controls::KeyW`).
struct Button {
    std::uint16_t number = 0;

    friend constexpr bool operator==(Button, Button) = default;
    /// False for number 0 only, whether or not other numbers have names.
    constexpr explicit operator bool() const noexcept { return number != 0; }
};

/// Buttons of mice: from the first of these up to the second, which is not one of them.
inline constexpr std::uint16_t first_mouse_button = 288, end_of_mouse_buttons = 304;

/// Returns whether it is a key of a keyboard: none of a mouse, a pad or an axis, and no either-side name.
CURSORUM_API bool is_key(Button button) noexcept;

/// Buttons from here up stand for either of two keys (Shift, Control, Alt, Meta): to be asked, never posted.
inline constexpr std::uint16_t first_either_side = 444;

/// Buttons from here up to first_either_side are made of axes: an axis pushed to one side, a stick pushed in a
/// direction. To be asked, never posted.
inline constexpr std::uint16_t first_of_axes = 352;

/// What kind of thing a control belongs to.
enum class ControlFamily : std::uint8_t { key, mouse_button, pad_button, direction, either_side, axis };

/// One row of the table of controls. The texts live as long as the program.
struct ControlInfo {
    std::string_view name;  ///< "KeyW", "MouseLeft", "PadStickLeftX"
    ControlFamily family{};
    Button button;               ///< no button for axes
    std::uint16_t hid_page = 0;  ///< USB HID usage page, 0 if the tables have none for it
    std::uint16_t hid_usage = 0;
    std::uint16_t linux_code = 0;  ///< <linux/input-event-codes.h>: KEY_ and BTN_, for axes ABS_; 0 if there is none
    std::string_view what;         ///< a few words of English
};

/// Number of rows: all buttons, either-side names and axes.
CURSORUM_API std::size_t control_count() noexcept;

/// Row `index` of the table, in the order of numbers, axes last. `index` < control_count().
CURSORUM_API const ControlInfo& control(std::size_t index) noexcept;

/// The row of a name, exactly as written, upper and lower case included; null when there is none. Axes and either-side
/// names are found too: look at `family`. Logarithmic in the number of controls; the index is made at compile time.
CURSORUM_API const ControlInfo* find_control(std::string_view name) noexcept;

/// The button of that name; no button when the name is unknown or a stick's axis. The name of a trigger's travel gives
/// the trigger as a button: `axis_button(PadPullLeft)`; so does the name of an axis beyond the usual ones, in the
/// positive direction.
CURSORUM_API Button find_button(std::string_view name) noexcept;

/// The name of a button; empty when the number has none.
CURSORUM_API std::string_view name_of(Button button) noexcept;

/// The button's place when all names are sorted as bytes (the order of edges that happen at once); 65535 when the
/// number has no name.
CURSORUM_API std::uint16_t name_rank(Button button) noexcept;

/// The button with the given code of <linux/input-event-codes.h> (an X11 keycode is that code + 8); no button when
/// there is none.
CURSORUM_API Button button_of_linux_code(unsigned code) noexcept;

/// The button with the given USB HID usage, such as page 0x07, usage 0x04; no button when there is none.
CURSORUM_API Button button_of_hid_usage(unsigned page, unsigned usage) noexcept;

/// True for buttons that a device can have: those with a name, except the either-side names and all that is made of
/// axes.
CURSORUM_API bool can_be_posted(Button button) noexcept;

/// The known control name nearest to a mistyped one, or empty if none is near. For messages.
CURSORUM_API std::string_view near_control_name(std::string_view mistyped) noexcept;

}  // namespace cursorum
