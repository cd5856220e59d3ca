// Posting motion and the wheel, thousands of times per second: which fields an event has is known at compile time, and
// its slot is written word by word from registers.
#include "core/inlet/motion_writer.hpp"

#include <algorithm>

#include "core/inlet/inlet_core.hpp"
#include "core/rings/one_thread.hpp"
#include "core/rules/fixed_point.hpp"
#include "cursorum/core/event.hpp"

namespace cursorum {

namespace {

std::uint64_t fixed(double value) noexcept { return static_cast<std::uint64_t>(to_fixed(value)); }

}  // namespace

namespace detail {

template <unsigned known>
[[gnu::always_inline]] inline std::int64_t MotionWriter::write(InletPosting& to, Device& device, const MotionFields& m,
                                                               Time when, bool is_extra) noexcept {
    const unsigned fields = known != 0 ? known : m.fields;
    const std::int64_t latest = to.latest_.get();
    std::int64_t stamp = nanoseconds(when), late_by = 0;
    if (!is_extra && !to.is_usual(stamp)) [[unlikely]] {
        stamp = to.accepted(stamp);
        late_by = std::clamp<std::int64_t>(latest - stamp, 0, std::int64_t{MotionSlot::most_late});
        to.backdated_.add(late_by > 0);
    }
    to.latest_.set(std::max(stamp, latest));

    // One by one: a wide load would wait for the narrow stores before it.
    std::uint64_t x = motion_[0], y = motion_[1];
    if ((fields & MotionFields::motion) != 0) x += fixed(m.dx), y += fixed(m.dy);
    std::uint64_t what = device.motion_bits | MotionSlot::after_edges(to.ring_.next()) |
                         static_cast<std::uint64_t>(late_by) << MotionSlot::late_shift;
    if ((fields & MotionFields::position) != 0 && !device.is_locked()) {
        const FixedDistance place{fixed(m.x), fixed(m.y)};
        if ((fields & (MotionFields::motion | MotionFields::warp)) == 0 && device.has_position) {
            x += place[0] - device.position[0];
            y += place[1] - device.position[1];
        }
        device.position = pointer_.position = place;
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
    counts_ += (late_by > 0) * MotionSlot::one_late + device.is_virtual * MotionSlot::one_virtual +
               is_extra * MotionSlot::one_extra;
    // Word by word, from registers: a wide load of what was just stored narrowly would wait.
    to.motions_.write_words({static_cast<std::uint64_t>(std::max(stamp, latest)), what, x, y, raw_[0], raw_[1],
                             wheel_[0], wheel_[1], pointer_.position[0], pointer_.position[1],
                             steps_[0] | std::uint64_t{steps_[1]} << 32, counts_});
    return stamp;
}

// The totals stay in registers from one to the next.
std::size_t MotionWriter::write_plain(InletPosting& to, const Device& device,
                                      std::span<const MotionSample> samples) noexcept {
    std::int64_t latest = to.latest_.get();
    const std::int64_t accepted_until = to.accepted_until();
    std::uint64_t x = motion_[0], y = motion_[1], counts = counts_;
    const std::uint64_t what =
        device.motion_bits | MotionSlot::after_edges(to.ring_.next()) | pointer_.is_known * MotionSlot::placed_bit;
    const std::uint64_t one = device.is_virtual * MotionSlot::one_virtual;
    const FixedDistance raw = raw_, wheel = wheel_, pointer = pointer_.position;
    const std::uint64_t steps = steps_[0] | std::uint64_t{steps_[1]} << 32;
    std::size_t done = 0;
    for (const MotionSample& sample : samples) {
        const std::int64_t time = nanoseconds(sample.time);
        if (time < latest || time > accepted_until || !has_fixed(sample.dx) || !has_fixed(sample.dy)) break;
        latest = time;
        x += fixed(sample.dx);
        y += fixed(sample.dy);
        counts += one;
        to.motions_.write_words({static_cast<std::uint64_t>(time), what, x, y, raw[0], raw[1], wheel[0], wheel[1],
                                 pointer[0], pointer[1], steps, counts});
        ++done;
    }
    to.latest_.set(latest);
    motion_[0] = x, motion_[1] = y;
    counts_ = counts;
    return done;
}

void MotionWriter::follow_contact(InletPosting& to, Device& device, const Event& event) noexcept {
    if (event.phase == ContactPhase::begin) device.has_position = false;  // the way to a new contact is not motion
    write<MotionFields::position>(to, device, {.x = event.x, .y = event.y}, Time{Duration{to.latest_.get()}}, true);
    to.event_count_.add_motion_of_contact();
    publish(to);
}

}  // namespace detail

// ---- posting

using detail::Device;
using detail::MotionFields;

void InletCore::note_motion(DeviceId id, MotionFields moved, std::int64_t stamp,
                            const detail::FixedDistance& total_before) noexcept {
    // The way from the position before is motion; a replay that begins here does not know that position.
    const detail::FixedDistance total = motion_writer_.motion();
    if ((moved.fields & MotionFields::position) != 0 && (moved.fields & MotionFields::warp) == 0) {
        moved.fields |= MotionFields::motion;
        moved.dx = from_fixed(static_cast<std::int64_t>(total[0] - total_before[0]));
        moved.dy = from_fixed(static_cast<std::int64_t>(total[1] - total_before[1]));
    }
    ledger_->note_motion(stamp, id, moved);
}

/// `known`: which fields the event has, where that is known at compile time. Motion is posted thousands of times per
/// second.
template <unsigned known, bool noted>
[[gnu::always_inline]] inline Outcome InletCore::move(DeviceId id, const MotionFields& m, Time when) noexcept {
    const OneThread here{guard_};
    Device* const device = find_device(id);
    const unsigned fields = known != 0 ? known : m.fields;
    const bool fits =
        ((fields & (MotionFields::motion | MotionFields::wheel)) == 0 || (has_fixed(m.dx) && has_fixed(m.dy))) &&
        ((fields & MotionFields::position) == 0 || (has_fixed(m.x) && has_fixed(m.y))) &&
        ((fields & MotionFields::raw) == 0 || (has_fixed(m.raw_dx) && has_fixed(m.raw_dy)));
    if (!device || !device->listens || !fits) {
        begin(when);
        if constexpr (noted) {
            MotionFields noticed = m;
            noticed.fields = fields;
            ledger_->note_motion(stamp(), id, noticed);
        }
        return finish(!device || !device->listens ? not_listening(device) : Outcome::refused_value);
    }
    [[maybe_unused]] const detail::FixedDistance before = noted ? motion_writer_.motion() : detail::FixedDistance{};
    const std::int64_t stamp = motion_writer_.write<known>(*this, *device, m, when, false);
    if constexpr (noted && known == MotionFields::motion) {
        ledger_->note_distance(stamp, id, m.dx, m.dy);
    } else if constexpr (noted) {
        MotionFields noticed = m;
        noticed.fields = fields;
        note_motion(id, noticed, stamp, before);
    }
    motion_writer_.publish(*this);
    if (clicks_.has_any()) [[unlikely]] {
        begin_motion_alone();
        clicks_.follow_motion();
    }
    return Outcome::taken;
}

// With a ledger; apart, and by values, so that a timeline without one pays for one test.
[[gnu::noinline]] Outcome InletCore::move_and_note(DeviceId id, unsigned fields, double dx, double dy, double x,
                                                   double y, double raw_dx, double raw_dy, Time when) noexcept {
    if (fields == MotionFields::motion) return move<MotionFields::motion, true>(id, {.dx = dx, .dy = dy}, when);
    return move<0, true>(id, {fields, dx, dy, x, y, raw_dx, raw_dy}, when);
}

template <unsigned known>
[[gnu::always_inline]] inline Outcome InletCore::post_moving(DeviceId id, const MotionFields& m, Time when) noexcept {
    if (ledger_) [[unlikely]]
        return move_and_note(id, known != 0 ? known : m.fields, m.dx, m.dy, m.x, m.y, m.raw_dx, m.raw_dy, when);
    return move<known, false>(id, m, when);
}

Outcome Inlet::motion(double dx, double dy, Time when) noexcept { return motion(desk_mouse, dx, dy, when); }
Outcome Inlet::wheel(double dx, double dy, Time when) noexcept { return wheel(desk_mouse, dx, dy, when); }

Outcome Inlet::motion(DeviceId device, double dx, double dy, Time when) noexcept {
    return core_of(*this).post_moving<MotionFields::motion>(device, {.dx = dx, .dy = dy}, when);
}

Outcome Inlet::wheel(DeviceId device, double dx, double dy, Time when) noexcept {
    return core_of(*this).post_moving<MotionFields::wheel>(device, {.dx = dx, .dy = dy}, when);
}

Outcome Inlet::move_to(DeviceId device, WindowPoint place, Time when) noexcept {
    return core_of(*this).post_moving<MotionFields::position>(device, {.x = place.x, .y = place.y}, when);
}

Outcome Inlet::warp_to(DeviceId device, WindowPoint place, Time when) noexcept {
    return core_of(*this).post_moving<MotionFields::position | MotionFields::warp>(device, {.x = place.x, .y = place.y},
                                                                                   when);
}

Outcome InletCore::post_motion(const Event& event) noexcept {
    return post_moving<0>(event.device,
                          {event.has_motion * MotionFields::motion | event.has_position * MotionFields::position |
                               event.has_raw * MotionFields::raw | event.warp * MotionFields::warp,
                           event.dx, event.dy, event.x, event.y, event.raw_dx, event.raw_dy},
                          event.time);
}

Outcome Inlet::motions(DeviceId device, std::span<const MotionSample> samples) noexcept {
    return core_of(*this).post_motions(device, samples);
}

Outcome InletCore::post_motions(DeviceId id, std::span<const MotionSample> samples) noexcept {
    if (ledger_) {
        Outcome outcome = Outcome::taken;
        for (const MotionSample& sample : samples)
            outcome = move_and_note(id, MotionFields::motion, sample.dx, sample.dy, 0, 0, 0, 0, sample.time);
        return outcome;
    }
    const OneThread here{guard_};
    Device* const device = find_device(id);
    Outcome outcome = Outcome::taken;
    while (!samples.empty()) {
        if (device && device->listens && !clicks_.has_any()) {
            const std::size_t done = motion_writer_.write_plain(*this, *device, samples);
            if (done != 0) outcome = Outcome::taken;
            samples = samples.subspan(done);
            if (samples.empty()) break;
        }
        const MotionSample& sample = samples.front();
        samples = samples.subspan(1);
        const MotionFields moved{.dx = sample.dx, .dy = sample.dy};
        const bool fits = has_fixed(sample.dx) && has_fixed(sample.dy);
        outcome = !device || !device->listens ? not_listening(device) : fits ? Outcome::taken : Outcome::refused_value;
        if (outcome != Outcome::taken) {
            begin(sample.time);
            finish(outcome);
            continue;
        }
        motion_writer_.write<MotionFields::motion>(*this, *device, moved, sample.time, false);
        if (clicks_.has_any()) [[unlikely]] {
            motion_writer_.publish(*this);
            begin_motion_alone();
            clicks_.follow_motion();
        }
    }
    motion_writer_.publish(*this);
    return outcome;
}

}  // namespace cursorum
