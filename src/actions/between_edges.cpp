// What happens between a frame's edges: occurrences, which set switches or step them, and injected input.
#include <algorithm>

#include "actions/edges.hpp"

namespace cursorum {

detail::DeviceFilter ActionReaderCore::filter() const noexcept {
    if (!is_partial_) return {};
    return detail::DeviceFilter::set(included_devices_);
}

void ActionReaderCore::set_value(std::size_t row, bool by_person, std::int64_t time) {
    const ValueSwitch& it = map_->of_values[row];
    const ActionSwitch& its = map_->switches[it.number];
    const double value = occurrences_.value(row);
    const bool is_released = value <= it.thresholds.release;
    if (is_released) detail::Chords::freshen(*this, it.number, 1);
    const bool was_down = state_.switches[it.number].is_down;
    const bool is_beyond = was_down ? !is_released : value >= it.thresholds.press;
    const bool down =
        is_beyond && detail::is_mode(state_.flow_owners[it.flow], its.mode) && !state_.has_stale_members(it.number);
    if (down != was_down) set_switch(it.number, down, by_person, time);
}

// Brings switches of values and locks in line with their levels, without presses. Called at the beginning of a frame,
// since modes may have opened and frames may have been skipped, at the end of a pause, and when modes change.
void ActionReaderCore::set_states_again(std::int64_t time) {
    verdicts_.begin(time, {}, false);
    for (std::size_t row = 0; row < map_->of_values.size(); ++row) set_value(row, false, time);
    if (!map_->of_locks.empty()) set_locks(false, time);
}

void ActionReaderCore::set_locks(bool by_person, std::int64_t time) {
    for (const std::uint16_t number : map_->of_locks) {
        const ActionSwitch& it = map_->switches[number];
        const bool is_on = (occurrences_.locks() >> (it.lock - 1U) & 1) != 0;
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
        const detail::Occurrence* const next = occurrences_.next();
        const bool has_injected = done != injected_.size();
        const std::int64_t occurrence_time = next ? next->time : INT64_MAX;
        const std::int64_t injected_time = has_injected ? std::max(injected_[done].time, state_.t0) : INT64_MAX;
        run_timers(std::min({occurrence_time, injected_time, until}));
        if (std::min(occurrence_time, injected_time) > until || !(next || has_injected)) break;
        if (injected_time <= occurrence_time) {
            mode_cause_ = {};
            apply_injected(injected_[done++]);
        } else {
            take_occurrence(occurrences_.take());
        }
    }
    injected_.erase(injected_.begin(), injected_.begin() + static_cast<std::ptrdiff_t>(done));
}

void ActionReaderCore::take_occurrence(const detail::Occurrence& it) {
    using Kind = detail::Occurrence::Kind;
    if (it.kind == Kind::text) return take_text(*frame_of_sampler_, it.event);
    verdicts_.begin(it.time, {}, it.kind == Kind::locks || !it.is_forced);
    mode_cause_ = {};
    switch (it.kind) {
        case Kind::wheel:
            mode_cause_ = {.kind = detail::ModeCause::Kind::wheel, .number = it.event};
            step_wheel(it.x, it.y, it.time);
            break;
        case Kind::locks: set_locks(true, it.time); break;
        case Kind::value:
            set_value(it.number, !it.is_forced, it.time);
            if (edges_.changes_modes()) change_modes(it.time);
            break;
        case Kind::text: break;
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
               !detail::Chords::rule_against(*this, it, owner, down);
    };
    verdicts_.begin(time, {}, true);
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
