// Live keys and mouse buttons from an X server, by XInput 2.
#pragma once

#include <cstdint>
#include <memory>
#include <string>

#include "cursorum/core/event.hpp"
#include "cursorum/core/timeline.hpp"

namespace cursorum {

struct X11SourceOptions {
    /// The display's name; empty: the environment variable DISPLAY.
    std::string display;
    /// The caller's window: its keys while it has the focus, its pointer buttons, focus as it comes and goes. 0: all
    /// keys and buttons of the display, whoever has the focus ("raw"); the timeline then stays in focus.
    std::uint32_t window = 0;
    /// Devices are numbered from here, in the order they are met (the desk's own are 1 and 2).
    std::uint32_t first_device = 11;
    /// When rounds are longer than this between two calls of deliver, the program stood still (a debugger, a modal
    /// box): everything is cancelled, and what is held still is adopted. 0: never; for a program that waits for input.
    /// The machine's sleep is noticed in any case.
    Duration standstill{};
};

/// Each pair of master devices of the server is a keyboard and a mouse. Keys come by position (X keycode - 8 is the
/// Linux code), so the layout does not matter. Keys the table of controls does not know are passed over and counted.
///
/// Time: the server's milliseconds brought to Clock, wrap-around after 49.7 days included; precision() tells how exact.
/// A server whose clock is another one (over a network) is brought to ours by its difference at the start.
/// Focus: posted first, then the true state of keys and buttons at that moment, which adopts what is held.
/// Repeats: the server's own are marked as system repeats; raw events have none.
/// Threads: one, the one that posts into the inlet.
/// Errors: open() says why not; when the connection breaks later, everything is released by a disconnect of all
/// devices, is_open() turns false, and deliver() goes on to return the present.
class X11Source {
public:
    /// Null, and why in `error`, if there is no such display, no XInput 2.2, or no such window.
    static std::unique_ptr<X11Source> open(const X11SourceOptions& options, std::string& error);
    ~X11Source();
    X11Source(const X11Source&) = delete;
    X11Source& operator=(const X11Source&) = delete;

    /// Posts everything the server has had to say and returns the time up to which that is all there is. Never waits
    /// for input; costs one round trip to the server (0.02 to 0.5 ms).
    Time deliver(Timeline& timeline);
    /// The same, to any inlet: for a thread of its own. Says how far the inlet is complete, as the first one does of
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
