// The lines that each kind of event source needs, as docs/your-own-pump.md shows them. They take the numbers that the
// source reports, and none of its headers; the tests play each source's events through them.
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <span>
#include <string_view>

#include "cursorum/core/key_tables.hpp"
#include "cursorum/core/polled_state.hpp"
#include "cursorum/cursorum.hpp"

// clang-format off
using namespace cursorum;
using namespace cursorum::controls;

struct WaylandPump {
    Timeline timeline{{.desk_marks_repeats = true}};
    Inlet& desk = timeline.desk();

    // wl_keyboard.enter, leave, key: Linux codes
    void on_enter(std::span<const std::uint32_t> keys) {              // what is down as the focus comes
        ButtonSet down;
        for (const std::uint32_t key : keys) down.insert(button_of(KeyTable::linux_code, key));
        desk.gain_focus(down);
    }
    void on_leave() { desk.lose_focus(); }
    void on_key(std::uint32_t key, std::uint32_t state) {             // 0 released, 1 pressed, 2 repeated
        const Button button = button_of(KeyTable::linux_code, key);
        state == 2 ? desk.system_repeat(button) : desk.button(button, state == 1);
    }
    // wl_pointer.motion, button, axis_value120; zwp_relative_pointer.relative_motion
    void on_place(double x, double y) { desk.moved_to(WindowPoint{x, y}); }
    void on_mouse_button(std::uint32_t button, std::uint32_t state) { on_key(button, state); }
    void on_wheel(bool vertical, std::int32_t value120) {             // down and right are positive there
        desk.wheel(vertical ? 0 : value120 / 120.0, vertical ? -value120 / 120.0 : 0);
    }
};

struct EvdevPump {
    Timeline timeline{{.desk_marks_repeats = true}};
    Inlet& desk = timeline.desk();

    // struct input_event of type EV_KEY
    void on_key_event(std::uint16_t code, std::int32_t value, Time when) {   // 0 released, 1 pressed, 2 repeated
        const Button button = button_of(KeyTable::linux_code, code);
        value == 2 ? desk.system_repeat(button, when) : desk.button(button, value == 1, when);
    }
    // After SYN_DROPPED: what EVIOCGKEY says is down
    void on_true_state(std::span<const std::uint8_t, 32> bits) { desk.state(keys_from_bits(bits, numbering_of(KeyTable::linux_code))); }
};

struct WindowMessagePump {
    Timeline timeline{{.desk_marks_repeats = true}};
    Inlet& desk = timeline.desk();

    // WM_KEYDOWN, WM_SYSKEYDOWN, WM_KEYUP, WM_SYSKEYUP: the message's second parameter
    void on_key_message(std::uint32_t parameter) {
        const unsigned scan_code = (parameter >> 16 & 0xFF) + ((parameter >> 24 & 1) != 0 ? 0xE000 : 0);
        const bool was_down = (parameter >> 30 & 1) != 0, is_down = parameter >> 31 == 0;
        const Button key = button_of(KeyTable::message_scan_code, scan_code);
        if (key == PrintScreen && !is_down && !was_sent_) desk.button(key, true);   // its press is never sent
        was_sent_ = key == PrintScreen && is_down;
        is_down && was_down ? desk.system_repeat(key) : desk.button(key, is_down);
    }
    // WM_SETFOCUS, and after WM_POWERBROADCAST desk.interrupt() likewise: GetAsyncKeyState(n) < 0 for each n
    void on_focus(std::span<const std::uint8_t, 256> down_by_virtual_key) {
        desk.gain_focus(keys_from_bytes(down_by_virtual_key, 0xFF, numbering_of(KeyTable::virtual_key)));
    }
    void on_no_focus() { desk.lose_focus(); }                         // WM_KILLFOCUS

private:
    bool was_sent_ = false;
};

struct BrowserPump {
    Timeline timeline{{.desk_marks_repeats = true}};
    Inlet& desk = timeline.desk();

    // "keydown", "keyup": event.code, event.repeat
    void on_key(std::string_view code, bool down, bool repeat) {
        const Button key = button_of_code(code);
        repeat ? desk.system_repeat(key) : desk.button(key, down);
    }
    // "focus", "blur" of the window; "visibilitychange" likewise
    void on_focus() { desk.gain_focus(unknown_state); }               // a page cannot ask what is down
    void on_blur() { desk.lose_focus(); }
};

struct MacintoshPump {
    Timeline timeline{{.desk_marks_repeats = true}};
    Inlet& desk = timeline.desk();

    // Key down, key up: the event's virtual key code, and whether it is a repeat
    void on_key(std::uint16_t code, bool down, bool repeat) {
        const Button key = button_of(KeyTable::macintosh, code);
        repeat ? desk.system_repeat(key) : desk.button(key, down);
    }
    // Flags changed: modifiers have no key events of their own. `is_down`: the flag of that side is set
    void on_flags(std::uint16_t code, bool is_down) { desk.set_level(button_of(KeyTable::macintosh, code), is_down); }
    void on_active() { desk.gain_focus(unknown_state); }
    void on_inactive() { desk.lose_focus(); }
};

struct PolledPump {
    Timeline timeline;
    Inlet& desk = timeline.desk();

    // Once in each iteration of the loop: a byte for each key, not 0 while it is down; and whether the window has the focus
    void poll(std::span<const std::uint8_t, 256> keys, KeyTable table, bool has_focus) {
        const ButtonSet down = keys_from_bytes(keys, 0xFF, numbering_of(table));
        if (has_focus && !desk.has_focus()) desk.gain_focus(down);    // adopted: nothing fires
        if (!has_focus) desk.lose_focus();
        desk.state(down);
    }
    // Four slots of gamepads in the W3C order
    void poll_pads(std::span<const PadSlot, 4> slots) {
        for (std::uint32_t n = 0; n < 4; ++n)
            post(desk, DeviceId{20 + n}, slots[n], standard_pad_numbering(), Clock::now());
    }
};
// clang-format on
