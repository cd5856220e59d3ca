// What is not a button and yet makes edges: steps of wheels, states of locks, axes and touch with thresholds of their
// own. They are gathered from the frame, and taken in between its edges, by time; so is injected input.
#include <algorithm>

#include "actions/edges.hpp"

namespace cursorum {

detail::DeviceFilter ActionReaderCore::filter() const noexcept {
    if (!is_partial_) return {};
    return detail::DeviceFilter::set(included_devices_);
}

void ActionReaderCore::gather_occurrences(const detail::FrameInput& frame) {
    auto add_wheel = [&](const detail::FrameInput::Moved& moved) {
        if (moved.steps == WheelSteps{}) return;
        const bool is_earlier = frame.has_gap && moved.time < state_.t0;  // else it is late
        occurrences_.push_back(
            {.time = std::max(moved.time, is_earlier ? frame.last_cut() : state_.t0),
             .part = is_earlier && frame.skip_at != detail::FrameInput::no_skip ? PausePart::before : PausePart::after,
             .event = moved.number,
             .x = moved.steps.x,
             .y = moved.steps.y});
    };
    if (!map_->of_wheel.empty())
        frame.walk_motion(filter(), &add_wheel, [](void* to, const detail::FrameInput::Moved& moved) {
            (*static_cast<decltype(add_wheel)*>(to))(moved);
        });
    if (!map_->of_values.empty()) gather_values(frame);
    if (map_->of_locks.empty()) return;
    // So that newly opened modes and skipped frames are taken into account.
    auto take = [&](const detail::FrameInput::Cause& cause, unsigned on) {
        add_occurrence({.time = cause.time,
                        .kind = Occurrence::Kind::locks,
                        .part = cause.part,
                        .locks = static_cast<std::uint8_t>(on)});
    };
    locks_ = frame.walk_locks(&take, [](void* to, const detail::FrameInput::Cause& cause, unsigned on) {
        (*static_cast<decltype(take)*>(to))(cause, on);
    });
    set_locks(locks_, false, state_.t0);
}

// Inserts by time, since there are few. (The library's merge would allocate.)
void ActionReaderCore::add_occurrence(const Occurrence& it) {
    const auto later = [](const Occurrence& one, const Occurrence& other) {
        return one.part != other.part ? one.part < other.part : one.time < other.time;
    };
    occurrences_.insert(std::upper_bound(occurrences_.begin(), occurrences_.end(), it, later), it);
}

// Axes and touch surfaces with thresholds of their own.
void ActionReaderCore::gather_values(const detail::FrameInput& frame) {
    for (std::uint16_t row = 0; row < map_->of_values.size(); ++row) {
        const ValueSwitch& it = map_->of_values[row];
        auto add = [&](const detail::FrameInput::Cause& cause, double value) {
            add_occurrence({.time = frame.time_in(cause.part, cause.time),
                            .kind = Occurrence::Kind::value,
                            .part = cause.part,
                            .is_forced = cause.is_forced,
                            .number = row,
                            .value = value});
        };
        if (it.touch == TouchPart::none) {
            values_[row] = frame.walk_side(it.axis, it.side, filter(), &add,
                                           [](void* to, const detail::FrameInput::Cause& cause, double value) {
                                               (*static_cast<decltype(add)*>(to))(cause, value);
                                           });
        } else {
            const auto value_of = [&](const detail::FrameInput::Touch& touch) {
                return it.touch == TouchPart::pressure ? touch.pressure : touch.is_there;
            };
            auto take = [&](const detail::FrameInput::Cause& cause, const detail::FrameInput::Touch& touch) {
                add(cause, value_of(touch));
            };
            values_[row] = value_of(frame.walk_touch(
                filter(), &take,
                [](void* to, const detail::FrameInput::Cause& cause, const detail::FrameInput::Touch& touch) {
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
    if (is_released) detail::Chords::freshen(*this, it.number, 1);
    const bool was_down = state_.switches[it.number].is_down;
    const bool is_beyond = was_down ? !is_released : value >= it.thresholds.press;
    const bool down =
        is_beyond && detail::is_mode(state_.flow_owners[it.flow], its.mode) && !state_.has_stale_members(it.number);
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
        if (!is_on) detail::Chords::freshen(*this, number, 1);
        const bool down = is_on && detail::has_mode(state_.visible, it.mode) && !state_.has_stale_members(number);
        if (down != state_.switches[number].is_down) set_switch(number, down, by_person, time);
    }
    if (by_person && edges_.changes_modes()) change_modes(time);
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
            mode_cause_ = {.kind = detail::ModeCause::Kind::wheel, .number = it.event};
            step_wheel(it.x, it.y, it.time);
            break;
        case Occurrence::Kind::locks: set_locks(locks_ = it.locks, true, it.time); break;
        case Occurrence::Kind::value:
            values_[it.number] = it.value;
            set_value(it.number, !it.is_forced, it.time);
            if (edges_.changes_modes()) change_modes(it.time);
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
        return it.wheel_way == way && detail::is_mode(owner, it.mode) && !state_.has_stale_members(number) &&
               detail::Chords::are_down(*this, it, owner, down);
    };
    int longest = -1;
    for (const std::uint16_t number : map_->of_wheel)
        if (completes(number)) longest = std::max<int>(longest, map_->switches[number].member_count);
    for (const std::uint16_t number : map_->of_wheel) {
        if (int{map_->switches[number].member_count} != longest || !completes(number)) continue;
        set_switch(number, true, true, time);
        set_switch(number, false, true, time);
    }
    if (edges_.changes_modes()) change_modes(time);
}

}  // namespace cursorum
