// Events that concern whole devices: connects, focus, interruptions, polled states, lock keys. Also the way from
// Inlet's members to the core.
#include <algorithm>
#include <bit>
#include <cassert>
#include <utility>

#include "core/controls/either_side.hpp"
#include "core/controls/postable.hpp"
#include "core/inlet/inlet_core.hpp"
#include "core/rings/one_thread.hpp"
#include "core/rules/button_rules.hpp"
#include "cursorum/core/event.hpp"

namespace cursorum {

using detail::Cell;
using detail::Device;
using detail::MotionSlot;
using detail::OccasionKind;
using detail::OccasionSlot;
using detail::Reach;
using detail::Slot;
using detail::SlotKind;

namespace {

// One event may end and start every hold, each with a slot for an either-side name, after the slot of a late event.
constexpr std::uint32_t least_history = 8 * hold_capacity;
static_assert(least_history > 4 * hold_capacity + 1);
// So that the last bits in a slot determine its event's number (try_copy_holds).
constexpr std::uint32_t most_history = std::uint32_t{1} << (detail::extra_bits - 1);
constexpr std::uint32_t least_motion_history = 64, most_motion_history = std::uint32_t{1} << 20;
static_assert(most_motion_history < MotionSlot::count_mask && most_motion_history <= 1U << (Slot::behind_bits - 2));
// In bytes. Its largest event is a device's shaping.
constexpr std::uint32_t least_ledger = 1U << 14, most_ledger = 1U << 30;
// The longest text, several times.
constexpr std::uint32_t least_text_history = 64;
static_assert(least_text_history * sizeof(detail::TextSlot::text) > 4 * text_capacity);
// All contacts may end at once.
constexpr std::uint32_t least_occasion_history = 4 * contact_capacity;

// The properties of a control that posting needs, in the form of its cell.
constexpr std::array<std::uint32_t, button_capacity> fresh_cells = [] {
    std::array<std::uint32_t, button_capacity> cells{};
    postable_buttons.for_each([&cells](Button button) {
        const unsigned name = either_side_of(button.number);
        const unsigned trait = is_mouse_button(button) ? Cell::mouse_button
                               : name == 0             ? Cell::plain_button
                                                       : Cell::either_side + name - first_either_side;
        cells[button.number] = trait << Cell::trait_shift | Cell::never_held;
    });
    for (unsigned i = first_of_axes; i < first_of_axes + buttons_of_axes; ++i)
        cells[i] = Cell::of_axes << Cell::trait_shift | Cell::never_held;
    return cells;
}();

std::uint32_t power_of_two(std::uint32_t asked, std::uint32_t least, std::uint32_t most) noexcept {
    return std::bit_ceil(std::clamp(asked, least, most));
}

detail::HistoryRoom room_for(const TimelineOptions& options) noexcept {
    return {.edges = power_of_two(options.history, least_history, most_history),
            .motions = power_of_two(options.motion_history, least_motion_history, most_motion_history),
            .axes = power_of_two(options.axis_history, least_motion_history, most_motion_history),
            .occasions = power_of_two(options.occasion_history, least_occasion_history, most_motion_history),
            .texts = power_of_two(options.text_history, least_text_history, most_motion_history),
            .ledger = options.ledger == 0 ? 0 : power_of_two(options.ledger, least_ledger, most_ledger)};
}

}  // namespace

InletCore::InletCore(const TimelineOptions& options, const Numbers& numbers, detail::DeviceDirectory& directory)
    : InletPosting{numbers, room_for(options)},
      directory_{&directory},
      clicks_{options.pointer, numbers.first_press, numbers.press_room, occasion_writer_, motion_writer_.pointer()} {
    recent_device_ = &devices_[numbers.device_room];  // no device: unknown, and never listens
    recent_device_->number = no_device;
    if (!options.desk_devices || numbers.inlet != 0) return;
    // The desk's devices exist before the first event; connect events would need a time.
    apply_connect(desk_keyboard,
                  {.kind = DeviceKind::keyboard, .name = "desk keyboard", .marks_repeats = options.desk_marks_repeats});
    apply_connect(desk_mouse, {.kind = DeviceKind::mouse, .name = "desk mouse"});
    if (options.down.empty()) return;
    begin(options.start.value_or(Clock::now()));
    adopt_desk(options.down);
    finish(Outcome::state_adopted);
}

// ---- posting

Outcome Inlet::state(DeviceId device, const ButtonSet& down, Time when, bool adopt) noexcept {
    return core_of(*this).post_state(device, &down, {}, adopt, when);
}

Outcome Inlet::state(DeviceId device, const ButtonSet& down, const AxisValues& axes, Time when, bool adopt) noexcept {
    return core_of(*this).post_state(device, &down, axes, adopt, when);
}

Outcome Inlet::lose_focus(Time when) noexcept { return core_of(*this).post_focus(false, nullptr, when); }
Outcome Inlet::gain_focus(const ButtonSet& down, Time when) noexcept {
    return core_of(*this).post_focus(true, &down, when);
}
Outcome Inlet::gain_focus(UnknownState, Time when) noexcept { return core_of(*this).post_focus(true, nullptr, when); }
Outcome Inlet::interrupt(const ButtonSet& down, Time when) noexcept {
    return core_of(*this).post_interrupt(&down, when);
}

Outcome InletCore::post_focus(bool has, const ButtonSet* down, Time when) noexcept {
    const OneThread here{guard_};
    begin(when);
    if (ledger_) ledger_->note_other(stamp(), Event::focus(when, has));
    const Outcome outcome = apply_focus(has);
    if (down && outcome == Outcome::focus_gained) adopt_desk(*down);
    return finish(outcome);
}

Outcome InletCore::post_interrupt(const ButtonSet* down, Time when) noexcept {
    const OneThread here{guard_};
    begin(when);
    if (ledger_) ledger_->note_other(stamp(), Event::interrupt(when));
    cancel_all({Reach::Kind::everything});
    for (unsigned i = 0; i < device_count_; ++i) devices_[i].adopt_next = devices_[i].adopt_axes_next = true;
    if (down) adopt_desk(*down);
    return finish(Outcome::interrupted);
}

// The buttons known to be down on the desk's devices.
void InletCore::adopt_desk(const ButtonSet& down) noexcept {
    ButtonSet of_mouse;
    (down & postable_buttons).for_each([&](Button button) {
        if (is_mouse_button(button)) of_mouse.insert(button);
    });
    for (const DeviceId id : {desk_keyboard, desk_mouse}) {
        Device* const device = find_device(id);
        if (!device || !device->listens) continue;
        device->adopt_next = false;
        const ButtonSet wanted = id == desk_mouse ? of_mouse : (down & postable_buttons) - of_mouse;
        if (ledger_) ledger_->note_state(stamp(), id, &wanted, {}, true, true);
        apply_polled_state(detail::DeviceKeys{buttons_, *device}, buttons_.down_on(*device) & postable_buttons, wanted,
                           true);
    }
}

Outcome InletCore::post_connect(DeviceId device, const DeviceInfo& info, Time when) noexcept {
    const OneThread here{guard_};
    begin(when);
    if (ledger_) ledger_->note_other(stamp(), Event::connect(when, device, info));
    const Outcome outcome = apply_connect(device, info);
    if (const Device* const known = find_device(device); known && outcome == Outcome::connected)
        occasion_writer_.write(*known, OccasionKind::connect, 0, 0, 0, {});
    return finish(outcome);
}

Outcome InletCore::post_disconnect(DeviceId id, Time when) noexcept {
    const OneThread here{guard_};
    begin(when);
    if (ledger_) ledger_->note_other(stamp(), Event::disconnect(when, id));
    Device* device = find_device(id);
    if (!device || !device->connected) return finish(Outcome::stray_device);
    cancel_all({Reach::Kind::one, device});
    device->connected = device->listens = false;
    device->show();
    // A disconnected mouse locks and hides nothing.
    if (device->is_outside || device->cursor != CursorState{}) {
        device->is_outside = false;
        device->cursor = {};
        write_pointer_flags(*device);
    }
    occasion_writer_.write(*device, OccasionKind::disconnect, 0, 0, 0, {});
    return finish(Outcome::disconnected);
}

bool InletCore::shows_connected(DeviceId id) const noexcept {
    const Device* const device = device_numbered(directory_->find(id));
    return device && device->is_known_as(id) && (device->flags.look() & Device::connected_flag) != 0;
}

bool InletCore::may_come_back(DeviceId id, const DeviceInfo& info) const noexcept {
    const Device* const device = device_numbered(directory_->find(id));
    if (!device || !device->is_known_as(id) || (device->flags.look() & Device::connected_flag) != 0) return false;
    const auto self = device->self.read();
    detail::SharedName name;  // cut as that one was
    name.set(info.name);
    return device->shared_kind() == info.kind && self.vendor == info.vendor && self.product == info.product &&
           name.read() == device->name.read();
}

void InletCore::report_complete(Time until) noexcept {
    const OneThread here{guard_};
    const std::int64_t time = std::min(nanoseconds(until), nanoseconds(latest_time));
    if (time > complete_until_.get()) complete_until_.publish(time);
}

Outcome Inlet::connect(DeviceId device, const DeviceInfo& info, Time when) noexcept {
    return core_of(*this).post_connect(device, info, when);
}
Outcome Inlet::disconnect(DeviceId device, Time when) noexcept { return core_of(*this).post_disconnect(device, when); }
Outcome Inlet::locks(const ButtonSet& on, Time when) noexcept { return core_of(*this).post_locks(on, when); }
Outcome Inlet::typed(std::string_view text, Button key, Time when) noexcept {
    return core_of(*this).post_text(Event::typed(when, text, key));
}
Outcome Inlet::compose(TextPhase phase, std::string_view text, unsigned caret, Time when) noexcept {
    return core_of(*this).post_text(Event::composed(when, phase, text, caret));
}
Outcome Inlet::post(const Event& event) noexcept { return core_of(*this).post_event(event); }
void Inlet::set_complete_until(Time until) noexcept { core_of(*this).report_complete(until); }
void Inlet::set_source_losses(std::uint64_t overflows, std::uint64_t unread_devices) noexcept {
    core_of(*this).set_source_losses(overflows, unread_devices);
}
void Inlet::set_ahead_limit(std::optional<Duration> limit) noexcept { core_of(*this).limit(limit); }

Time Inlet::complete_until() const noexcept { return core_of(*this).complete_until(); }
InletCounters Inlet::counters() const noexcept { return core_of(*this).counters(); }
bool Inlet::has_focus() const noexcept { return core_of(*this).focused_.get(); }
Time Inlet::latest() const noexcept { return core_of(*this).latest(); }
bool Inlet::is_connected(DeviceId device) const noexcept { return core_of(*this).shows_connected(device); }
std::uint64_t Inlet::count(Outcome outcome) const noexcept {
    return static_cast<unsigned>(outcome) < outcome_count ? core_of(*this).count_of(outcome) : 0;
}
DeviceId Inlet::free_device(DeviceId wanted) const noexcept {
    auto number = std::max(static_cast<std::uint32_t>(wanted), 1U);
    while (core_of(*this).is_known(DeviceId{number})) number += 1000;
    return DeviceId{number};
}
DeviceId Inlet::free_device(DeviceId wanted, const DeviceInfo& info) const noexcept {
    const InletCore& core = core_of(*this);
    auto number = std::max(static_cast<std::uint32_t>(wanted), 1U);
    while (core.is_known(DeviceId{number}) && !core.may_come_back(DeviceId{number}, info)) number += 1000;
    return DeviceId{number};
}

// ---- one event

// Cancels the buttons. Then contacts and axes come to rest, device by device.
void InletCore::cancel_all(Reach reach) noexcept {
    buttons_.cancel(reach);
    text_writer_.rest(reach.kind == Reach::Kind::one ? reach.one->number : detail::TextSlot::no_device);
    for (unsigned i = 0; i < device_count_; ++i) {
        if (!reach.includes(devices_[i])) continue;
        contact_writer_.rest(devices_[i]);
        axis_writer_.rest(devices_[i]);
    }
}

Outcome InletCore::not_listening(const Device* device) noexcept {
    if (!device) unknown_.add(1);
    return device && device->connected ? Outcome::ignored : Outcome::stray_device;
}

Outcome InletCore::post_event(const Event& event) noexcept {
    switch (event.type) {
        case EventType::connect: return connect(event.device, event.info, event.time);
        case EventType::disconnect: return disconnect(event.device, event.time);
        case EventType::button:
            return post_any_button(event.device, event.control, event.down, event.down && event.system_repeat,
                                   event.time);
        case EventType::state:
            return post_state(event.device, event.has_down_set ? &event.down_set : nullptr, event.axes, event.adopt,
                              event.time);
        case EventType::focus: return post_focus(event.focused, nullptr, event.time);
        case EventType::interrupt: return post_interrupt(nullptr, event.time);
        case EventType::motion: return post_motion(event);
        case EventType::wheel: return wheel(event.device, event.dx, event.dy, event.time);
        case EventType::axis: return axis(event.device, event.axis, event.value, event.time);
        case EventType::contact: return post_contact(event);
        case EventType::shaping: return set_shaping(event.device, event.shaping, event.time);
        case EventType::pointer: return post_pointer_flags(event);
        case EventType::locks: return locks(event.down_set, event.time);
        case EventType::text: return post_text(event);
    }
    return Outcome::unchanged;
}

Outcome InletCore::post_text(const Event& event) noexcept {
    const OneThread here{guard_};
    const auto [pressed, pressed_on] = key_just_pressed(nanoseconds(event.time));
    const Button key = name_of(event.control).empty() ? pressed : event.control;
    begin(event.time);
    const Device* const device = event.device == DeviceId{} ? nullptr : find_device(event.device);
    const unsigned number = device ? device->number : key && key == pressed ? pressed_on : detail::TextSlot::no_device;
    if (event.device == DeviceId{} ? !focused_.get() : !device || !device->listens)
        return finish(event.device == DeviceId{} ? Outcome::ignored : not_listening(device));
    return finish(text_writer_.write(number, event.text_phase, key, event.text, event.caret));
}

// Many systems report a character without its key, directly after the key's press or repeat.
std::pair<Button, unsigned> InletCore::key_just_pressed(std::int64_t time) const noexcept {
    constexpr std::int64_t longest = 50'000'000;
    constexpr std::uint64_t farthest = 64;  // events of other kinds in between
    for (std::uint64_t at = ring_.next(), end = at - std::min(at, farthest); at != end; --at) {
        const Slot slot{ring_.own(at - 1)};
        if (slot.time < time - longest) break;
        if (slot.what().kind() == SlotKind::plain || slot.what().kind() == SlotKind::late) continue;
        const bool is_of_keyboard = is_key({slot.button()});
        const bool is_down = slot.what().kind() == SlotKind::press || slot.what().kind() == SlotKind::system_repeat;
        return {is_of_keyboard && is_down ? Button{slot.button()} : Button{}, slot.device()};
    }
    return {Button{}, detail::TextSlot::no_device};
}

Outcome InletCore::post_locks(const ButtonSet& on, Time when) noexcept {
    const OneThread here{guard_};
    begin(when);
    if (ledger_) {
        Event event = Event::of(when, EventType::locks, {});
        event.down_set = on;
        ledger_->note_other(stamp(), event);
    }
    std::uint64_t bits = detail::locks_reported;
    for (std::size_t i = 0; i < detail::lock_keys.size(); ++i)
        bits |= std::uint64_t{on.contains(detail::lock_keys[i])} << i;
    locks_.set(bits);
    // Even if this inlet has reported the same before: another one may have reported a different state since.
    OccasionSlot occasion;
    occasion.what = OccasionSlot::what_of(OccasionKind::locks, 0, 0, 0);
    occasion.begin[0] = bits;
    occasion_writer_.write(occasion);
    return finish(Outcome::taken);
}

Outcome InletCore::post_state(DeviceId id, const ButtonSet* down, const AxisValues& axes, bool adopt,
                              Time when) noexcept {
    const OneThread here{guard_};
    begin(when);
    Device* const device = find_device(id);
    const bool listens = device && device->listens;
    if (ledger_)  // with what follows from the events before
        ledger_->note_state(stamp(), id, down, axes, adopt || (listens && device->adopt_next),
                            adopt || (listens && device->adopt_axes_next));
    if (!listens) return finish(not_listening(device));
    Outcome outcome = Outcome::taken;  // neither buttons nor axes are present
    if (down) {
        const bool adopts = std::exchange(device->adopt_next, false) || adopt;
        outcome = apply_polled_state(detail::DeviceKeys{buttons_, *device},
                                     buttons_.down_on(*device) & postable_buttons, *down & postable_buttons, adopts);
    }
    if (axes.present != 0) {
        const bool adopts = std::exchange(device->adopt_axes_next, false) || adopt;
        const Outcome of_axes = axis_writer_.apply(*device, axes, adopts);
        if (!down || of_axes != Outcome::taken) outcome = of_axes;
    }
    return finish(outcome);
}

Outcome InletCore::apply_focus(bool has) noexcept {
    if (has == focused_.get()) return Outcome::focus_unchanged;
    focused_.set(has);
    if (!has) cancel_all({Reach::Kind::foreground});
    for (unsigned i = 0; i < device_count_; ++i) {
        Device& device = devices_[i];
        if (device.background) continue;
        device.listens = device.connected && has;
        if (!has) continue;
        device.adopt_next = device.adopt_axes_next = true;
        device.has_position = false;
    }
    if (has) motion_writer_.forget_position();
    return has ? Outcome::focus_gained : Outcome::focus_lost;
}

// ---- devices

Outcome InletCore::apply_connect(DeviceId id, const DeviceInfo& info) noexcept {
    Device* device = find_device(id);
    if (device) {
        if (device->connected) return Outcome::stray_connect;
        if (device->kind != info.kind) return Outcome::stray_kind;
    } else {
        if (device_count_ == numbers_.device_room) return Outcome::refused_devices;
        if (const unsigned number = numbers_.first_device + device_count_; directory_->take(id, number) != number)
            return Outcome::stray_inlet;
        device = &devices_[device_count_];
        device->number = static_cast<std::uint8_t>(numbers_.first_device + device_count_++);
        device->id = id;
        device->kind = info.kind;
        for (unsigned i = 0; i < button_capacity; ++i) device->cells[i].set(fresh_cells[i]);
    }
    device->connected = true;
    device->marks_repeats = info.marks_repeats;
    device->background = info.background;
    device->listens = focused_.get() || info.background;
    device->is_virtual = info.is_virtual;
    device->adopt_next = device->adopt_axes_next = true;
    device->points = info.first_contact_points;
    device->has_position = device->is_outside = false;
    device->cursor = {};
    device->name.set(info.name);
    device->self.set({info.vendor, info.product, info.axes, info.buttons.words()});
    device->show();
    return Outcome::connected;
}

}  // namespace cursorum
