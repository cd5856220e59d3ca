// A stretch of recent input: first events that make what was so at its beginning, then those that came, frame by frame.
#include <algorithm>
#include <cmath>
#include <map>
#include <utility>
#include <vector>

#include "core/rules/merging.hpp"
#include "core/rules/shaping_formulas.hpp"
#include "cursorum/core/controls.hpp"
#include "why/recent_parts.hpp"

namespace cursorum {
namespace {

using detail::FrameLevels;

/// Makes a checkpoint's state by events.
class Beginning {
public:
    Beginning(const RecentParts& parts, const Checkpoint& begin, std::vector<Stretch::First>& events)
        : parts_{parts}, begin_{begin}, levels_{begin.levels}, events_{events} {}

    void make() {
        for (unsigned i = 0; i < levels_.connected_count; ++i) connect(levels_.connected[i]);
        // A device that is unplugged is known all the same: its shaping holds, and may be set.
        const std::vector<DeviceStatus> connected = devices_;
        for (const auto& it : begin_.shapings) {
            const DeviceId id = it.first;
            const auto is_it = [id](const DeviceStatus& other) { return other.id == id; };
            if (std::any_of(connected.begin(), connected.end(), is_it)) continue;
            connect(id);
            if (devices_.size() == connected.size()) continue;
            send(Event::disconnect(time_at(levels_.time - 1), id), devices_.back().inlet);
            devices_.pop_back();
        }
        if (!levels_.locks.empty()) {
            Event event = Event::of(time(), EventType::locks, {});
            event.down_set = levels_.locks;
            send(event, 0);
        }
        for (const DeviceStatus& device : devices_) set_levels(device);
        for (unsigned i = 0; i < levels_.contact_count; ++i) {
            const FrameLevels::ContactLevel& contact = levels_.contacts[i];
            Event event = Event::of(time(), EventType::contact, contact.device);
            event.contact = contact.contact;
            event.phase = ContactPhase::begin;
            event.x = contact.position.x, event.y = contact.position.y, event.value = contact.pressure;
            send(event, inlet_of(contact.device));
        }
        const auto mouse = std::find_if(devices_.begin(), devices_.end(),
                                        [](const DeviceStatus& it) { return it.kind == DeviceKind::mouse; });
        if (mouse != devices_.end()) {
            if (levels_.has_pointer) send(Event::moved_to(time(), mouse->id, levels_.pointer), mouse->inlet);
            if (levels_.wheel_carried != Distance{})
                send(Event::wheel(time(), mouse->id, levels_.wheel_carried), mouse->inlet);
        }
        for (unsigned i = 0; i < parts_.ledgers.size(); ++i)
            if ((begin_.focus >> i & 1) == 0) send(Event::focus(time(), false), i);
    }

private:
    Time time() const noexcept { return time_at(levels_.time); }
    void send(const Event& event, unsigned inlet) { events_.push_back({inlet, event, std::string{event.info.name}}); }
    unsigned inlet_of(DeviceId id) const {
        for (const DeviceStatus& device : devices_)
            if (device.id == id) return device.inlet;
        return 0;
    }

    void connect(DeviceId id) {
        const std::optional<DeviceStatus> status = parts_.timeline.find_device(id);
        if (!status) return;
        devices_.push_back(*status);
        Event event = Event::of(time_at(levels_.time - 1), EventType::connect, id);
        event.info = {.kind = status->kind,
                      .name = status->name(),
                      .marks_repeats = status->marks_repeats,
                      .background = status->background,
                      .is_virtual = status->is_virtual,
                      .vendor = status->vendor,
                      .product = status->product,
                      .buttons = status->buttons,
                      .axes = status->axes};
        send(event, status->inlet);
        if (const DeviceShaping shaping = shaping_of(id); shaping != DeviceShaping{})
            send(Event::shaped(event.time, id, shaping), status->inlet);
    }
    DeviceShaping shaping_of(DeviceId id) const {
        for (const auto& [device, shaping] : begin_.shapings)
            if (device == id) return shaping;
        return {};
    }

    /// Also of a device that has nothing down: its next state is not its first one.
    void set_levels(const DeviceStatus& device) {
        Event event = Event::state(time(), device.id, {}, true);
        for (unsigned i = 0; i < levels_.hold_count; ++i)
            if (const HoldBeginning& hold = levels_.holds[i]; hold.device == device.id && is_posted(hold.button))
                event.down_set.insert(hold.button);
        bool any_axis = false;
        for (unsigned i = 0; i < levels_.axis_count; ++i) {
            const FrameLevels::AxisLevel& axis = levels_.axes[i];
            // An axis at zero may never have been posted; it is not, unless that makes no difference.
            if (axis.device == device.id && (axis.value != 0 || axis.shaped == 0)) any_axis = true;
            if (axis.device == device.id && axis.value != 0) event.axes.set(axis.axis, axis.value);
        }
        const std::uint32_t pushed = push_first(device, event.axes);
        for (std::uint8_t axis = 0; axis < axis_kinds; ++axis)
            if ((pushed >> axis & 1) != 0 && !event.axes.has(axis)) event.axes.set(Axis{axis}, 0);  // and back
        if (any_axis && event.axes.present == 0) add_axis_at_rest(device, event.axes);
        send(event, device.inlet);
    }
    static bool is_posted(Button button) noexcept { return button.number < first_of_axes; }

    // So that axes were polled: one that is at zero, and is so by its shaping, too.
    void add_axis_at_rest(const DeviceStatus& device, AxisValues& axes) const {
        const DeviceShaping shaping = shaping_of(device.id);
        for (unsigned i = 0; i < levels_.axis_count; ++i) {
            const Axis axis = levels_.axes[i].axis;
            if (levels_.axes[i].device != device.id) continue;
            const bool rests = axis.number < 2 * stick_kinds
                                   ? shape(shaping.sticks[axis.number / 2], Vector2{}) == Vector2{}
                                   : !is_pull(axis) || shape(shaping.pulls[axis.number - 2 * stick_kinds], 0) == 0;
            if (rests) return axes.set(axis, 0);
        }
    }

    bool holds(const DeviceStatus& device, Button button) const {
        for (unsigned i = 0; i < levels_.hold_count; ++i)
            if (levels_.holds[i].device == device.id && levels_.holds[i].button == button) return true;
        return false;
    }

    // A trigger or stick that is down as a button stays so between its thresholds: so it is first pushed to where that
    // is certain. Returns which axes were.
    std::uint32_t push_first(const DeviceStatus& device, const AxisValues& axes) {
        AxisValues pushed;
        for (std::uint8_t axis = 2 * stick_kinds; axis < axis_kinds; ++axis)
            for (const AxisSide side : {AxisSide::positive, AxisSide::negative})
                if (holds(device, axis_button(Axis{axis}, side)))
                    pushed.set(Axis{axis}, side == AxisSide::positive ? 1 : -1);
        for (std::uint8_t number = 0; number < stick_kinds; ++number) push_stick(device, Stick{number}, axes, pushed);
        if (pushed.present == 0) return 0;
        // Before, since axes of one time count together.
        Event event = Event::of(time_at(levels_.time - 1), EventType::state, device.id);
        event.axes = pushed;
        event.adopt = true;
        send(event, device.inlet);
        return pushed.present;
    }

    /// Searches for a position from which the stick, moved to its present position, is down in exactly these
    /// directions.
    void push_stick(const DeviceStatus& device, Stick stick, const AxisValues& axes, AxisValues& pushed) const {
        unsigned directions = 0;
        for (unsigned i = 0; i < 4; ++i)
            directions |= unsigned{holds(device, direction_button(stick, static_cast<Direction>(i)))} << i;
        if (directions == 0) return;
        const DeviceShaping shaping = shaping_of(device.id);
        const StickShaping& its = shaping.sticks[stick.number];
        const auto directions_at = [&](Vector2 raw, std::uint8_t before) {
            return directions_of(shape(its, raw), before, its.directions, shaping.thresholds);
        };
        const Vector2 here{axes.has(stick.x().number) ? axes.values[stick.x().number] : 0,
                           axes.has(stick.y().number) ? axes.values[stick.y().number] : 0};
        constexpr int steps = 72;
        for (const double length : {1.0, 0.85, 0.7, 0.6})
            for (int i = 0; i < steps; ++i) {
                const double angle = 2 * 3.14159265358979 * i / steps;
                const Vector2 from{length * std::cos(angle), length * std::sin(angle)};
                if (directions_at(here, directions_at(from, 0)) != directions) continue;
                pushed.set(stick.x(), from.x);
                pushed.set(stick.y(), from.y);
                return;
            }
    }

    const RecentParts& parts_;
    const Checkpoint& begin_;
    const FrameLevels& levels_;
    std::vector<Stretch::First>& events_;
    std::vector<DeviceStatus> devices_;
};

RecordedCheckpoint recorded(const RecentParts& parts, const Checkpoint& at, Time zero) {
    RecordedCheckpoint all;
    const FrameLevels& levels = at.levels;
    // The beginning of a merged button's hold, if it does not follow from the devices that hold it now.
    std::map<std::uint16_t, HoldStart> merged;
    for (unsigned i = 0; i < levels.hold_count; ++i) {
        const HoldBeginning& hold = levels.holds[i];
        all.holds.push_back(hold);
        const auto [it, is_first] = merged.try_emplace(hold.button.number);
        it->second.add({nanoseconds(hold.since), hold.adopted}, is_first);
    }
    levels.down.for_each([&](Button button) {
        const HoldStart its{levels.since[button.number], levels.adopted.contains(button)};
        const auto known = merged.find(button.number);
        if (known == merged.end() || known->second.time != its.time || known->second.adopted != its.adopted)
            all.holds.push_back({{}, button, time_at(its.time), its.adopted});
    });
    if (at.bindings != detail::ReaderAccess::bindings(parts.reader)) return all;
    for (detail::ReaderFact& fact : detail::ReaderAccess::facts_of(parts.reader, at.reader)) {
        const bool is_of_button =
            fact.name.starts_with("owner/") || fact.name.starts_with("turn/") || fact.name.starts_with("seat/");
        if (is_of_button) {
            bool is_kept = false;
            const Button button = find_button(std::string_view{fact.name}.substr(fact.name.find('/') + 1));
            physical_buttons(button).for_each(
                [&](Button key) { is_kept |= key.number >= first_of_axes || at.kept.contains(key); });
            if (!is_kept) continue;
        }
        if (fact.is_time) fact.number -= nanoseconds(zero), fact.real = static_cast<double>(fact.number);
        all.facts.push_back({std::move(fact.name), std::move(fact.text), fact.number, fact.real});
    }
    return all;
}

std::string action_name(const detail::LoggedCall& logged, const ActionReader& reader) {
    using Kind = detail::LoggedCall::Kind;
    const bool names_one = logged.kind == Kind::area || logged.kind == Kind::take_press;
    return names_one ? reader.name_of(ButtonAction{logged.number}) : std::string{};
}

/// The part of a device that a seat has; nothing for all of it. Of a keyboard, only keys matter.
ButtonSet part_of(const detail::SeatShare& share, const Timeline& timeline) {
    const std::optional<DeviceStatus> device = timeline.find_device(share.device);
    const bool is_keyboard = device && device->kind == DeviceKind::keyboard;
    const ButtonSet keys = left_half() | right_half(), part = is_keyboard ? share.part & keys : share.part;
    return share.is_all || (is_keyboard && part == keys) ? ButtonSet{} : part;
}

RecordedCall recorded(const detail::LoggedCall& logged, const RecentParts& parts) {
    const ActionReader& reader = parts.reader;
    using Kind = detail::LoggedCall::Kind;
    RecordedCall call;
    call.begins = logged.kind == Kind::open || logged.kind == Kind::claim || logged.kind == Kind::share ||
                  logged.area.has_value();
    if (logged.kind == Kind::open || logged.kind == Kind::close) {
        call.mode = reader.name_of(ModeHandle{static_cast<std::uint8_t>(logged.number)});
        return call;
    }
    if (logged.kind == Kind::area) {
        if (logged.area) call.area = logged.area->rect, call.outside = logged.area->outside;
        return call;
    }
    if (logged.kind == Kind::take_press) {
        call.takes_press = true;
        return call;
    }
    if (logged.kind == Kind::share || logged.kind == Kind::end_share) {
        call.is_seat = true;
        call.device = logged.share.device;
        if (call.begins) call.buttons = part_of(logged.share, parts.timeline);
        return call;
    }
    call.claim = logged.number;
    call.everything = logged.claim.everything;
    call.axes = logged.claim.axes;
    call.motion = logged.claim.motion;
    call.wheel = logged.claim.wheel;
    call.buttons = logged.claim.buttons;
    call.device = logged.claim.device;
    return call;
}

/// The events of one frame, in the order in which the sampler took them: by effective time, then by inlet.
bool play_events(const Stretch& stretch, std::size_t number, StretchSink& sink) {
    struct Place {
        std::int64_t effective;
        unsigned inlet;
        std::uint64_t position;
    };
    std::vector<Place> places;
    const std::size_t count = stretch.ledgers.size();
    for (unsigned i = 0; i < count; ++i) {
        std::int64_t effective = nanoseconds(stretch.cuts[number - 1].end);
        const std::uint64_t end = stretch.positions[number * count + i];
        for (std::uint64_t at = stretch.positions[(number - 1) * count + i]; at < end;) {
            const detail::Ledger::Glance event = stretch.ledgers[i]->glance(at);
            if (!stretch.ledgers[i]->still_has(at)) return false;
            effective = std::max(effective, event.stamp);
            if (!sink.ignores(event)) places.push_back({effective, i, at});
            at = event.next;
        }
    }
    if (count > 1)
        std::stable_sort(places.begin(), places.end(),
                         [](const Place& a, const Place& b) { return a.effective < b.effective; });
    detail::LedgerEvent event;
    for (const Place& place : places) {
        if (!stretch.ledgers[place.inlet]->read(place.position, event)) return false;
        sink.event(place.inlet, event);
    }
    return true;
}

}  // namespace

Time beginning_of(const Checkpoint& begin) noexcept {
    std::int64_t zero = begin.levels.time - 1;
    for (unsigned i = 0; i < begin.levels.hold_count; ++i)
        zero = std::min(zero, nanoseconds(begin.levels.holds[i].since));
    begin.levels.down.for_each([&](Button button) { zero = std::min(zero, begin.levels.since[button.number]); });
    return time_at(zero);
}

Stretch stretch_of(const RecentParts& parts, const Checkpoint& begin, std::uint64_t last, Time zero) {
    Stretch all;
    all.ledgers.assign(parts.ledgers.begin(), parts.ledgers.end());
    Beginning{parts, begin, all.first}.make();
    all.states.push_back({0, recorded(parts, begin, zero)});
    all.number = begin.cut;
    all.cuts.reserve(last - begin.cut + 1);
    all.positions.reserve((last - begin.cut + 1) * all.ledgers.size());
    if (begin.is_by_seat) {
        const auto add = [&](detail::LoggedCall::Kind kind, const detail::SeatShare& share) {
            all.calls.push_back({1, time_at(begin.levels.time), recorded({.kind = kind, .share = share}, parts), {}});
        };
        add(detail::LoggedCall::Kind::end_share, {});
        for (unsigned i = 0; i < begin.share_count; ++i) add(detail::LoggedCall::Kind::share, begin.shares[i]);
    }
    for (std::uint64_t number = begin.cut; number <= last; ++number) {
        const RecentParts::Cut& cut = parts.cut(number);
        const std::span<const std::uint64_t> ends = parts.ends(number);
        all.positions.insert(all.positions.end(), ends.begin(), ends.end());
        if (number == begin.cut) {
            const Time first = time_at(begin.levels.time);
            all.cuts.push_back({first, first, first});
            continue;
        }
        for (std::uint64_t i = parts.cut(number - 1).calls; i < cut.calls; ++i)
            all.calls.push_back({all.cuts.size(), time_at(parts.log[i].time), recorded(parts.log[i], parts),
                                 action_name(parts.log[i], parts.reader)});
        if (cut.has_new_bindings)
            parts.for_each_checkpoint([&](const Checkpoint& it) {
                if (it.cut == number) all.states.push_back({all.cuts.size(), recorded(parts, it, zero)});
                return it.cut > number;
            });
        Tick tick{time_at(parts.cut(number - 1).frame.end), time_at(cut.frame.begin), time_at(cut.frame.end)};
        if (cut.frame.is_paused) {
            tick.gap = Tick::Gap::paused;
            tick.gap_from = time_at(cut.frame.pause);
        } else if (cut.frame.has_gap) {
            tick.gap = Tick::Gap::stalled;
        }
        all.cuts.push_back(tick);
    }
    return all;
}

bool play(const Stretch& stretch, StretchSink& sink) {
    for (const Stretch::First& it : stretch.first) {
        detail::LedgerEvent sent;
        sent.event = it.event;
        sent.event.info.name = it.name;
        sink.event(it.inlet, sent);
    }
    auto call = stretch.calls.begin();
    auto state = stretch.states.begin();
    for (std::size_t i = 0; i < stretch.cuts.size(); ++i) {
        for (; call != stretch.calls.end() && call->cut == i; ++call) {
            RecordedCall made = call->call;
            made.action = call->action;
            sink.call(call->time, made);
        }
        if (i != 0 && !play_events(stretch, i, sink)) return false;
        for (; state != stretch.states.end() && state->cut == i; ++state)
            sink.checkpoint(state->checkpoint, stretch.cuts[i].end);
        if (!sink.cut(stretch.number + i, stretch.cuts[i])) return true;
    }
    return true;
}

}  // namespace cursorum
