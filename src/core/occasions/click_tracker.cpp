// The rules of clicks: which press is a second one, and from where on it is a drag. Distances are of the pointer's
// position, or of the device's motion if there is none.
#include "core/occasions/click_tracker.hpp"

#include <algorithm>

#include "core/rules/fixed_point.hpp"

namespace cursorum::detail {

namespace {

/// In square pixels: exact until the last addition.
double square_between(const FixedDistance& a, const FixedDistance& b) noexcept {
    const double x = from_fixed(static_cast<std::int64_t>(a[0] - b[0]));
    const double y = from_fixed(static_cast<std::int64_t>(a[1] - b[1]));
    return x * x + y * y;
}

}  // namespace

// Where the pointer is, whichever device moved it; where only motion is known, from where the device's first press in
// progress was.
FixedDistance ClickTracker::point_of(const Press& press) const noexcept {
    return press.has_position ? pointer_.position : press.device->drift;
}

void ClickTracker::write(OccasionKind kind, unsigned place) const noexcept {
    const Press& press = presses_[place];
    OccasionSlot occasion;
    occasion.what =
        (press.has_position ? OccasionSlot::placed_bit : 0) | (press.is_dragging ? OccasionSlot::dragging_bit : 0);
    occasion.begin = press.begin;
    occasion.position = point_of(press);
    occasion.measure = press.farthest_square;
    occasion.begin_time = press.time;
    occasions_.write(*press.device, kind, first_ + place, press.button.number, press.count, occasion);
}

void ClickTracker::follow_edge(SlotKind kind, Device& device, Button button) noexcept {
    if (kind == SlotKind::press) {
        const auto end = presses_.begin() + room_;
        const auto free = std::find_if(presses_.begin(), end, [](const Press& p) { return !p.device; });
        if (free == end) return;
        if (device.presses++ == 0) device.drift = {};
        ++count_;
        const std::int64_t now = occasions_.latest.get();
        const bool has_position = pointer_.is_fresh && !device.is_locked();
        const FixedDistance at = has_position ? pointer_.position : device.drift;
        const LastClick& last = last_click_;
        const bool again = last.device == &device && last.button == button &&
                           now - last.time <= settings_.again_within.count() &&
                           square_between(at, last.position) <= settings_.again_near * settings_.again_near;
        *free = {.device = &device,
                 .button = button,
                 .time = now,
                 .begin = at,
                 .farthest_square = 0,
                 .has_position = has_position,
                 .is_dragging = false,
                 .count = static_cast<std::uint8_t>(again ? std::min(last.count + 1, 255) : 1)};
        last_click_ = {};
        write(OccasionKind::press, static_cast<unsigned>(free - presses_.begin()));
        return;
    }
    if (kind == SlotKind::adopt) return;
    for (unsigned place = 0; place < room_; ++place) {
        Press& press = presses_[place];
        if (press.device != &device || press.button != button) continue;
        const bool clicks = kind == SlotKind::release;
        if (clicks && !press.is_dragging)
            last_click_ = {&device, button, occasions_.latest.get(), point_of(press), press.count};
        write(clicks ? OccasionKind::release : OccasionKind::cancel, place);
        press.device = nullptr;
        --device.presses;
        --count_;
    }
}

void ClickTracker::follow_motion() noexcept {
    for (unsigned place = 0; place < room_; ++place) {
        Press& press = presses_[place];
        if (!press.device) continue;
        press.farthest_square = std::max(press.farthest_square, square_between(point_of(press), press.begin));
        if (press.is_dragging || press.farthest_square < settings_.drag_from * settings_.drag_from) continue;
        press.is_dragging = true;
        write(OccasionKind::drag, place);
    }
}

void ClickTracker::follow_leaving(Device& device) noexcept {
    if (!settings_.cancel_on_leave) return;
    for (unsigned place = 0; place < room_; ++place) {
        Press& press = presses_[place];
        if (press.device != &device) continue;
        write(OccasionKind::cancel, place);
        press.device = nullptr;
        --count_;
    }
    device.presses = 0;
}

}  // namespace cursorum::detail
