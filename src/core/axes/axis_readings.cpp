// Readings of axes, sticks and triggers.
#include <algorithm>
#include <cmath>
#include <limits>

#include "core/sampler/frame_core.hpp"

namespace cursorum {

using detail::AxisRecord;
using detail::DeviceFilter;

namespace {

double square(Vector2 v) noexcept { return v.x * v.x + v.y * v.y; }

}  // namespace

template <typename Visit>
void FrameCore::for_each_track(Axis axis, DeviceFilter filter, Visit&& visit) const {
    for (unsigned i = 0; i < timeline->inlet_count(); ++i)
        timeline->inlet(i).tracks_.for_each(axis, [&](unsigned track, unsigned number, DeviceId id) {
            if (includes(filter, number)) visit(track, id);
        });
}

const AxisRecord* FrameCore::last_of_track(unsigned track) const noexcept {
    return other_entries_->axis_record(other_entries_->axis_last[track]);
}

// Returns the value at the frame's start.
double FrameCore::walk(Axis axis, DeviceFilter filter, void* to, void (*visit)(void*, Time, double)) const {
    if (axis.number >= axis_kinds) return 0;
    // The axis on each device, each at most once.
    std::array<double, device_capacity> values;
    std::array<DeviceId, device_capacity> ids;
    std::array<std::uint16_t, axis_capacity> place_of;  // of the tracks that are walked along
    unsigned found = 0;
    for_each_track(axis, filter, [&](unsigned track, DeviceId id) {
        if (found == values.size()) return;
        place_of[track] = static_cast<std::uint16_t>(found);
        ids[found] = id;
        values[found++] = others_->axis_values[track];
    });
    const auto merged = [&] {
        double greatest = 0;
        unsigned of = 0;
        for (unsigned i = 0; i < found; ++i) {
            const double magnitude = std::abs(values[i]), so_far = std::abs(greatest);
            if (i == 0 || magnitude > so_far || (magnitude == so_far && ids[i] < ids[of])) greatest = values[i], of = i;
        }
        return greatest;
    };
    const double before = merged();
    if (found == 0) return before;
    for (std::uint32_t i = 0; i < other_entries_->axis_count; ++i) {
        const AxisRecord& record = other_entries_->axes[i];
        if (record.axis() != axis.number || record.is_same() || !includes(filter, record.device())) continue;
        values[place_of[record.track()]] = record.value;
        visit(to, Time{Duration{std::max(record.time, state_->t0)}}, merged());
    }
    return before;
}

double FrameCore::walk_side(Axis axis, AxisSide side, DeviceFilter filter, void* to,
                            void (*visit)(void*, std::int64_t, double, bool)) const {
    const double sign = side == AxisSide::negative ? -1 : 1;
    std::array<double, device_capacity> values;         // one for each device
    std::array<std::uint16_t, axis_capacity> place_of;  // of the tracks
    unsigned found = 0;
    for_each_track(axis, filter, [&](unsigned track, DeviceId) {
        if (found == values.size()) return;
        place_of[track] = static_cast<std::uint16_t>(found);
        values[found++] = sign * others_->axis_shaped[track];
    });
    const auto farthest = [&] {
        double most = 0;
        for (unsigned i = 0; i < found; ++i) most = std::max(most, values[i]);
        return most;
    };
    const double before = farthest();
    if (found == 0) return before;
    for (std::uint32_t i = 0; i < other_entries_->axis_count; ++i) {
        const AxisRecord& record = other_entries_->axes[i];
        if (record.axis() != axis.number || !includes(filter, record.device())) continue;
        values[place_of[record.track()]] = sign * record.shaped;
        visit(to, std::max(record.time, state_->t0), farthest(), record.is_forced());
    }
    return before;
}

AxisReading FrameCore::axis(Axis axis, DeviceFilter filter) const noexcept {
    AxisReading reading;
    reading.least = std::numeric_limits<double>::infinity();
    reading.greatest = -reading.least;
    const auto take = [](void* to, Time, double value) {
        AxisReading& figures = *static_cast<AxisReading*>(to);
        figures.now = value;
        figures.least = std::min(figures.least, value);
        figures.greatest = std::max(figures.greatest, value);
    };
    reading.before = walk(axis, filter, &reading, take);
    if (reading.least > reading.greatest) reading.now = reading.before;
    reading.least = std::min(reading.least, reading.before);
    reading.greatest = std::max(reading.greatest, reading.before);
    return reading;
}

// Every device's stick as it goes through the frame.
void FrameCore::walk(Stick stick, DeviceFilter filter, void* to, void (*visit)(void*, Time, Vector2)) const {
    if (stick.number >= stick_kinds || other_entries_->axis_count == 0) return;
    struct Own {
        DeviceId id;
        Vector2 value;
    };
    std::array<Own, device_capacity> sticks;            // one for each device
    std::array<std::uint16_t, axis_capacity> place_of;  // of their x axes' tracks
    unsigned found = 0;
    for_each_track(stick.x(), filter, [&](unsigned x, DeviceId id) {
        if (found == sticks.size()) return;
        place_of[x] = static_cast<std::uint16_t>(found);
        sticks[found++] = {id, {others_->axis_shaped[x], others_->axis_shaped[x + 1]}};
    });
    const auto is_of_stick = [&](const AxisRecord& record) { return record.axis() / 2 == stick.number; };
    const AxisRecord* const moves = other_entries_->axes.data();
    for (std::uint32_t i = 0; i < other_entries_->axis_count; ++i) {
        const AxisRecord& record = moves[i];
        if (!is_of_stick(record) || !includes(filter, record.device())) continue;
        const bool is_y = record.axis() % 2 != 0;
        Vector2& value = sticks[place_of[record.track() - is_y]].value;
        (is_y ? value.y : value.x) = record.shaped;
        const bool more = i + 1 < other_entries_->axis_count && moves[i + 1].time == record.time &&
                          moves[i + 1].device() == record.device() && is_of_stick(moves[i + 1]);
        if (more) continue;
        const Own* longest = &sticks[0];
        for (unsigned k = 1; k < found; ++k) {
            const double mine = square(sticks[k].value), best = square(longest->value);
            if (mine > best || (mine == best && sticks[k].id < longest->id)) longest = &sticks[k];
        }
        visit(to, Time{Duration{std::max(record.time, state_->t0)}}, longest->value);
    }
}

StickReading FrameCore::stick(Stick stick, DeviceFilter filter) const noexcept {
    StickReading reading;
    if (stick.number >= stick_kinds) return reading;
    // Of several as long, the one with the lowest id.
    DeviceId before_id{}, now_id{};
    const bool any_moved = other_entries_->axis_count != 0;
    const auto take_longer = [&](Vector2 v, DeviceId id, DeviceId& of, Vector2& longest) {
        const double mine = square(v), best = square(longest);
        if (mine < best || mine == 0 || (mine == best && of < id)) return;
        longest = v;
        of = id;
    };
    for_each_track(stick.x(), filter, [&](unsigned x, DeviceId id) {
        const Vector2 before{others_->axis_shaped[x], others_->axis_shaped[x + 1]};
        take_longer(before, id, before_id, reading.before);
        if (!any_moved) return;
        Vector2 now = before;
        if (const AxisRecord* const latest = last_of_track(x)) now.x = latest->shaped;
        if (const AxisRecord* const latest = last_of_track(x + 1)) now.y = latest->shaped;
        take_longer(now, id, now_id, reading.now);
    });
    if (!any_moved) reading.now = reading.before;
    return reading;
}

AxisReading FrameCore::pull(Axis pull, DeviceFilter filter) const noexcept {
    AxisReading reading;
    if (!is_pull(pull)) return reading;
    for_each_track(pull, filter, [&](unsigned track, DeviceId) {
        AxisReading own;
        own.before = own.now = own.least = own.greatest = others_->axis_shaped[track];
        const AxisRecord* record = last_of_track(track);
        if (record) own.now = record->shaped;
        for (; record; record = other_entries_->axis_record(record->link)) {
            own.least = std::min(own.least, record->shaped);
            own.greatest = std::max(own.greatest, record->shaped);
        }
        // A trigger's magnitude is its value: the greatest at each moment.
        reading.before = std::max(reading.before, own.before);
        reading.now = std::max(reading.now, own.now);
        reading.greatest = std::max(reading.greatest, own.greatest);
        reading.least = std::max(reading.least, own.least);
    });
    return reading;
}

// By device, then by name. `after`: one more than the key of the axis visited last, 0 at first.
bool FrameCore::next_axis(std::uint64_t& after, DeviceAxis& axis) const noexcept {
    std::uint64_t best = UINT64_MAX;
    for (unsigned i = 0; i < timeline->inlet_count(); ++i)
        timeline->inlet(i).tracks_.for_each([&](unsigned track, DeviceId id, Axis of) {
            const AxisRecord* const latest = last_of_track(track);
            const double now = latest ? latest->value : others_->axis_values[track];
            if (now == 0) return;
            const std::uint64_t key = std::uint64_t{static_cast<std::uint32_t>(id)} << 16 | name_rank(of);
            if (key < after || key >= best) return;
            best = key;
            axis = {id, of, now};
        });
    if (best == UINT64_MAX) return false;
    after = best + 1;
    return true;
}

AxisReading Frame::axis(Axis axis) const noexcept { return core_of(*this).axis(axis, {}); }
[[gnu::flatten]] StickReading Frame::stick(Stick stick) const noexcept { return core_of(*this).stick(stick, {}); }
AxisReading Frame::pull(Axis pull) const noexcept { return core_of(*this).pull(pull, {}); }
bool Frame::next_axis(std::uint64_t& after, DeviceAxis& axis) const noexcept {
    return core_of(*this).next_axis(after, axis);
}

AxisReading DeviceFrame::axis(Axis axis) const noexcept { return core_of(*frame_).axis(axis, devices_); }
StickReading DeviceFrame::stick(Stick stick) const noexcept { return core_of(*frame_).stick(stick, devices_); }
void DeviceFrame::walk(Axis axis, void* to, void (*visit)(void*, Time, double)) const {
    core_of(*frame_).walk(axis, devices_, to, visit);
}
void DeviceFrame::walk(Stick stick, void* to, void (*visit)(void*, Time, Vector2)) const {
    core_of(*frame_).walk(stick, devices_, to, visit);
}
AxisReading DeviceFrame::pull(Axis pull) const noexcept { return core_of(*frame_).pull(pull, devices_); }

}  // namespace cursorum
