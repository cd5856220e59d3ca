// All that is not a button: axes, sticks, touch, mice, wheels, locks. Values are followed from event to event, so that
// integrals are exact; while modes change hands within a frame, each value belongs to the mode that had it then.
#include <algorithm>
#include <bit>
#include <cmath>

#include "actions/edges.hpp"
#include "actions/ramps.hpp"

namespace cursorum {

using detail::ActionState;

namespace {

double beyond(double dead_zone, double value) noexcept {
    const double magnitude = std::abs(value);
    if (!(magnitude > dead_zone)) return 0;
    return std::copysign(std::min((magnitude - dead_zone) / (1 - dead_zone), 1.0), value);
}

double square(Vector2 v) noexcept;

Vector2 beyond(double dead_zone, Vector2 v) noexcept {
    if (dead_zone == 0) return v;
    const double length = std::sqrt(square(v));
    if (!(length > dead_zone)) return {};
    const double wanted = std::min((length - dead_zone) / (1 - dead_zone), 1.0);
    return {v.x / length * wanted, v.y / length * wanted};
}

double square(Vector2 v) noexcept { return v.x * v.x + v.y * v.y; }

}  // namespace

// ---- mice, wheels, locks

namespace {

/// What changed before a pause takes effect just before it.
std::int64_t time_of(const FrameCore& frame, PausePart part, std::int64_t time) noexcept {
    return part == PausePart::before ? std::max(frame.skip_from - 1, frame.state().late_before) : time;
}

}  // namespace

detail::DeviceFilter ActionReaderCore::filter() const noexcept {
    if (!is_partial_) return {};
    return detail::DeviceFilter::set(included_devices_);
}

void ActionReaderCore::gather_occurrences(const FrameCore& frame) {
    auto add_wheel = [&](const FrameCore::Moved& moved) {
        if (moved.steps == WheelSteps{}) return;
        const bool is_earlier = frame.has_gap && moved.time < state_.t0;  // else it is late
        occurrences_.push_back(
            {.time = std::max(moved.time, is_earlier ? frame.state().late_before : state_.t0),
             .part = is_earlier && frame.skip_at != FrameCore::no_skip ? PausePart::before : PausePart::after,
             .event = moved.number,
             .x = moved.steps.x,
             .y = moved.steps.y});
    };
    if (!map_->of_wheel.empty())
        frame.walk_motion(filter(), &add_wheel, [](void* to, const FrameCore::Moved& moved) {
            (*static_cast<decltype(add_wheel)*>(to))(moved);
        });
    if (!map_->of_values.empty()) gather_values(frame);
    if (map_->of_locks.empty()) return;
    // So that newly opened modes and skipped frames are taken into account.
    locks_ = static_cast<unsigned>(frame.others().locks);
    set_locks(locks_, false, state_.t0);
    for (std::uint32_t i = 0; i < frame.other_entries().occasion_count; ++i) {
        const detail::OccasionSlot& occasion = frame.other_entries().occasions[i];
        if (occasion.kind() != detail::OccasionKind::locks) continue;
        const PausePart part = frame.part_of_occasion(i);
        add_occurrence({.time = time_of(frame, part, occasion.time),
                        .kind = Occurrence::Kind::locks,
                        .part = part,
                        .locks = static_cast<std::uint8_t>(occasion.begin[0])});
    }
}

// Inserts by time, since there are few. (The library's merge would allocate.)
void ActionReaderCore::add_occurrence(const Occurrence& it) {
    const auto later = [](const Occurrence& one, const Occurrence& other) {
        return one.part != other.part ? one.part < other.part : one.time < other.time;
    };
    occurrences_.insert(std::upper_bound(occurrences_.begin(), occurrences_.end(), it, later), it);
}

// Axes and touch surfaces with thresholds of their own.
void ActionReaderCore::gather_values(const FrameCore& frame) {
    for (std::uint16_t row = 0; row < map_->of_values.size(); ++row) {
        const ValueSwitch& it = map_->of_values[row];
        auto add = [&](const FrameCore::Cause& cause, double value) {
            add_occurrence({.time = time_of(frame, cause.part, cause.time),
                            .kind = Occurrence::Kind::value,
                            .part = cause.part,
                            .is_forced = cause.is_forced,
                            .number = row,
                            .value = value});
        };
        if (it.touch == TouchPart::none) {
            values_[row] = frame.walk_side(it.axis, it.side, filter(), &add,
                                           [](void* to, const FrameCore::Cause& cause, double value) {
                                               (*static_cast<decltype(add)*>(to))(cause, value);
                                           });
        } else {
            const auto value_of = [&](const FrameCore::Touch& touch) {
                return it.touch == TouchPart::pressure ? touch.pressure : touch.is_there;
            };
            auto take = [&](const FrameCore::Cause& cause, const FrameCore::Touch& touch) {
                add(cause, value_of(touch));
            };
            values_[row] = value_of(frame.walk_touch(
                filter(), &take, [](void* to, const FrameCore::Cause& cause, const FrameCore::Touch& touch) {
                    (*static_cast<decltype(take)*>(to))(cause, touch);
                }));
        }
        set_value(row, false, state_.t0);  // modes may have opened, and frames may have been skipped
    }
}

void ActionReaderCore::set_value(std::size_t row, bool by_person, std::int64_t time) {
    const ValueSwitch& it = map_->of_values[row];
    const ActionSwitch& its = map_->switches[it.number];
    const double value = values_[row];
    const bool is_released = value <= it.thresholds.release;
    if (is_released) freshen_switch(it.number, 1);
    const bool was_down = state_.switches[it.number].is_down;
    const bool is_beyond = was_down ? !is_released : value >= it.thresholds.press;
    const bool down =
        is_beyond && is_mode(state_.flow_owners[it.flow], its.mode) && !state_.has_stale_members(it.number);
    if (down != was_down) set_switch(it.number, down, by_person, time);
}

// Modes changed within the frame.
void ActionReaderCore::set_states_again(std::int64_t time) {
    for (std::size_t row = 0; row < map_->of_values.size(); ++row) set_value(row, false, time);
    if (!map_->of_locks.empty()) set_locks(locks_, false, time);
}

void ActionReaderCore::set_locks(unsigned on, bool by_person, std::int64_t time) {
    for (const std::uint16_t number : map_->of_locks) {
        const ActionSwitch& it = map_->switches[number];
        const bool is_on = (on >> (it.lock - 1U) & 1) != 0;
        if (!is_on) freshen_switch(number, 1);
        const bool down = is_on && detail::has_mode(state_.visible, it.mode) && !state_.has_stale_members(number);
        if (down != state_.switches[number].is_down) set_switch(number, down, by_person, time);
    }
    if (by_person && has_mode_changers_) change_modes(time);
}

// Steps between edges, in order of time. At one time edges come first: a key that is held while a wheel turns
// was pressed before.
void ActionReaderCore::catch_up(std::int64_t until) {
    std::size_t done = 0;
    for (;;) {
        const bool has_between = occurred_ != occurrences_.size(), has_injected = done != injected_.size();
        const std::int64_t occurrence_time = has_between ? occurrences_[occurred_].time : INT64_MAX;
        const std::int64_t injected_time = has_injected ? std::max(injected_[done].time, state_.t0) : INT64_MAX;
        run_timers(std::min({occurrence_time, injected_time, until}));
        if (std::min(occurrence_time, injected_time) > until || !(has_between || has_injected)) break;
        if (injected_time <= occurrence_time) {
            mode_cause_ = {};
            apply_injected(injected_[done++]);
        } else {
            take_occurrence(occurrences_[occurred_++]);
        }
    }
    injected_.erase(injected_.begin(), injected_.begin() + static_cast<std::ptrdiff_t>(done));
}

void ActionReaderCore::take_occurrence(const Occurrence& it) {
    mode_cause_ = {};
    switch (it.kind) {
        case Occurrence::Kind::wheel:
            mode_cause_ = {.kind = ModeCause::Kind::wheel, .number = it.event};
            step_wheel(it.x, it.y, it.time);
            break;
        case Occurrence::Kind::locks: set_locks(locks_ = it.locks, true, it.time); break;
        case Occurrence::Kind::value:
            values_[it.number] = it.value;
            set_value(it.number, !it.is_forced, it.time);
            if (has_mode_changers_) change_modes(it.time);
            break;
    }
}

void ActionReaderCore::step_wheel(std::int32_t x, std::int32_t y, std::int64_t time) {
    constexpr std::int32_t most = 1024;  // farther than a wheel turns within one event
    for (std::int32_t i = std::min(y, most); i > 0; --i) step_wheel_once(WheelWay::up, time);
    for (std::int32_t i = std::max(y, -most); i < 0; ++i) step_wheel_once(WheelWay::down, time);
    for (std::int32_t i = std::max(x, -most); i < 0; ++i) step_wheel_once(WheelWay::left, time);
    for (std::int32_t i = std::min(x, most); i > 0; --i) step_wheel_once(WheelWay::right, time);
}

// Only the longest chord among the wheel's bindings, as with buttons.
void ActionReaderCore::step_wheel_once(WheelWay way, std::int64_t time) {
    const std::uint8_t owner = state_.flow_owners[detail::wheel_flow];
    const ButtonSet down{state_.down};
    const auto completes = [&](unsigned number) {
        const ActionSwitch& it = map_->switches[number];
        return it.wheel_way == way && is_mode(owner, it.mode) && !state_.has_stale_members(number) &&
               are_down(it, owner, down);
    };
    int longest = -1;
    for (const std::uint16_t number : map_->of_wheel)
        if (completes(number)) longest = std::max<int>(longest, map_->switches[number].member_count);
    for (const std::uint16_t number : map_->of_wheel) {
        if (int{map_->switches[number].member_count} != longest || !completes(number)) continue;
        set_switch(number, true, true, time);
        set_switch(number, false, true, time);
    }
    if (has_mode_changers_) change_modes(time);
}

namespace {

struct Distances {
    Distance motion, raw, wheel;

    Distance of(const ActionSource& source) const noexcept {
        return source.kind != Binding::Kind::motion ? wheel : source.raw ? raw : motion;
    }
};

void add(Distance& sum, Distance way, double sign) noexcept { sum = {sum.x + sign * way.x, sum.y + sign * way.y}; }

}  // namespace

// Each distance goes to the mode that had it at that time; distance whose samples were overwritten goes to the earlier
// mode.
void ActionReaderCore::add_relative(const FrameCore& frame) noexcept {
    if (map_->relative.empty()) return;
    const PointerReading pointer{frame, filter()};
    const Distances all{pointer.motion(), pointer.raw_motion(), pointer.wheel()};
    const auto give = [this](const Distances& ways, const auto& flow_owners) {
        for (const std::uint16_t i : map_->relative) {
            const ActionSource& source = map_->sources[i];
            const bool is_motion = source.kind == Binding::Kind::motion;
            const std::uint8_t owner = flow_owners[is_motion ? detail::motion_flow : detail::wheel_flow];
            if (!is_mode(owner, map_->actions[source.action].mode)) continue;
            const Distance way = ways.of(source);
            if (way == Distance{}) continue;
            enliven(source.action);
            Vector2& sum = relative_[source.action];
            if (map_->actions[source.action].kind == ActionKind::axis)
                sum.x += (source.vertical ? way.y : way.x) * source.scale;
            else
                sum = {sum.x + source.scaled({way.x, way.y}).x, sum.y + source.scaled({way.x, way.y}).y};
        }
    };
    if (segments_.empty()) return give(all, state_.flow_owners);
    Distances first = all;
    for (auto it = segments_.begin() + 1; it != segments_.end(); ++it) {
        Distances its{};
        auto take = [&](const FrameCore::Moved& moved) {
            const auto is_its = [&](const Segment& segment) { return is_in(frame, moved, segment); };
            if (!is_its(*it) || std::any_of(it + 1, segments_.end(), is_its)) return;
            add(its.motion, moved.motion, 1), add(its.raw, moved.raw, 1), add(its.wheel, moved.wheel, 1);
        };
        frame.walk_motion(filter(), &take,
                          [](void* to, const FrameCore::Moved& moved) { (*static_cast<decltype(take)*>(to))(moved); });
        give(its, it->flow_owners);
        add(first.motion, its.motion, -1), add(first.raw, its.raw, -1), add(first.wheel, its.wheel, -1);
    }
    give(first, segments_.front().flow_owners);
}

// ---- axes and vectors

// Values of axes and sticks while they belong to their mode.
void ActionReaderCore::add_steps(const FrameCore& frame) {
    for (const std::uint16_t i : map_->analogue) {
        const ActionSource& source = map_->sources[i];
        const unsigned mode = map_->actions[source.action].mode;
        const bool is_stick = source.kind == Binding::Kind::stick, is_touch = source.kind == Binding::Kind::touch;
        const auto is_seen_by = [&](const auto& owners) {
            if (is_touch) return is_mode(owners[detail::touch_flow], mode);
            const unsigned axis = is_stick ? source.number * 2U : source.number;
            return is_mode(owners[axis], mode) && (!is_stick || is_mode(owners[axis + 1], mode));
        };
        bool& stale = state_.stale_sources[i];
        bool has_step = false;
        const auto add = [&](std::int64_t time, Vector2 value) {
            if (stale) value = {};
            value = source.scaled(value);
            // Its first value in the frame is usually the last one of the previous frame.
            if (time == state_.t0 && value == state_.sources[i] && !has_step) return;
            has_step = true;
            steps_.push_back({time, value, static_cast<std::uint32_t>(steps_.size()), source.action, i});
        };
        // What is newly bound has to come to rest first, whoever it belongs to.
        if (segments_.empty() && !stale && !is_seen_by(state_.flow_owners)) {
            if (state_.sources[i] != Vector2{}) add(state_.t0, {});
            continue;
        }
        // While it belongs to others, it is at rest; when its mode gets it, it has its value at that moment.
        auto segment = segments_.begin();
        bool is_seen = is_seen_by(segments_.empty() ? state_.flow_owners : segment->flow_owners);
        Vector2 latest;
        const auto go_on = [&](std::int64_t until) {
            while (segment != segments_.end() && segment + 1 != segments_.end() && (segment + 1)->from <= until) {
                ++segment;
                const bool was_seen = std::exchange(is_seen, is_seen_by(segment->flow_owners));
                if (is_seen != was_seen) add(segment->from, is_seen ? latest : Vector2{});
            }
        };
        std::int64_t at = state_.t0;
        const auto follow = [&](std::int64_t time, Vector2 value) {
            if (time > std::exchange(at, time)) stale = stale && latest != Vector2{};  // all of one time together
            go_on(time - 1);
            latest = value;
            go_on(time);
            if (is_seen) add(time, value);
        };
        auto touched = [&](std::int64_t time, const FrameCore::Touch& touch) {
            follow(time, beyond(source.dead_zone, touch.position));
        };
        if (is_touch) {
            latest = beyond(
                source.dead_zone,
                frame.walk_touch(filter(), nullptr, [](void*, const FrameCore::Cause&, const FrameCore::Touch&) {})
                    .position);
        } else if (is_stick) {
            latest = beyond(source.dead_zone, frame.stick_at_start(Stick{source.number}, filter()));
        } else {
            latest = {beyond(source.dead_zone, frame.raw_axis(Axis{source.number}, filter()).before), 0};
        }
        stale = stale && latest != Vector2{};
        add(state_.t0, is_seen ? latest : Vector2{});
        if (is_touch) {
            frame.walk_touch(filter(), &touched,
                             [](void* to, const FrameCore::Cause& cause, const FrameCore::Touch& touch) {
                                 (*static_cast<decltype(touched)*>(to))(cause.time, touch);
                             });
        } else if (is_stick) {
            auto take = [&](Time time, Vector2 value) { follow(nanoseconds(time), beyond(source.dead_zone, value)); };
            frame.walk(Stick{source.number}, filter(), &take,
                       [](void* to, Time time, Vector2 value) { (*static_cast<decltype(take)*>(to))(time, value); });
        } else {
            auto take = [&](Time time, double value) {
                follow(nanoseconds(time), {beyond(source.dead_zone, value), 0});
            };
            frame.walk(Axis{source.number}, filter(), &take,
                       [](void* to, Time time, double value) { (*static_cast<decltype(take)*>(to))(time, value); });
        }
        go_on(state_.t1);
        stale = stale && latest != Vector2{};
    }
}

// The value with the largest magnitude, ties to the first binding; never more than 1.
Vector2 ActionReaderCore::target_of(unsigned action) const noexcept {
    const ActionMap::Row& row = map_->actions[action];
    Vector2 best = state_.injected[action];
    for (unsigned i = row.first_source; i < unsigned{row.first_source} + row.source_count; ++i)
        if (square(state_.sources[i]) > square(best)) best = state_.sources[i];
    const double length = square(best);
    if (length <= 1) return best;
    if (row.kind == ActionKind::axis) return {best.x > 0 ? 1.0 : -1.0, 0};
    const double root = std::sqrt(length);
    return {best.x / root, best.y / root};
}

namespace {

/// Rounds to one of 4 or 8 directions with the same length, and keeps the present one until it is clearly pushed in
/// another.
Vector2 in_direction(Vector2 v, std::uint8_t count, std::uint8_t& direction) noexcept {
    constexpr ButtonThresholds any{.press = 0x1p-40, .release = 0};
    direction = directions_of(v, direction, count == 4 ? StickDirections::four : StickDirections::eight, any);
    const auto has = [&](Direction d) -> double { return direction >> static_cast<unsigned>(d) & 1; };
    const Vector2 way{has(Direction::right) - has(Direction::left), has(Direction::down) - has(Direction::up)};
    constexpr double half_root = 0.70710678118654752440;
    const double length = std::sqrt(square(v)) * (way.x != 0 && way.y != 0 ? half_root : 1);
    return {way.x * length, way.y * length};
}

/// Sets a vector's target, rounded to its directions, and its facing.
Vector2 aimed(Vector2 target, const ActionMap::Row& row, ActionState::Moving& moving) noexcept {
    if (row.kind != ActionKind::vector) return target;
    if (row.directions != 0) target = in_direction(target, row.directions, moving.direction);
    if (const double length = std::sqrt(square(target)); length > 0) {
        const auto rounded = [&](double v) {
            return static_cast<std::int16_t>(std::lround(v / length * ActionState::Moving::facing_unit));
        };
        moving.facing_x = rounded(target.x);
        moving.facing_y = rounded(target.y);
    }
    return target;
}

}  // namespace

void ActionReaderCore::move_all() {
    std::sort(steps_.begin(), steps_.end(), [](const Step& a, const Step& b) {
        if (a.action != b.action) return a.action < b.action;
        return a.time != b.time ? a.time < b.time : a.order < b.order;
    });
    for (const Step& step : steps_) enliven(step.action);
    // Without changes, the integral is the value times the duration.
    const auto length = static_cast<double>(state_.t1 - state_.t0);
    constexpr double nanosecond = 1e-9;
    // And it is the same again for a frame of the same length.
    if (std::exchange(held_length_, length) != length) held_ = {};
    for (unsigned word = 0; word < action_words_; ++word) {
        const std::uint64_t held = std::exchange(held_[word], holding_[word]);
        for (std::uint64_t rest = holding_[word] & ~held; rest != 0; rest &= rest - 1) {
            const unsigned action = word * 64 + static_cast<unsigned>(std::countr_zero(rest));
            const Vector2 value = state_.moving[action].value;
            integral_[action] = {(0.0 + value.x * length) * nanosecond, (0.0 + value.y * length) * nanosecond};
        }
    }
    std::span<const Step> steps{steps_};
    for (unsigned word = 0; word < action_words_; ++word)
        for (std::uint64_t rest = lively_[word]; rest != 0; rest &= rest - 1) {
            const auto action = static_cast<std::uint16_t>(word * 64 + static_cast<unsigned>(std::countr_zero(rest)));
            const auto end =
                std::find_if(steps.begin(), steps.end(), [&](const Step& s) { return s.action != action; });
            const auto count = static_cast<std::size_t>(end - steps.begin());
            move(action, steps.first(count));
            steps = steps.subspan(count);
        }
}

// Follows one action through the frame, step by step.
void ActionReaderCore::move(std::uint16_t action, std::span<const Step> steps) {
    const ActionMap::Row& row = map_->actions[action];
    ActionState::Moving& moving = state_.moving[action];
    const Ramps ramps{row.rise, row.fall};
    std::int64_t at = state_.t0;
    const auto go_on = [&](std::int64_t until) {
        Vector2& sum = integral_[action];
        if (row.kind == ActionKind::axis) {
            sum.x += move_toward(moving.value.x, moving.target.x, ramps, until - at);
        } else {
            VectorMotion motion{moving.value, moving.target, moving.rises};
            const Vector2 part = move_on(motion, ramps, until - at);
            moving.value = motion.value;
            sum = {sum.x + part.x, sum.y + part.y};
        }
        at = until;
    };
    for (auto step = steps.begin(); step != steps.end();) {
        const std::int64_t time = step->time;
        if (time > at) go_on(time);  // all steps of one time set the target together
        for (; step != steps.end() && step->time == time; ++step) {
            if (step->source == stops) {
                moving = {};
                state_.injected[action] = {};
                std::fill_n(&state_.sources[row.first_source], row.source_count, Vector2{});
            } else {
                (step->source == by_bot ? state_.injected[action] : state_.sources[step->source]) = step->value;
            }
        }
        VectorMotion motion{moving.value, moving.target, moving.rises};
        const detail::ModeBits visible = segments_.empty() ? state_.visible : segment_at(time).visible;
        set_target(motion, detail::has_mode(visible, row.mode) ? aimed(target_of(action), row, moving) : Vector2{});
        moving.target = motion.target;
        moving.rises = motion.rises;
    }
    go_on(state_.t1);  // also in no time, for what has no ramp
}

Vector2 ActionReaderCore::mean_of(Vector2 integral) const noexcept {
    const double length = static_cast<double>(state_.t1 - state_.t0) * 1e-9;
    return length > 0 ? Vector2{integral.x / length, integral.y / length} : Vector2{};
}

AxisActionReading ActionReaderCore::operator[](AxisAction action) const noexcept {
    if (action.number >= map_->actions.size()) return {};
    const Vector2 integral = integral_[action.number];
    return {state_.moving[action.number].value.x, before_[action.number].x, mean_of(integral).x, integral.x,
            relative_[action.number].x};
}

double VectorActionReading::facing_angle() const noexcept {
    return facing == Vector2{} ? 0 : std::atan2(facing.y, facing.x);
}

VectorActionReading ActionReaderCore::operator[](VectorAction action) const noexcept {
    if (action.number >= map_->actions.size()) return {};
    const State::Moving& moving = state_.moving[action.number];
    return {moving.value,
            before_[action.number],
            mean_of(integral_[action.number]),
            integral_[action.number],
            relative_[action.number],
            {moving.facing_x / State::Moving::facing_unit, moving.facing_y / State::Moving::facing_unit}};
}

}  // namespace cursorum
