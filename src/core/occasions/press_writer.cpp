// Turns a mouse button's press into a click or a drag, by how far the pointer went since. Also whether the pointer is
// inside the window, and whether it is locked.
#include <algorithm>

#include "core/inlet/inlet_events.hpp"
#include "core/rings/one_thread.hpp"
#include "core/rules/fixed_point.hpp"
#include "cursorum/core/event.hpp"

namespace cursorum {

using detail::Device;
using detail::FixedDistance;
using detail::OccasionKind;
using detail::OccasionSlot;
using detail::SlotKind;

namespace {

/// In square pixels: exact until the last addition.
double square_between(const FixedDistance& a, const FixedDistance& b) noexcept {
    const double x = from_fixed(static_cast<std::int64_t>(a[0] - b[0]));
    const double y = from_fixed(static_cast<std::int64_t>(a[1] - b[1]));
    return x * x + y * y;
}

}  // namespace

void InletCore::write_occasion(const Device& device, OccasionKind kind, unsigned place, unsigned button, unsigned count,
                               OccasionSlot occasion) noexcept {
    occasion.time = latest_.get();
    occasion.late_at = late_at_;
    occasion.what |= device.number | device.is_virtual * OccasionSlot::virtual_bit |
                     OccasionSlot::what_of(kind, place, button, count);
    occasions_.write_and_publish(occasion);
    changes_of_others_.publish(changes_of_others_.get() + 1);
    if (occasion.is_contact()) contact_table_.show(place - numbers_.first_contact, occasion);
}

// Where the pointer is, whichever device moved it; where only motion is known, from where the device's first press in
// progress was.
FixedDistance InletCore::point_of(const PointerPress& press) const noexcept {
    return press.has_position ? pointer_ : press.device->drift;
}

void InletCore::write_press(OccasionKind kind, unsigned place) noexcept {
    const PointerPress& press = presses_[place];
    OccasionSlot occasion;
    occasion.what =
        (press.has_position ? OccasionSlot::placed_bit : 0) | (press.is_dragging ? OccasionSlot::dragging_bit : 0);
    occasion.begin = press.begin;
    occasion.position = point_of(press);
    occasion.measure = press.farthest_square;
    occasion.begin_time = press.time;
    write_occasion(*press.device, kind, numbers_.first_press + place, press.button.number, press.count, occasion);
}

void InletCore::track_button(SlotKind kind, Device& device, Button button) noexcept {
    if (kind == SlotKind::press) {
        const auto end = presses_.begin() + numbers_.press_room;
        const auto free = std::find_if(presses_.begin(), end, [](const PointerPress& p) { return !p.device; });
        if (free == end) return;
        if (device.presses++ == 0) device.drift = {};
        ++presses_held_;
        const std::int64_t now = latest_.get();
        const bool has_position = pointer_fresh_ && !device.is_locked;
        const FixedDistance at = has_position ? pointer_ : device.drift;
        const LastClick& last = last_click_;
        const bool again =
            last.device == &device && last.button == button &&
            now - last.time <= pointer_settings_.again_within.count() &&
            square_between(at, last.position) <= pointer_settings_.again_near * pointer_settings_.again_near;
        *free = {.device = &device,
                 .button = button,
                 .time = now,
                 .begin = at,
                 .farthest_square = 0,
                 .has_position = has_position,
                 .is_dragging = false,
                 .count = static_cast<std::uint8_t>(again ? std::min(last.count + 1, 255) : 1)};
        last_click_ = {};
        write_press(OccasionKind::press, static_cast<unsigned>(free - presses_.begin()));
        return;
    }
    if (kind == SlotKind::adopt) return;
    for (unsigned place = 0; place < numbers_.press_room; ++place) {
        PointerPress& press = presses_[place];
        if (press.device != &device || press.button != button) continue;
        const bool clicks = kind == SlotKind::release;
        if (clicks && !press.is_dragging) last_click_ = {&device, button, latest_.get(), point_of(press), press.count};
        write_press(clicks ? OccasionKind::release : OccasionKind::cancel, place);
        press.device = nullptr;
        --device.presses;
        --presses_held_;
    }
}

void InletCore::track_motion() noexcept {
    for (unsigned place = 0; place < numbers_.press_room; ++place) {
        PointerPress& press = presses_[place];
        if (!press.device) continue;
        press.farthest_square = std::max(press.farthest_square, square_between(point_of(press), press.begin));
        if (press.is_dragging || press.farthest_square < pointer_settings_.drag_from * pointer_settings_.drag_from)
            continue;
        press.is_dragging = true;
        write_press(OccasionKind::drag, place);
    }
}

void InletCore::cancel_presses(const Device& device) noexcept {
    for (unsigned place = 0; place < numbers_.press_room; ++place) {
        PointerPress& press = presses_[place];
        if (press.device != &device) continue;
        write_press(OccasionKind::cancel, place);
        press.device = nullptr;
        --presses_held_;
    }
    devices_[device.number - numbers_.first_device].presses = 0;
}

// ---- inside and outside, locked and free

Outcome Inlet::pointer_inside(DeviceId device, bool inside, Time when) noexcept {
    return core_of(*this).post_pointer_flags(Event::pointer_inside(when, device, inside));
}

Outcome Inlet::pointer_locked(DeviceId device, bool locked, Time when) noexcept {
    return core_of(*this).post_pointer_flags(Event::pointer_locked(when, device, locked));
}

Outcome InletCore::post_pointer_flags(const Event& event) noexcept {
    const OneThread here{guard_};
    begin(event.time);
    Device* const device = find_device(event.device);
    if (!device || !device->listens) return finish(not_listening(device));
    if (event.has_locked && device->is_locked != event.locked) {
        device->is_locked = event.locked;
        // The jump to the position where it reappears does not count as motion.
        device->has_position = pointer_fresh_ = false;
    }
    if (event.has_inside) {
        const bool leaves = !event.inside && !device->is_outside;
        device->is_outside = !event.inside;
        if (leaves && pointer_settings_.cancel_on_leave) cancel_presses(*device);
    }
    write_pointer_flags(*device);
    return finish(Outcome::taken);
}

void InletCore::write_pointer_flags(const Device& device) noexcept {
    OccasionSlot occasion;
    occasion.begin[0] = device.is_outside * 1U | device.is_locked * 2U;
    write_occasion(device, OccasionKind::pointer_flags, 0, 0, 0, occasion);
}

}  // namespace cursorum
