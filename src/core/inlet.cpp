#include "cursorum/core/inlet.hpp"

#include <algorithm>
#include <bit>
#include <cassert>
#include <cstring>
#include <numeric>
#include <utility>

#include "core/either_side.hpp"
#include "core/merging.hpp"
#include "core/postable.hpp"

namespace cursorum {

using detail::Effect;
using detail::Slot;
using detail::SlotKind;
using detail::What;

namespace {

// One event may end and start every hold, each with a slot for an either-side name, and stand behind a late one.
constexpr std::uint32_t least_history = 8 * hold_capacity;
static_assert(least_history > 4 * hold_capacity + 1);
constexpr std::uint32_t most_history = std::uint32_t{1} << 26;
constexpr DeviceId desk_keyboard{1};
constexpr DeviceId desk_mouse{2};

bool is_mouse_button(Button button) noexcept { return button.number >= 288 && button.number < 304; }

// What posting has to know of a button, in one look.
constexpr std::uint8_t not_postable = 0, plain_button = 1, either_side = 2;  // and up: which of the either-side names
constexpr std::array<std::uint8_t, button_capacity> traits = [] {
    std::array<std::uint8_t, button_capacity> table{};
    postable_buttons.for_each([&table](Button button) {
        const unsigned name = either_side_of(button.number);
        table[button.number] =
            name == 0 ? plain_button : static_cast<std::uint8_t>(either_side + name - first_either_side);
    });
    return table;
}();

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
        add_device(id, {.kind = kind, .name = name});
    }
}

// ---- posting

Outcome Inlet::button(Button control, bool down, Time when) noexcept {
    return post_button(is_mouse_button(control) ? desk_mouse : desk_keyboard, control, down, false, when);
}

Outcome Inlet::system_repeat(Button control, Time when) noexcept {
    return post_button(is_mouse_button(control) ? desk_mouse : desk_keyboard, control, true, true, when);
}

Outcome Inlet::button(DeviceId device, Button control, bool down, Time when) noexcept {
    return post_button(device, control, down, false, when);
}

Outcome Inlet::system_repeat(DeviceId device, Button control, Time when) noexcept {
    return post_button(device, control, true, true, when);
}

Outcome Inlet::motion(double, double, Time when) noexcept { return post_plain(desk_mouse, when); }

Outcome Inlet::wheel(double, double, Time when) noexcept { return post_plain(desk_mouse, when); }

Outcome Inlet::state(DeviceId device, const ButtonSet& down, Time when, bool adopt) noexcept {
    return post_state(device, &down, adopt, when);
}

Outcome Inlet::focus(bool has, Time when) noexcept {
    begin(when);
    return finish(apply_focus(has));
}

Outcome Inlet::interrupt(Time when) noexcept {
    begin(when);
    cancel_all(Reach::everything, nullptr);
    for (Device& device : devices_) device.adopt_next = true;
    return finish(Outcome::interrupted);
}

Outcome Inlet::connect(DeviceId device, const DeviceInfo& info, Time when) noexcept {
    begin(when);
    return finish(apply_connect(device, info));
}

Outcome Inlet::disconnect(DeviceId id, Time when) noexcept {
    begin(when);
    Device* device = find_device(id);
    if (!device || !device->connected) return finish(Outcome::stray_device);
    cancel_all(Reach::device, device);
    device->connected = device->listens = false;
    return finish(Outcome::disconnected);
}

Outcome Inlet::post(const Event& event) noexcept {
    switch (event.type) {
        case EventType::connect: return connect(event.device, event.info, event.time);
        case EventType::disconnect: return disconnect(event.device, event.time);
        case EventType::button:
            return post_button(event.device, event.control, event.down, event.down && event.system_repeat, event.time);
        case EventType::state:
            return post_state(event.device, event.has_down_set ? &event.down_set : nullptr, event.adopt, event.time);
        case EventType::focus: return focus(event.focused, event.time);
        case EventType::interrupt: return interrupt(event.time);
        case EventType::motion:
        case EventType::wheel:
        case EventType::axis: return post_plain(event.device, event.time);
        case EventType::locks:
        case EventType::text: break;
    }
    begin(event.time);
    return finish(event.type == EventType::locks || focused_ ? Outcome::taken : Outcome::ignored);
}

// ---- one event

inline void Inlet::begin(Time stamp) noexcept {
    std::int64_t time = nanoseconds(stamp);
    if (time > nanoseconds(latest_time) || time < nanoseconds(earliest_time)) [[unlikely]] {
        time = std::clamp(time, nanoseconds(earliest_time), nanoseconds(latest_time));
        ++clamped_;
    }
    if (time < latest_) [[unlikely]] {
        ++backdated_;
        ring_.write(Slot::of(time, hold_capacity, 0, 0, What::of(SlotKind::late, Effect::none, true, false)));
    } else {
        latest_ = time;
    }
}

inline Outcome Inlet::finish(Outcome outcome) noexcept {
    if (ring_.is_published())
        ring_.write(Slot::of(latest_, hold_capacity, 0, 0, What::of(SlotKind::plain, Effect::none, true, false)));
    ring_.publish();
    ++outcomes_[static_cast<unsigned>(outcome)];
    return outcome;
}

inline void Inlet::write_slot(SlotKind kind, const Device& device, unsigned button, unsigned hold,
                              bool was_pressed) noexcept {
    const Effect effect = merge(holders_[button], kind, was_pressed);
    ring_.write(Slot::of(latest_, hold, button, device.number,
                         What::of(kind, effect, ring_.is_published(), is_held(holders_[button]))));
}

inline void Inlet::write(SlotKind kind, const Device& device, Button button, unsigned hold, bool was_pressed) noexcept {
    if (const unsigned trait = traits[button.number]; trait > plain_button) [[unlikely]]
        write_slot(kind, device, first_either_side + trait - either_side, hold, was_pressed);
    write_slot(kind, device, button.number, hold, was_pressed);
}

InletCounters Inlet::counters() const noexcept {
    const auto count = [this](auto... outcomes) { return (outcomes_[static_cast<unsigned>(outcomes)] + ...); };
    return {.events = events(),
            .strays = count(Outcome::stray_release, Outcome::stray_device, Outcome::stray_connect, Outcome::stray_kind),
            .ignored = count(Outcome::ignored),
            .refused = count(Outcome::refused_devices, Outcome::refused_holds, Outcome::refused_control),
            .system_repeats = count(Outcome::system_repeat, Outcome::adopted_repeat),
            .lost_releases = count(Outcome::lost_release),
            .backdated = backdated_,
            .clamped = clamped_};
}

std::uint64_t Inlet::events() const noexcept {
    return std::accumulate(outcomes_.begin(), outcomes_.end(), std::uint64_t{0});
}

// ---- the rules

Outcome Inlet::post_button(DeviceId id, Button button, bool down, bool marked, Time when) noexcept {
    begin(when);
    Device* device = find_device(id);
    if (!device || !device->listens) return finish(deaf(device));
    if (button.number >= button_capacity || traits[button.number] == not_postable)
        return finish(Outcome::refused_control);
    // Not by contains(): its range check would make a branch on the level, which nothing can predict.
    const bool is_down = (device->down.words()[button.number / 64] >> (button.number % 64) & 1) != 0;
    if ((is_down ^ down) & !marked) [[likely]] {
        if (!edge(down ? SlotKind::press : SlotKind::release, *device, button)) return finish(Outcome::refused_holds);
        return finish(down ? Outcome::press : Outcome::release);
    }
    if (!down) return finish(Outcome::stray_release);
    if (is_down) return finish(down_again(*device, button, marked));
    if (!edge(SlotKind::adopt, *device, button)) return finish(Outcome::refused_holds);
    write(SlotKind::system_repeat, *device, button, hold_capacity, false);
    return finish(Outcome::adopted_repeat);
}

Outcome Inlet::deaf(const Device* device) noexcept {
    return device && device->connected ? Outcome::ignored : Outcome::stray_device;
}

Outcome Inlet::down_again(Device& device, Button button, bool marked) noexcept {
    if (marked || !device.marks_repeats) {
        write(SlotKind::system_repeat, device, button, hold_capacity, false);
        return Outcome::system_repeat;
    }
    edge(SlotKind::cancel, device, button);
    edge(SlotKind::press, device, button);
    return Outcome::lost_release;
}

Outcome Inlet::post_plain(DeviceId id, Time when) noexcept {
    begin(when);
    const Device* device = find_device(id);
    return finish(device && device->listens ? Outcome::taken : deaf(device));
}

Outcome Inlet::post_state(DeviceId id, const ButtonSet* down, bool adopt, Time when) noexcept {
    begin(when);
    Device* device = find_device(id);
    if (!device || !device->listens) return finish(deaf(device));
    if (!down) return finish(Outcome::taken);  // axes alone
    return finish(apply_state(*device, *down, adopt || std::exchange(device->adopt_next, false)));
}

Outcome Inlet::apply_state(Device& device, const ButtonSet& down, bool adopting) noexcept {
    device.adopt_next = false;
    const SortedButtons ended{minus(device.down, down)}, started{minus(down, device.down)};
    for (unsigned i = 0; i < ended.count; ++i) edge(adopting ? SlotKind::cancel : SlotKind::release, device, ended[i]);
    bool all = true;
    for (unsigned i = 0; i < started.count; ++i)
        all &= edge(adopting ? SlotKind::adopt : SlotKind::press, device, started[i]);
    if (!all) return Outcome::refused_holds;
    return adopting ? Outcome::state_adopted : Outcome::state_taken;
}

Outcome Inlet::apply_focus(bool has) noexcept {
    if (has == focused_) return Outcome::focus_unchanged;
    focused_ = has;
    if (!has) cancel_all(Reach::foreground, nullptr);
    for (Device& device : devices_) {
        if (device.background) continue;
        device.listens = device.connected && has;
        if (has) device.adopt_next = true;
    }
    return has ? Outcome::focus_gained : Outcome::focus_lost;
}

Outcome Inlet::apply_connect(DeviceId id, const DeviceInfo& info) noexcept {
    if (Device* known = find_device(id)) {
        if (known->connected) return Outcome::stray_connect;
        if (known->kind != info.kind) return Outcome::stray_kind;
        take_info(*known, info);
        return Outcome::connected;
    }
    if (devices_.size() == device_room_) return Outcome::refused_devices;
    add_device(id, info);
    return Outcome::connected;
}

void Inlet::add_device(DeviceId id, const DeviceInfo& info) noexcept {
    Device& device = devices_.emplace_back();  // within the capacity reserved at construction
    device.number = static_cast<std::uint8_t>(devices_.size() - 1);
    device.id = id;
    device.kind = info.kind;
    device.hold_of.fill(never_held);
    take_info(device, info);
}

void Inlet::take_info(Device& device, const DeviceInfo& info) noexcept {
    device.connected = true;
    device.marks_repeats = info.marks_repeats;
    device.background = info.background;
    device.listens = focused_ || info.background;
    device.is_virtual = info.is_virtual;
    device.adopt_next = true;
    std::size_t size = std::min(info.name.size(), device.name.size());
    if (size < info.name.size())  // not in the middle of a UTF-8 sequence
        while (size > 0 && (static_cast<unsigned char>(info.name[size]) & 0xC0U) == 0x80U) --size;
    if (size > 0) std::memcpy(device.name.data(), info.name.data(), size);
    device.name_size = static_cast<std::uint8_t>(size);
}

// ---- holds

// Changes the level of a device's button and writes the edge; false if there is no room for one more hold. Without
// branches on the direction: presses and releases come in no order that a processor could guess.
inline bool Inlet::edge(SlotKind kind, Device& device, Button button) noexcept {
    const bool down = kind == SlotKind::press || kind == SlotKind::adopt;
    const unsigned place = try_bind_hold(device, button);
    if (place == hold_capacity) [[unlikely]]
        return false;
    Hold& hold = holds_[place];
    assert(hold.down != down);
    const bool was_pressed = hold.pressed;
    hold.start = latest_;  // of no meaning once it is up
    hold.pressed = kind == SlotKind::press;
    hold.down = down;
    device.down.toggle(button);
    write(kind, device, button, place, was_pressed);
    return true;
}

// A button keeps its hold from press to press, so that a sampler which missed some of them still speaks of the same.
inline unsigned Inlet::try_bind_hold(Device& device, Button button) noexcept {
    const std::uint16_t bound = device.hold_of[button.number];
    return bound < hold_capacity ? bound : try_rebind_hold(device, button);
}

unsigned Inlet::try_rebind_hold(Device& device, Button button) noexcept {
    unsigned tried = 0;
    for (; tried < hold_capacity && holds_[next_hold_].down; ++tried) next_hold_ = (next_hold_ + 1) % hold_capacity;
    if (tried == hold_capacity) return hold_capacity;
    const unsigned place = next_hold_;
    next_hold_ = (next_hold_ + 1) % hold_capacity;
    Hold& hold = holds_[place];
    if (hold.button != 0) devices_[hold.device].hold_of[hold.button] = hold_lost;
    hold.button = button.number;
    hold.device = device.number;
    device.hold_of[button.number] = static_cast<std::uint16_t>(place);
    return place;
}

void Inlet::cancel_all(Reach reach, const Device* only) noexcept {
    struct Key {
        std::uint32_t id;
        std::uint16_t rank, hold;
    };
    std::array<Key, hold_capacity> keys;
    unsigned count = 0;
    for (const Device& device : devices_) {
        if ((reach == Reach::device && &device != only) || (reach == Reach::foreground && device.background)) continue;
        device.down.for_each([&](Button b) {
            keys[count++] = {static_cast<std::uint32_t>(device.id), name_rank(b), device.hold_of[b.number]};
        });
    }
    std::sort(keys.begin(), keys.begin() + count,
              [](const Key& a, const Key& b) { return a.id != b.id ? a.id < b.id : a.rank < b.rank; });
    for (unsigned i = 0; i < count; ++i) {
        const Hold& hold = holds_[keys[i].hold];
        edge(SlotKind::cancel, devices_[hold.device], {hold.button});
    }
}

inline Inlet::Device* Inlet::find_device(DeviceId id) noexcept {
    if (recent_device_ && recent_device_->id == id) [[likely]]
        return recent_device_;
    for (Device& device : devices_)
        if (device.id == id) return recent_device_ = &device;
    return nullptr;
}

std::string_view Inlet::device_name(unsigned device) const noexcept {
    return {devices_[device].name.data(), devices_[device].name_size};
}

}  // namespace cursorum
