// Keys from X11 core events, for an engine whose window is Xlib's. docs/x-core-events.md explains it; the tests run it
// against a real X server.
#pragma once

#include <X11/Xlib.h>

#include <algorithm>
#include <array>
#include <cstdint>

#include "cursorum/cursorum.hpp"

// clang-format off
namespace cur = cursorum;               // not `using namespace`: X11/X.h has a `Time` of its own

// Looks at the events of the engine's own pump and takes none of them. To the window's event mask it adds what it needs;
// nothing else of the connection changes, whichever way the engine deals with the system's repeats.
class XCoreKeys {
public:
    XCoreKeys(Display* display, Window window, cur::Inlet& desk) : display_{display}, window_{window}, desk_{desk} {
        XWindowAttributes its{};
        XGetWindowAttributes(display, window, &its);
        XSelectInput(display, window, its.your_event_mask | KeyPressMask | KeyReleaseMask | FocusChangeMask |
                                          KeymapStateMask | EnterWindowMask | LeaveWindowMask);
        find_server_clock();
        desk_.lose_focus();             // until the window has it
        Window focus = 0;
        int revert = 0;
        XGetInputFocus(display, &focus, &revert);
        has_focus_ = focus == window;
        under_pointer_ = focus == PointerRoot && is_under_pointer();
        if (has_focus_ || under_pointer_) desk_.gain_focus(held_now());
    }

    // For each event of the engine's own pump, whatever the engine does with it.
    void handle(const XEvent& event) {
        if (event.xany.window != window_ && event.type != KeymapNotify) return;
        switch (event.type) {
        case KeyPress: press(event.xkey); break;
        case KeyRelease: release(event.xkey); break;
        // Without a window manager, the focus may lie where the pointer is.
        case FocusIn: (event.xfocus.detail == NotifyPointer ? under_pointer_ : has_focus_) = true; turn_focus(); break;
        case FocusOut: (event.xfocus.detail == NotifyPointer ? under_pointer_ : has_focus_) = false; turn_focus(); break;
        case EnterNotify: under_pointer_ = event.xcrossing.focus && !has_focus_; turn_focus(); break;
        case LeaveNotify: if (event.xcrossing.detail != NotifyInferior) under_pointer_ = false; turn_focus(); break;
        case KeymapNotify:              // follows each FocusIn at once: the keys that were down at that moment
            if (waits_for_keys_) gain_focus(keys_down(event.xkeymap.key_vector));
            break;
        default: break;
        }
    }

    // After the pump: everything before this time has been posted.
    cur::Time complete() { return complete_ = cur::Clock::now(); }
    // When an event happened that the engine posts itself, such as a ButtonPress or a MotionNotify.
    cur::Time time_of(::Time server) const { return stamp(server); }

    // What is wrong with the window's events, once; null if nothing is.
    const char* problem() {
        if (focus_was_silent_ != Silence::seen) return nullptr;
        focus_was_silent_ = Silence::reported;
        return "Keys arrive, but no FocusIn did: the window's event mask was set again without FocusChangeMask. When the "
               "window loses the focus, keys will stick. Add to the mask of XGetWindowAttributes() instead.";
    }

private:
    // ---- repeats

    // A repeat is a release and a press of one key with one time, unless the engine asked for detectable repeat: then it
    // is a press only. Somebody's finger cannot do the first; a program that injects keys can, but it does not first hold
    // the key for as long as the repeat is delayed.
    static constexpr std::uint32_t shortest_delay = 100;  // milliseconds

    void press(const XKeyEvent& key) {
        if (!desk_.has_focus()) gain_focus_late(key);
        Key& its = keys_[key.keycode % 256];
        const auto time = static_cast<std::uint32_t>(key.time);
        if (its.repeats_at != time) {
            its.pressed_at = time;
            desk_.button(button_of(key.keycode), true, stamp(key.time));    // of a key that is down: the system's repeat
        } else {
            desk_.system_repeat(button_of(key.keycode), stamp(key.time));
        }
        its.repeats_at = 0;
    }
    void release(const XKeyEvent& key) {
        if (is_repeat(key))
            keys_[key.keycode % 256].repeats_at = static_cast<std::uint32_t>(key.time);   // its press comes next
        else
            desk_.button(button_of(key.keycode), false, stamp(key.time));
    }
    bool is_repeat(const XKeyEvent& key) {
        if (static_cast<std::uint32_t>(key.time) - keys_[key.keycode % 256].pressed_at < shortest_delay) return false;
        if (XEventsQueued(display_, QueuedAfterReading) == 0) XSync(display_, False);  // the second half is on its way
        if (XEventsQueued(display_, QueuedAlready) == 0) return false;
        XEvent next;
        XPeekEvent(display_, &next);
        return next.type == KeyPress && next.xkey.keycode == key.keycode && next.xkey.time == key.time;
    }

    // ---- focus

    void turn_focus() {
        const bool has = has_focus_ || under_pointer_;
        if (!has) {
            waits_for_keys_ = false;
            desk_.lose_focus(cur::Clock::now());                   // focus events carry no time
        } else if (!desk_.has_focus()) {
            focus_was_silent_ = Silence::none;
            XEvent next;
            if (XEventsQueued(display_, QueuedAfterReading) != 0) XPeekEvent(display_, &next); else next.type = 0;
            waits_for_keys_ = next.type == KeymapNotify;
            if (!waits_for_keys_) gain_focus(held_now());          // the engine's mask does not ask for it
        }
    }
    bool is_under_pointer() const {
        Window root = 0, at = DefaultRootWindow(display_), child = 0;
        for (int x = 0, y = 0; at != 0 && at != window_; at = child) {
            unsigned buttons = 0;
            if (!XQueryPointer(display_, at, &root, &child, &x, &y, &x, &y, &buttons)) return false;
        }
        return at == window_;
    }
    void gain_focus(const cur::ButtonSet& down) {
        waits_for_keys_ = false;
        desk_.gain_focus(down, cur::Clock::now());
    }
    // A key without a focus: its window has it all the same.
    void gain_focus_late(const XKeyEvent& key) {
        if (focus_was_silent_ == Silence::none) focus_was_silent_ = Silence::seen;
        cur::ButtonSet down = held_now();
        down.erase(button_of(key.keycode));
        gain_focus(down);
    }
    // The keys that are down, without those whose presses stand in the queue still: these are yet to come.
    cur::ButtonSet held_now() {
        char bits[32];
        XQueryKeymap(display_, bits);
        XEvent none;
        XCheckIfEvent(display_, &none, [](Display*, XEvent* queued, XPointer of) -> Bool {
            char* const keys = of;
            if (queued->type == KeyPress) keys[queued->xkey.keycode / 8 % 32] &= static_cast<char>(~(1U << queued->xkey.keycode % 8));
            return False;               // all of them stay there
        }, bits);
        return keys_down(bits);
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

    // ---- times

    // A local server stamps with CLOCK_MONOTONIC in milliseconds, rounded down, in 32 bits; another one with a clock of its
    // own. What it is now is asked for once, by a change of a window that nobody else sees.
    void find_server_clock() {
        const Window own = XCreateSimpleWindow(display_, DefaultRootWindow(display_), 0, 0, 1, 1, 0, 0, 0);
        XSelectInput(display_, own, PropertyChangeMask);
        XChangeProperty(display_, own, 39 /* XA_WM_NAME */, 31 /* XA_STRING */, 8, PropModeAppend, nullptr, 0);
        XEvent changed;
        XWindowEvent(display_, own, PropertyChangeMask, &changed);     // this window's alone
        XDestroyWindow(display_, own);
        const auto ahead = static_cast<std::int32_t>(milliseconds_now() - static_cast<std::uint32_t>(changed.xproperty.time));
        if (ahead < 0 || ahead > 1000) clock_is_behind_ = ahead;
    }
    static std::uint32_t milliseconds_now() {
        return static_cast<std::uint32_t>(cur::nanoseconds(cur::Clock::now()) / 1'000'000);
    }
    // What the program was stopped over keeps its time. One that the rounding put before the last event or the last cut is
    // moved up to it.
    cur::Time stamp(::Time server) const {
        const std::int64_t now = cur::nanoseconds(cur::Clock::now()) / 1'000'000;
        const auto age = static_cast<std::int32_t>(static_cast<std::uint32_t>(now) - static_cast<std::uint32_t>(server)) - clock_is_behind_;
        const cur::Time then = cur::nanoseconds_since_zero((now - std::max(age, 0)) * 1'000'000);
        return std::max({complete_, desk_.latest(), then});
    }

    Display* display_;
    Window window_;
    cur::Inlet& desk_;
    bool has_focus_ = false, under_pointer_ = false, waits_for_keys_ = false;
    enum class Silence { none, seen, reported } focus_was_silent_ = Silence::none;
    struct Key {
        std::uint32_t pressed_at = 0, repeats_at = 0;   // the server's milliseconds; 0: does not repeat
    };
    std::array<Key, 256> keys_{};
    std::int32_t clock_is_behind_ = 0;  // milliseconds; 0: it is the same one
    cur::Time complete_{};
};
// clang-format on
