// Live keys, mouse buttons, motion and wheel from an X server, by XInput 2.
#pragma once

#include <cstdint>
#include <memory>
#include <string>

#include "cursorum/core/event.hpp"
#include "cursorum/core/timeline.hpp"

struct xcb_connection_t;

namespace cursorum {

struct X11SourceOptions {
    /// The display's name; empty: the environment variable DISPLAY.
    std::string display;
    /// The caller's window. Its keys count while it has the focus, buttons and motion while the pointer is in it.
    /// 0: all input of the display, whoever has the focus, and motion without positions; the timeline then stays in
    /// focus. This is meant for recorders.
    std::uint32_t window = 0;
    /// Devices are numbered from here, in the order they are met (the desk's own are 1 and 2).
    std::uint32_t first_device = 11;
    /// When more than this passes between two calls of deliver, the program stood still (a debugger, a modal box):
    /// everything is cancelled, and what is still held is adopted. 0: never; for a program that waits for input.
    /// The machine's sleep is noticed in any case.
    Duration standstill{};
};

/// Each pair of master devices of the server is a keyboard and a mouse. Keys come by position (X keycode - 8 is the
/// Linux code), so the layout does not matter.
///
/// There are two ways to use it, and neither takes input away from the engine:
/// - open() makes a connection of its own. It reads raw copies of events, and every event of the engine's own
///   connection keeps coming. System repeats are not among raw events, so frames count none. Where the pointer was at
///   each of several motions within one round is worked out from their distances; at the end of a round it is exact.
/// - attach() shares the engine's connection, and the engine hands over what it reads:
///
///       source->fetch();                                     // one round trip: everything sent until now is here
///       while (xcb_generic_event_t* event = xcb_poll_for_event(connection)) {
///           if (!source->take(event)) handle(event);         // the window's own events stay the engine's
///           std::free(event);
///       }
///       const Time complete = source->deliver(timeline);
///
///   The window's keys, buttons, motion, focus and crossings then come as XInput 2 events instead of core events on
///   this connection; other connections lose nothing. System repeats are marked. Every position is exact.
///
/// Pointer: positions in the window, motion as their difference, counts before acceleration where the device has them
/// (a position that a program sets has none). Wheels that count in fractions of a detent do so; the whole detents that
/// the server derives from them are ignored. Enter, leave, focus: posted. The click that brings the focus is adopted,
/// never pressed. Lock keys: the states of the keyboard's lamps.
/// Time: the server's milliseconds brought to Clock, wrap-around after 49.7 days included; see precision().
/// A server whose clock is another one (over a network) is brought to ours by its difference at the start.
/// Focus: posted first, then the true state of keys and buttons at that moment, which adopts what is held.
/// Threads: one, the one that posts into the inlet.
/// Memory: nothing is allocated for each event once as many as 1,024 have come in one round.
/// Errors: open() says why not; when the connection breaks later, everything is released by a disconnect of all
/// devices, is_open() turns false, and deliver() goes on to return the present.
class X11Source {
public:
    /// Null, and why in `error`, if there is no such display, no XInput 2.2, or no such window.
    static std::unique_ptr<X11Source> open(const X11SourceOptions& options, std::string& error);
    /// On the engine's own connection, which must live longer than the source; options.window is needed, and
    /// options.display names the same server. What was selected on the window before stays selected, and is
    /// all that is selected once the source has gone: core events come again.
    static std::unique_ptr<X11Source> attach(xcb_connection_t* connection, const X11SourceOptions& options,
                                             std::string& error);
    ~X11Source();
    X11Source(const X11Source&) = delete;
    X11Source& operator=(const X11Source&) = delete;

    /// After attach(): waits until the server has answered, so that all it has sent is there to be read. One round
    /// trip, 0.02 to 0.5 ms. Without it, deliver() returns a time one round back, and nothing is late either.
    void fetch();
    /// After attach(): an `xcb_generic_event_t*` that the engine has read. True if it was input, which deliver() will
    /// post; the event stays the caller's. After open(), posts nothing.
    bool take(const void* event);

    /// Keeps the pointer in the window, hidden, for looking around: it has no position then, only motion, which goes on
    /// at the window's edge. Takes effect in the next deliver(). While the window is without focus the pointer is free,
    /// and locked again when the focus comes back. The lock is to the window's place and size at that time: after
    /// either has changed, free the pointer and lock it again. False without a
    /// window, and if the server lacks XFixes 5.
    bool lock_pointer(bool locked);

    /// Posts everything that has come and returns the time up to which that is complete. Never waits for input. After
    /// open() it costs one round trip to the server (0.02 to 0.5 ms), after attach() none; finding out what is held
    /// when focus comes costs another.
    Time deliver(Timeline& timeline);
    /// The same, to any inlet: for a thread of its own. It sets the inlet's complete_until(), as the first one does for
    /// the desk.
    Time deliver(Inlet& inlet);
    /// The same, to a recorder or any other taker.
    Time deliver(EventTaker& taker);

    /// Becomes readable when something may have come: for poll() or select().
    int file_descriptor() const noexcept;
    bool is_open() const noexcept;
    /// One millisecond: times are rounded down to whole ones by the server.
    static constexpr Duration precision() noexcept { return Duration{1'000'000}; }
    /// Key events whose keycode stands for no control.
    std::uint64_t unknown_keys() const noexcept;

private:
    struct Parts;
    explicit X11Source(std::unique_ptr<Parts> parts);
    std::unique_ptr<Parts> parts_;
};

}  // namespace cursorum
