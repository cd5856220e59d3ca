// Writes the entries of RecentInput as a recording that begins in the middle: first a checkpoint with what was down,
// then what each frame took, by the writer of all recordings.
#include <algorithm>
#include <cmath>
#include <iterator>
#include <map>
#include <ostream>
#include <utility>

#include "core/rules/merging.hpp"
#include "core/rules/shaping_formulas.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/recording/recording_writer.hpp"
#include "why/recent_parts.hpp"

namespace cursorum {
namespace {

Time at(std::int64_t nanoseconds) noexcept { return Time{Duration{nanoseconds}}; }

/// Writes the entries as events that have the same effect on a replay's timeline as on the game's.
class RecentWriter {
public:
    RecentWriter(const RecentParts& parts, const Checkpoint& begin, std::ostream& out)
        : parts_{parts}, begin_{begin}, frame_{core_of(parts.sampler.frame())}, writer_{out, at(find_zero())} {}

    void write(std::string_view title) {
        writer_.header(title);
        write_devices();
        write_levels();
        writer_.checkpoint(at(begin_.time), checkpoint());
        writer_.frame(at(begin_.time));
        last_end_ = begin_.time;
        std::vector<Entry> frame;
        for (std::uint64_t i = begin_.at; i != parts_.written; ++i) {
            const Entry& entry = entry_at(i);
            frame.push_back(entry);
            if (entry.type != EntryType::frame) continue;
            write_frame(frame);
            frame.clear();
        }
    }

private:
    using Type = EntryType;

    const Entry& entry_at(std::uint64_t number) const { return parts_.entries[number & (parts_.entries.size() - 1)]; }

    // The recording's time 0, before every hold.
    std::int64_t find_zero() const {
        std::int64_t zero = begin_.time - 1;
        for (const detail::Slot& hold : begin_.holds)
            if (hold.is_held()) zero = std::min(zero, hold.time);
        ButtonSet{begin_.levels}.for_each([&](Button button) { zero = std::min(zero, begin_.start[button.number]); });
        return zero;
    }

    // ---- where it begins

    DeviceStatus status_of(DeviceId id) const {
        DeviceStatus unknown;
        unknown.id = id;
        return parts_.timeline.find_device(id).value_or(unknown);
    }

    void connect(DeviceId id, Time time) {
        const DeviceStatus status = status_of(id);
        Event event = Event::of(time, EventType::connect, id);
        // The recording has no focus lines: the effects of focus are in it as cancels and adopts.
        event.info = {.kind = status.kind,
                      .name = status.name(),
                      .marks_repeats = status.marks_repeats,
                      .background = status.background,
                      .is_virtual = status.is_virtual,
                      .vendor = status.vendor,
                      .product = status.product,
                      .buttons = status.buttons,
                      .axes = status.axes};
        writer_.take(event);
        devices_[id] = {status.kind, {}};
    }

    void write_devices() {
        for (unsigned number = 0; number < frame_.timeline->device_room(); ++number) {
            if (!detail::has_bit(begin_.connected, number)) continue;
            const DeviceId id = frame_.id_of(number);
            connect(id, at(begin_.time - 1));
            const DeviceShaping shaping = first_shaping(number, id);
            shapings_[id] = shaping;
            if (shaping != DeviceShaping{}) write_shaping(id, shaping, begin_.time - 1);
        }
    }

    void write_shaping(DeviceId id, const DeviceShaping& shaping, std::int64_t time) {
        Event event = Event::of(at(time), EventType::shaping, id);
        event.shaping = shaping;
        writer_.take(event);
    }

    // The present shaping, unless it was set since; what it was before that is unknown, so the default is used.
    DeviceShaping first_shaping(unsigned number, DeviceId id) const {
        for (std::uint64_t i = begin_.at; i != parts_.written; ++i)
            if (const Entry& entry = entry_at(i); entry.type == Type::shaping && entry.device == number) return {};
        return status_of(id).shaping;
    }

    void write_levels() {
        const Time time = at(begin_.time);
        if (const unsigned locks = begin_.pointer.locks & 7U; locks != 0) write_locks(locks, begin_.time);
        for (const detail::Slot& hold : begin_.holds)
            if (hold.is_held() && hold.button() < first_of_axes)
                devices_[frame_.id_of(hold.device())].down.insert({hold.button()});
        for (auto& [id, device] : devices_) {
            AxisValues axes;
            for (unsigned i = 0; i < begin_.axis_count; ++i)
                if (const Checkpoint::AxisValue& value = begin_.axes[i]; value.device == id)
                    axes.set(value.axis, value.value);
            if (device.down.empty() && axes.present == 0) continue;
            const std::uint32_t pushed = push_first(id, axes);
            for (std::uint8_t axis = 0; axis < axis_kinds; ++axis)
                if ((pushed >> axis & 1) != 0 && !axes.has(axis)) axes.set(Axis{axis}, 0);  // and back
            Event event = Event::state(time, id, device.down);
            event.axes = axes;
            event.adopt = true;
            writer_.take(event);
        }
        std::vector<const detail::OccasionSlot*> contacts;
        for (const detail::OccasionSlot& contact : begin_.contacts)
            if (contact.is_contact() && contact.goes_on()) contacts.push_back(&contact);
        std::sort(contacts.begin(), contacts.end(),
                  [](const auto* a, const auto* b) { return a->begin_time < b->begin_time; });
        for (const detail::OccasionSlot* contact : contacts) {
            const WindowPoint place = point_of(contact->position);
            write_contact(begin_.time, frame_.id_of(contact->device()), ContactPhase::begin,
                          static_cast<std::uint32_t>(contact->contact), place, contact->measure);
        }
        if (begin_.pointer.placed)
            if (const auto mouse = first_mouse())
                writer_.take(Event::moved_to(time, *mouse, point_of(begin_.pointer.pointer)));
        const Distance carried{begin_.wheel_carried[0], begin_.wheel_carried[1]};
        if (carried != Distance{}) turn_wheel(time, carried);
    }

    // A trigger or stick that is down as a button stays so between its thresholds: so it is first pushed to where that
    // is certain. Returns which axes were.
    std::uint32_t push_first(DeviceId id, const AxisValues& axes) {
        AxisValues pushed;
        const auto holds = [&](Button button) {
            return std::any_of(begin_.holds.begin(), begin_.holds.end(), [&](const detail::Slot& hold) {
                return hold.is_held() && hold.button() == button.number && frame_.id_of(hold.device()) == id;
            });
        };
        for (std::uint8_t axis = 2 * stick_kinds; axis < axis_kinds; ++axis)
            for (const AxisSide side : {AxisSide::positive, AxisSide::negative})
                if (holds(axis_button(Axis{axis}, side))) pushed.set(Axis{axis}, side == AxisSide::positive ? 1 : -1);
        for (std::uint8_t number = 0; number < stick_kinds; ++number)
            push_stick(id, Stick{number}, axes, holds, pushed);
        if (pushed.present == 0) return 0;
        // Before, since axes of one time count together.
        Event event = Event::of(at(begin_.time - 1), EventType::state, id);
        event.axes = pushed;
        event.adopt = true;
        writer_.take(event);
        return pushed.present;
    }

    /// Searches for a position from which the stick, moved to its present position, is down in exactly these
    /// directions.
    template <typename Holds>
    void push_stick(DeviceId id, Stick stick, const AxisValues& axes, Holds&& holds, AxisValues& pushed) const {
        unsigned directions = 0;
        for (unsigned i = 0; i < 4; ++i)
            directions |= unsigned{holds(direction_button(stick, static_cast<Direction>(i)))} << i;
        if (directions == 0) return;
        const auto found = shapings_.find(id);
        const DeviceShaping shaping = found == shapings_.end() ? DeviceShaping{} : found->second;
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

    bool is_kept(Button button) const {
        return !button || button.number >= first_of_axes || parts_.kept.contains(button);
    }

    RecordedCheckpoint checkpoint() const {
        RecordedCheckpoint all;
        // The beginning of a merged button's hold, if it does not follow from the devices that hold it now.
        std::map<std::uint16_t, HoldStart> merged;
        for (const detail::Slot& hold : begin_.holds) {
            if (!hold.is_held()) continue;
            const bool adopted = hold.what().kind() == detail::SlotKind::adopt;
            all.holds.push_back({frame_.id_of(hold.device()), {hold.button()}, at(hold.time), adopted});
            const auto [it, is_first] = merged.try_emplace(hold.button());
            it->second.add({hold.time, adopted}, is_first);
        }
        ButtonSet{begin_.levels}.for_each([&](Button button) {
            if (!is_kept(button)) return;
            const HoldStart its{begin_.start[button.number], begin_.adopted[button.number]};
            const auto known = merged.find(button.number);
            if (known == merged.end() || known->second.time != its.time || known->second.adopted != its.adopted)
                all.holds.push_back({{}, button, at(its.time), its.adopted});
        });
        const std::int64_t zero = find_zero();
        for (detail::ReaderFact& fact : detail::ReaderAccess::facts_of(parts_.reader, begin_.reader)) {
            const std::size_t slash = fact.name.find('/') + 1;
            const bool is_of_button = fact.name.starts_with("owner/") || fact.name.starts_with("turn/");
            if (is_of_button && !is_kept(find_button(std::string_view{fact.name}.substr(slash)))) continue;
            if (fact.is_time) fact.number -= zero, fact.real = static_cast<double>(fact.number);
            all.facts.push_back({std::move(fact.name), std::move(fact.text), fact.number, fact.real});
        }
        return all;
    }

    // ---- frame after frame

    void write_frame(std::vector<Entry>& entries) {
        const Entry end = entries.back();
        const auto begin = static_cast<std::int64_t>(end.a);
        entries.pop_back();
        spread(entries, last_end_);
        const auto skip =
            std::find_if(entries.begin(), entries.end(), [](const Entry& entry) { return entry.type == Type::skip; });
        Tick tick{at(last_end_), at(begin), at(end.time)};
        if (skip != entries.end()) {
            tick.gap = Tick::Gap::paused;
            tick.gap_from = at(write_pause(entries, skip, begin));
        } else if ((end.extra & has_gap_bit) != 0 && begin > last_end_) {
            tick.gap = Tick::Gap::stalled;
        }
        write_in_order(entries);
        if (begin > last_end_)
            writer_.frame(tick);
        else
            writer_.frame(at(end.time));
        last_end_ = end.time;
    }

    /// Axes whose events were late have the time of the last cut; one after the other, they moved at different times,
    /// so they are given such before it, and are late in the replay as well.
    static void spread(std::vector<Entry>& entries, std::int64_t cut) {
        std::vector<std::vector<Entry*>>
            moves;  // axes that moved together: a trigger, the axes of a stick in order, or axes that came to rest
        const auto stick_of = [](const Entry& entry) {
            return entry.code < 2 * stick_kinds ? entry.code / 2 : 100 + entry.code;
        };
        for (Entry& entry : entries) {
            if (entry.type != Type::axis || entry.time > cut) continue;
            const Entry* const last = moves.empty() ? nullptr : moves.back().back();
            const bool goes_along = last && last->device == entry.device && last->extra == entry.extra &&
                                    last->code < entry.code && (entry.extra != 0 || stick_of(*last) == stick_of(entry));
            if (!goes_along) moves.emplace_back();
            moves.back().push_back(&entry);
        }
        const auto count = static_cast<std::int64_t>(moves.size());
        for (std::int64_t i = 0; i < count; ++i)
            for (Entry* const entry : moves[static_cast<std::size_t>(i)]) entry->time = cut - count + i;
    }

    /// What came before the pause, and what was down after it, as if it had come in the pause. Returns when that began;
    /// `entries` then has what came later.
    std::int64_t write_pause(std::vector<Entry>& entries, std::vector<Entry>::iterator skip, std::int64_t begin) {
        std::vector<Entry> before{entries.begin(), skip}, after;
        const auto is_before = [&](const Entry& entry) { return entry.type == Type::wheel && entry.time < begin; };
        std::copy_if(skip, entries.end(), std::back_inserter(before), is_before);
        std::int64_t from = std::max(last_end_ + 1, static_cast<std::int64_t>(skip->a));
        for (const Entry& entry : before)
            if (entry.type == Type::edge || entry.type == Type::axis) from = std::max(from, entry.time + 1);
        from = std::min(from, begin);
        for (Entry& entry : before)  // other entries are known to have happened, but not when
            if (entry.type != Type::edge && entry.type != Type::axis) entry.time = from - 1;
        write_in_order(before);
        for (const Entry& entry : entries)
            if (entry.type == Type::locks && entry.a != 0) write_locks(entry.extra & 7U, from);
        std::map<DeviceId, AxisValues> changed;
        std::map<std::pair<DeviceId, std::uint32_t>, FingerInPause> fingers;
        for (auto it = skip + 1; it != entries.end(); ++it) {
            const auto kind = static_cast<detail::SlotKind>(it->extra);
            const bool heals = kind == detail::SlotKind::adopt || kind == detail::SlotKind::cancel;
            const DeviceId id = frame_.id_of(it->device);
            if (it->time == begin && it->type == Type::edge && heals) {
                devices_[id].down.set({it->code}, kind == detail::SlotKind::adopt);
                changed[id];
            } else if (it->time == begin && it->type == Type::axis && it->extra != 0) {
                changed[id].set(Axis{static_cast<std::uint8_t>(it->code)}, it->x());
            } else if (is_before(*it) || (it->type == Type::locks && it->a != 0)) {
                continue;
            } else if (it->type == Type::carried) {
                const Distance by{it->x() - carried_.x, it->y() - carried_.y};
                if (by != Distance{}) turn_wheel(at(from), by);
            } else if (it->time == begin && it->type == Type::contact) {
                FingerInPause& finger = fingers[{id, it->extra}];
                const bool goes_on = static_cast<ContactPhase>(it->code) == ContactPhase::move;
                (goes_on ? finger.is_there : finger.was_there) = true;
                finger.place = {it->x(), it->y()};
                finger.pressure = it[1].x();
            } else if (it->type != Type::more || after.empty() || it[-1].time != begin ||
                       it[-1].type != Type::contact) {
                after.push_back(*it);
            }
        }
        for (const auto& [id, axes] : changed) {
            Event event = Event::state(at(from), id, devices_[id].down);
            event.axes = axes;
            event.adopt = true;
            writer_.take(event);
        }
        // The pause itself cancels contacts and adopts those that exist at its end.
        for (const auto& [which, finger] : fingers)
            write_contact(from, which.first,
                          !finger.is_there   ? ContactPhase::cancel
                          : finger.was_there ? ContactPhase::move
                                             : ContactPhase::begin,
                          which.second, finger.place, finger.pressure);
        entries = std::move(after);
        return from;
    }

    // By time; at one time, connects come first and disconnects last, and edges of buttons come before axes.
    void write_in_order(const std::vector<Entry>& entries) {
        std::vector<std::size_t> order;
        for (std::size_t i = 0; i < entries.size(); ++i)
            if (entries[i].type != Type::more && entries[i].type != Type::skip) order.push_back(i);
        const auto rank = [&](std::size_t i) {
            switch (entries[i].type) {
                case Type::call: return 0;
                case Type::connect: return 1;
                case Type::shaping: return 2;
                case Type::edge: return 3;
                case Type::axis: return 4;
                case Type::disconnect: return 6;
                default: return 5;
            }
        };
        std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
            return std::pair{entries[a].time, rank(a)} < std::pair{entries[b].time, rank(b)};
        });
        for (std::size_t i = 0; i < order.size(); ++i) {
            const Entry& entry = entries[order[i]];
            if (entry.type != Type::axis || entry.extra == 0) {
                write_entry(&entry);
                continue;
            }
            // Axes that no person moved changed together: those of a device that came to rest.
            Event event = Event::of(at(entry.time), EventType::state, frame_.id_of(entry.device));
            event.adopt = true;
            const auto belongs = [&](const Entry& other) {
                return other.type == Type::axis && other.extra != 0 && other.time == entry.time &&
                       other.device == entry.device;
            };
            for (; i < order.size() && belongs(entries[order[i]]); ++i)
                event.axes.set(Axis{static_cast<std::uint8_t>(entries[order[i]].code)}, entries[order[i]].x());
            --i;
            writer_.take(event);
        }
    }

    /// With what follows it.
    void write_entry(const Entry* entry) {
        const Time time = at(entry->time);
        const DeviceId id = frame_.id_of(entry->device);
        switch (entry->type) {
            case Type::edge: return write_edge(time, id, {entry->code}, static_cast<detail::SlotKind>(entry->extra));
            case Type::axis:
                return writer_.take(
                    Event::axis_value(time, id, Axis{static_cast<std::uint8_t>(entry->code)}, entry->x()));
            case Type::motion: {
                const auto mouse = first_mouse();
                if (!mouse) return;
                Event event = Event::motion(time, *mouse, {entry->x(), entry->y()});
                const Entry* next = entry + 1;
                event.has_raw = (entry->extra & has_raw_bit) != 0;
                if (event.has_raw) event.raw_dx = next->x(), event.raw_dy = next->y(), ++next;
                event.has_position = (entry->extra & has_place_bit) != 0;
                if (event.has_position) event.x = next->x(), event.y = next->y();
                return writer_.take(event);
            }
            case Type::wheel: return turn_wheel(time, {entry->x(), entry->y()});
            case Type::contact:
                return write_contact(entry->time, id, static_cast<ContactPhase>(entry->code), entry->extra,
                                     {entry->x(), entry->y()}, entry[1].x());
            case Type::locks: return write_locks(entry->extra & 7U, entry->time);
            case Type::connect: return connect(id, time);
            case Type::disconnect: devices_.erase(id); return writer_.take(Event::disconnect(time, id));
            case Type::shaping:
                shapings_[id] = parts_.shapings[entry->extra];
                return write_shaping(id, shapings_[id], entry->time);
            case Type::call: return write_call(parts_.calls[entry->extra]);
            case Type::carried:
            case Type::more:
            case Type::skip:
            case Type::frame: return;
        }
    }

    void turn_wheel(Time time, Distance by) {
        const auto mouse = first_mouse();
        if (!mouse) return;
        writer_.take(Event::wheel(time, *mouse, by));
        carried_ = {carried_.x + by.x, carried_.y + by.y};
        carried_ = {carried_.x - std::trunc(carried_.x), carried_.y - std::trunc(carried_.y)};
    }

    void write_edge(Time time, DeviceId id, Button button, detail::SlotKind kind) {
        ButtonSet& down = devices_[id].down;
        if (kind == detail::SlotKind::system_repeat) return writer_.take(Event::button(time, id, button, true, true));
        const bool is_down = kind == detail::SlotKind::press || kind == detail::SlotKind::adopt;
        down.set(button, is_down);
        if (kind == detail::SlotKind::press || kind == detail::SlotKind::release)
            return writer_.take(Event::button(time, id, button, is_down));
        Event event = Event::state(time, id, down);
        event.adopt = true;
        writer_.take(event);
    }

    void write_contact(std::int64_t time, DeviceId id, ContactPhase phase, std::uint32_t contact, WindowPoint place,
                       double pressure) {
        Event event = Event::of(at(time), EventType::contact, id);
        event.contact = contact;
        event.phase = phase;
        event.x = place.x, event.y = place.y;
        event.value = pressure;
        writer_.take(event);
    }

    void write_locks(unsigned bits, std::int64_t time) {
        Event event = Event::of(at(time), EventType::locks, {});
        for (std::size_t i = 0; i < detail::lock_keys.size(); ++i)
            event.down_set.set(detail::lock_keys[i], (bits >> i & 1) != 0);
        writer_.take(event);
    }

    void write_call(const detail::LoggedCall& logged) {
        using Kind = detail::LoggedCall::Kind;
        RecordedCall call;
        call.begins = logged.kind == Kind::open || logged.kind == Kind::claim;
        if (logged.kind == Kind::open || logged.kind == Kind::close) {
            call.mode = parts_.reader.name_of(ModeHandle{logged.number});
        } else {
            call.claim = logged.number;
            call.everything = logged.claim.everything;
            call.axes = logged.claim.axes;
            call.motion = logged.claim.motion;
            call.wheel = logged.claim.wheel;
            call.buttons = logged.claim.buttons;
            call.device = logged.claim.device;
        }
        writer_.call(at(logged.time), call);
    }

    /// The device of the motion in the recording.
    std::optional<DeviceId> first_mouse() const {
        for (const auto& [id, device] : devices_)
            if (device.kind == DeviceKind::mouse) return id;
        return devices_.empty() ? std::nullopt : std::optional{devices_.begin()->first};
    }

    struct FingerInPause {
        bool was_there = false, is_there = false;
        WindowPoint place{};
        double pressure = 0;
    };
    struct DeviceNow {
        DeviceKind kind{};
        ButtonSet down;
    };
    const RecentParts& parts_;
    const Checkpoint& begin_;
    const FrameCore& frame_;
    RecordingWriter writer_;
    std::map<DeviceId, DeviceNow> devices_;  // that are connected
    std::map<DeviceId, DeviceShaping> shapings_;
    Distance carried_{};  // the wheel's fraction of a step
    std::int64_t last_end_ = 0;
};

}  // namespace

bool RecentInput::write(std::ostream& out, std::string_view title) const {
    const Checkpoint* const begin = parts_->beginning();
    if (!begin) return false;
    RecentWriter{*parts_, *begin, out}.write(title.empty() ? "recent input" : title);
    return true;
}

}  // namespace cursorum
