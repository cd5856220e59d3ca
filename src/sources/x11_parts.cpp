// The parts of an X11 source: connecting and asking for XInput 2, the list of master and slave devices, and events that
// have arrived in the order of their sequence.
#include "sources/x11_parts.hpp"

#include <algorithm>
#include <cstdlib>
#include <cstring>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/event.hpp"

// The protocol's header calls a member as C++ calls a keyword.
#define explicit explicit_
#include <xcb/xkb.h>
#undef explicit

namespace cursorum {

using x11::Input;
using x11::InputKind;
using x11::Owned;
using x11::XDevice;

X11Source::Parts::~Parts() {
    if (!connection || xcb_connection_has_error(c())) return;
    if (marker.is_sent) xcb_discard_reply(c(), marker.sequence);
    lock.set(root, options.window, {});
    // On the engine's connection, its own core events must come again.
    if (attached())
        for (const Selection& selection : selections) select_on(selection.window, selection.device, selection.before);
    xcb_flush(c());
}

// ---- opening

std::string X11Source::Parts::open_connection() {
    int screen_number = 0;
    if (!connection)
        connection.reset(xcb_connect(options.display.empty() ? nullptr : options.display.c_str(), &screen_number));
    if (xcb_connection_has_error(c())) {
        if (attached()) return "the connection to the X server is broken";
        const char* display = options.display.empty() ? std::getenv("DISPLAY") : options.display.c_str();
        return display && *display ? "no X server answers at display \"" + std::string{display} + "\""
                                   : std::string{"no X server: DISPLAY is not set"};
    }
    auto screen = xcb_setup_roots_iterator(xcb_get_setup(c()));
    for (int i = 0; i < screen_number && screen.rem > 1; ++i) xcb_screen_next(&screen);
    root = screen.data->root;
    return {};
}

std::string X11Source::Parts::try_open() {
    if (std::string error = open_connection(); !error.empty()) return error;
    const auto* found = xcb_get_extension_data(c(), &xcb_input_id);
    if (!found || !found->present) return "the X server has no XInput extension";
    extension = found->major_opcode;
    const Owned<xcb_input_xi_query_version_reply_t> version{
        xcb_input_xi_query_version_reply(c(), xcb_input_xi_query_version(c(), 2, 2), nullptr)};
    if (!version || version->major_version < 2 || (version->major_version == 2 && version->minor_version < 2))
        return "the X server's XInput is older than 2.2";
    if (has_window()) {
        const Owned<xcb_get_geometry_reply_t> window{
            xcb_get_geometry_reply(c(), xcb_get_geometry(c(), options.window), nullptr)};
        if (!window) return "the X server has no window " + std::to_string(options.window);
        root = window->root;
        lock.open(c());
    }
    measure_clock();
    select();
    open_lamps();
    next_device = options.first_device;
    return {};
}

// A change of a property is reported with the server's time. Asked on a connection of its own, so that the answer does
// not come among the engine's events.
void X11Source::Parts::measure_clock() {
    const std::unique_ptr<xcb_connection_t, Disconnect> asking{
        xcb_connect(options.display.empty() ? nullptr : options.display.c_str(), nullptr)};
    xcb_connection_t* const other = asking.get();
    if (xcb_connection_has_error(other)) return;  // a local server's clock is ours anyway
    const xcb_window_t window = xcb_generate_id(other);
    const std::uint32_t mask = XCB_EVENT_MASK_PROPERTY_CHANGE;
    xcb_create_window(other, 0, window, root, 0, 0, 1, 1, 0, XCB_WINDOW_CLASS_INPUT_ONLY, XCB_COPY_FROM_PARENT,
                      XCB_CW_EVENT_MASK, &mask);
    xcb_change_property(other, XCB_PROP_MODE_APPEND, window, XCB_ATOM_WM_NAME, XCB_ATOM_STRING, 8, 0, nullptr);
    Owned<xcb_get_input_focus_reply_t>{xcb_get_input_focus_reply(other, xcb_get_input_focus(other), nullptr)};
    const Time now = Clock::now();
    while (const Owned<xcb_generic_event_t> event{xcb_poll_for_event(other)})
        if ((event->response_type & 0x7F) == XCB_PROPERTY_NOTIFY)
            clock = X11Clock{reinterpret_cast<const xcb_property_notify_event_t&>(*event).time, now};
}

std::uint32_t X11Source::Parts::selected_on(xcb_window_t window, XDevice device) const {
    const Owned<xcb_input_xi_get_selected_events_reply_t> had{
        xcb_input_xi_get_selected_events_reply(c(), xcb_input_xi_get_selected_events(c(), window), nullptr)};
    if (!had) return 0;
    for (auto it = xcb_input_xi_get_selected_events_masks_iterator(had.get()); it.rem > 0;
         xcb_input_event_mask_next(&it))
        if (it.data->deviceid == device && it.data->mask_len > 0) return *xcb_input_event_mask_mask(it.data);
    return 0;
}

void X11Source::Parts::select_on(xcb_window_t window, XDevice device, std::uint32_t bits) {
    struct {
        xcb_input_event_mask_t head;
        std::uint32_t bits;
    } mask{{device, 1}, bits};
    xcb_input_xi_select_events(c(), window, 1, &mask.head);
}

// What the connection's owner selected by itself stays selected, and is all that is left in the end.
void X11Source::Parts::add_selection(xcb_window_t window, XDevice device, std::uint32_t bits) {
    const std::uint32_t before = selected_on(window, device);
    selections.push_back({window, device, before});
    select_on(window, device, before | bits);
}

void X11Source::Parts::select() {
    constexpr std::uint32_t in_window = XCB_INPUT_XI_EVENT_MASK_KEY_PRESS | XCB_INPUT_XI_EVENT_MASK_KEY_RELEASE |
                                        XCB_INPUT_XI_EVENT_MASK_BUTTON_PRESS | XCB_INPUT_XI_EVENT_MASK_BUTTON_RELEASE |
                                        XCB_INPUT_XI_EVENT_MASK_MOTION;
    constexpr std::uint32_t about_window = XCB_INPUT_XI_EVENT_MASK_FOCUS_IN | XCB_INPUT_XI_EVENT_MASK_FOCUS_OUT |
                                           XCB_INPUT_XI_EVENT_MASK_ENTER | XCB_INPUT_XI_EVENT_MASK_LEAVE;
    constexpr std::uint32_t raw_buttons =
        XCB_INPUT_XI_EVENT_MASK_RAW_KEY_PRESS | XCB_INPUT_XI_EVENT_MASK_RAW_KEY_RELEASE |
        XCB_INPUT_XI_EVENT_MASK_RAW_BUTTON_PRESS | XCB_INPUT_XI_EVENT_MASK_RAW_BUTTON_RELEASE;
    // All devices would deliver everything twice, once for the slave and once for its master. Extension events of a
    // window take the core events away from whoever selects both on one connection, and from everybody else if they are
    // presses: so a connection of our own watches the root's raw events, which are copies.
    if (has_window())
        add_selection(options.window, XCB_INPUT_DEVICE_ALL_MASTER, about_window | (attached() ? in_window : 0));
    add_selection(root, XCB_INPUT_DEVICE_ALL_MASTER,
                  XCB_INPUT_XI_EVENT_MASK_RAW_MOTION | (attached() ? 0 : raw_buttons));
    add_selection(root, XCB_INPUT_DEVICE_ALL, XCB_INPUT_XI_EVENT_MASK_HIERARCHY);
    // The window's end. The engine's connection has a mask of its own, which is not ours to change.
    const std::uint32_t structure = XCB_EVENT_MASK_STRUCTURE_NOTIFY;
    if (has_window() && !attached()) xcb_change_window_attributes(c(), options.window, XCB_CW_EVENT_MASK, &structure);
    xcb_flush(c());
}

void X11Source::Parts::open_lamps() {
    const auto* found = xcb_get_extension_data(c(), &xcb_xkb_id);
    if (!found || !found->present) return;
    const Owned<xcb_xkb_use_extension_reply_t> use{
        xcb_xkb_use_extension_reply(c(), xcb_xkb_use_extension(c(), 1, 0), nullptr)};
    if (!use || !use->supported) return;
    constexpr std::string_view names[] = {"Caps Lock", "Num Lock", "Scroll Lock"};
    for (std::size_t i = 0; i < lamp_bits.size(); ++i) {
        const Owned<xcb_intern_atom_reply_t> atom{xcb_intern_atom_reply(
            c(), xcb_intern_atom(c(), 0, static_cast<std::uint16_t>(names[i].size()), names[i].data()), nullptr)};
        if (!atom) continue;
        const Owned<xcb_xkb_get_named_indicator_reply_t> lamp{xcb_xkb_get_named_indicator_reply(
            c(),
            xcb_xkb_get_named_indicator(c(), XCB_XKB_ID_USE_CORE_KBD, XCB_XKB_LED_CLASS_DFLT_XI_CLASS,
                                        XCB_XKB_ID_DFLT_XI_ID, atom->atom),
            nullptr)};
        if (!lamp || !lamp->found) continue;
        lamp_bits[i] = 1U << lamp->ndx;
        if (lamp->on) lamps_on |= lamp_bits[i];
    }
    struct {
        std::uint32_t affect, details;
    } all{0xFFFFFFFF, 0xFFFFFFFF};
    xcb_xkb_select_events(c(), XCB_XKB_ID_USE_CORE_KBD, XCB_XKB_EVENT_TYPE_INDICATOR_STATE_NOTIFY, 0, 0, 0, 0, &all);
    xcb_flush(c());
    keyboard_event = found->first_event;
}

void X11Source::Parts::round_trip() {
    Owned<xcb_get_input_focus_reply_t>{xcb_get_input_focus_reply(c(), xcb_get_input_focus(c()), nullptr)};
}

/// Reads what the connection has, without waiting. On the engine's own connection, the engine does.
void X11Source::Parts::fetch_events() {
    if (attached()) return;
    while (const Owned<xcb_generic_event_t> event{xcb_poll_for_event(c())})
        if (const auto input = x11::decode(*event, extension, keyboard_event)) pending.push_back(*input);
}

// ---- devices

/// Brings the list of masters up to date, and posts connects and disconnects.
void X11Source::Parts::look_at_devices(Time stamp) {
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
        const bool stays = std::any_of(found.begin(), found.end(),
                                       [&](const Found& f) { return f.x_id == master.x_id && f.kind == master.kind; });
        if (!master.present || stays) continue;
        master.present = false;
        master.has_focus = master.inside = false;
        master.down = {};
        sink->take(Event::disconnect(stamp, master.id));
    }
    for (const Found& f : found) {
        if (find(f.x_id, f.kind)) continue;
        // The server reuses its numbers at once: a returning number of the same kind takes its old place.
        auto old = std::find_if(masters.begin(), masters.end(),
                                [&](const Master& m) { return m.x_id == f.x_id && m.kind == f.kind; });
        if (old == masters.end()) {
            masters.push_back({.x_id = f.x_id, .id = DeviceId{next_device++}, .kind = f.kind});
            old = masters.end() - 1;
        }
        old->present = true;
        sink->take(Event::connect(stamp, old->id,
                                  {.kind = f.kind, .name = f.name, .marks_repeats = f.kind == DeviceKind::keyboard}));
    }
}

X11Source::Parts::Master* X11Source::Parts::find(XDevice x_id, DeviceKind kind) {
    for (Master& master : masters)
        if (master.present && master.x_id == x_id && master.kind == kind) return &master;
    return nullptr;
}

/// Asks the server for a device's valuators when it moves a pointer for the first time: a round trip.
X11Source::Parts::Slave& X11Source::Parts::slave(XDevice x_id) {
    const auto known = slaves.find(x_id);
    if (known != slaves.end()) return known->second;
    Slave& slave = slaves[x_id];
    const Owned<xcb_input_xi_query_device_reply_t> reply{
        xcb_input_xi_query_device_reply(c(), xcb_input_xi_query_device(c(), x_id), nullptr)};
    if (!reply) return slave;
    for (auto device = xcb_input_xi_query_device_infos_iterator(reply.get()); device.rem > 0;
         xcb_input_xi_device_info_next(&device)) {
        for (auto it = xcb_input_xi_device_info_classes_iterator(device.data); it.rem > 0;
             xcb_input_device_class_next(&it)) {
            if (it.data->type == XCB_INPUT_DEVICE_CLASS_TYPE_VALUATOR) {
                const auto& valuator = reinterpret_cast<const xcb_input_valuator_class_t&>(*it.data);
                if (valuator.number == 0) slave.absolute = valuator.mode == XCB_INPUT_VALUATOR_MODE_ABSOLUTE;
            } else if (it.data->type == XCB_INPUT_DEVICE_CLASS_TYPE_SCROLL) {
                const auto& scroll = reinterpret_cast<const xcb_input_scroll_class_t&>(*it.data);
                slave.wheel.add({scroll.number, scroll.scroll_type == XCB_INPUT_SCROLL_TYPE_HORIZONTAL,
                                 x11::from_fixed(scroll.increment)});
            }
        }
    }
    return slave;
}

const X11Source::Parts::Master* X11Source::Parts::first_of(DeviceKind kind) const {
    for (const Master& master : masters)
        if (master.present && master.kind == kind) return &master;
    return nullptr;
}

// ---- true states

/// What was down on the device when the event now being dealt with was sent: what the server says, less the events
/// that it had sent since, which are still pending.
ButtonSet X11Source::Parts::state_then(const Master& master) {
    ButtonSet down;
    unsigned sequence = 0;
    if (master.kind == DeviceKind::keyboard) {
        // The core protocol reports the first keyboard; keys held on another one are noticed by their repeats.
        if (&master != first_of(DeviceKind::keyboard)) return down;
        const auto cookie = xcb_query_keymap(c());
        sequence = cookie.sequence;
        const Owned<xcb_query_keymap_reply_t> reply{xcb_query_keymap_reply(c(), cookie, nullptr)};
        for (unsigned code = 8; reply && code < 256; ++code)
            if ((reply->keys[code / 8] >> (code % 8) & 1) != 0) down.insert(x11::button_of_key(code));
    } else {
        const auto cookie = xcb_input_xi_query_pointer(c(), root, master.x_id);
        sequence = cookie.sequence;
        const Owned<xcb_input_xi_query_pointer_reply_t> reply{xcb_input_xi_query_pointer_reply(c(), cookie, nullptr)};
        if (reply) {
            const std::uint32_t* words = xcb_input_xi_query_pointer_buttons(reply.get());
            for (unsigned number = 1; number < reply->buttons_len * 32U; ++number)
                if ((words[number / 32] >> (number % 32) & 1) != 0) down.insert(x11::button_of_mouse(number));
        }
    }
    fetch_events();
    const InputKind kind = master.kind == DeviceKind::keyboard ? InputKind::key : InputKind::button;
    for (std::size_t i = pending.size(); i-- > next_pending;) {
        const Input* const input = &pending[i];
        if (static_cast<std::int32_t>(input->sequence - sequence) >= 0) continue;
        if (input->kind != kind || input->device != master.x_id || input->repeat || input->emulated) continue;
        down.set(kind == InputKind::key ? x11::button_of_key(input->detail) : x11::button_of_mouse(input->detail),
                 !input->down);
    }
    down.erase({});
    return down;
}

void X11Source::Parts::post_states(Time stamp) {
    if (options.text) read_keymap();
    for (Master& master : masters) {
        if (!master.present) continue;
        const ButtonSet down = state_then(master);
        if (master.kind == DeviceKind::mouse) master.down = down;
        sink->take(Event::state(stamp, master.id, down));
    }
}

void X11Source::Parts::announce() {
    announced = true;
    const Time stamp = last_stamp = std::max(last_stamp, clock.complete(Clock::now()));
    look_at_devices(stamp);
    if (has_window()) {
        focused = false;
        for (Master& master : masters) {
            if (!master.present || master.kind != DeviceKind::keyboard) continue;
            const Owned<xcb_input_xi_get_focus_reply_t> reply{
                xcb_input_xi_get_focus_reply(c(), xcb_input_xi_get_focus(c(), master.x_id), nullptr)};
            master.has_focus = reply && reply->focus == options.window;
            focused |= master.has_focus;
        }
        sink->take(Event::focus(stamp, focused));
        const Owned<xcb_get_geometry_reply_t> size{
            xcb_get_geometry_reply(c(), xcb_get_geometry(c(), options.window), nullptr)};
        for (Master& master : masters) {
            if (!master.present || master.kind != DeviceKind::mouse) continue;
            const Owned<xcb_input_xi_query_pointer_reply_t> reply{xcb_input_xi_query_pointer_reply(
                c(), xcb_input_xi_query_pointer(c(), options.window, master.x_id), nullptr)};
            if (!reply || !size) continue;
            const double x = x11::from_fixed(reply->win_x), y = x11::from_fixed(reply->win_y);
            master.root_x = x11::from_fixed(reply->root_x), master.root_y = x11::from_fixed(reply->root_y);
            master.window_x = master.root_x - x, master.window_y = master.root_y - y;
            master.inside = reply->same_screen && x >= 0 && y >= 0 && x < size->width && y < size->height;
            sink->take(Event::pointer_inside(stamp, master.id, master.inside));
            if (master.inside) sink->take(Event::moved_to(stamp, master.id, {x, y}));
        }
    }
    if (keyboard_event != 0) lamps(lamps_on, stamp);
    if (focused) post_states(stamp);
}

}  // namespace cursorum
