// Motion, wheel, and what becomes of a press of a mouse button: click or drag.
#include <algorithm>
#include <cmath>

#include "core/inlet/inlet_events.hpp"
#include "core/rings/one_thread.hpp"
#include "core/rules/fixed_point.hpp"

namespace cursorum {

using detail::Device;
using detail::FactKind;
using detail::FactSlot;
using detail::FixedDistance;
using detail::MotionSlot;
using detail::SlotKind;

namespace {

std::uint64_t fixed(double value) noexcept { return static_cast<std::uint64_t>(to_fixed(value)); }

/// In square pixels: exact until the last addition.
double square_between(const FixedDistance& a, const FixedDistance& b) noexcept {
    const double x = from_fixed(static_cast<std::int64_t>(a[0] - b[0]));
    const double y = from_fixed(static_cast<std::int64_t>(a[1] - b[1]));
    return x * x + y * y;
}

}  // namespace

// ---- motion and wheel

inline void InletCore::publish_motions() noexcept {
    motions_.publish();
    beside_.publish(beside_.get() + 1);
}

/// `known`: which fields the event has, where that is known at compile time. Motion is posted thousands of times per
/// second.
template <unsigned known>
[[gnu::always_inline]] inline Outcome InletCore::post_moving(DeviceId id, const Moving& m, Time when) noexcept {
    const OneThread here{door_};
    Device* const device = find_device(id);
    const unsigned told = known != 0 ? known : m.told;
    const bool fits = ((told & (Moving::motion | Moving::wheel)) == 0 || (has_fixed(m.dx) && has_fixed(m.dy))) &&
                      ((told & Moving::position) == 0 || (has_fixed(m.x) && has_fixed(m.y))) &&
                      ((told & Moving::raw) == 0 || (has_fixed(m.raw_dx) && has_fixed(m.raw_dy)));
    if (!device || !device->listens || !fits) {
        begin(when);
        return finish(!device || !device->listens ? deaf(device) : Outcome::refused_value);
    }
    write_moving<known>(*device, m, when, false);
    publish_motions();
    if (presses_held_ != 0) [[unlikely]] {
        late_at_ = detail::in_time;  // motion has no slot in the ring of edges
        track_motion();
    }
    return Outcome::taken;
}

/// Not published yet. `is_extra`: its event is counted elsewhere.
template <unsigned known>
[[gnu::always_inline]] inline void InletCore::write_moving(Device& device, const Moving& m, Time when,
                                                           bool is_extra) noexcept {
    const unsigned told = known != 0 ? known : m.told;
    const std::int64_t latest = latest_.get();
    std::int64_t stamp = nanoseconds(when), late_by = 0;
    if (!is_extra && (stamp < latest || stamp > accepted_until_)) [[unlikely]] {
        stamp = accepted(stamp);
        late_by = std::clamp<std::int64_t>(latest - stamp, 0, std::int64_t{MotionSlot::most_late});
        backdated_.add(late_by > 0);
    }
    latest_.set(std::max(stamp, latest));

    // One by one, and each sum from where it was made: wide loads would wait for the narrow stores before them.
    std::uint64_t x = motion_[0], y = motion_[1];
    if ((told & Moving::motion) != 0) x += fixed(m.dx), y += fixed(m.dy);
    std::uint64_t what = device.motion_bits | static_cast<std::uint64_t>(late_by) << MotionSlot::late_shift;
    if ((told & Moving::position) != 0 && !device.is_locked) {
        const FixedDistance to{fixed(m.x), fixed(m.y)};
        if ((told & (Moving::motion | Moving::warp)) == 0 && device.has_position) {
            x += to[0] - device.position[0];
            y += to[1] - device.position[1];
        }
        device.position = pointer_ = to;
        device.has_position = pointer_known_ = pointer_fresh_ = true;
        what |= MotionSlot::places_bit;
    } else if (device.presses != 0) [[unlikely]] {
        device.drift[0] += x - motion_[0];
        device.drift[1] += y - motion_[1];
    }
    what |= pointer_known_ * MotionSlot::placed_bit;
    motion_[0] = x, motion_[1] = y;
    if ((told & Moving::raw) != 0) raw_[0] += fixed(m.raw_dx), raw_[1] += fixed(m.raw_dy);
    if ((told & Moving::wheel) != 0) {
        what |= MotionSlot::wheel_bit;
        const std::array<std::int64_t, 2> turned{to_fixed(m.dx), to_fixed(m.dy)};
        for (unsigned axis = 0; axis < 2; ++axis) {
            wheel_[axis] += static_cast<std::uint64_t>(turned[axis]);
            const std::int64_t sum = wheel_carried_[axis] + turned[axis], whole = sum / 65536;
            wheel_carried_[axis] = sum - whole * 65536;
            steps_[axis] += static_cast<std::uint32_t>(whole);
        }
    }
    motion_counts_ += (late_by > 0) * MotionSlot::one_late + device.is_virtual * MotionSlot::one_virtual +
                      is_extra * MotionSlot::one_extra;
    // Word by word, from registers: a wide load of what was just stored narrowly would wait.
    motions_.write_words({static_cast<std::uint64_t>(std::max(stamp, latest)), what, x, y, raw_[0], raw_[1], wheel_[0],
                          wheel_[1], pointer_[0], pointer_[1], steps_[0] | std::uint64_t{steps_[1]} << 32,
                          motion_counts_});
}

Outcome Inlet::motion(double dx, double dy, Time when) noexcept { return motion(desk_mouse, dx, dy, when); }
Outcome Inlet::wheel(double dx, double dy, Time when) noexcept { return wheel(desk_mouse, dx, dy, when); }
Outcome Inlet::moved_to(WindowPoint place, Time when) noexcept { return moved_to(desk_mouse, place, when); }

Outcome Inlet::motion(DeviceId device, double dx, double dy, Time when) noexcept {
    return core_of(*this).post_moving<InletCore::Moving::motion>(device, {.dx = dx, .dy = dy}, when);
}

Outcome Inlet::wheel(DeviceId device, double dx, double dy, Time when) noexcept {
    return core_of(*this).post_moving<InletCore::Moving::wheel>(device, {.dx = dx, .dy = dy}, when);
}

Outcome Inlet::moved_to(DeviceId device, WindowPoint place, Time when) noexcept {
    return core_of(*this).post_moving<InletCore::Moving::position>(device, {.x = place.x, .y = place.y}, when);
}

Outcome Inlet::warped_to(DeviceId device, WindowPoint place, Time when) noexcept {
    return core_of(*this).post_moving<InletCore::Moving::position | InletCore::Moving::warp>(
        device, {.x = place.x, .y = place.y}, when);
}

Outcome InletCore::post_motion(const Event& event) noexcept {
    return post_moving<0>(event.device,
                          {event.has_motion * Moving::motion | event.has_position * Moving::position |
                               event.has_raw * Moving::raw | event.warp * Moving::warp,
                           event.dx, event.dy, event.x, event.y, event.raw_dx, event.raw_dy},
                          event.time);
}

/// As many as are in time and fit, from the first on, while no button of the device is pressed; not published yet. What
/// each changes stays in registers from one to the next.
std::size_t InletCore::write_plain_motions(const Device& device, std::span<const MotionSample> samples) noexcept {
    std::int64_t latest = latest_.get();
    std::uint64_t x = motion_[0], y = motion_[1], counts = motion_counts_;
    const std::uint64_t what = device.motion_bits | pointer_known_ * MotionSlot::placed_bit;
    const std::uint64_t one = device.is_virtual * MotionSlot::one_virtual;
    const FixedDistance raw = raw_, wheel = wheel_, pointer = pointer_;
    const std::uint64_t steps = steps_[0] | std::uint64_t{steps_[1]} << 32;
    std::size_t done = 0;
    for (const MotionSample& sample : samples) {
        const std::int64_t time = nanoseconds(sample.time);
        if (time < latest || time > accepted_until_ || !has_fixed(sample.dx) || !has_fixed(sample.dy)) break;
        latest = time;
        x += fixed(sample.dx);
        y += fixed(sample.dy);
        counts += one;
        motions_.write_words({static_cast<std::uint64_t>(time), what, x, y, raw[0], raw[1], wheel[0], wheel[1],
                              pointer[0], pointer[1], steps, counts});
        ++done;
    }
    latest_.set(latest);
    motion_[0] = x, motion_[1] = y;
    motion_counts_ = counts;
    return done;
}

Outcome Inlet::motions(DeviceId device, std::span<const MotionSample> samples) noexcept {
    return core_of(*this).post_motions(device, samples);
}

Outcome InletCore::post_motions(DeviceId id, std::span<const MotionSample> samples) noexcept {
    const OneThread here{door_};
    Device* const device = find_device(id);
    Outcome outcome = Outcome::taken;
    while (!samples.empty()) {
        if (device && device->listens && presses_held_ == 0) {
            const std::size_t done = write_plain_motions(*device, samples);
            if (done != 0) outcome = Outcome::taken;
            samples = samples.subspan(done);
            if (samples.empty()) break;
        }
        const MotionSample& sample = samples.front();
        samples = samples.subspan(1);
        const bool fits = has_fixed(sample.dx) && has_fixed(sample.dy);
        outcome = !device || !device->listens ? deaf(device) : fits ? Outcome::taken : Outcome::refused_value;
        if (outcome != Outcome::taken) {
            begin(sample.time);
            finish(outcome);
            continue;
        }
        write_moving<Moving::motion>(*device, {.dx = sample.dx, .dy = sample.dy}, sample.time, false);
        if (presses_held_ != 0) [[unlikely]] {
            publish_motions();
            late_at_ = detail::in_time;
            track_motion();
        }
    }
    publish_motions();
    return outcome;
}

// ---- inside and outside, locked and free

Outcome Inlet::pointer_inside(DeviceId device, bool inside, Time when) noexcept {
    return core_of(*this).post_pointer_flags(Event::pointer_inside(when, device, inside));
}

Outcome Inlet::pointer_locked(DeviceId device, bool locked, Time when) noexcept {
    return core_of(*this).post_pointer_flags(Event::pointer_locked(when, device, locked));
}

Outcome InletCore::post_pointer_flags(const Event& event) noexcept {
    const OneThread here{door_};
    begin(event.time);
    Device* const device = find_device(event.device);
    if (!device || !device->listens) return finish(deaf(device));
    if (event.has_locked && device->is_locked != event.locked) {
        device->is_locked = event.locked;
        device->has_position = pointer_fresh_ = false;  // wherever it comes out is no motion
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
    FactSlot fact;
    fact.begin[0] = device.is_outside * 1U | device.is_locked * 2U;
    write_fact(device, FactKind::pointer_flags, 0, 0, 0, fact);
}

// ---- clicks and drags

void InletCore::write_fact(const Device& device, FactKind kind, unsigned place, unsigned button, unsigned count,
                           FactSlot fact) noexcept {
    fact.time = latest_.get();
    fact.late_at = late_at_;
    fact.what |=
        device.number | device.is_virtual * FactSlot::virtual_bit | FactSlot::what_of(kind, place, button, count);
    facts_.write_and_publish(fact);
    beside_.publish(beside_.get() + 1);
    if (fact.is_contact()) contact_table_.show(place - place_.first_contact, fact);
}

// Where the pointer is, whichever device moved it; where only motion is known, from where the device's first press in
// progress was.
FixedDistance InletCore::point_of(const PointerPress& press) const noexcept {
    return press.has_position ? pointer_ : press.device->drift;
}

void InletCore::write_press(FactKind kind, unsigned place) noexcept {
    const PointerPress& press = presses_[place];
    FactSlot fact;
    fact.what = (press.has_position ? FactSlot::placed_bit : 0) | (press.is_dragging ? FactSlot::dragging_bit : 0);
    fact.begin = press.begin;
    fact.position = point_of(press);
    fact.measure = press.farthest_square;
    fact.begin_time = press.time;
    write_fact(*press.device, kind, place_.first_press + place, press.button.number, press.count, fact);
}

void InletCore::track_button(SlotKind kind, Device& device, Button button) noexcept {
    if (kind == SlotKind::press) {
        const auto end = presses_.begin() + place_.press_room;
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
        write_press(FactKind::press, static_cast<unsigned>(free - presses_.begin()));
        return;
    }
    if (kind == SlotKind::adopt) return;
    for (unsigned place = 0; place < place_.press_room; ++place) {
        PointerPress& press = presses_[place];
        if (press.device != &device || press.button != button) continue;
        const bool clicks = kind == SlotKind::release;
        if (clicks && !press.is_dragging) last_click_ = {&device, button, latest_.get(), point_of(press), press.count};
        write_press(clicks ? FactKind::release : FactKind::cancel, place);
        press.device = nullptr;
        --device.presses;
        --presses_held_;
    }
}

void InletCore::track_motion() noexcept {
    for (unsigned place = 0; place < place_.press_room; ++place) {
        PointerPress& press = presses_[place];
        if (!press.device) continue;
        press.farthest_square = std::max(press.farthest_square, square_between(point_of(press), press.begin));
        if (press.is_dragging || press.farthest_square < pointer_settings_.drag_from * pointer_settings_.drag_from)
            continue;
        press.is_dragging = true;
        write_press(FactKind::drag, place);
    }
}

void InletCore::cancel_presses(const Device& device) noexcept {
    for (unsigned place = 0; place < place_.press_room; ++place) {
        PointerPress& press = presses_[place];
        if (press.device != &device) continue;
        write_press(FactKind::cancel, place);
        press.device = nullptr;
        --presses_held_;
    }
    devices_[device.number - place_.first_device].presses = 0;
}

// ---- contacts: what acts as pointer

// A surface's first contact moves the pointer. Its motion belongs to the contact's event, which is counted as that.
void InletCore::point_with(Device& device, const Event& event) noexcept {
    if (event.phase == ContactPhase::begin) device.has_position = false;  // it comes from nowhere: no motion
    write_moving<Moving::position>(device, {.x = event.x, .y = event.y}, Time{Duration{latest_.get()}}, true);
    extra_motions_.add(1);
    publish_motions();
    if (presses_held_ != 0) track_motion();
}

}  // namespace cursorum
