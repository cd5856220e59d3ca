// Readers of a subset of the devices: those of a seat, or those without a claim.
#include "actions/edges.hpp"
#include "core/rules/either_side.hpp"
#include "cursorum/core/controls.hpp"

namespace cursorum {

using detail::Effect;
using detail::SlotKind;

/// From 1; 0 if there is none.
unsigned ActionReaderCore::claim_on(DeviceId device) const noexcept {
    for (unsigned i = 0; i < claim_capacity; ++i)
        if ((state_.now.claimed >> i & 1) != 0 && state_.now.claims[i].device == device && device != DeviceId{})
            return i + 1;
    return 0;
}

// All devices were read until now, so the buttons down at the frame's start are known.
void ActionReaderCore::seed_part(const FrameCore& frame) noexcept {
    detail::DevicePart& part = state_.part;
    part = {};
    part.is_part = true;
    for (unsigned i = 0; i < hold_capacity; ++i) {
        const detail::Slot& hold = frame.state().holds[i];
        if (!hold.is_held()) continue;
        for_each_name(hold.button(), [&](std::uint16_t name) { merge(part.holders[name], hold.what().kind(), false); });
        part.buttons[i] = hold.button();
        part.pressed[i] = hold.what().kind() == SlotKind::press;
    }
}

// The effect of a device's edge on the included buttons. The edge of an either-side name comes before its key's.
void ActionReaderCore::apply_device_edge(SlotKind kind, unsigned hold, Button button, std::int64_t time) {
    detail::DevicePart& part = state_.part;
    const Effect effect = merge(part.holders[button.number], kind, part.pressed[hold]);
    if (button.number < first_either_side) {
        const bool down = kind == SlotKind::press || kind == SlotKind::adopt;
        part.pressed[hold] = kind == SlotKind::press;
        part.buttons[hold] = down ? button.number : std::uint16_t{0};
    }
    if (effect == Effect::none) return;
    if (effect == Effect::restart) take_rare_edge(button, false, false, time);
    take_rare_edge(button, starts(effect), is_persons(effect), time);
}

// The edges of the devices that `includes(number, button)` and that no claim has, merged separately. The set of devices
// may change at the frame's start, and the caller may have skipped frames, so the buttons down then are compared with
// the known ones.
template <typename Includes>
void ActionReaderCore::read_part(const FrameCore& frame, Includes&& includes) {
    detail::DevicePart& part = state_.part;
    if (state_.reopens) start_with_openings();
    const auto claim_of = [&](unsigned device) { return claim_on(frame.id_of(device)); };
    for (unsigned i = 0; i < hold_capacity; ++i) {
        const detail::Slot& hold = frame.state().holds[i];
        const bool held = hold.is_held();
        if (part.claim_of[i] != 0 && !held) {
            part.claim_of[i] = 0;
            --part.claimed_holds;
        }
        const bool down =
            held && part.claim_of[i] == 0 && includes(hold.device(), {hold.button()}) && claim_of(hold.device()) == 0;
        const auto turn = [&](SlotKind kind, std::uint16_t button) {
            for_each_name(button, [&](std::uint16_t name) { apply_device_edge(kind, i, {name}, state_.t0); });
        };
        if (part.buttons[i] != 0 && !(down && part.buttons[i] == hold.button()))
            turn(SlotKind::cancel, part.buttons[i]);
        if (down && part.buttons[i] == 0) turn(SlotKind::adopt, hold.button());
    }
    included_devices_ = {};
    for (unsigned i = 0; i < device_capacity; ++i) {
        if (frame.id_of(i) == DeviceId{} || claim_of(i) != 0) continue;
        const bool is_included = includes(i, axis_button(Axis{0})) || includes(i, controls::MouseLeft);
        included_devices_[i / 64] |= std::uint64_t{is_included} << i % 64;
    }
    is_partial_ = true;
    gather_turns(frame);
    for (std::uint32_t i = 0; i < frame.count; ++i) {
        const detail::StoredEdge& record = frame.edges[i];
        const std::int64_t time = record.time;
        if (i == frame.skip_at) skip_gestures();
        const SlotKind kind = record.what().kind();
        const Button button{record.button()};
        const unsigned hold = detail::hold_of(record.tag());
        // The record of an either-side name comes before its key's, and the key determines its owner.
        const bool is_key = button.number < first_either_side;
        const Button key{is_key || i + 1 == frame.count ? button.number : frame.edges[i + 1].button()};
        if (kind == SlotKind::system_repeat && includes(record.device(), key)) {
            catch_up(time - 1);
            run_timers(time);
            count_system_repeat(button);
        }
        if (kind > SlotKind::cancel || hold >= hold_capacity) continue;
        const bool down = kind == SlotKind::press || kind == SlotKind::adopt;
        if (!down && part.buttons[hold] == 0) {
            if (part.claim_of[hold] != 0 && is_key) part.claim_of[hold] = 0, --part.claimed_holds;
            continue;
        }
        if (down && part.buttons[hold] == 0) {
            if (const unsigned claim = claim_of(record.device()); claim != 0) {
                if (kind != SlotKind::press || !is_key || part.claim_of[hold] != 0) continue;
                part.claim_of[hold] = static_cast<std::uint8_t>(claim);
                part.claimed[hold] = button.number;
                ++part.claimed_holds;
                continue;
            }
            if (!includes(record.device(), key)) continue;
        }
        catch_up(time - 1);
        run_timers(time);
        turner_ = {.kind = Turner::Kind::edge, .edge = &record};
        apply_device_edge(kind, hold, button, time);
    }
    if (frame.skip_at == frame.count) skip_gestures();
    catch_up(state_.t1);
    finish_frame(frame);
}

// The part of all device input that belongs to a seat or to no claim.
void ActionReaderCore::read_unclaimed(const FrameCore& frame) {
    if (!state_.part.is_part) {
        heal(ButtonSet{frame.state().levels});
        seed_part(frame);
    }
    read_part(frame, [](unsigned, Button) { return true; });
    // A button pressed under a claim is ignored until it is up.
    state_.part.is_part = claims_devices() || state_.part.claimed_holds != 0;
}

void ActionReaderCore::read(const Frame& of, const Seats& seats, unsigned seat) {
    const FrameCore& frame = core_of(of);
    if (!try_open_frame(frame)) return;
    if (next_map_) apply_bindings();
    if (!std::exchange(state_.part.is_part, true)) heal({});
    read_part(frame,
              [&](unsigned device, Button button) { return seats.seat_of(frame.id_of(device), button) == seat; });
}

}  // namespace cursorum
