// Readings of axes, sticks and triggers.
#include <algorithm>
#include <cmath>
#include <limits>
#include <type_traits>
#include <utility>

#include "core/sampler/frame_core.hpp"

namespace cursorum {

using detail::AxisRecord;
using detail::DeviceFilter;

namespace {

double square(Vector2 v) noexcept { return v.x * v.x + v.y * v.y; }

}  // namespace

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

AxisReading FrameCore::raw_axis(Axis axis, DeviceFilter filter) const noexcept {
    return reading_of([&](auto&& visit) {
        return walk(axis, filter, &visit, [](void* to, Time time, double value) {
            (*static_cast<std::remove_reference_t<decltype(visit)>*>(to))(nanoseconds(time), value);
        });
    });
}

// `walk` takes a visitor of each change, and returns the value at the start.
template <typename Walk>
AxisReading FrameCore::reading_of(Walk&& walk) const noexcept {
    AxisReading reading;
    reading.least = std::numeric_limits<double>::infinity();
    reading.greatest = -reading.least;
    // How long the value at the start lasts is known before the value is.
    std::int64_t at = state_->t0;
    double at_start = 0, sum = 0;
    bool has_changed = false;
    const auto go_on = [&](std::int64_t until) {
        const auto span = static_cast<double>(until - std::exchange(at, until));
        if (has_changed)
            sum += reading.now * span;
        else
            at_start = span;
    };
    reading.before = walk([&](std::int64_t time, double value) {
        go_on(time);
        has_changed = true;
        reading.now = value;
        reading.least = std::min(reading.least, value);
        reading.greatest = std::max(reading.greatest, value);
    });
    go_on(state_->t1);
    if (!has_changed) reading.now = reading.before;
    reading.least = std::min(reading.least, reading.before);
    reading.greatest = std::max(reading.greatest, reading.before);
    const auto length = static_cast<double>(state_->t1 - state_->t0);
    if (length > 0) reading.mean = has_changed ? (reading.before * at_start + sum) / length : reading.before;
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

// All but the mean.
inline StickReading FrameCore::levels_of(Stick stick, DeviceFilter filter, bool& has_moved) const noexcept {
    StickReading reading;
    has_moved = false;
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
        const AxisRecord *const latest_x = last_of_track(x), *const latest_y = last_of_track(x + 1);
        if (latest_x) now.x = latest_x->shaped;
        if (latest_y) now.y = latest_y->shaped;
        has_moved |= latest_x || latest_y;
        take_longer(now, id, now_id, reading.now);
    });
    if (!any_moved) reading.now = reading.before;
    return reading;
}

StickReading FrameCore::stick(Stick stick, DeviceFilter filter) const noexcept {
    bool has_moved;
    StickReading reading = levels_of(stick, filter, has_moved);
    if (state_->t1 > state_->t0) reading.mean = has_moved ? mean_of(stick, filter, reading.before) : reading.before;
    return reading;
}

Vector2 FrameCore::stick_at_start(Stick stick, DeviceFilter filter) const noexcept {
    bool has_moved;
    return levels_of(stick, filter, has_moved).before;
}

Vector2 FrameCore::mean_of(Stick stick, DeviceFilter filter, Vector2 before) const noexcept {
    struct {
        std::int64_t at;
        Vector2 value, sum{};
        void go_on(std::int64_t until) noexcept {
            const auto span = static_cast<double>(until - at);
            sum = {sum.x + value.x * span, sum.y + value.y * span};
            at = until;
        }
    } going{state_->t0, before};
    walk(stick, filter, &going, [](void* to, Time time, Vector2 value) {
        auto& its = *static_cast<decltype(going)*>(to);
        its.go_on(nanoseconds(time));
        its.value = value;
    });
    going.go_on(state_->t1);
    const auto length = static_cast<double>(state_->t1 - state_->t0);
    return {going.sum.x / length, going.sum.y / length};
}

// A trigger's magnitude is its value: the greatest of all devices' at each moment.
AxisReading FrameCore::pull(Axis pull, DeviceFilter filter) const noexcept {
    AxisReading reading;
    if (!is_pull(pull)) return reading;
    bool has_moved = false;
    for_each_track(pull, filter, [&](unsigned track, DeviceId) {
        reading.before = std::max(reading.before, others_->axis_shaped[track]);
        has_moved |= last_of_track(track) != nullptr;
    });
    if (has_moved)
        return reading_of([&](auto&& visit) {
            return walk_side(pull, AxisSide::positive, filter, &visit,
                             [](void* to, std::int64_t time, double value, bool) {
                                 (*static_cast<std::remove_reference_t<decltype(visit)>*>(to))(time, value);
                             });
        });
    reading.now = reading.least = reading.greatest = reading.before;
    if (state_->t1 > state_->t0) reading.mean = reading.before;
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

AxisReading Frame::raw_axis(Axis axis) const noexcept { return core_of(*this).raw_axis(axis, {}); }
[[gnu::flatten]] StickReading Frame::stick(Stick stick) const noexcept { return core_of(*this).stick(stick, {}); }
AxisReading Frame::pull(Axis pull) const noexcept { return core_of(*this).pull(pull, {}); }
bool Frame::next_axis(std::uint64_t& after, DeviceAxis& axis) const noexcept {
    return core_of(*this).next_axis(after, axis);
}

AxisReading DeviceFrame::raw_axis(Axis axis) const noexcept { return core_of(*frame_).raw_axis(axis, devices_); }
StickReading DeviceFrame::stick(Stick stick) const noexcept { return core_of(*frame_).stick(stick, devices_); }
void DeviceFrame::walk(Axis axis, void* to, void (*visit)(void*, Time, double)) const {
    core_of(*frame_).walk(axis, devices_, to, visit);
}
void DeviceFrame::walk(Stick stick, void* to, void (*visit)(void*, Time, Vector2)) const {
    core_of(*frame_).walk(stick, devices_, to, visit);
}
AxisReading DeviceFrame::pull(Axis pull) const noexcept { return core_of(*frame_).pull(pull, devices_); }

}  // namespace cursorum
