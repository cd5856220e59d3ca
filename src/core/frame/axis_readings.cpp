// What a frame says of axes, sticks and triggers. A reading walks the frame's records of one axis on all devices, keeps
// the value of the one that counts, and sums value times duration for the mean.
#include <algorithm>
#include <cmath>
#include <limits>
#include <type_traits>
#include <utility>

#include "core/frame/frame_core.hpp"

namespace cursorum {

using detail::AxisRecord;
using detail::DeviceFilter;

namespace {

double square(Vector2 v) noexcept { return v.x * v.x + v.y * v.y; }

/// One value for each device, and the one farthest from rest (ties: the lowest id). All values are compared only when
/// the farthest one comes nearer, so that the cost is not devices times changes.
template <typename Value, typename Farness>
class FarthestOf {
public:
    explicit FarthestOf(Farness farness) noexcept : farness_{farness} {}

    bool is_full() const noexcept { return count_ == values_.size(); }
    bool is_empty() const noexcept { return count_ == 0; }
    /// Returns its place.
    std::uint16_t add(DeviceId id, Value value) noexcept {
        const unsigned place = count_++;
        values_[place] = value;
        ids_[place] = id;
        if (place == 0 || is_farther(place, farthest_)) farthest_ = place;
        return static_cast<std::uint16_t>(place);
    }
    const Value& of(unsigned place) const noexcept { return values_[place]; }
    void set(unsigned place, Value value) noexcept {
        const bool comes_nearer = place == farthest_ && farness_(value) < farness_(values_[place]);
        values_[place] = value;
        if (place != farthest_ && is_farther(place, farthest_)) farthest_ = place;
        if (!comes_nearer) return;
        for (unsigned other = 0; other < count_; ++other)
            if (is_farther(other, farthest_)) farthest_ = other;
    }
    const Value& farthest() const noexcept { return values_[farthest_]; }

private:
    bool is_farther(unsigned one, unsigned other) const noexcept {
        const double its = farness_(values_[one]), others = farness_(values_[other]);
        return its > others || (its == others && ids_[one] < ids_[other]);
    }

    Farness farness_;
    std::array<Value, device_capacity> values_;
    std::array<DeviceId, device_capacity> ids_;
    unsigned count_ = 0, farthest_ = 0;
};

}  // namespace

// Returns the value at the frame's start.
double FrameCore::walk(Axis axis, DeviceFilter filter, void* to, void (*visit)(void*, Time, double)) const {
    if (axis.number >= axis_kinds) return 0;
    // The axis on each device, each at most once.
    FarthestOf<double, double (*)(double)> values{[](double value) { return std::abs(value); }};
    std::array<std::uint16_t, axis_capacity> place_of;  // of the tracks visited
    for_each_track(axis, filter, [&](unsigned track, DeviceId id) {
        if (!values.is_full()) place_of[track] = values.add(id, others_->axis_values[track]);
    });
    if (values.is_empty()) return 0;
    const double before = values.farthest();
    for (std::uint32_t i = 0; i < other_entries_->axis_count; ++i) {
        const AxisRecord& record = other_entries_->axes[i];
        if (record.axis() != axis.number || record.is_same() || !includes(filter, record.device())) continue;
        values.set(place_of[record.track()], record.value);
        visit(to, Time{Duration{std::max(record.time, state_->t0)}}, values.farthest());
    }
    return before;
}

double FrameCore::walk_side(Axis axis, AxisSide side, DeviceFilter filter, void* to,
                            void (*visit)(void*, const Cause&, double)) const {
    const double sign = side == AxisSide::negative ? -1 : 1;
    FarthestOf<double, double (*)(double)> values{[](double value) { return value; }};
    std::array<std::uint16_t, axis_capacity> place_of;  // of the tracks
    for_each_track(axis, filter, [&](unsigned track, DeviceId id) {
        if (!values.is_full()) place_of[track] = values.add(id, sign * others_->axis_shaped[track]);
    });
    if (values.is_empty()) return 0;
    // The other side is at rest.
    const double before = std::max(0.0, values.farthest());
    for (std::uint32_t i = 0; i < other_entries_->axis_count; ++i) {
        const AxisRecord& record = other_entries_->axes[i];
        if (record.axis() != axis.number || !includes(filter, record.device())) continue;
        values.set(place_of[record.track()], sign * record.shaped);
        visit(to, {std::max(record.time, state_->t0), record.is_forced(), part_of_axis(i)},
              std::max(0.0, values.farthest()));
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

// `walk` calls its visitor for each change and returns the value at the start.
template <typename Walk>
AxisReading FrameCore::reading_of(Walk&& walk) const noexcept {
    AxisReading reading;
    reading.least = std::numeric_limits<double>::infinity();
    reading.greatest = -reading.least;
    // The duration of the initial value is known before the value itself.
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

// Each device's stick as it moves through the frame.
void FrameCore::walk(Stick stick, DeviceFilter filter, void* to, void (*visit)(void*, Time, Vector2)) const {
    if (stick.number >= stick_kinds || other_entries_->axis_count == 0) return;
    FarthestOf<Vector2, double (*)(Vector2)> sticks{square};
    std::array<std::uint16_t, axis_capacity> place_of;  // of their x axes' tracks
    for_each_track(stick.x(), filter, [&](unsigned x, DeviceId id) {
        if (!sticks.is_full()) place_of[x] = sticks.add(id, {others_->axis_shaped[x], others_->axis_shaped[x + 1]});
    });
    const auto is_of_stick = [&](const AxisRecord& record) { return record.axis() / 2 == stick.number; };
    const AxisRecord* const moves = other_entries_->axes.data();
    for (std::uint32_t i = 0; i < other_entries_->axis_count; ++i) {
        const AxisRecord& record = moves[i];
        if (!is_of_stick(record) || !includes(filter, record.device())) continue;
        const bool is_y = record.axis() % 2 != 0;
        const std::uint16_t place = place_of[record.track() - is_y];
        Vector2 value = sticks.of(place);
        (is_y ? value.y : value.x) = record.shaped;
        sticks.set(place, value);
        const bool more = i + 1 < other_entries_->axis_count && moves[i + 1].time == record.time &&
                          moves[i + 1].device() == record.device() && is_of_stick(moves[i + 1]);
        if (!more) visit(to, Time{Duration{std::max(record.time, state_->t0)}}, sticks.farthest());
    }
}

// All but the mean.
inline StickReading FrameCore::levels_of(Stick stick, DeviceFilter filter, bool& has_moved) const noexcept {
    StickReading reading;
    has_moved = false;
    if (stick.number >= stick_kinds) return reading;
    // Among equal lengths, the lowest id wins.
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
AxisReading FrameCore::trigger(Axis trigger, DeviceFilter filter) const noexcept {
    AxisReading reading;
    if (!is_pull(trigger)) return reading;
    bool has_moved = false;
    for_each_track(trigger, filter, [&](unsigned track, DeviceId) {
        reading.before = std::max(reading.before, others_->axis_shaped[track]);
        has_moved |= last_of_track(track) != nullptr;
    });
    if (has_moved)
        return reading_of([&](auto&& visit) {
            return walk_side(trigger, AxisSide::positive, filter, &visit,
                             [](void* to, const Cause& cause, double value) {
                                 (*static_cast<std::remove_reference_t<decltype(visit)>*>(to))(cause.time, value);
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

std::uint32_t FrameCore::active_axes() const noexcept {
    std::uint32_t axes = 0;
    for (unsigned i = 0; i < timeline->inlet_count(); ++i)
        timeline->inlet(i).tracks_.for_each([&](unsigned track, DeviceId, Axis of) {
            if (others_->axis_values[track] != 0 || last_of_track(track)) axes |= 1U << of.number;
        });
    return axes;
}

std::uint32_t Frame::active_axes() const noexcept { return core_of(*this).active_axes(); }
AxisReading Frame::raw_axis(Axis axis) const noexcept { return core_of(*this).raw_axis(axis, {}); }
[[gnu::flatten]] StickReading Frame::stick(Stick stick) const noexcept { return core_of(*this).stick(stick, {}); }
AxisReading Frame::trigger(Axis trigger) const noexcept { return core_of(*this).trigger(trigger, {}); }
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
AxisReading DeviceFrame::trigger(Axis trigger) const noexcept { return core_of(*frame_).trigger(trigger, devices_); }

}  // namespace cursorum
