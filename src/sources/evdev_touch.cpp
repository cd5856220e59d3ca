// Fingers on a touch screen: the kernel's multi-touch protocol with slots ("type B" in its documents), and the single
// place that older screens report. A report changes any number of slots; what has changed is posted at its end.
#include "sources/evdev_touch.hpp"

#include <linux/input.h>

#include <algorithm>
#include <utility>

namespace cursorum {

void EvdevTouch::set_range(unsigned code, KernelRange range) noexcept {
    if (range.least >= range.greatest) return;
    switch (code) {
        case ABS_MT_POSITION_X: has_slots_ = true; [[fallthrough]];
        case ABS_X: x_ = range; break;
        case ABS_MT_POSITION_Y:
        case ABS_Y: y_ = range; break;
        case ABS_MT_PRESSURE:
        case ABS_PRESSURE: pressure_ = range; break;
        default: break;
    }
}

/// From 0 to 1. With `last_is_inside`, 1 lies beyond the greatest value, as a screen's edge does beyond its last pixel.
double EvdevTouch::share(std::int32_t value, KernelRange range, bool last_is_inside) noexcept {
    const double least = range.least, greatest = range.greatest;
    return (std::clamp(value, range.least, range.greatest) - least) / (greatest - least + last_is_inside);
}

EvdevTouch::Finger* EvdevTouch::now() noexcept {
    const bool exists = slot_ >= 0 && static_cast<std::size_t>(slot_) < fingers_.size();
    return exists ? &fingers_[static_cast<std::size_t>(slot_)] : nullptr;
}

void EvdevTouch::take(std::uint16_t code, std::int32_t value) noexcept {
    if (code == ABS_MT_SLOT) return choose_slot(value);
    // A screen with slots reports one of its fingers as a single place, too.
    const bool is_of_slot = code > ABS_MT_SLOT;
    Finger* const finger = is_of_slot == has_slots_ ? now() : nullptr;
    if (!finger) return;
    switch (code) {
        case ABS_MT_TRACKING_ID: finger->number = value < 0 ? none : value; return;
        case ABS_MT_TOOL_TYPE: finger->is_palm = value == MT_TOOL_PALM; return;
        case ABS_MT_POSITION_X:
        case ABS_X: finger->x = share(value, x_, true) * screen_.x; break;
        case ABS_MT_POSITION_Y:
        case ABS_Y: finger->y = share(value, y_, true) * screen_.y; break;
        case ABS_MT_PRESSURE:
        case ABS_PRESSURE:
            if (pressure_.least < pressure_.greatest) finger->pressure = share(value, pressure_, false);
            break;
        default: return;
    }
    finger->has_moved = true;
}

void EvdevTouch::touch(bool down) noexcept {
    if (has_slots_) return;
    // Each touch is another finger, so that one that was ignored does not stay so.
    fingers_[0].number = down ? std::max(fingers_[0].ignored, fingers_[0].contact) + 1 : none;
}

Event EvdevTouch::contact(const Finger& finger, ContactPhase phase, Time time, DeviceId device) noexcept {
    Event event = Event::of(time, EventType::contact, device);
    event.contact = static_cast<std::uint32_t>(finger.contact);
    event.phase = phase;
    event.x = finger.x, event.y = finger.y;
    event.value = finger.pressure;
    return event;
}

void EvdevTouch::report(Time time, DeviceId device, EventSink& sink) {
    for (Finger& it : fingers_) {
        const bool has_moved = std::exchange(it.has_moved, false);
        if (it.contact != none && (it.number != it.contact || it.is_palm)) {
            sink.take(contact(it, it.is_palm ? ContactPhase::cancel : ContactPhase::end, time, device));
            it.ignored = std::exchange(it.contact, none);
        }
        if (it.number == none) it.is_palm = false;
        const bool counts = it.number != none && it.number != it.ignored && !it.is_palm;
        if (it.contact == none && counts) {
            it.contact = it.number;
            sink.take(contact(it, ContactPhase::begin, time, device));
        } else if (it.contact != none && has_moved) {
            sink.take(contact(it, ContactPhase::move, time, device));
        }
    }
}

void EvdevTouch::cancel(Time time, DeviceId device, EventSink& sink) {
    for (const Finger& it : fingers_)
        if (it.contact != none) sink.take(contact(it, ContactPhase::cancel, time, device));
    forget();
}

void EvdevTouch::forget() noexcept {
    for (Finger& it : fingers_) {
        it.contact = none;
        it.ignored = it.number;
        it.has_moved = false;
    }
}

}  // namespace cursorum
