// Events of the X server as plain values, and the requests' small helpers: replies and errors are freed by themselves,
// and a mask is built by names.
#pragma once

#include <xcb/xcb.h>
#include <xcb/xinput.h>

#include <array>
#include <cstdint>
#include <cstdlib>
#include <memory>
#include <optional>

#include "cursorum/core/control.hpp"
#include "cursorum/core/event.hpp"

namespace cursorum::x11 {

struct Free {
    void operator()(void* memory) const noexcept { std::free(memory); }
};
/// Memory that xcb allocates with malloc.
template <typename T>
using Owned = std::unique_ptr<T, Free>;

using XDevice = xcb_input_device_id_t;

/// The valuators that a source looks at: the position or motion, and up to two wheels.
inline constexpr unsigned most_valuators = 8;
struct Valuators {
    std::uint32_t mask = 0;
    std::array<double, most_valuators> values{};
    std::array<double, most_valuators> unaccelerated{};  // of raw events

    bool has(unsigned number) const noexcept { return number < most_valuators && (mask >> number & 1) != 0; }
};

enum class InputKind : std::uint8_t {
    key,
    button,
    motion,
    raw_motion,
    enter,
    leave,
    focus,
    hierarchy,
    lamps,
    layout,
    destroyed
};

/// One event, decoded when it arrives, so that none has to be kept.
/// The modifiers and the layout in force when a key of the window changed, before that.
struct KeyboardState {
    std::uint32_t base = 0, latched = 0, locked = 0;
    std::uint32_t base_layout = 0, latched_layout = 0, locked_layout = 0;
};

struct Input {
    InputKind kind{};
    bool raw = false;  // without a window
    bool down = false, repeat = false, emulated = false;
    bool focus_in = false;
    std::uint8_t mode = 0, detail_of_focus = 0;  // XCB_INPUT_NOTIFY_…
    XDevice device = 0, source = 0;
    xcb_timestamp_t time = 0;
    std::uint32_t detail = 0;  // keycode, button number, hierarchy flags, lamps, window
    std::uint32_t sequence = 0;
    double x = 0, y = 0;  // in the window
    double root_x = 0, root_y = 0;
    Valuators valuators;
    KeyboardState keyboard;  // of a key, not of a raw one
};

/// Returns nothing for events that are neither input, a change of the keyboard's layout, nor a window's end.
/// `extension`: XInput's major opcode; `keyboard_event`: XKB's event number, 0 for none.
std::optional<Input> decode(const xcb_generic_event_t& event, std::uint8_t extension,
                            std::uint8_t keyboard_event) noexcept;

/// By position: X keycode - 8 is the Linux code. No button if the code has no control.
Button button_of_key(std::uint32_t keycode) noexcept;
/// By number; no button for the wheel's (4 to 7).
Button button_of_mouse(std::uint32_t number) noexcept;
inline bool is_wheel(std::uint32_t number) noexcept { return number >= 4 && number <= 7; }

inline double from_fixed(xcb_input_fp1616_t value) noexcept { return value / 65536.0; }
inline double from_fixed(xcb_input_fp3232_t value) noexcept { return value.integral + value.frac / 4294967296.0; }

}  // namespace cursorum::x11
