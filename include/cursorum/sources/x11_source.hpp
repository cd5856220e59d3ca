// Live keys, mouse buttons, motion and wheel from an X server, by XInput 2.
#pragma once

#include <chrono>
#include <cstdint>
#include <memory>
#include <string>

#include "cursorum/core/event.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/key_layout.hpp"
#include "cursorum/core/timeline.hpp"

struct xcb_connection_t;

namespace cursorum {

struct X11SourceOptions {
    /// The display's name; if empty, the environment variable DISPLAY is used.
    std::string display{};
    /// The caller's window. Keys count while it has the focus, buttons and motion while the pointer is in it. If 0, all
    /// input of the display counts, whichever window has the focus, and motion has no positions; the timeline then
    /// stays in focus. This is meant for recorders.
    std::uint32_t window = 0;
    /// The number of the first device; others follow in the order in which they are found (the desk's own are 1 and 2).
    /// One that another device of the timeline has is passed over.
    std::uint32_t first_device = 11;
    /// Post what keys type as text, with the layout in force, dead keys and the compose sequences of the locale (by the
    /// environment). A held key types again with each of the system's repeats, which only attach() has. Off, as
    /// recorders need it: a program asks for text when it has a text field.
    bool text = false;
    /// If more time than this passes between two calls of deliver(), the program stood still (a debugger, a modal
    /// dialogue): everything is cancelled, and buttons that are still held are adopted. 0 disables this, for programs
    /// that wait for input. The machine's sleep is detected in any case.
    Duration standstill{};
};

/// Each pair of master devices of the server is a keyboard and a mouse. Keys are identified by position (X keycode - 8
/// is the Linux code), so the keyboard layout does not matter.
///
/// There are two ways to use it, and neither takes input away from the engine:
/// - open() makes a connection of its own. It reads raw copies of events, and every event of the engine's own
///   connection still arrives. Raw events do not include system repeats, so frames count none. The positions of several
///   motions within one iteration are computed from their distances; at the end of the iteration it is exact.
/// - attach() shares the engine's connection, and the engine passes on the events that it reads:
///
///       source->fetch();                                     // one round trip: everything sent until now is here
///       while (xcb_generic_event_t* event = xcb_poll_for_event(connection)) {
///           if (!source->take(event)) handle(event);         // the window's own events stay the engine's
///           std::free(event);
///       }
///       const Time complete = source->deliver(timeline);
///
///   The window's keys, buttons, motion, focus and crossings then arrive as XInput 2 events instead of core events on
///   this connection; other connections are not affected. System repeats are marked. Every position is exact.
///
/// Pointer: positions in the window, motion as their difference, counts before acceleration where the device has them
/// (a position that a program sets has none). Wheels that count in fractions of a detent do so; the whole detents that
/// the server derives from them are ignored. Enter, leave, focus: posted. The click that brings the focus is adopted,
/// never pressed. Lock keys: the states of the keyboard's lamps.
/// Time: the server's milliseconds converted to Clock, including their wrap-around after 49.7 days; see precision().
/// The clock of a server elsewhere in the network is converted by its difference at the start.
/// Focus: it is posted first, then the true state of keys and buttons at that moment, which is adopted.
/// Threads: one, the one that posts into the inlet.
/// Memory: nothing is allocated for each event, up to 1,024 events in one iteration.
/// Waiting: after open(), deliver() waits for the server's answer, and while another client has grabbed the server, it
/// gives none. After attach(), only fetch() waits, as long as you allow. In both cases a few things are asked for when
/// they are needed, which waits likewise: what is held when the focus comes, a device that is plugged in or moves for
/// the first time, key_layout().
/// Errors: open() sets its `error`. If the connection breaks later, or the window is destroyed, all devices are
/// disconnected, is_open() returns false, and deliver() continues to return the present. After attach(), the window's
/// end is known if the engine selects XCB_EVENT_MASK_STRUCTURE_NOTIFY on it and passes its events on.
class CURSORUM_API X11Source {
public:
    /// Returns null and sets `error` if the display or the window does not exist, or the server lacks XInput 2.2.
    static std::unique_ptr<X11Source> open(const X11SourceOptions& options, std::string& error);
    /// Uses the engine's own connection, which must outlive the source. Needs options.window; options.display must name
    /// the same server. Events that were selected on the window stay selected; when the source is destroyed, its own
    /// selections are removed, and core events arrive again.
    static std::unique_ptr<X11Source> attach(xcb_connection_t* connection, const X11SourceOptions& options,
                                             std::string& error);
    ~X11Source();
    X11Source(const X11Source&) = delete;
    X11Source& operator=(const X11Source&) = delete;

    /// After attach(): waits for an answer of the server, so that everything it has sent can be read. Cost: one round
    /// trip, 0.02 to 0.5 ms. It waits no longer than `longest`, and not at all while an earlier answer has been missing
    /// for as long: a server that another client has grabbed answers nobody. Without the answer, or without this call,
    /// deliver() returns the time of the previous iteration, and nothing is late either.
    void fetch(Duration longest = std::chrono::milliseconds{10});
    /// After attach(): takes an `xcb_generic_event_t*` that the engine has read. Returns true if it was input, which
    /// deliver() will post. The caller keeps the event. After open(), it does nothing.
    bool take(const void* event);

    /// Asks for a state of the cursor: free, kept in the window, or locked in it for looking around (it then has no
    /// position, only motion, which continues at the window's edge, and is not shown); and hidden while it is over the
    /// window. It takes effect in the next deliver(), and frames report it (PointerReading::cursor()). Without focus,
    /// the cursor is free and shown; when the focus comes back, it has the requested state again. The window's place
    /// and size are those of the time at which the cursor is kept or locked: if either changes, free it and ask again.
    /// Returns false without a window, and if the server lacks XFixes 5.
    bool ask_for_cursor(const CursorState& wanted);
    /// Moves the pointer to a place in the window, in the next deliver() with the focus. It is posted as warped_to(),
    /// which does not count as motion. Returns false without a window, and while the cursor is locked.
    bool put_pointer_at(WindowPoint to);

    /// Posts everything that has arrived, and returns the time up to which that is complete. Never waits for input.
    /// Cost: one round trip to the server (0.02 to 0.5 ms) after open(), none after attach(); see Waiting above.
    Time deliver(Timeline& timeline);
    /// The same, to any inlet. For a thread of its own. It sets the inlet's complete_until(), as the first one does for
    /// the desk.
    Time deliver(Inlet& inlet);
    /// The same, to a recorder or any other sink.
    Time deliver(EventSink& sink);

    /// What is printed on the keys in the layout that is in force, for labels and for bindings by symbol. It is read
    /// when it is asked for the first time, and again after each change: some round trips, and allocations. If the
    /// server does not report it, the layout that keys are named after.
    const KeyLayout& key_layout();
    /// The number of changes of the layout, or of switches to another one, that deliver() has seen since key_layout()
    /// was called first. When it differs from the number of before, call key_layout() again.
    std::uint64_t layout_changes() const noexcept;

    /// Becomes readable when events may have arrived: for poll() or select().
    int file_descriptor() const noexcept;
    bool is_open() const noexcept;
    /// One millisecond: times are rounded down to whole ones by the server.
    static constexpr Duration precision() noexcept { return Duration{1'000'000}; }
    /// The number of key events whose keycode has no control.
    std::uint64_t unknown_keys() const noexcept;

private:
    struct Parts;
    explicit X11Source(std::unique_ptr<Parts> parts);
    std::unique_ptr<Parts> parts_;
};

}  // namespace cursorum
