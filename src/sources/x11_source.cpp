// Live input from an X server: events of the program's window become events of ours, with the server's times. Focus,
// keyboard state and pointer are asked for whenever they may have changed unseen.
#include "cursorum/sources/x11_source.hpp"
#include "cursorum/core/event.hpp"
#include "cursorum/core/standstill_watch.hpp"

#include <xcb/xcbext.h>

#include <poll.h>

#include <algorithm>
#include <cmath>
#include <utility>

#include "cursorum/core/controls.hpp"
#include "cursorum/sources/time_asleep.hpp"
#include "sources/x11_layout.hpp"
#include "sources/x11_parts.hpp"

namespace cursorum {

using x11::Input;
using x11::InputKind;
using x11::Owned;

Time X11Source::Parts::stamp_of(xcb_timestamp_t server) {
    // The order of arrival is right; stamps of focus events are sometimes older. None is in the future.
    const Time now = Clock::now();
    last_stamp = std::max(last_stamp, std::min(clock.convert(server, now), now));
    return last_stamp;
}

// ---- keys, buttons, focus

void X11Source::Parts::focus_change(const Input& input) {
    const bool in = input.focus_in;
    if (input.detail_of_focus == XCB_INPUT_NOTIFY_DETAIL_POINTER || input.mode == XCB_INPUT_NOTIFY_MODE_WHILE_GRABBED)
        return;
    if (!in && input.detail_of_focus == XCB_INPUT_NOTIFY_DETAIL_INFERIOR) return;  // to a window within ours
    Master* master = find(input.device, DeviceKind::keyboard);
    if (!master || master->has_focus == in) return;
    master->has_focus = in;
    const Time stamp = stamp_of(input.time);
    const bool any = std::any_of(masters.begin(), masters.end(), [](const Master& m) { return m.has_focus; });
    if (any == focused) {  // one of several keyboards
        sink->take(Event::state(stamp, master->id, in ? state_then(*master) : ButtonSet{}, true));
        return;
    }
    focused = any;
    if (!focused) apply_lock();  // while the pointer's events still count
    sink->take(Event::focus(stamp, focused));
    text.forget();
    if (focused) {
        apply_lock();
        post_states(stamp);
    } else {
        for (Master& pointer : masters) pointer.down = {};
    }
}

void X11Source::Parts::key_change(const Input& input) {
    const Master* master = find(input.device, DeviceKind::keyboard);
    // Raw events arrive regardless of the focus.
    if (!master || (input.raw && has_window() && !master->has_focus)) return;
    const Time stamp = stamp_of(input.time);
    const Button button = x11::button_of_key(input.detail);
    if (button)
        sink->take(Event::button(stamp, master->id, button, input.down, input.repeat));
    else
        ++unknown_keys;
    if (options.text) type(input, master->id, button, stamp);
}

void X11Source::Parts::type(const Input& input, DeviceId keyboard, Button button, Time stamp) {
    const std::string_view typed = text.key(input);
    if (typed.empty()) return;
    Event event = Event::typed(stamp, typed, button);
    event.device = keyboard;
    sink->take(event);
}

void X11Source::Parts::button_change(const Input& input) {
    Master* master = find(input.device, DeviceKind::mouse);
    if (!master || input.emulated) return;
    const Button button = x11::button_of_mouse(input.detail);
    // Raw events come wherever the pointer is: a press elsewhere does not count here, but what was pressed here is let
    // go anywhere.
    const bool is_here = master->inside || lock.is_on();
    if (input.raw && has_window() && !(focused && is_here) && !master->down.contains(button)) return;
    const Time stamp = stamp_of(input.time);
    if (x11::is_wheel(input.detail)) {
        if (input.down && (!input.raw || !has_window() || is_here))
            turned(*master,
                   {input.detail == 7   ? 1.0
                    : input.detail == 6 ? -1.0
                                        : 0.0,
                    input.detail == 4   ? 1.0
                    : input.detail == 5 ? -1.0
                                        : 0.0},
                   stamp);
        return;
    }
    if (!button) return;
    if (!input.raw && !lock.is_on()) place_pointer(*master, input.root_x, input.root_y, stamp, nullptr);
    master->down.set(button, input.down);
    sink->take(Event::button(stamp, master->id, button, input.down));
}

// ---- the pointer

void X11Source::Parts::turned(const Master& master, Distance detents, Time stamp) {
    if (detents != Distance{}) sink->take(Event::wheel(stamp, master.id, detents));
}

/// The pointer is there now. `raw`: the counts that moved it there, if there are any.
void X11Source::Parts::place_pointer(Master& master, double root_x, double root_y, Time stamp, const Input* raw) {
    if (root_x == master.root_x && root_y == master.root_y && !raw) return;
    master.root_x = root_x, master.root_y = root_y;
    Event event = Event::moved_to(stamp, master.id, {root_x - master.window_x, root_y - master.window_y});
    if (raw && (raw->valuators.has(0) || raw->valuators.has(1))) {
        event.has_raw = true;
        event.raw_dx = raw->valuators.unaccelerated[0];
        event.raw_dy = raw->valuators.unaccelerated[1];
    }
    sink->take(event);
}

/// Motion in the window, on the engine's own connection: the place is exact, the counts came just before.
void X11Source::Parts::moved(const Input& input) {
    Master* master = find(input.device, DeviceKind::mouse);
    if (!master) return;
    const Time stamp = stamp_of(input.time);
    Slave& mover = slave(input.source);
    turned(*master, mover.wheel.turned_to(input.valuators), stamp);
    const std::optional<Input> raw = std::exchange(master->raw_motion, std::nullopt);
    if (lock.is_on() || (!input.valuators.has(0) && !input.valuators.has(1))) return;
    master->window_x = input.root_x - input.x, master->window_y = input.root_y - input.y;
    // Positions that a program sets come as raw motion too, without a mark.
    const bool counts = raw && raw->time == input.time && !slave(raw->source).absolute &&
                        !(raw->valuators.values[0] == input.root_x && raw->valuators.values[1] == input.root_y);
    place_pointer(*master, input.root_x, input.root_y, stamp, counts ? &*raw : nullptr);
}

void X11Source::Parts::moved_raw(const Input& input) {
    Master* master = find(input.device, DeviceKind::mouse);
    if (!master) return;
    const auto& values = input.valuators;
    const bool moves = values.has(0) || values.has(1);
    if (!attached() || !has_window()) {
        const bool is_here = !has_window() || lock.is_on() || (focused && master->inside) || !master->down.empty();
        if (is_here) turned(*master, slave(input.source).wheel.turned_by(values), stamp_of(input.time));
        if (!is_here) return;
    } else if (moves && !lock.is_on()) {
        master->raw_motion = input;  // the motion in the window follows at once
        return;
    }
    if (!moves) return;
    const bool is_absolute = slave(input.source).absolute || master->absolute;
    if (lock.is_on() || !has_window()) {  // no place, but how far
        if (is_absolute) return;
        Event event = Event::motion(stamp_of(input.time), master->id, {values.values[0], values.values[1]});
        event.has_raw = true;
        event.raw_dx = values.unaccelerated[0], event.raw_dy = values.unaccelerated[1];
        sink->take(event);
        return;
    }
    // On a connection of its own, the place at the end of the round is known, and what is still to come before it.
    double x = master->root_x, y = master->root_y;
    if (is_absolute) {
        if (values.has(0)) x = values.values[0];
        if (values.has(1)) y = values.values[1];
    } else {
        x += values.values[0], y += values.values[1];
    }
    place_pointer(*master, x, y, stamp_of(input.time), is_absolute ? nullptr : &input);
}

/// One request for each pointer, all answered in one round trip, which brings all events too.
void X11Source::Parts::query_pointers() {
    struct Asked {
        Master* master;
        xcb_input_xi_query_pointer_cookie_t cookie;
    };
    std::array<Asked, 8> asked{};
    std::size_t count = 0;
    for (Master& master : masters)
        if (master.present && master.kind == DeviceKind::mouse && count < asked.size())
            asked[count++] = {&master, xcb_input_xi_query_pointer(c(), options.window, master.x_id)};
    std::array<Owned<xcb_input_xi_query_pointer_reply_t>, 8> replies;
    for (std::size_t i = 0; i < count; ++i)
        replies[i].reset(xcb_input_xi_query_pointer_reply(c(), asked[i].cookie, nullptr));
    fetch_events();
    for (std::size_t i = 0; i < count; ++i) {
        Master& master = *asked[i].master;
        if (!replies[i]) continue;
        const double x = x11::from_fixed(replies[i]->root_x), y = x11::from_fixed(replies[i]->root_y);
        master.window_x = x - x11::from_fixed(replies[i]->win_x);
        master.window_y = y - x11::from_fixed(replies[i]->win_y);
        // Determines whether the raw values are differences that lead from the last position to this one, or positions.
        double sum_x = master.root_x, sum_y = master.root_y, last_x = sum_x, last_y = sum_y;
        bool has_moved = false;
        for (const Input& input : pending) {
            if (input.kind != InputKind::raw_motion || input.device != master.x_id) continue;
            if (!input.valuators.has(0) && !input.valuators.has(1)) continue;
            has_moved = true;
            sum_x += input.valuators.values[0], sum_y += input.valuators.values[1];
            if (input.valuators.has(0)) last_x = input.valuators.values[0];
            if (input.valuators.has(1)) last_y = input.valuators.values[1];
        }
        const auto same = [](double a, double b) { return std::abs(a - b) < 1; };
        master.absolute = has_moved && same(last_x, x) && same(last_y, y) && !(same(sum_x, x) && same(sum_y, y));
        if (master.absolute) continue;
        // Differences are followed backwards from where they led: at the screen's edge they lead nowhere.
        if (has_moved)
            master.root_x += x - sum_x, master.root_y += y - sum_y;
        else if (!lock.is_on() && (focused && master.inside) && (!same(x, master.root_x) || !same(y, master.root_y)))
            place_pointer(master, x, y, last_stamp, nullptr);  // put there by a program
    }
}

void X11Source::Parts::crossed(const Input& input) {
    // Crossings to and from a child window do not count, nor do those of a grab's beginning and end.
    if (input.detail_of_focus == XCB_INPUT_NOTIFY_DETAIL_INFERIOR || input.mode == XCB_INPUT_NOTIFY_MODE_GRAB ||
        input.mode == XCB_INPUT_NOTIFY_MODE_UNGRAB)
        return;
    Master* master = find(input.device, DeviceKind::mouse);
    const bool in = input.kind == InputKind::enter;
    if (!master || master->inside == in) return;
    master->inside = in;
    const Time stamp = stamp_of(input.time);
    sink->take(Event::pointer_inside(stamp, master->id, in));
    for (auto& [id, mover] : slaves) mover.wheel.forget();
    master->window_x = input.root_x - input.x, master->window_y = input.root_y - input.y;
    if (in && !lock.is_on()) place_pointer(*master, input.root_x, input.root_y, stamp, nullptr);
}

void X11Source::Parts::lamps(std::uint32_t on, Time stamp) {
    constexpr Button locks[] = {controls::CapsLock, controls::NumLock, controls::ScrollLock};
    Event event = Event::of(stamp, EventType::locks, {});
    for (std::size_t i = 0; i < lamp_bits.size(); ++i)
        if ((on & lamp_bits[i]) != 0) event.down_set.insert(locks[i]);
    sink->take(event);
}

/// Makes the cursor what is wanted, as the focus allows, and posts it.
void X11Source::Parts::apply_lock() {
    lock.set(root, options.window, focused ? cursor_wanted : CursorState{});
    const auto for_each_mouse = [this](auto&& event_of) {
        for (Master& master : masters)
            if (master.present && master.kind == DeviceKind::mouse) sink->take(event_of(master));
    };
    if (lock.now() != cursor_posted) {
        cursor_posted = lock.now();
        for_each_mouse([&](const Master& master) { return Event::cursor(last_stamp, master.id, cursor_posted); });
    }
    if (!warp_wanted || !focused) return;
    const WindowPoint to = *std::exchange(warp_wanted, std::nullopt);
    xcb_warp_pointer(c(), XCB_NONE, options.window, 0, 0, 0, 0, static_cast<std::int16_t>(to.x),
                     static_cast<std::int16_t>(to.y));
    xcb_flush(c());
    for_each_mouse([&](Master& master) {
        master.root_x = master.window_x + to.x, master.root_y = master.window_y + to.y;
        Event event = Event::moved_to(last_stamp, master.id, to);
        event.warp = true;
        return event;
    });
}

// ---- delivering

void X11Source::Parts::dispatch(const Input& input) {
    switch (input.kind) {
        case InputKind::key: return key_change(input);
        case InputKind::button: return button_change(input);
        case InputKind::motion: return moved(input);
        case InputKind::raw_motion: return moved_raw(input);
        case InputKind::enter:
        case InputKind::leave: return crossed(input);
        case InputKind::focus: return focus_change(input);
        case InputKind::layout:  // several events report one change
            text.forget();
            if (key_layout && !std::exchange(layout_is_old, true)) ++layout_changes;
            return;
        case InputKind::destroyed: broken = broken || input.detail == options.window; return;
        case InputKind::lamps: return lamps(input.detail, stamp_of(input.time));
        case InputKind::hierarchy: {
            slaves.clear();
            constexpr std::uint32_t masters_changed =
                XCB_INPUT_HIERARCHY_MASK_MASTER_ADDED | XCB_INPUT_HIERARCHY_MASK_MASTER_REMOVED;
            if ((input.detail & masters_changed) != 0) look_at_devices(stamp_of(input.time));
            return;
        }
    }
}

// When the focus comes, and before the first key after a change of the layout.
void X11Source::Parts::read_keymap() {
    if (!std::exchange(is_layout_watched, true)) x11::watch_key_layout(c());
    text.read(c());
}

Time X11Source::Parts::deliver() {
    if (broken) return std::max(last_stamp, Clock::now());
    if (!announced) announce();
    const Time before = Clock::now();
    const auto stood_since = watch.look(before, time_asleep());
    if (stood_since) {
        last_stamp = std::max(last_stamp, *stood_since);
        Event interruption = Event::interrupt(last_stamp);
        interruption.text = "standstill";
        sink->take(interruption);
    }
    if ((cursor_wanted != cursor_posted || warp_wanted) && focused)
        last_stamp = std::max(last_stamp, clock.complete(before));
    apply_lock();
    if (!attached()) {
        // When the answer arrives, everything that the server sent before it has arrived, too.
        if (has_window())
            query_pointers();
        else
            round_trip();
        fetch_events();
        complete = clock.complete(before);
    }
    while (next_pending < pending.size()) {
        const Input input = pending[next_pending++];  // processing it may add more
        if (options.text && input.kind == InputKind::key && text.is_old()) read_keymap();
        dispatch(input);
    }
    pending.clear();
    next_pending = 0;
    if (stood_since && focused) {  // buttons that are still held are adopted
        last_stamp = std::max(last_stamp, clock.complete(before));
        post_states(last_stamp);
    }
    // The engine has read all available events before this call.
    if (attached() && is_marker_answered()) send_marker();
    if (xcb_connection_has_error(c())) broken = true;
    if (!broken) return std::max(complete, last_stamp);
    const Time now = last_stamp = std::max(last_stamp, Clock::now());
    for (Master& master : masters)
        if (std::exchange(master.present, false)) sink->take(Event::disconnect(now, master.id));
    return now;
}

void X11Source::Parts::send_marker() {
    marker = {true, xcb_get_input_focus(c()).sequence, Clock::now()};
    xcb_flush(c());
}

/// If its answer has come, so have all events that were sent before it. True, too, if there is none under way.
bool X11Source::Parts::is_marker_answered() {
    if (!marker.is_sent) return true;
    void* reply = nullptr;
    xcb_generic_error_t* error = nullptr;
    if (xcb_poll_for_reply(c(), marker.sequence, &reply, &error) == 0) return false;
    std::free(reply);
    std::free(error);
    marker.is_sent = false;
    complete = std::max(complete, clock.complete(marker.sent));
    return true;
}

/// Waits until all that the server has sent until now is here. A server that is grabbed by another client does not
/// answer as long as that lasts: then the answer is left to later rounds, and only the first of them waits.
void X11Source::Parts::fetch(Duration longest) {
    const Time begin = Clock::now();
    for (bool is_asked = false;;) {
        if (is_marker_answered()) {
            if (std::exchange(is_asked, true)) return;
            send_marker();
            continue;
        }
        const Duration left = longest - (Clock::now() - std::min(begin, marker.sent));
        if (left <= Duration{} || xcb_connection_has_error(c()) != 0) return;
        pollfd waiting{xcb_get_file_descriptor(c()), POLLIN, 0};
        poll(&waiting, 1, static_cast<int>(left.count() / 1'000'000) + 1);
    }
}

X11Source::X11Source(std::unique_ptr<Parts> parts) : parts_{std::move(parts)} {}
X11Source::~X11Source() = default;

std::unique_ptr<X11Source> X11Source::open(const X11SourceOptions& options, std::string& error) {
    return attach(nullptr, options, error);
}

std::unique_ptr<X11Source> X11Source::attach(xcb_connection_t* connection, const X11SourceOptions& options,
                                             std::string& error) {
    auto parts = std::make_unique<Parts>();
    if (connection) parts->connection = {connection, Disconnect{false}};
    parts->options = options;
    const bool watches = options.standstill > Duration{};
    parts->watch = StandstillWatch{watches ? options.standstill : Duration::max()};
    if (connection && options.window == 0)
        error = "on the engine's own connection a window is needed";
    else
        error = parts->try_open();
    if (!error.empty()) return nullptr;
    return std::unique_ptr<X11Source>{new X11Source{std::move(parts)}};
}

void X11Source::fetch(Duration longest) {
    if (parts_->attached() && !parts_->broken) parts_->fetch(longest);
}

bool X11Source::take(const void* event) {
    if (!event) return false;
    const auto input =
        x11::decode(*static_cast<const xcb_generic_event_t*>(event), parts_->extension, parts_->keyboard_event);
    if (input && parts_->attached()) parts_->take(*input);
    // The engine needs these, too.
    return input && input->kind != InputKind::layout && input->kind != InputKind::destroyed;
}

bool X11Source::ask_for_cursor(const CursorState& wanted) {
    if (wanted != CursorState{} && !parts_->lock.can_lock()) return false;
    parts_->cursor_wanted = wanted;
    return true;
}

bool X11Source::put_pointer_at(WindowPoint to) {
    if (!parts_->has_window() || parts_->lock.is_on()) return false;
    parts_->warp_wanted = to;
    return true;
}

Time X11Source::deliver(Timeline& timeline) { return deliver(timeline.desk()); }

Time X11Source::deliver(Inlet& inlet) { return deliver_into(inlet, *this, parts_->in_inlet); }

Time X11Source::deliver(EventSink& sink) {
    parts_->sink = &sink;
    const Time complete = parts_->deliver();
    parts_->sink = nullptr;
    return complete;
}

const KeyLayout& X11Source::key_layout() {
    Parts& parts = *parts_;
    if (!parts.key_layout) {
        parts.key_layout.emplace();
        parts.layout_is_old = parts.keyboard_event != 0;
        if (parts.layout_is_old && !std::exchange(parts.is_layout_watched, true)) x11::watch_key_layout(parts.c());
    }
    if (parts.layout_is_old && !parts.broken) {
        parts.layout_is_old = false;
        *parts.key_layout = x11::read_key_layout(parts.c());
    }
    return *parts.key_layout;
}
std::uint64_t X11Source::layout_changes() const noexcept { return parts_->layout_changes; }

int X11Source::file_descriptor() const noexcept { return xcb_get_file_descriptor(parts_->c()); }
bool X11Source::is_open() const noexcept { return !parts_->broken; }
std::uint64_t X11Source::unknown_keys() const noexcept { return parts_->unknown_keys; }

}  // namespace cursorum
