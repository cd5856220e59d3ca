
#include <algorithm>
#include <bit>
#include <cassert>
#include <utility>

#include "core/inlet/inlet_core.hpp"
#include "core/inlet/inlet_events.hpp"
#include "core/rings/one_thread.hpp"
#include "core/rules/button_rules.hpp"
#include "core/rules/either_side.hpp"
#include "core/rules/postable.hpp"

namespace cursorum {

using detail::Cell;
using detail::Device;
using detail::Effect;
using detail::FactKind;
using detail::FactSlot;
using detail::MotionSlot;
using detail::Slot;
using detail::SlotKind;
using detail::What;

namespace {

// One event may end and start every hold, each with a slot for an either-side name, and stand behind a late one.
constexpr std::uint32_t least_history = 8 * hold_capacity;
static_assert(least_history > 4 * hold_capacity + 1);
// So that a slot tells its event's number unmistakably by the last bits (read_standing).
constexpr std::uint32_t most_history = std::uint32_t{1} << (detail::extra_bits - 1);
constexpr std::uint32_t least_motion_history = 64, most_motion_history = std::uint32_t{1} << 20;
static_assert(most_motion_history < MotionSlot::count_mask && most_motion_history <= 1U << (Slot::behind_bits - 2));
// All contacts may end at once.
constexpr std::uint32_t least_fact_history = 4 * contact_capacity;

constexpr bool is_mouse_button(Button button) noexcept {
    return button.number >= first_mouse_button && button.number < end_of_mouse_buttons;
}
DeviceId desk_device(Button button) noexcept { return is_mouse_button(button) ? desk_mouse : desk_keyboard; }

// What posting has to know of a control, as a cell has it.
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

// The What of a release and of a press, the first slot of its event, of a button that no other device holds.
constexpr std::array<std::uint64_t, 2> edge_alone{
    std::uint64_t{What::of(SlotKind::release, Effect::release, true, false).bits} << 56,
    std::uint64_t{What::of(SlotKind::press, Effect::press, true, true).bits} << 56};

std::uint32_t power_of_two(std::uint32_t asked, std::uint32_t least, std::uint32_t most) noexcept {
    return std::bit_ceil(std::clamp(asked, least, most));
}

}  // namespace

namespace {

detail::HistoryRoom room_for(const TimelineOptions& options) noexcept {
    return {.edges = power_of_two(options.history, least_history, most_history),
            .motions = power_of_two(options.motion_history, least_motion_history, most_motion_history),
            .axes = power_of_two(options.axis_history, least_motion_history, most_motion_history),
            .occasions = power_of_two(options.fact_history, least_fact_history, most_motion_history)};
}

}  // namespace

detail::InletHistory::InletHistory(const Place& place, const HistoryRoom& room)
    : place_{place},
      latest_{nanoseconds(earliest_time)},
      complete_until_{nanoseconds(earliest_time)},
      devices_{std::make_unique<Device[]>(place.device_room + 1U)},
      ring_{room.edges},
      holds_{hold_capacity},
      motions_{room.motions},
      axes_{room.axes},
      facts_{room.occasions},
      axis_table_{place.track_room},
      tracks_{place.first_track, place.track_room},
      contact_table_{place.contact_room} {}

InletCore::InletCore(const TimelineOptions& options, const Place& place, detail::DeviceDirectory& directory)
    : InletHistory{place, room_for(options)}, pointer_settings_{options.pointer}, directory_{&directory} {
    recent_device_ = &devices_[place.device_room];  // nobody: never heard of, and never listens
    recent_device_->number = nobody;
    if (!options.desk_devices || place.inlet != 0) return;
    // The desk is there before the first event: no events of their own, which would need a time.
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
Outcome Inlet::interrupt(UnknownState, Time when) noexcept { return core_of(*this).post_interrupt(nullptr, when); }

Outcome InletCore::post_focus(bool has, const ButtonSet* down, Time when) noexcept {
    const OneThread here{door_};
    begin(when);
    const Outcome outcome = apply_focus(has);
    if (down && outcome == Outcome::focus_gained) adopt_desk(*down);
    return finish(outcome);
}

Outcome InletCore::post_interrupt(const ButtonSet* down, Time when) noexcept {
    const OneThread here{door_};
    begin(when);
    cancel_all(Reach::everything, nullptr);
    for (unsigned i = 0; i < device_count_; ++i) devices_[i].adopt_next = devices_[i].adopt_axes_next = true;
    if (down) adopt_desk(*down);
    return finish(Outcome::interrupted);
}

// What is known to be down on the desk's devices.
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
        apply_polled_state(Keys{*this, *device}, down_on(*device) & postable_buttons, wanted, true);
    }
}

Outcome InletCore::post_connect(DeviceId device, const DeviceInfo& info, Time when) noexcept {
    const OneThread here{door_};
    begin(when);
    const Outcome outcome = apply_connect(device, info);
    if (outcome == Outcome::connected) write_fact(*find_device(device), FactKind::connect, 0, 0, 0, {});
    return finish(outcome);
}

Outcome InletCore::post_disconnect(DeviceId id, Time when) noexcept {
    const OneThread here{door_};
    begin(when);
    Device* device = find_device(id);
    if (!device || !device->connected) return finish(Outcome::stray_device);
    cancel_all(Reach::device, device);
    device->connected = device->listens = false;
    device->show();
    if (device->is_outside || device->is_locked) {  // a mouse that is gone locks nothing
        device->is_outside = device->is_locked = false;
        write_pointer_flags(*device);
    }
    write_fact(*device, FactKind::disconnect, 0, 0, 0, {});
    return finish(Outcome::disconnected);
}

void InletCore::report_complete(Time until) noexcept {
    const OneThread here{door_};
    const std::int64_t time = std::min(nanoseconds(until), nanoseconds(latest_time));
    if (time > complete_until_.get()) complete_until_.publish(time);
}

void InletCore::limit_ahead(std::optional<Duration> limit) noexcept {
    const OneThread here{door_};
    ahead_limit_ = limit ? std::max<std::int64_t>(limit->count(), 0) : -1;
    accepted_until_ = limit ? nanoseconds(earliest_time) : nanoseconds(latest_time);
}

Outcome Inlet::connect(DeviceId device, const DeviceInfo& info, Time when) noexcept {
    return core_of(*this).post_connect(device, info, when);
}
Outcome Inlet::disconnect(DeviceId device, Time when) noexcept { return core_of(*this).post_disconnect(device, when); }
Outcome Inlet::locks(const ButtonSet& on, Time when) noexcept { return core_of(*this).post_locks(on, when); }
Outcome Inlet::post(const Event& event) noexcept { return core_of(*this).post_event(event); }
void Inlet::set_complete_until(Time until) noexcept { core_of(*this).report_complete(until); }
void Inlet::set_ahead_limit(std::optional<Duration> limit) noexcept { core_of(*this).limit_ahead(limit); }

Time Inlet::complete_until() const noexcept { return core_of(*this).complete_until(); }
InletCounters Inlet::counters() const noexcept { return core_of(*this).counters(); }
bool Inlet::has_focus() const noexcept { return core_of(*this).focused_.get(); }
Time Inlet::latest() const noexcept { return core_of(*this).latest(); }

// ---- one event

// The stamp of an event that is stamped beyond accepted_until_, or out of range.
std::int64_t InletCore::accepted(std::int64_t stamp) noexcept {
    std::int64_t time = within_time(stamp);
    if (time != stamp) clamped_.add(1);
    if (time <= accepted_until_) return time;
    // The clock is read here alone: an event within the limit as it was last worked out needs no look at it.
    const std::int64_t now = nanoseconds(Clock::now());
    accepted_until_ = now + std::min(ahead_limit_, nanoseconds(latest_time) - now);
    if (time > accepted_until_) {
        ahead_.add(1);
        time = accepted_until_;
    }
    return time;
}

// What is out of range or ahead, and what is stamped earlier than its predecessor.
void InletCore::begin_oddly(std::int64_t stamp) noexcept {
    const std::int64_t time = accepted(stamp);
    stamp_ = time;
    if (time >= latest_.get()) return latest_.set(time);
    backdated_.add(1);
    const auto write_late = [this](std::int64_t stamp_before, std::uint64_t behind, bool is_first) {
        ring_.write(Slot::late(stamp_before, next_low(no_hold_there, false) | detail::unusual_bit, behind, is_first));
        ++late_slots_;
    };
    // A sampler must not meet it before those axes, and they have no slot here that would stop it.
    if (lone_axes_time_ > time) write_late(lone_axes_time_, lone_axes_end_, false);
    late_at_ = ring_.next();
    write_late(time, motions_.next(), true);
}

// Most events are a press or release of a plain key that no other device holds, in time, on the device that spoke last.
// Those go straight through, by the same rules in fewer steps: this is what posting costs.
inline Outcome InletCore::post_button(DeviceId id, Button button, bool down, Time when) noexcept {
    Device& device = *recent_device_;
    const std::int64_t time = nanoseconds(when);
    if (device.id != id || !device.listens || button.number >= button_capacity || time < latest_.get() ||
        time > accepted_until_) [[unlikely]]
        return post_any_button(id, button, down, false, when);
    const Cell cell = device.cell(button);
    Holders& holders = holders_[button.number];
    // Nobody before a press, itself before a release; by arithmetic, since no processor could guess which it is.
    const unsigned itself = adopted_holder + cell.is_pressed() * (pressed_holder - adopted_holder);
    if (!cell.is_usual(down) || holders != (itself & (unsigned{down} - 1))) [[unlikely]]
        return post_any_button(id, button, down, false, when);

    const OneThread here{door_};
    const Cell turned = cell.turned(down);
    const unsigned hold = cell.hold();
    const Slot slot{time, device.slot_bits | std::uint64_t{button.number} << 32 | hold |
                              static_cast<std::uint32_t>(extra_slots_.get()) << detail::extra_shift | edge_alone[down]};
    latest_.set(time);
    holders = static_cast<Holders>(down * pressed_holder);
    device.set(button, turned);
    ring_.write_and_publish(slot);
    holds_.show(hold, slot);
    return down ? Outcome::press : Outcome::release;
}

static bool can_have(unsigned trait) noexcept { return trait != 0 && trait != Cell::of_axes; }

Outcome InletCore::post_any_button(DeviceId id, Button button, bool down, bool marked, Time when) noexcept {
    const OneThread here{door_};
    begin(when);
    Device* const device = find_device(id);
    if (!device || !device->listens) return finish(deaf(device));
    if (button.number >= button_capacity || !can_have(device->cell(button).trait()))
        return finish(Outcome::refused_control);
    return finish(apply_button(Keys{*this, *device}, button, down, marked));
}

Outcome Inlet::button(Button control, bool down, Time when) noexcept {
    return core_of(*this).post_button(desk_device(control), control, down, when);
}

Outcome Inlet::state(const ButtonSet& down, Time when) noexcept {
    ButtonSet of_mouse;
    down.for_each([&](Button button) {
        if (is_mouse_button(button)) of_mouse.insert(button);
    });
    const Outcome outcome = state(desk_keyboard, down - of_mouse, when);
    state(desk_mouse, of_mouse, when);
    return outcome;
}

Outcome Inlet::set_level(Button control, bool down, Time when) noexcept {
    return set_level(desk_device(control), control, down, when);
}

Outcome Inlet::set_level(DeviceId device, Button control, bool down, Time when) noexcept {
    const Device* const known = core_of(*this).find_device(device);
    if (known && known->listens && control.number < button_capacity && known->cell(control).is_down() == down)
        return Outcome::unchanged;
    return button(device, control, down, when);
}

Outcome Inlet::system_repeat(Button control, Time when) noexcept {
    return core_of(*this).post_any_button(desk_device(control), control, true, true, when);
}

Outcome Inlet::button(DeviceId device, Button control, bool down, Time when) noexcept {
    return core_of(*this).post_button(device, control, down, when);
}

Outcome Inlet::system_repeat(DeviceId device, Button control, Time when) noexcept {
    return core_of(*this).post_any_button(device, control, true, true, when);
}

Outcome InletCore::deaf(const Device* device) noexcept {
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
        case EventType::text: break;
    }
    const OneThread here{door_};
    begin(event.time);
    return finish(focused_.get() ? Outcome::taken : Outcome::ignored);
}

Outcome InletCore::post_locks(const ButtonSet& on, Time when) noexcept {
    const OneThread here{door_};
    begin(when);
    std::uint64_t bits = detail::locks_told;
    for (std::size_t i = 0; i < detail::lock_keys.size(); ++i)
        bits |= std::uint64_t{on.contains(detail::lock_keys[i])} << i;
    locks_.set(bits);
    // Also if this inlet has said so before: another one may have said otherwise since.
    FactSlot fact;
    fact.time = latest_.get();
    fact.late_at = late_at_;
    fact.what = FactSlot::what_of(FactKind::locks, 0, 0, 0);
    fact.begin[0] = bits;
    facts_.write_and_publish(fact);
    beside_.publish(beside_.get() + 1);
    return finish(Outcome::taken);
}

Outcome InletCore::post_state(DeviceId id, const ButtonSet* down, const AxisValues& axes, bool adopt,
                              Time when) noexcept {
    const OneThread here{door_};
    begin(when);
    Device* const device = find_device(id);
    if (!device || !device->listens) return finish(deaf(device));
    Outcome outcome = Outcome::taken;  // nothing is told
    if (down) {
        const bool adopts = std::exchange(device->adopt_next, false) || adopt;
        outcome = apply_polled_state(Keys{*this, *device}, down_on(*device) & postable_buttons,
                                     *down & postable_buttons, adopts);
    }
    if (axes.present != 0) {
        const bool adopts = std::exchange(device->adopt_axes_next, false) || adopt;
        const Outcome of_axes = apply_axes(*device, axes, adopts);
        if (!down || of_axes != Outcome::taken) outcome = of_axes;
    }
    return finish(outcome);
}

Outcome InletCore::apply_focus(bool has) noexcept {
    if (has == focused_.get()) return Outcome::focus_unchanged;
    focused_.set(has);
    if (!has) cancel_all(Reach::foreground, nullptr);
    for (unsigned i = 0; i < device_count_; ++i) {
        Device& device = devices_[i];
        if (device.background) continue;
        device.listens = device.connected && has;
        if (!has) continue;
        device.adopt_next = device.adopt_axes_next = true;
        device.has_position = false;
    }
    if (has) pointer_fresh_ = false;
    return has ? Outcome::focus_gained : Outcome::focus_lost;
}

// ---- devices

Outcome InletCore::apply_connect(DeviceId id, const DeviceInfo& info) noexcept {
    Device* device = find_device(id);
    if (device) {
        if (device->connected) return Outcome::stray_connect;
        if (device->kind != info.kind) return Outcome::stray_kind;
    } else {
        if (device_count_ == place_.device_room) return Outcome::refused_devices;
        if (const unsigned number = place_.first_device + device_count_; directory_->take(id, number) != number)
            return Outcome::stray_inlet;
        device = &devices_[device_count_];
        device->number = static_cast<std::uint8_t>(place_.first_device + device_count_++);
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
    device->has_position = device->is_locked = device->is_outside = false;
    device->name.set(info.name);
    device->self.set({info.vendor, info.product, info.axes, info.buttons.words()});
    device->show();
    return Outcome::connected;
}

// ---- holds

// A button keeps its hold from press to press, so that a sampler which missed some of them still speaks of the same.
bool InletCore::try_bind_hold(Device& device, Button button) noexcept {
    for (unsigned tried = 0; tried < place_.hold_room; ++tried) {
        const unsigned place = next_hold_;
        next_hold_ = (next_hold_ + 1) % place_.hold_room;
        Bound& bound = bound_[place];
        if (bound.device) {
            const Cell old = bound.device->cell(bound.button);
            if (old.is_down()) continue;
            bound.device->set(bound.button, old.with_hold(Cell::hold_lost));
        }
        bound = {&device, button};
        holds_used_ = std::max(holds_used_, place + 1);
        device.set(button, device.cell(button).with_hold(place_.first_hold + place));
        return true;
    }
    return false;
}

ButtonSet InletCore::down_on(const Device& device) const noexcept {
    ButtonSet down;
    for (unsigned i = 0; i < holds_used_; ++i)
        if (const Bound& bound = bound_[i]; bound.device == &device && device.cell(bound.button).is_down())
            down.insert(bound.button);
    return down;
}

bool InletCore::reaches(Reach reach, const Device* only, const Device& device) noexcept {
    return reach == Reach::everything || (reach == Reach::device ? &device == only : !device.background);
}

// Buttons by device, then by name; then what else is going on there, and axes go to rest.
void InletCore::cancel_all(Reach reach, Device* only) noexcept {
    struct Key {
        std::uint64_t order;
        unsigned hold;
    };
    std::array<Key, hold_capacity> keys;
    unsigned count = 0;
    for (unsigned i = 0; i < holds_used_; ++i) {
        const auto& [device, button] = bound_[i];
        if (!reaches(reach, only, *device) || !device->cell(button).is_down()) continue;
        const std::uint64_t rank = std::uint64_t{name_rank(button)} << 16 | button.number;
        keys[count++] = {std::uint64_t{static_cast<std::uint32_t>(device->id)} << 32 | rank, i};
    }
    std::sort(keys.begin(), keys.begin() + count, [](const Key& a, const Key& b) { return a.order < b.order; });
    for (unsigned i = 0; i < count; ++i) {
        const Bound& bound = bound_[keys[i].hold];
        edge(SlotKind::cancel, *bound.device, bound.button);
    }
    for (unsigned i = 0; i < device_count_; ++i)
        if (reaches(reach, only, devices_[i])) rest(devices_[i]);
}

// ---- from any thread

InletCounters detail::InletHistory::counters() const noexcept {
    const auto count = [this](auto... outcomes) { return (outcomes_[static_cast<unsigned>(outcomes)].get() + ...); };
    return {.events =
                ring_.published() - extra_slots_.get() + motions_.published() - extra_motions_.get() + lone_axes_.get(),
            .strays = count(Outcome::stray_release, Outcome::stray_device, Outcome::stray_connect, Outcome::stray_kind,
                            Outcome::stray_inlet, Outcome::stray_contact),
            .ignored = count(Outcome::ignored),
            .refused = count(Outcome::refused_devices, Outcome::refused_holds, Outcome::refused_control,
                             Outcome::refused_value, Outcome::refused_axes, Outcome::refused_contacts),
            .system_repeats = count(Outcome::system_repeat, Outcome::adopted_repeat),
            .lost_releases = count(Outcome::lost_release),
            .backdated = backdated_.get(),
            .clamped = clamped_.get(),
            .ahead = ahead_.get(),
            .interruptions = count(Outcome::interrupted),
            .focus_losses = count(Outcome::focus_lost),
            .limited = limited_.get()};
}

bool detail::InletHistory::try_read_standing(Standing& standing) const noexcept {
    Slot last{};
    std::uint64_t about = 0;
    const bool is_whole = detail::try_often([&] {
        about = extra_slots_.get();
        return holds_.try_read(ring_, place_.first_hold, place_.hold_room, standing.holds.data(), standing.position,
                               last);
    });
    if (!is_whole) return false;
    // The whole number that ends in the last slot's bits and is nearest to `about`, which is less than a round off.
    constexpr std::uint64_t half = std::uint64_t{1} << (detail::extra_bits - 1);
    const std::uint64_t least = about - half;
    const std::uint64_t extra = least + ((detail::extra_of(last.low()) - least) & (2 * half - 1));
    standing.events = standing.position == 0 ? 0 : standing.position - extra;
    return true;
}

}  // namespace cursorum
