// Posting buttons: a short path for a plain key that only this device holds, and a general one for everything else. A
// button of a device keeps its hold's number, by which samplers know it.
#include "core/inlet/button_writer.hpp"

#include <algorithm>
#include <array>
#include <utility>

#include "core/controls/postable.hpp"
#include "core/inlet/inlet_core.hpp"
#include "core/rings/one_thread.hpp"
#include "core/rules/button_rules.hpp"

namespace cursorum {

using detail::Cell;
using detail::Device;
using detail::Effect;
using detail::Slot;
using detail::SlotKind;
using detail::What;

namespace {

// The What of a release and of a press, the first slot of its event, of a button that no other device holds.
constexpr std::array<std::uint64_t, 2> edge_alone{
    std::uint64_t{What::of(SlotKind::release, Effect::release, true, false).bits} << 56,
    std::uint64_t{What::of(SlotKind::press, Effect::press, true, true).bits} << 56};

}  // namespace

// Most events are a press or release of a plain key that no other device holds, in time, on the device of the last
// event. They take a short path with the same rules in fewer steps, which determines the cost of posting.
template <bool noted>
[[gnu::always_inline]] inline Outcome InletCore::press(DeviceId id, Button button, bool down, Time when) noexcept {
    Device& device = *recent_device_;
    const std::int64_t time = nanoseconds(when);
    if (device.id != id || !device.listens || button.number >= button_capacity || !is_usual(time)) [[unlikely]]
        return post_any_button(id, button, down, false, when);
    const Cell cell = device.cell(button);
    Holders& holders = buttons_.holders(button);
    const unsigned itself = adopted_holder + cell.is_pressed() * (pressed_holder - adopted_holder);
    if (!cell.is_usual(down) || !is_lone(holders, itself, down)) [[unlikely]]
        return post_any_button(id, button, down, false, when);

    const OneThread here{guard_};
    if constexpr (noted) ledger_->note_button(time, id, button, down, false);
    const Cell flipped = cell.flipped(down);
    const unsigned hold = cell.hold();
    const Slot slot{time, device.slot_bits | std::uint64_t{button.number} << 32 | hold |
                              event_count_.extra_slots() << detail::extra_shift | edge_alone[down]};
    latest_.set(time);
    merge_lone(holders, down);
    device.set(button, flipped);
    ring_.write_and_publish(slot);
    holds_.show(hold, slot);
    return down ? Outcome::press : Outcome::release;
}

// With a ledger; apart, so that a timeline without one pays for one test.
[[gnu::noinline]] Outcome InletCore::press_and_note(DeviceId id, Button button, bool down, Time when) noexcept {
    return press<true>(id, button, down, when);
}

inline Outcome InletCore::post_button(DeviceId id, Button button, bool down, Time when) noexcept {
    if (ledger_) [[unlikely]]
        return press_and_note(id, button, down, when);
    return press<false>(id, button, down, when);
}

static bool can_have(unsigned trait) noexcept { return trait != 0 && trait != Cell::of_axes; }

Outcome InletCore::post_any_button(DeviceId id, Button button, bool down, bool marked, Time when) noexcept {
    const OneThread here{guard_};
    begin(when);
    if (ledger_) ledger_->note_button(stamp(), id, button, down, marked);
    Device* const device = find_device(id);
    if (!device || !device->listens) return finish(not_listening(device));
    if (button.number >= button_capacity || !can_have(device->cell(button).trait()))
        return finish(Outcome::refused_control);
    return finish(apply_button(detail::DeviceKeys{buttons_, *device}, button, down, marked));
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

// ---- holds

namespace detail {

// A button keeps its hold from press to press, so that a sampler that missed some of them still refers to the same
// hold.
bool ButtonWriter::try_bind_hold(Device& device, Button button) noexcept {
    for (unsigned tried = 0; tried < to_.numbers_.hold_room; ++tried) {
        const unsigned place = next_hold_;
        next_hold_ = (next_hold_ + 1) % to_.numbers_.hold_room;
        Bound& bound = bound_[place];
        if (bound.device) {
            const Cell old = bound.device->cell(bound.button);
            if (old.is_down()) continue;
            bound.device->set(bound.button, old.with_hold(Cell::hold_lost));
        }
        bound = {&device, button};
        to_.holds_used_.publish(std::max(to_.holds_used_.get(), place + 1));
        device.set(button, device.cell(button).with_hold(to_.numbers_.first_hold + place));
        return true;
    }
    return false;
}

ButtonSet ButtonWriter::down_on(const Device& device) const noexcept {
    ButtonSet down;
    for (unsigned i = 0; i < to_.holds_used_.get(); ++i)
        if (const Bound& bound = bound_[i]; bound.device == &device && device.cell(bound.button).is_down())
            down.insert(bound.button);
    return down;
}

void ButtonWriter::cancel(Reach reach) noexcept {
    struct Key {
        std::uint64_t order;
        unsigned hold;
    };
    std::array<Key, hold_capacity> keys;
    unsigned count = 0;
    for (unsigned i = 0; i < to_.holds_used_.get(); ++i) {
        const auto& [device, button] = bound_[i];
        if (!reach.includes(*device) || !device->cell(button).is_down()) continue;
        const std::uint64_t rank = std::uint64_t{name_rank(button)} << 16 | button.number;
        keys[count++] = {std::uint64_t{static_cast<std::uint32_t>(device->id)} << 32 | rank, i};
    }
    std::sort(keys.begin(), keys.begin() + count, [](const Key& a, const Key& b) { return a.order < b.order; });
    for (unsigned i = 0; i < count; ++i) {
        const Bound& bound = bound_[keys[i].hold];
        edge(SlotKind::cancel, *bound.device, bound.button);
    }
}

}  // namespace detail
}  // namespace cursorum
