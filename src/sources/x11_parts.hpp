// The parts of an X11 source: the connection, the devices, and events that have arrived and are not taken yet. Each is
// a class with one task; x11_source.cpp puts them together.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>

#include "cursorum/core/event.hpp"
#include "cursorum/core/inlet_sink.hpp"
#include "cursorum/core/standstill_watch.hpp"
#include "cursorum/sources/x11_source.hpp"
#include "sources/x11_clock.hpp"
#include "sources/x11_events.hpp"
#include "sources/x11_pointer.hpp"
#include "sources/x11_text.hpp"

namespace cursorum {

/// Ends a connection, unless it is the engine's.
struct Disconnect {
    constexpr Disconnect(bool own = true) noexcept : is_own{own} {}
    void operator()(xcb_connection_t* connection) const noexcept {
        if (is_own) xcb_disconnect(connection);
    }
    bool is_own;
};

struct X11Source::Parts {
    /// A master device of the server.
    struct Master {
        x11::XDevice x_id = 0;
        DeviceId id{};
        DeviceKind kind{};
        bool present = false;
        bool has_focus = false;
        bool inside = false;                     // a pointer, in the window
        ButtonSet down{};                        // a pointer's buttons, as posted
        double root_x = 0, root_y = 0;           // a pointer's last place
        double window_x = 0, window_y = 0;       // the window's position on the screen at that time
        std::optional<x11::Input> raw_motion{};  // kept for the motion in the window that it belongs to
        bool absolute = false;                   // this round's raw motions are positions
    };
    /// A slave device that moved a pointer.
    struct Slave {
        bool absolute = false;
        x11::SmoothWheel wheel;
    };
    ~Parts();

    xcb_connection_t* c() const { return connection.get(); }
    bool attached() const { return !connection.get_deleter().is_own; }
    bool has_window() const { return options.window != 0; }

    // x11_parts.cpp: opening, devices, true states
    std::string try_open();
    void look_at_devices(Time stamp);
    Master* find(x11::XDevice x_id, DeviceKind kind);
    Slave& slave(x11::XDevice x_id);
    ButtonSet state_then(const Master& master);
    void post_states(Time stamp);
    void announce();
    void round_trip();
    void fetch_events();

    // x11_source.cpp: events
    void take(const x11::Input& input) { pending.push_back(input); }
    Time deliver();
    void send_marker();
    bool is_marker_answered();
    void fetch(Duration longest);
    void dispatch(const x11::Input& input);
    void focus_change(const x11::Input& input);
    void key_change(const x11::Input& input);
    void read_keymap();
    void type(const x11::Input& input, DeviceId keyboard, Button button, Time stamp);
    void button_change(const x11::Input& input);
    void moved(const x11::Input& input);
    void moved_raw(const x11::Input& input);
    void crossed(const x11::Input& input);
    void place_pointer(Master& master, double root_x, double root_y, Time stamp, const x11::Input* raw);
    void turned(const Master& master, Distance detents, Time stamp);
    void lamps(std::uint32_t on, Time stamp);
    void apply_lock();
    void query_pointers();
    Time stamp_of(xcb_timestamp_t server);

    X11SourceOptions options;
    std::unique_ptr<xcb_connection_t, Disconnect> connection;
    xcb_window_t root = 0;
    std::uint8_t extension = 0, keyboard_event = 0;
    std::array<std::uint32_t, 3> lamp_bits{};  // Caps Lock, Num Lock, Scroll Lock
    std::uint32_t lamps_on = 0;
    X11Clock clock;
    struct Selection {
        xcb_window_t window;
        x11::XDevice device;
        std::uint32_t before;
    };
    std::vector<Selection> selections;  // previous selections, to be restored
    std::vector<Master> masters;
    std::map<x11::XDevice, Slave> slaves;
    std::uint32_t next_device = 0;
    std::vector<x11::Input> pending;  // from next_pending on; keeps its capacity
    std::size_t next_pending = 0;
    Time last_stamp = earliest_time, complete = earliest_time;
    struct {
        bool is_sent = false;
        unsigned sequence = 0;
        Time sent;
    } marker;  // a request whose answer shows that everything before it has arrived
    StandstillWatch watch;
    bool announced = false, broken = false, focused = true;
    CursorState cursor_wanted, cursor_posted;
    std::optional<WindowPoint> warp_wanted;
    x11::PointerLock lock;
    std::uint64_t unknown_keys = 0;
    std::optional<KeyLayout> key_layout;  // as it was when it was read last
    bool layout_is_old = false;           // it has changed since
    bool is_layout_watched = false;
    std::uint64_t layout_changes = 0;
    x11::TypedText text;        // if options.text
    EventSink* sink = nullptr;  // during deliver
    SourceDevices in_inlet;     // see deliver_into()

private:
    std::string open_connection();
    void measure_clock();
    std::uint32_t selected_on(xcb_window_t window, x11::XDevice device) const;
    void select_on(xcb_window_t window, x11::XDevice device, std::uint32_t bits);
    void add_selection(xcb_window_t window, x11::XDevice device, std::uint32_t bits);
    void select();
    void open_lamps();
    const Master* first_of(DeviceKind kind) const;
};

}  // namespace cursorum
