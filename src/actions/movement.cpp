// Axes and vectors, mice, wheels and locks.
#include <algorithm>
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

double square(Vector2 v) noexcept { return v.x * v.x + v.y * v.y; }

}  // namespace

// ---- mice, wheels, locks

detail::DeviceFilter ActionReaderCore::filter() const noexcept {
    if (!is_partial_) return {};
    return detail::DeviceFilter::set(included_devices_);
}

void ActionReaderCore::gather_turns(const FrameCore& frame) {
    if (!map_->of_wheel.empty())
        PointerReading{frame, filter()}.for_each_wheel_step([this](Time time, WheelSteps steps) {
            turns_.push_back({nanoseconds(time), steps.x, steps.y});
        });
    if (map_->of_locks.empty()) return;
    // So that modes that opened, and frames that were left out, have their say, too.
    set_locks(frame.others().locks, false, state_.t0);
    for (std::uint32_t i = 0; i < frame.other_entries().occasion_count; ++i) {
        const detail::OccasionSlot& occasion = frame.other_entries().occasions[i];
        if (occasion.kind() != detail::OccasionKind::locks) continue;
        // To its place in time: there are few. (The library's merging would allocate.)
        const auto later = [](std::int64_t time, const Turn& turn) { return time < turn.time; };
        turns_.insert(std::upper_bound(turns_.begin(), turns_.end(), occasion.time, later),
                      {occasion.time, 0, 0, true, static_cast<std::uint8_t>(occasion.begin[0])});
    }
}

void ActionReaderCore::set_locks(unsigned on, bool by_person, std::int64_t time) {
    for (const std::uint16_t number : map_->of_locks) {
        const ActionSwitch& it = map_->switches[number];
        const bool is_on = (on >> (it.lock - 1U) & 1) != 0;
        if (!is_on) freshen_switch(number, 1);
        const bool down = is_on && (state_.visible >> it.mode & 1) != 0 && state_.stale_members[number] == 0;
        if (down != state_.switches[number].is_down) set_switch(number, down, by_person, time);
    }
}

// What comes between edges, in the order of time. At one time edges come first: a key that is held while a wheel turns
// was pressed before.
void ActionReaderCore::catch_up(std::int64_t until) {
    std::size_t done = 0;
    for (;;) {
        const bool has_turn = turned_ != turns_.size(), has_injected = done != injected_.size();
        const std::int64_t turn_time = has_turn ? turns_[turned_].time : INT64_MAX;
        const std::int64_t injected_time = has_injected ? std::max(injected_[done].time, state_.t0) : INT64_MAX;
        if (std::min(turn_time, injected_time) > until || !(has_turn || has_injected)) break;
        if (injected_time <= turn_time) {
            apply_injected(injected_[done++]);
        } else {
            const Turn& turn = turns_[turned_++];
            if (turn.is_lock)
                set_locks(turn.locks, true, turn.time);
            else
                step_wheel(turn.x, turn.y, turn.time);
        }
    }
    injected_.erase(injected_.begin(), injected_.begin() + static_cast<std::ptrdiff_t>(done));
}

void ActionReaderCore::step_wheel(std::int32_t x, std::int32_t y, std::int64_t time) {
    constexpr std::int32_t most = 1024;  // no hand turns a wheel that far within one event
    for (std::int32_t i = std::min(y, most); i > 0; --i) turn_wheel(WheelWay::up, time);
    for (std::int32_t i = std::max(y, -most); i < 0; ++i) turn_wheel(WheelWay::down, time);
    for (std::int32_t i = std::max(x, -most); i < 0; ++i) turn_wheel(WheelWay::left, time);
    for (std::int32_t i = std::min(x, most); i > 0; --i) turn_wheel(WheelWay::right, time);
}

// Of the wheel's bindings the longest chord alone, as of a button's.
void ActionReaderCore::turn_wheel(WheelWay way, std::int64_t time) {
    const std::uint8_t owner = state_.flow_owners[detail::wheel_flow];
    const ButtonSet down{state_.down};
    const auto completes = [&](unsigned number) {
        const ActionSwitch& it = map_->switches[number];
        return it.wheel_way == way && is_mode(owner, it.mode) && state_.stale_members[number] == 0 &&
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
}

void ActionReaderCore::add_relative(const FrameCore& frame) noexcept {
    for (const std::uint16_t i : map_->relative) {
        const ActionSource& source = map_->sources[i];
        const bool is_motion = source.kind == Binding::Kind::motion;
        const unsigned flow = is_motion ? detail::motion_flow : detail::wheel_flow;
        if (!is_mode(state_.flow_owners[flow], map_->actions[source.action].mode)) continue;
        const PointerReading pointer = PointerReading{frame, filter()};
        const Distance way = !is_motion ? pointer.wheel() : source.raw ? pointer.raw_motion() : pointer.motion();
        Vector2& sum = relative_[source.action];
        if (map_->actions[source.action].kind == ActionKind::axis)
            sum.x += (source.vertical ? way.y : way.x) * source.scale;
        else
            sum = {sum.x + way.x * source.scale, sum.y + way.y * source.scale};
    }
}

// ---- axes and vectors

void ActionReaderCore::add_steps(const FrameCore& frame) {
    for (const std::uint16_t i : map_->analogue) {
        const ActionSource& source = map_->sources[i];
        const unsigned mode = map_->actions[source.action].mode;
        const bool is_stick = source.kind == Binding::Kind::stick;
        const auto seen = [&](unsigned axis) { return is_mode(state_.flow_owners[axis], mode); };
        const bool is_seen = is_stick ? seen(source.number * 2U) && seen(source.number * 2U + 1) : seen(source.number);
        bool& stale = state_.stale_sources[i];
        bool has_step = false;
        const auto add = [&](std::int64_t time, Vector2 value) {
            stale = stale && value != Vector2{};
            if (stale) value = {};
            value = {value.x * source.scale, value.y * source.scale};
            // Its first value in the frame is mostly the last one of the frame before.
            if (time == state_.t0 && value == state_.sources[i] && !has_step) return;
            has_step = true;
            steps_.push_back({time, value, static_cast<std::uint32_t>(steps_.size()), source.action, i});
        };
        if (!is_seen) {
            if (state_.sources[i] != Vector2{}) add(state_.t0, {});
            continue;
        }
        if (is_stick) {
            const Stick stick{source.number};
            add(state_.t0, frame.stick(stick, filter()).before);
            auto take = [&](Time time, Vector2 value) { add(nanoseconds(time), value); };
            frame.walk(stick, filter(), &take,
                       [](void* to, Time time, Vector2 value) { (*static_cast<decltype(take)*>(to))(time, value); });
        } else {
            const Axis axis{source.number};
            add(state_.t0, {beyond(source.dead_zone, frame.axis(axis, filter()).before), 0});
            auto take = [&](Time time, double value) { add(nanoseconds(time), {beyond(source.dead_zone, value), 0}); };
            frame.walk(axis, filter(), &take,
                       [](void* to, Time time, double value) { (*static_cast<decltype(take)*>(to))(time, value); });
        }
    }
}

// The largest of the bindings', ties to the first; never more than 1.
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

void ActionReaderCore::move_all() {
    std::sort(steps_.begin(), steps_.end(), [](const Step& a, const Step& b) {
        if (a.action != b.action) return a.action < b.action;
        return a.time != b.time ? a.time < b.time : a.order < b.order;
    });
    auto step = steps_.cbegin();
    for (const std::uint16_t action : map_->moving) {
        const ActionMap::Row& row = map_->actions[action];
        ActionState::Moving& moving = state_.moving[action];
        const Ramps ramps{row.rise, row.fall};
        std::int64_t at = state_.t0;
        const auto go_on = [&](std::int64_t until) {
            if (until <= at) return;
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
        while (step != steps_.cend() && step->action == action) {
            const std::int64_t time = step->time;
            go_on(time);
            for (; step != steps_.cend() && step->action == action && step->time == time; ++step)
                (step->source == source_capacity ? state_.injected[action] : state_.sources[step->source]) =
                    step->value;
            VectorMotion motion{moving.value, moving.target, moving.rises};
            set_target(motion, (state_.visible >> row.mode & 1) != 0 ? target_of(action) : Vector2{});
            moving.target = motion.target;
            moving.rises = motion.rises;
        }
        go_on(state_.t1);
        // What has no ramp is where it should be, also in a frame of no length.
        if (row.rise == Duration{} && row.fall == Duration{}) moving.value = moving.target;
    }
}

AxisActionReading ActionReaderCore::operator[](AxisAction action) const noexcept {
    if (action.number >= map_->actions.size()) return {};
    return {state_.moving[action.number].value.x, before_[action.number].x, integral_[action.number].x,
            relative_[action.number].x};
}

VectorActionReading ActionReaderCore::operator[](VectorAction action) const noexcept {
    if (action.number >= map_->actions.size()) return {};
    return {state_.moving[action.number].value, before_[action.number], integral_[action.number],
            relative_[action.number]};
}

}  // namespace cursorum
