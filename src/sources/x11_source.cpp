#include "cursorum/sources/x11_source.hpp"

#include <xcb/xcb.h>
#include <xcb/xinput.h>

#include <algorithm>
#include <cstdlib>
#include <cstring>
#include <deque>
#include <map>
#include <optional>
#include <utility>
#include <vector>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/inlet_taker.hpp"
#include "cursorum/core/standstill_watch.hpp"
#include "cursorum/sources/time_asleep.hpp"
#include "sources/x11_clock.hpp"

namespace cursorum {
namespace {

struct Free {
    void operator()(void* memory) const noexcept { std::free(memory); }
};
template <typename T>
using Owned = std::unique_ptr<T, Free>;
using OwnedEvent = Owned<xcb_generic_event_t>;

struct Disconnect {
    void operator()(xcb_connection_t* connection) const noexcept { xcb_disconnect(connection); }
};

using XDevice = xcb_input_device_id_t;

/// A master device of the server.
struct Master {
    XDevice x_id = 0;
    DeviceId id{};
    DeviceKind kind{};
    bool present = false;
    bool has_focus = false;
};

/// One key or button event, window or raw alike.
struct Change {
    XDevice device;
    xcb_timestamp_t time;
    std::uint32_t detail;
    DeviceKind kind;
    bool down;
    bool repeat;
};

Button button_of_key(std::uint32_t keycode) noexcept {
    return keycode < 8 ? Button{} : button_of_linux_code(keycode - 8);
}

Button button_of_mouse(std::uint32_t number) noexcept {
    using namespace controls;
    switch (number) {
        case 0: return {};
        case 1: return MouseLeft;
        case 2: return MouseMiddle;
        case 3: return MouseRight;
        default: break;
    }
    // 4 to 7 are the wheel; from 8 on, buttons follow in the order of their Linux codes, back (0x113) first.
    return number < 8 ? Button{} : button_of_linux_code(0x113 + number - 8);
}

// Raw and window events start alike; what differs are their numbers and where flags stand.
std::optional<Change> as_change(const xcb_generic_event_t& event, std::uint8_t extension) noexcept {
    if ((event.response_type & 0x7F) != XCB_GE_GENERIC) return std::nullopt;
    const auto& generic = reinterpret_cast<const xcb_ge_generic_event_t&>(event);
    if (generic.extension != extension) return std::nullopt;
    const bool is_key = generic.event_type == XCB_INPUT_KEY_PRESS || generic.event_type == XCB_INPUT_KEY_RELEASE ||
                        generic.event_type == XCB_INPUT_RAW_KEY_PRESS ||
                        generic.event_type == XCB_INPUT_RAW_KEY_RELEASE;
    const DeviceKind kind = is_key ? DeviceKind::keyboard : DeviceKind::mouse;
    switch (generic.event_type) {
        case XCB_INPUT_KEY_PRESS:
        case XCB_INPUT_KEY_RELEASE:
        case XCB_INPUT_BUTTON_PRESS:
        case XCB_INPUT_BUTTON_RELEASE: {
            const auto& e = reinterpret_cast<const xcb_input_key_press_event_t&>(event);
            const bool down = generic.event_type == XCB_INPUT_KEY_PRESS || generic.event_type == XCB_INPUT_BUTTON_PRESS;
            if (!is_key && (e.flags & XCB_INPUT_POINTER_EVENT_FLAGS_POINTER_EMULATED) != 0) return std::nullopt;
            return Change{e.deviceid, e.time, e.detail,
                          kind,       down,   is_key && (e.flags & XCB_INPUT_KEY_EVENT_FLAGS_KEY_REPEAT) != 0};
        }
        case XCB_INPUT_RAW_KEY_PRESS:
        case XCB_INPUT_RAW_KEY_RELEASE:
        case XCB_INPUT_RAW_BUTTON_PRESS:
        case XCB_INPUT_RAW_BUTTON_RELEASE: {
            const auto& e = reinterpret_cast<const xcb_input_raw_key_press_event_t&>(event);
            const bool down =
                generic.event_type == XCB_INPUT_RAW_KEY_PRESS || generic.event_type == XCB_INPUT_RAW_BUTTON_PRESS;
            if (!is_key && (e.flags & XCB_INPUT_POINTER_EVENT_FLAGS_POINTER_EMULATED) != 0) return std::nullopt;
            return Change{e.deviceid, e.time, e.detail, kind, down, false};
        }
        default: return std::nullopt;
    }
}

/// An inlet as an EventTaker.

}  // namespace

struct X11Source::Parts {
    X11SourceOptions options;
    std::unique_ptr<xcb_connection_t, Disconnect> connection;
    xcb_window_t root = 0;
    xcb_window_t own_window = 0;  // never shown; for asking the server its time
    std::uint8_t extension = 0;
    X11Clock clock;
    std::vector<Master> masters;
    std::uint32_t next_device = 0;
    std::deque<OwnedEvent> pending;
    Time last_stamp = earliest_time;
    StandstillWatch watch;
    bool announced = false, broken = false, focused = true;
    std::uint64_t unknown_keys = 0;
    EventTaker* taker = nullptr;     // during deliver
    const Inlet* limited = nullptr;  // the inlet whose limit says how far ahead stamps may lie

    xcb_connection_t* c() const { return connection.get(); }

    // ---- opening

    std::string try_open() {
        int screen_number = 0;
        connection.reset(xcb_connect(options.display.empty() ? nullptr : options.display.c_str(), &screen_number));
        if (xcb_connection_has_error(c())) {
            const char* display = options.display.empty() ? std::getenv("DISPLAY") : options.display.c_str();
            return display && *display ? "no X server answers at display \"" + std::string{display} + "\""
                                       : std::string{"no X server: DISPLAY is not set"};
        }
        auto screen = xcb_setup_roots_iterator(xcb_get_setup(c()));
        for (int i = 0; i < screen_number && screen.rem > 1; ++i) xcb_screen_next(&screen);
        root = screen.data->root;
        const auto* found = xcb_get_extension_data(c(), &xcb_input_id);
        if (!found || !found->present) return "the X server has no XInput extension";
        extension = found->major_opcode;
        const Owned<xcb_input_xi_query_version_reply_t> version{
            xcb_input_xi_query_version_reply(c(), xcb_input_xi_query_version(c(), 2, 2), nullptr)};
        if (!version || version->major_version < 2 || (version->major_version == 2 && version->minor_version < 2))
            return "the X server's XInput is older than 2.2";
        if (options.window != 0) {
            const Owned<xcb_get_window_attributes_reply_t> window{
                xcb_get_window_attributes_reply(c(), xcb_get_window_attributes(c(), options.window), nullptr)};
            if (!window) return "the X server has no window " + std::to_string(options.window);
        }
        measure_clock();
        select();
        next_device = options.first_device;
        return {};
    }

    // A change of a property is told with the server's time.
    void measure_clock() {
        own_window = xcb_generate_id(c());
        const std::uint32_t mask = XCB_EVENT_MASK_PROPERTY_CHANGE;
        xcb_create_window(c(), 0, own_window, root, 0, 0, 1, 1, 0, XCB_WINDOW_CLASS_INPUT_ONLY, XCB_COPY_FROM_PARENT,
                          XCB_CW_EVENT_MASK, &mask);
        xcb_change_property(c(), XCB_PROP_MODE_APPEND, own_window, XCB_ATOM_WM_NAME, XCB_ATOM_STRING, 8, 0, nullptr);
        round_trip();
        const Time now = Clock::now();
        while (OwnedEvent event{xcb_poll_for_event(c())}) {
            if ((event->response_type & 0x7F) != XCB_PROPERTY_NOTIFY) continue;
            clock = X11Clock{reinterpret_cast<const xcb_property_notify_event_t&>(*event).time, now};
        }
    }

    void select_on(xcb_window_t window, XDevice device, std::uint32_t bits) {
        struct {
            xcb_input_event_mask_t head;
            std::uint32_t bits;
        } mask{{device, 1}, bits};
        xcb_input_xi_select_events(c(), window, 1, &mask.head);
    }

    void select() {
        constexpr std::uint32_t buttons_and_keys =
            XCB_INPUT_XI_EVENT_MASK_KEY_PRESS | XCB_INPUT_XI_EVENT_MASK_KEY_RELEASE |
            XCB_INPUT_XI_EVENT_MASK_BUTTON_PRESS | XCB_INPUT_XI_EVENT_MASK_BUTTON_RELEASE |
            XCB_INPUT_XI_EVENT_MASK_FOCUS_IN | XCB_INPUT_XI_EVENT_MASK_FOCUS_OUT;
        constexpr std::uint32_t raw = XCB_INPUT_XI_EVENT_MASK_RAW_KEY_PRESS | XCB_INPUT_XI_EVENT_MASK_RAW_KEY_RELEASE |
                                      XCB_INPUT_XI_EVENT_MASK_RAW_BUTTON_PRESS |
                                      XCB_INPUT_XI_EVENT_MASK_RAW_BUTTON_RELEASE;
        // All devices would deliver everything twice, once for the slave and once for its master.
        if (options.window != 0)
            select_on(options.window, XCB_INPUT_DEVICE_ALL_MASTER, buttons_and_keys);
        else
            select_on(root, XCB_INPUT_DEVICE_ALL_MASTER, raw);
        select_on(root, XCB_INPUT_DEVICE_ALL, XCB_INPUT_XI_EVENT_MASK_HIERARCHY);
        xcb_flush(c());
    }

    void round_trip() {
        Owned<xcb_get_input_focus_reply_t>{xcb_get_input_focus_reply(c(), xcb_get_input_focus(c()), nullptr)};
    }

    // ---- devices

    /// Brings the list of masters up to date, and posts connects and disconnects.
    void look_at_devices(Time stamp) {
        const Owned<xcb_input_xi_query_device_reply_t> reply{
            xcb_input_xi_query_device_reply(c(), xcb_input_xi_query_device(c(), XCB_INPUT_DEVICE_ALL_MASTER), nullptr)};
        if (!reply) return;
        struct Found {
            XDevice x_id;
            DeviceKind kind;
            std::string name;
        };
        std::vector<Found> found;
        for (auto it = xcb_input_xi_query_device_infos_iterator(reply.get()); it.rem > 0;
             xcb_input_xi_device_info_next(&it)) {
            const DeviceKind kind =
                it.data->type == XCB_INPUT_DEVICE_TYPE_MASTER_KEYBOARD ? DeviceKind::keyboard : DeviceKind::mouse;
            found.push_back({it.data->deviceid,
                             kind,
                             {xcb_input_xi_device_info_name(it.data),
                              static_cast<std::size_t>(xcb_input_xi_device_info_name_length(it.data))}});
        }
        // A keyboard before its mouse, in the order of the server's numbers within a kind.
        std::stable_sort(found.begin(), found.end(), [](const Found& a, const Found& b) { return a.kind < b.kind; });
        for (Master& master : masters) {
            const bool stays = std::any_of(found.begin(), found.end(), [&](const Found& f) {
                return f.x_id == master.x_id && f.kind == master.kind;
            });
            if (!master.present || stays) continue;
            master.present = false;
            master.has_focus = false;
            taker->take(Event::disconnect(stamp, master.id));
        }
        for (const Found& f : found) {
            if (find(f.x_id, f.kind)) continue;
            // The server reuses its numbers at once: a returning number of the same kind takes its old place.
            auto old = std::find_if(masters.begin(), masters.end(),
                                    [&](const Master& m) { return m.x_id == f.x_id && m.kind == f.kind; });
            if (old == masters.end()) {
                masters.push_back({f.x_id, DeviceId{next_device++}, f.kind, false, false});
                old = masters.end() - 1;
            }
            old->present = true;
            taker->take(Event::connect(
                stamp, old->id, {.kind = f.kind, .name = f.name, .marks_repeats = f.kind == DeviceKind::keyboard}));
        }
    }

    Master* find(XDevice x_id, DeviceKind kind) {
        for (Master& master : masters)
            if (master.present && master.x_id == x_id && master.kind == kind) return &master;
        return nullptr;
    }

    // ---- true states

    /// Reads what the connection has, without waiting.
    void fetch_events() {
        while (xcb_generic_event_t* event = xcb_poll_for_event(c())) pending.emplace_back(event);
    }

    /// What was down on the device when the event now being dealt with was sent: what the server says, less the events
    /// that it had sent since, which are still pending.
    ButtonSet state_then(const Master& master) {
        ButtonSet down;
        unsigned sequence = 0;
        if (master.kind == DeviceKind::keyboard) {
            // The core protocol speaks of the first keyboard; what is held on another shows by its repeats.
            if (&master != first_of(DeviceKind::keyboard)) return down;
            const auto cookie = xcb_query_keymap(c());
            sequence = cookie.sequence;
            const Owned<xcb_query_keymap_reply_t> reply{xcb_query_keymap_reply(c(), cookie, nullptr)};
            for (unsigned code = 8; reply && code < 256; ++code)
                if ((reply->keys[code / 8] >> (code % 8) & 1) != 0) down.insert(button_of_key(code));
        } else {
            const auto cookie = xcb_input_xi_query_pointer(c(), root, master.x_id);
            sequence = cookie.sequence;
            const Owned<xcb_input_xi_query_pointer_reply_t> reply{
                xcb_input_xi_query_pointer_reply(c(), cookie, nullptr)};
            if (reply) {
                const std::uint32_t* words = xcb_input_xi_query_pointer_buttons(reply.get());
                for (unsigned number = 1; number < reply->buttons_len * 32U; ++number)
                    if ((words[number / 32] >> (number % 32) & 1) != 0) down.insert(button_of_mouse(number));
            }
        }
        down.erase({});
        fetch_events();
        for (auto event = pending.rbegin(); event != pending.rend(); ++event) {
            if (static_cast<std::int32_t>((*event)->full_sequence - sequence) >= 0) continue;
            const auto change = as_change(**event, extension);
            if (!change || change->device != master.x_id || change->kind != master.kind || change->repeat) continue;
            down.set(button_of(*change), !change->down);
        }
        down.erase({});
        return down;
    }

    const Master* first_of(DeviceKind kind) const {
        for (const Master& master : masters)
            if (master.present && master.kind == kind) return &master;
        return nullptr;
    }

    static Button button_of(const Change& change) {
        return change.kind == DeviceKind::keyboard ? button_of_key(change.detail) : button_of_mouse(change.detail);
    }

    // ---- events

    Time stamp_of(xcb_timestamp_t server) {
        // The order of arrival is right; stamps of focus events sometimes are older. None is of the future.
        const Time now = Clock::now();
        last_stamp = std::max(last_stamp, std::min(clock.convert(server, now), now));
        return last_stamp;
    }

    void announce() {
        announced = true;
        const Time stamp = last_stamp = std::max(last_stamp, clock.complete(Clock::now()));
        look_at_devices(stamp);
        if (options.window != 0) {
            focused = false;
            for (Master& master : masters) {
                if (!master.present || master.kind != DeviceKind::keyboard) continue;
                const Owned<xcb_input_xi_get_focus_reply_t> reply{
                    xcb_input_xi_get_focus_reply(c(), xcb_input_xi_get_focus(c(), master.x_id), nullptr)};
                master.has_focus = reply && reply->focus == options.window;
                focused |= master.has_focus;
            }
            taker->take(Event::focus(stamp, focused));
        }
        if (focused) post_states(stamp);
    }

    void post_states(Time stamp) {
        for (const Master& master : masters)
            if (master.present) taker->take(Event::state(stamp, master.id, state_then(master)));
    }

    void focus_change(const xcb_input_focus_in_event_t& event, bool in) {
        if (event.detail == XCB_INPUT_NOTIFY_DETAIL_POINTER || event.mode == XCB_INPUT_NOTIFY_MODE_WHILE_GRABBED)
            return;
        if (!in && event.detail == XCB_INPUT_NOTIFY_DETAIL_INFERIOR) return;  // to a window within ours
        Master* master = find(event.deviceid, DeviceKind::keyboard);
        if (!master || master->has_focus == in) return;
        master->has_focus = in;
        const Time stamp = stamp_of(event.time);
        const bool any = std::any_of(masters.begin(), masters.end(), [](const Master& m) { return m.has_focus; });
        if (any == focused) {  // one of several keyboards
            taker->take(Event::state(stamp, master->id, in ? state_then(*master) : ButtonSet{}, true));
            return;
        }
        focused = any;
        taker->take(Event::focus(stamp, focused));
        if (focused) post_states(stamp);
    }

    void change(const Change& change) {
        const Master* master = find(change.device, change.kind);
        if (!master) return;
        const Time stamp = stamp_of(change.time);
        if (change.kind == DeviceKind::mouse && change.detail >= 4 && change.detail <= 7) {
            if (!change.down) return;
            Event wheel = Event::of(stamp, EventType::wheel, master->id);
            wheel.dy = change.detail == 4 ? 1 : change.detail == 5 ? -1 : 0;
            wheel.dx = change.detail == 7 ? 1 : change.detail == 6 ? -1 : 0;
            taker->take(wheel);
            return;
        }
        const Button button = button_of(change);
        if (!button) {
            ++unknown_keys;
            return;
        }
        taker->take(Event::button(stamp, master->id, button, change.down, change.repeat));
    }

    void dispatch(const xcb_generic_event_t& event) {
        if (const auto is_change = as_change(event, extension)) return change(*is_change);
        if ((event.response_type & 0x7F) != XCB_GE_GENERIC) return;
        const auto& generic = reinterpret_cast<const xcb_ge_generic_event_t&>(event);
        if (generic.extension != extension) return;
        switch (generic.event_type) {
            case XCB_INPUT_FOCUS_IN:
            case XCB_INPUT_FOCUS_OUT:
                focus_change(reinterpret_cast<const xcb_input_focus_in_event_t&>(event),
                             generic.event_type == XCB_INPUT_FOCUS_IN);
                break;
            case XCB_INPUT_HIERARCHY: {
                const auto& hierarchy = reinterpret_cast<const xcb_input_hierarchy_event_t&>(event);
                constexpr std::uint32_t masters_changed =
                    XCB_INPUT_HIERARCHY_MASK_MASTER_ADDED | XCB_INPUT_HIERARCHY_MASK_MASTER_REMOVED;
                if ((hierarchy.flags & masters_changed) != 0) look_at_devices(stamp_of(hierarchy.time));
                break;
            }
            default: break;
        }
    }

    Time deliver() {
        if (!broken) {
            if (!announced) announce();
            const Time before = Clock::now();
            const auto stood_since = watch.look(before, time_asleep());
            if (stood_since) {
                last_stamp = std::max(last_stamp, *stood_since);
                Event interruption = Event::interrupt(last_stamp);
                interruption.text = "standstill";
                taker->take(interruption);
            }
            round_trip();  // all that the server sent until it saw this is here when it answers
            fetch_events();
            while (!pending.empty()) {
                const OwnedEvent event = std::move(pending.front());
                pending.pop_front();
                dispatch(*event);
            }
            if (stood_since && focused) {  // what is held still is adopted
                last_stamp = std::max(last_stamp, clock.complete(before));
                post_states(last_stamp);
            }
            if (!xcb_connection_has_error(c())) return std::max(clock.complete(before), last_stamp);
            broken = true;
            const Time now = last_stamp = std::max(last_stamp, Clock::now());
            for (Master& master : masters)
                if (std::exchange(master.present, false)) taker->take(Event::disconnect(now, master.id));
        }
        return std::max(last_stamp, Clock::now());
    }
};

X11Source::X11Source(std::unique_ptr<Parts> parts) : parts_{std::move(parts)} {}
X11Source::~X11Source() = default;

std::unique_ptr<X11Source> X11Source::open(const X11SourceOptions& options, std::string& error) {
    auto parts = std::make_unique<Parts>();
    parts->options = options;
    const bool watches = options.standstill > Duration{};
    parts->watch = StandstillWatch{watches ? options.standstill : Duration::max()};
    error = parts->try_open();
    if (!error.empty()) return nullptr;
    return std::unique_ptr<X11Source>{new X11Source{std::move(parts)}};
}

Time X11Source::deliver(Timeline& timeline) { return deliver(timeline.desk()); }

Time X11Source::deliver(Inlet& inlet) {
    InletTaker taker{inlet};
    if (parts_->limited != &inlet) inlet.set_ahead_limit(std::chrono::milliseconds{10});
    parts_->limited = &inlet;
    const Time complete = deliver(taker);
    inlet.set_complete_until(complete);
    return complete;
}

Time X11Source::deliver(EventTaker& taker) {
    parts_->taker = &taker;
    const Time complete = parts_->deliver();
    parts_->taker = nullptr;
    return complete;
}

int X11Source::file_descriptor() const noexcept { return xcb_get_file_descriptor(parts_->c()); }
bool X11Source::is_open() const noexcept { return !parts_->broken; }
std::uint64_t X11Source::unknown_keys() const noexcept { return parts_->unknown_keys; }

}  // namespace cursorum
