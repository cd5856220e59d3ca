#include "cursorum/core/inlet.hpp"

#include <algorithm>
#include <bit>
#include <cassert>
#include <cstring>

namespace cursorum {

using detail::Slot;
using detail::SlotKind;

namespace {

constexpr std::uint32_t least_history = 2048;  // one event may cancel and start every hold: 2 * hold_capacity slots
constexpr std::uint32_t most_history = std::uint32_t{1} << 26;
constexpr DeviceId desk_keyboard{1};
constexpr DeviceId desk_mouse{2};

bool is_mouse_button(Button button) noexcept { return button.number >= 288 && button.number < 304; }

/// Buttons of one device in the order of their names, as edges that happen at once are told.
struct SortedButtons {
    std::array<std::uint32_t, button_capacity> keys;
    unsigned count = 0;

    explicit SortedButtons(const ButtonSet& set) noexcept {
        set.for_each([this](Button b) { keys[count++] = std::uint32_t{name_rank(b)} << 16 | b.number; });
        std::sort(keys.begin(), keys.begin() + count);
    }
    Button operator[](unsigned i) const noexcept { return {static_cast<std::uint16_t>(keys[i])}; }
};

ButtonSet minus(const ButtonSet& from, const ButtonSet& taken) noexcept {
    ButtonSet::Words words{};
    for (unsigned i = 0; i < button_words; ++i) words[i] = from.words()[i] & ~taken.words()[i];
    return ButtonSet{words};
}

}  // namespace

Inlet::Inlet(const TimelineOptions& options)
    : ring_{std::bit_ceil(std::clamp(options.history, least_history, most_history))},
      device_room_{std::clamp(options.devices, 1U, 64U)},
      latest_{nanoseconds(earliest_time)} {
    devices_.reserve(device_room_);
    if (!options.desk_devices) return;
    // The desk is there before the first event: no events of their own, which would need a time.
    for (const auto& [id, kind, name] : {std::tuple{desk_keyboard, DeviceKind::keyboard, "desk keyboard"},
                                         std::tuple{desk_mouse, DeviceKind::mouse, "desk mouse"}}) {
        if (devices_.size() == device_room_) return;
        Device& device = devices_.emplace_back();
        device.id = id;
        device.kind = kind;
        take_info(device, {.kind = kind, .name = name});
    }
}

// ---- posting

Outcome Inlet::button(Button control, bool down, Time when) noexcept {
    return button(is_mouse_button(control) ? desk_mouse : desk_keyboard, control, down, when);
}

Outcome Inlet::system_repeat(Button control, Time when) noexcept {
    return system_repeat(is_mouse_button(control) ? desk_mouse : desk_keyboard, control, when);
}

Outcome Inlet::motion(double, double, Time when) noexcept {
    begin(when);
    return finish(apply_plain(desk_mouse, true));
}

Outcome Inlet::wheel(double, double, Time when) noexcept {
    begin(when);
    return finish(apply_plain(desk_mouse, true));
}

Outcome Inlet::focus(bool has, Time when) noexcept {
    begin(when);
    return finish(apply_focus(has));
}

Outcome Inlet::interrupt(Time when) noexcept {
    begin(when);
    cancel_all(Reach::everything, no_device);
    for (Device& device : devices_) device.adopt_next = true;
    return finish(Outcome::interrupted);
}

Outcome Inlet::connect(DeviceId device, const DeviceInfo& info, Time when) noexcept {
    begin(when);
    return finish(apply_connect(device, info));
}

Outcome Inlet::disconnect(DeviceId id, Time when) noexcept {
    begin(when);
    const unsigned device = find_device(id);
    if (device == no_device || !devices_[device].connected) return finish(Outcome::stray_device);
    cancel_all(Reach::device, device);
    devices_[device].connected = false;
    return finish(Outcome::disconnected);
}

Outcome Inlet::button(DeviceId device, Button control, bool down, Time when) noexcept {
    begin(when);
    return finish(apply_button(device, control, down, false));
}

Outcome Inlet::system_repeat(DeviceId device, Button control, Time when) noexcept {
    begin(when);
    return finish(apply_button(device, control, true, true));
}

Outcome Inlet::state(DeviceId device, const ButtonSet& down, Time when, bool adopt) noexcept {
    begin(when);
    return finish(apply_state(device, &down, adopt));
}

Outcome Inlet::post(const Event& event) noexcept {
    switch (event.type) {
        case EventType::connect: return connect(event.device, event.info, event.time);
        case EventType::disconnect: return disconnect(event.device, event.time);
        case EventType::focus: return focus(event.focused, event.time);
        case EventType::interrupt: return interrupt(event.time);
        default: break;
    }
    begin(event.time);
    switch (event.type) {
        case EventType::button:
            return finish(apply_button(event.device, event.control, event.down, event.down && event.system_repeat));
        case EventType::state:
            return finish(apply_state(event.device, event.has_down_set ? &event.down_set : nullptr, event.adopt));
        case EventType::motion:
        case EventType::wheel:
        case EventType::axis: return finish(apply_plain(event.device, true));
        case EventType::text: return finish(focused_ ? Outcome::taken : Outcome::ignored);
        default: return finish(Outcome::taken);
    }
}

// ---- one event

void Inlet::begin(Time stamp) noexcept {
    std::int64_t time = nanoseconds(stamp);
    if (time > nanoseconds(latest_time) || time < nanoseconds(earliest_time)) [[unlikely]] {
        time = std::clamp(time, nanoseconds(earliest_time), nanoseconds(latest_time));
        ++counters_.clamped;
    }
    ++counters_.events;
    event_has_slot_ = false;
    if (time < latest_) [[unlikely]] {
        ++counters_.backdated;
        ring_.write({time, 0, hold_capacity, 0, static_cast<std::uint8_t>(static_cast<unsigned>(SlotKind::late) |
                                                              Slot::first_of_event)});
        event_has_slot_ = true;
    } else {
        latest_ = time;
    }
}

Outcome Inlet::finish(Outcome outcome) noexcept {
    if (!event_has_slot_) write(SlotKind::plain, 0, {}, hold_capacity);
    ring_.publish();
    switch (outcome) {
        case Outcome::system_repeat:
        case Outcome::adopted_repeat: ++counters_.system_repeats; break;
        case Outcome::lost_release: ++counters_.lost_releases; break;
        case Outcome::stray_release:
        case Outcome::stray_device:
        case Outcome::stray_connect:
        case Outcome::stray_kind: ++counters_.strays; break;
        case Outcome::ignored: ++counters_.ignored; break;
        case Outcome::refused_devices:
        case Outcome::refused_holds:
        case Outcome::refused_control: ++counters_.refused; break;
        default: break;
    }
    return outcome;
}

void Inlet::write(SlotKind kind, unsigned device, Button button, unsigned hold) noexcept {
    const unsigned what = static_cast<unsigned>(kind) | (event_has_slot_ ? 0U : unsigned{Slot::first_of_event});
    ring_.write({latest_, button.number, static_cast<std::uint16_t>(hold), static_cast<std::uint8_t>(device),
                 static_cast<std::uint8_t>(what)});
    event_has_slot_ = true;
}

// ---- the rules

Outcome Inlet::apply_button(DeviceId id, Button button, bool down, bool marked) noexcept {
    const unsigned device = find_device(id);
    if (device == no_device || !devices_[device].connected) return Outcome::stray_device;
    const Device& of = devices_[device];
    if (!focused_ && !of.background) return Outcome::ignored;
    if (!can_be_posted(button)) return Outcome::refused_control;
    const bool is_down = of.down.contains(button);
    if (!down) {
        if (!is_down) return Outcome::stray_release;
        end_hold(SlotKind::release, device, button);
        return Outcome::release;
    }
    if (!is_down) {
        if (!start_hold(marked ? SlotKind::adopt : SlotKind::press, device, button)) return Outcome::refused_holds;
        if (!marked) return Outcome::press;
        write(SlotKind::system_repeat, device, button, hold_capacity);
        return Outcome::adopted_repeat;
    }
    if (marked || !of.marks_repeats) {
        write(SlotKind::system_repeat, device, button, hold_capacity);
        return Outcome::system_repeat;
    }
    end_hold(SlotKind::cancel, device, button);
    return start_hold(SlotKind::press, device, button) ? Outcome::lost_release : Outcome::refused_holds;
}

Outcome Inlet::apply_state(DeviceId id, const ButtonSet* down, bool adopt) noexcept {
    const unsigned device = find_device(id);
    if (device == no_device || !devices_[device].connected) return Outcome::stray_device;
    Device& of = devices_[device];
    if (!focused_ && !of.background) return Outcome::ignored;
    if (!down) return adopt ? Outcome::state_adopted : Outcome::state_taken;
    const bool adopting = adopt || of.adopt_next;
    of.adopt_next = false;
    const SortedButtons ended{minus(of.down, *down)};
    for (unsigned i = 0; i < ended.count; ++i)
        end_hold(adopting ? SlotKind::cancel : SlotKind::release, device, ended[i]);
    bool all = true;
    const SortedButtons started{minus(*down, of.down)};
    for (unsigned i = 0; i < started.count; ++i)
        if (can_be_posted(started[i]))
            all &= start_hold(adopting ? SlotKind::adopt : SlotKind::press, device, started[i]);
    if (!all) return Outcome::refused_holds;
    return adopting ? Outcome::state_adopted : Outcome::state_taken;
}

Outcome Inlet::apply_focus(bool has) noexcept {
    if (has == focused_) return Outcome::focus_unchanged;
    focused_ = has;
    if (!has) {
        cancel_all(Reach::foreground, no_device);
        return Outcome::focus_lost;
    }
    for (Device& device : devices_)
        if (!device.background) device.adopt_next = true;
    return Outcome::focus_gained;
}

Outcome Inlet::apply_plain(DeviceId id, bool has_device) noexcept {
    const unsigned device = has_device ? find_device(id) : no_device;
    if (has_device && (device == no_device || !devices_[device].connected)) return Outcome::stray_device;
    return focused_ || (has_device && devices_[device].background) ? Outcome::taken : Outcome::ignored;
}

Outcome Inlet::apply_connect(DeviceId id, const DeviceInfo& info) noexcept {
    const unsigned known = find_device(id);
    if (known != no_device) {
        Device& device = devices_[known];
        if (device.connected) return Outcome::stray_connect;
        if (device.kind != info.kind) return Outcome::stray_kind;
        take_info(device, info);
        return Outcome::connected;
    }
    if (devices_.size() == device_room_) return Outcome::refused_devices;
    Device& device = devices_.emplace_back();  // within the capacity reserved at construction
    device.id = id;
    device.kind = info.kind;
    take_info(device, info);
    return Outcome::connected;
}

void Inlet::take_info(Device& device, const DeviceInfo& info) noexcept {
    device.connected = true;
    device.marks_repeats = info.marks_repeats;
    device.background = info.background;
    device.is_virtual = info.is_virtual;
    device.adopt_next = true;
    std::size_t size = std::min(info.name.size(), device.name.size());
    if (size < info.name.size())  // not in the middle of a UTF-8 sequence
        while (size > 0 && (static_cast<unsigned char>(info.name[size]) & 0xC0U) == 0x80U) --size;
    if (size > 0) std::memcpy(device.name.data(), info.name.data(), size);
    device.name_size = static_cast<std::uint8_t>(size);
}

// ---- holds

bool Inlet::start_hold(SlotKind kind, unsigned device, Button button) noexcept {
    const unsigned hold = try_bind_hold(device, button);
    if (hold == hold_capacity) return false;
    holds_[hold].start = latest_;
    holds_[hold].pressed = kind == SlotKind::press;
    holds_[hold].down = true;
    ++holds_down_;
    devices_[device].down.insert(button);
    write(kind, device, button, hold);
    return true;
}

void Inlet::end_hold(SlotKind kind, unsigned device, Button button) noexcept {
    const unsigned hold = devices_[device].hold_of[button.number];
    assert(holds_[hold].down && holds_[hold].button == button.number && holds_[hold].device == device);
    holds_[hold].down = false;
    --holds_down_;
    devices_[device].down.erase(button);
    write(kind, device, button, hold);
}

// A button keeps its hold from press to press, so that a sampler which missed some of them still speaks of the same.
unsigned Inlet::try_bind_hold(unsigned device, Button button) noexcept {
    std::uint16_t& bound = devices_[device].hold_of[button.number];
    if (holds_[bound].button == button.number && holds_[bound].device == device) return bound;
    if (holds_down_ == hold_capacity) return hold_capacity;
    while (holds_[next_hold_].down) next_hold_ = (next_hold_ + 1) % hold_capacity;
    bound = static_cast<std::uint16_t>(next_hold_);
    holds_[bound].button = button.number;
    holds_[bound].device = static_cast<std::uint8_t>(device);
    next_hold_ = (next_hold_ + 1) % hold_capacity;
    return bound;
}

void Inlet::cancel_all(Reach reach, unsigned device) noexcept {
    struct Key {
        std::uint32_t id;
        std::uint16_t rank, hold;
    };
    std::array<Key, hold_capacity> keys;
    unsigned count = 0;
    for (unsigned i = 0; i < devices_.size(); ++i) {
        const Device& of = devices_[i];
        if ((reach == Reach::device && i != device) || (reach == Reach::foreground && of.background)) continue;
        of.down.for_each([&](Button b) {
            keys[count++] = {static_cast<std::uint32_t>(of.id), name_rank(b), of.hold_of[b.number]};
        });
    }
    std::sort(keys.begin(), keys.begin() + count,
              [](const Key& a, const Key& b) { return a.id != b.id ? a.id < b.id : a.rank < b.rank; });
    for (unsigned i = 0; i < count; ++i) {
        const Hold& hold = holds_[keys[i].hold];
        end_hold(SlotKind::cancel, hold.device, {hold.button});
    }
}

unsigned Inlet::find_device(DeviceId id) noexcept {
    if (last_device_ < devices_.size() && devices_[last_device_].id == id) return last_device_;
    for (unsigned i = 0; i < devices_.size(); ++i)
        if (devices_[i].id == id) return last_device_ = i;
    return no_device;
}

std::string_view Inlet::device_name(unsigned device) const noexcept {
    return {devices_[device].name.data(), devices_[device].name_size};
}

}  // namespace cursorum
