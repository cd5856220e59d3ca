// Keys from X11 core events, for an engine whose window is Xlib's. docs/x-core-events.md explains it; the tests run it
// against a real X server.
#pragma once

#include <X11/XKBlib.h>
#include <X11/Xlib.h>

#include <algorithm>
#include <array>
#include <cstdint>

#include "cursorum/cursorum.hpp"

// clang-format off
namespace cur = cursorum;               // not `using namespace`: X11/X.h has a `Time` of its own

class XCoreKeys {
public:
    // `detectable` false is for servers without the XKB extension, and for trying what the loop does there.
    XCoreKeys(Display* display, Window window, cur::Inlet& desk, bool detectable = true) : display_{display}, desk_{desk} {
        XSelectInput(display, window, KeyPressMask | KeyReleaseMask | FocusChangeMask | KeymapStateMask);
        Bool granted = False;           // then a held key sends presses only, and one release at the end
        XkbSetDetectableAutoRepeat(display, detectable ? True : False, &granted);
        detectable_ = granted == True && detectable;

        desk_.lose_focus();             // until the window has it
        Window focus = 0;
        int revert = 0;
        char bits[32];
        XGetInputFocus(display, &focus, &revert);
        XQueryKeymap(display, bits);
        if (focus == window) desk_.gain_focus(keys_down(bits));
    }

    // For one event of the engine's own pump.
    void handle(const XEvent& event) {
        switch (event.type) {
        case KeyPress: press(event.xkey); break;
        case KeyRelease: release(event.xkey); break;
        case FocusOut:                  // focus events carry no time
            if (event.xfocus.detail != NotifyPointer) desk_.lose_focus(cur::Clock::now());
            break;
        case FocusIn: focused_ = event.xfocus.detail != NotifyPointer; break;
        case KeymapNotify:              // follows each FocusIn at once: the keys that were down at that moment
            if (focused_) desk_.gain_focus(keys_down(event.xkeymap.key_vector), cur::Clock::now());
            focused_ = false;
            break;
        default: break;
        }
    }

    // After the pump: everything before this time has been posted.
    cur::Time complete() { return complete_ = cur::Clock::now(); }

private:
    // Without detectable repeat, a repeat is a release and a press of one key with one time. Somebody's finger cannot do
    // that; a program that injects keys can, but it does not first hold the key for as long as the repeat is delayed.
    static constexpr std::uint32_t shortest_delay = 100;  // milliseconds

    void press(const XKeyEvent& key) {
        pressed_at_[key.keycode % 256] = static_cast<std::uint32_t>(key.time);
        desk_.button(button_of(key.keycode), true, stamp(key.time));    // of a key that is down: the system's repeat
    }
    void release(const XKeyEvent& key) {
        if (!detectable_ && is_repeat(key)) {
            XEvent second;
            XNextEvent(display_, &second);
            desk_.system_repeat(button_of(key.keycode), stamp(key.time));
        } else {
            desk_.button(button_of(key.keycode), false, stamp(key.time));
        }
    }
    bool is_repeat(const XKeyEvent& key) {
        if (static_cast<std::uint32_t>(key.time) - pressed_at_[key.keycode % 256] < shortest_delay) return false;
        if (XEventsQueued(display_, QueuedAlready) == 0) XSync(display_, False);  // the second half may be on its way
        if (XEventsQueued(display_, QueuedAlready) == 0) return false;
        XEvent next;
        XPeekEvent(display_, &next);
        return next.type == KeyPress && next.xkey.keycode == key.keycode && next.xkey.time == key.time;
    }

    // X keycodes are the kernel's key codes plus 8.
    static cur::Button button_of(unsigned keycode) {
        return keycode < 8 ? cur::Button{} : cur::button_of_linux_code(keycode - 8);
    }
    static cur::ButtonSet keys_down(const char (&bits)[32]) {
        cur::ButtonSet down;
        for (unsigned keycode = 8; keycode < 256; ++keycode)
            if (((static_cast<unsigned char>(bits[keycode / 8]) >> (keycode % 8)) & 1) != 0)
                down.insert(button_of(keycode));
        return down;
    }

    // A local server stamps with CLOCK_MONOTONIC in milliseconds, rounded down, in 32 bits. A stamp from another clock is
    // replaced by the present; one that the rounding put before the last event or the last cut is moved up to it.
    cur::Time stamp(::Time server) const {
        const cur::Time now = cur::Clock::now();
        const std::int64_t milliseconds = cur::nanoseconds(now) / 1'000'000;
        const std::uint32_t age = static_cast<std::uint32_t>(milliseconds) - static_cast<std::uint32_t>(server);
        if (age > 1000) return now;
        return std::max({complete_, desk_.latest(), cur::nanoseconds_since_zero((milliseconds - age) * 1'000'000)});
    }

    Display* display_;
    cur::Inlet& desk_;
    bool detectable_ = false, focused_ = false;
    std::array<std::uint32_t, 256> pressed_at_{};
    cur::Time complete_{};
};
// clang-format on
