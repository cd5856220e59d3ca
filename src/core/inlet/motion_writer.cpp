// Posting motion and the wheel, thousands of times per second: which fields an event has is known at compile time, and
// its slot is written word by word from registers.
#include <algorithm>

#include "core/inlet/inlet_events.hpp"
#include "core/rings/one_thread.hpp"
#include "core/rules/fixed_point.hpp"
#include "cursorum/core/event.hpp"

namespace cursorum {

using detail::Device;
using detail::FixedDistance;
using detail::MotionSlot;

namespace {

std::uint64_t fixed(double value) noexcept { return static_cast<std::uint64_t>(to_fixed(value)); }

}  // namespace

// ---- motion and wheel

inline void InletCore::publish_motions() noexcept {
    motions_.publish();
    changes_of_others_.publish(changes_of_others_.get() + 1);
}

/// `known`: which fields the event has, where that is known at compile time. Motion is posted thousands of times per
/// second.
template <unsigned known>
[[gnu::always_inline]] inline Outcome InletCore::post_moving(DeviceId id, const MotionFields& m, Time when) noexcept {
    const OneThread here{guard_};
    Device* const device = find_device(id);
    const unsigned fields = known != 0 ? known : m.fields;
    const bool fits =
        ((fields & (MotionFields::motion | MotionFields::wheel)) == 0 || (has_fixed(m.dx) && has_fixed(m.dy))) &&
        ((fields & MotionFields::position) == 0 || (has_fixed(m.x) && has_fixed(m.y))) &&
        ((fields & MotionFields::raw) == 0 || (has_fixed(m.raw_dx) && has_fixed(m.raw_dy)));
    if (!device || !device->listens || !fits) {
        begin(when);
        return finish(!device || !device->listens ? not_listening(device) : Outcome::refused_value);
    }
    write_moving<known>(*device, m, when, false);
    publish_motions();
    if (clicks_.has_any()) [[unlikely]] {
        late_at_ = detail::in_time;  // motion has no slot in the ring of edges
        clicks_.follow_motion();
    }
    return Outcome::taken;
}

/// Writes without publishing. `is_extra`: the event is counted elsewhere.
template <unsigned known>
[[gnu::always_inline]] inline void InletCore::write_moving(Device& device, const MotionFields& m, Time when,
                                                           bool is_extra) noexcept {
    const unsigned fields = known != 0 ? known : m.fields;
    const std::int64_t latest = latest_.get();
    std::int64_t stamp = nanoseconds(when), late_by = 0;
    if (!is_extra && (stamp < latest || stamp > accepted_until_)) [[unlikely]] {
        stamp = accepted(stamp);
        late_by = std::clamp<std::int64_t>(latest - stamp, 0, std::int64_t{MotionSlot::most_late});
        backdated_.add(late_by > 0);
    }
    latest_.set(std::max(stamp, latest));

    // One by one: a wide load would wait for the narrow stores before it.
    std::uint64_t x = motion_[0], y = motion_[1];
    if ((fields & MotionFields::motion) != 0) x += fixed(m.dx), y += fixed(m.dy);
    std::uint64_t what = device.motion_bits | MotionSlot::after_edges(ring_.next()) |
                         static_cast<std::uint64_t>(late_by) << MotionSlot::late_shift;
    if ((fields & MotionFields::position) != 0 && !device.is_locked) {
        const FixedDistance to{fixed(m.x), fixed(m.y)};
        if ((fields & (MotionFields::motion | MotionFields::warp)) == 0 && device.has_position) {
            x += to[0] - device.position[0];
            y += to[1] - device.position[1];
        }
        device.position = pointer_.position = to;
        device.has_position = pointer_.is_known = pointer_.is_fresh = true;
        what |= MotionSlot::places_bit;
    } else if (device.presses != 0) [[unlikely]] {
        device.drift[0] += x - motion_[0];
        device.drift[1] += y - motion_[1];
    }
    what |= pointer_.is_known * MotionSlot::placed_bit;
    motion_[0] = x, motion_[1] = y;
    if ((fields & MotionFields::raw) != 0) raw_[0] += fixed(m.raw_dx), raw_[1] += fixed(m.raw_dy);
    if ((fields & MotionFields::wheel) != 0) {
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
                          wheel_[1], pointer_.position[0], pointer_.position[1],
                          steps_[0] | std::uint64_t{steps_[1]} << 32, motion_counts_});
}

Outcome Inlet::motion(double dx, double dy, Time when) noexcept { return motion(desk_mouse, dx, dy, when); }
Outcome Inlet::wheel(double dx, double dy, Time when) noexcept { return wheel(desk_mouse, dx, dy, when); }

Outcome Inlet::motion(DeviceId device, double dx, double dy, Time when) noexcept {
    return core_of(*this).post_moving<InletCore::MotionFields::motion>(device, {.dx = dx, .dy = dy}, when);
}

Outcome Inlet::wheel(DeviceId device, double dx, double dy, Time when) noexcept {
    return core_of(*this).post_moving<InletCore::MotionFields::wheel>(device, {.dx = dx, .dy = dy}, when);
}

Outcome Inlet::move_to(DeviceId device, WindowPoint place, Time when) noexcept {
    return core_of(*this).post_moving<InletCore::MotionFields::position>(device, {.x = place.x, .y = place.y}, when);
}

Outcome Inlet::warp_to(DeviceId device, WindowPoint place, Time when) noexcept {
    return core_of(*this).post_moving<InletCore::MotionFields::position | InletCore::MotionFields::warp>(
        device, {.x = place.x, .y = place.y}, when);
}

Outcome InletCore::post_motion(const Event& event) noexcept {
    return post_moving<0>(event.device,
                          {event.has_motion * MotionFields::motion | event.has_position * MotionFields::position |
                               event.has_raw * MotionFields::raw | event.warp * MotionFields::warp,
                           event.dx, event.dy, event.x, event.y, event.raw_dx, event.raw_dy},
                          event.time);
}

/// Writes as many of them as are in time and fit, while no button of the device is pressed, without publishing. The
/// totals stay in registers from one to the next.
std::size_t InletCore::write_plain_motions(const Device& device, std::span<const MotionSample> samples) noexcept {
    std::int64_t latest = latest_.get();
    std::uint64_t x = motion_[0], y = motion_[1], counts = motion_counts_;
    const std::uint64_t what =
        device.motion_bits | MotionSlot::after_edges(ring_.next()) | pointer_.is_known * MotionSlot::placed_bit;
    const std::uint64_t one = device.is_virtual * MotionSlot::one_virtual;
    const FixedDistance raw = raw_, wheel = wheel_, pointer = pointer_.position;
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
    const OneThread here{guard_};
    Device* const device = find_device(id);
    Outcome outcome = Outcome::taken;
    while (!samples.empty()) {
        if (device && device->listens && !clicks_.has_any()) {
            const std::size_t done = write_plain_motions(*device, samples);
            if (done != 0) outcome = Outcome::taken;
            samples = samples.subspan(done);
            if (samples.empty()) break;
        }
        const MotionSample& sample = samples.front();
        samples = samples.subspan(1);
        const bool fits = has_fixed(sample.dx) && has_fixed(sample.dy);
        outcome = !device || !device->listens ? not_listening(device) : fits ? Outcome::taken : Outcome::refused_value;
        if (outcome != Outcome::taken) {
            begin(sample.time);
            finish(outcome);
            continue;
        }
        write_moving<MotionFields::motion>(*device, {.dx = sample.dx, .dy = sample.dy}, sample.time, false);
        if (clicks_.has_any()) [[unlikely]] {
            publish_motions();
            late_at_ = detail::in_time;
            clicks_.follow_motion();
        }
    }
    publish_motions();
    return outcome;
}

// ---- contacts that act as pointer

// A surface's first contact moves the pointer. Its motion belongs to the contact's event, which is counted as that.
void InletCore::move_pointer_with(Device& device, const Event& event) noexcept {
    if (event.phase == ContactPhase::begin) device.has_position = false;  // there is no previous position, so no motion
    write_moving<MotionFields::position>(device, {.x = event.x, .y = event.y}, Time{Duration{latest_.get()}}, true);
    event_count_.add_motion_of_contact();
    publish_motions();
    if (clicks_.has_any()) clicks_.follow_motion();
}

}  // namespace cursorum
