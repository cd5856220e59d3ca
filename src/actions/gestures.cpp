// From the edges of all bindings together to those of the action: first debouncing, then the gesture, then what a press
// causes (a buffer, a mode). What becomes due without an event is a timer; `next_due_` says that none is due before it.
#include <algorithm>
#include <utility>

#include "actions/edges.hpp"

namespace cursorum {

using detail::Effect;

void ActionReaderCore::deliver(std::uint16_t action, Effect effect, std::int64_t time) {
    const ActionMap::Row& row = map_->actions[action];
    if (row.is_plain) return add_edge(action, effect, time);
    if (effect == Effect::restart) {
        deliver(action, Effect::cancel, time);
        return deliver(action, Effect::press, time);
    }
    if (row.debounce != 0)
        debounce(action, effect, time);
    else
        gesture(action, effect, time);
    if (row.is_lasting) next_due_ = std::min(next_due_, due_of(action));
}

// After an edge that counts, the person's further edges are ignored for a while; then the level counts, if it differs.
void ActionReaderCore::debounce(std::uint16_t action, Effect effect, std::int64_t time) {
    const bool down = starts(effect);
    state_.bindings_down[action] = down;
    if (down == state_.passed_down[action]) return;
    const bool bounces = is_persons(effect) && state_.has_passed[action] &&
                         time - state_.passed_at[action] < map_->actions[action].debounce;
    if (!bounces) pass_edge(action, effect, time);
}

void ActionReaderCore::pass_edge(std::uint16_t action, Effect effect, std::int64_t time) {
    state_.passed_down[action] = starts(effect);
    state_.passed_at[action] = time;
    state_.has_passed[action] = is_persons(effect);  // only presses and releases bounce
    gesture(action, effect, time);
}

// Converts an edge of all bindings together to edges of the action.
void ActionReaderCore::gesture(std::uint16_t action, Effect effect, std::int64_t time) {
    const ActionMap::Row& row = map_->actions[action];
    std::int64_t& since = state_.since[action];
    bool &waits = state_.waits[action], &is_on = state_.is_on[action];
    const bool presses = effect == Effect::press;
    const auto set_on = [&](bool on, Effect as) {
        is_on = on;
        fire(action, as, time);
    };
    if (row.gesture == Gesture::toggle) {
        if (presses) set_on(!is_on, is_on ? Effect::release : Effect::press);
        return;
    }
    if (is_on && !starts(effect)) set_on(false, effect);
    switch (row.gesture) {
        case Gesture::tap:
        case Gesture::release:
            if (effect == Effect::release && waits &&
                (row.gesture == Gesture::release || time - since <= row.gesture_time)) {
                fire(action, Effect::press, time);
                fire(action, Effect::release, time);
            }
            [[fallthrough]];
        case Gesture::long_press:
            since = time;
            waits = presses;
            return;
        case Gesture::double_tap:
            if (effect == Effect::cancel) waits = false;
            if (!presses) return;
            if (waits && time - since <= row.gesture_time) {
                waits = false;
                return set_on(true, Effect::press);
            }
            since = time;
            waits = true;
            return;
        default:
            if (effect == Effect::adopt) return set_on(true, Effect::adopt);
            // `waits`: there was a press, and the next one must not be too near.
            if (!presses || (waits && time - since < row.min_interval)) return;
            since = time;
            waits = true;
            return set_on(true, Effect::press);
    }
}

void ActionReaderCore::fire(std::uint16_t action, Effect effect, std::int64_t time) {
    add_edge(action, effect, time);
    if (effect != Effect::press) return;
    note_press(action);
    if (map_->actions[action].buffer == 0) return;
    state_.holds_press[action] = true;
    state_.buffered_since[action] = std::max(time, state_.t0);
}

// The time at which a continuing press becomes a long one, or debouncing ends; never, if neither is pending.
std::int64_t ActionReaderCore::due_of(std::uint16_t action) const noexcept {
    const ActionMap::Row& row = map_->actions[action];
    std::int64_t due = INT64_MAX;
    if (row.debounce != 0 && state_.bindings_down[action] != state_.passed_down[action])
        due = state_.passed_at[action] + row.debounce;
    if (row.gesture == Gesture::long_press && state_.waits[action])
        due = std::min(due, state_.since[action] + row.gesture_time);
    return due;
}

// What is due by then, in order of time; at one time in the profile's order.
void ActionReaderCore::run_due_timers(std::int64_t until) {
    for (;;) {
        std::int64_t due = INT64_MAX;
        std::uint16_t next = 0;
        for (const std::uint16_t action : map_->lasting)
            if (const std::int64_t its = due_of(action); its < due) due = its, next = action;
        next_due_ = due;
        if (due > until || due == INT64_MAX) return;
        const bool down = state_.bindings_down[next];
        if (down != state_.passed_down[next] && due == state_.passed_at[next] + map_->actions[next].debounce) {
            pass_edge(next, down ? Effect::press : Effect::release, due);
        } else {
            state_.waits[next] = false;
            state_.is_on[next] = true;
            fire(next, Effect::press, due);
        }
        mode_cause_ = {.kind = ModeCause::Kind::timer};
        if (has_mode_changers_) change_modes(due);
    }
}

// A pause: first what came before it, then it ends gestures in progress and buffered presses. (For a hold, `waits` is
// the press that must not be too near.)
void ActionReaderCore::skip_pause(std::int64_t from) {
    while (occurred_ != occurrences_.size() && occurrences_[occurred_].part == PausePart::before) {
        run_timers(occurrences_[occurred_].time);
        take_occurrence(occurrences_[occurred_++]);
    }
    run_timers(from - 1);
    state_.holds_press.fill(false);
    for (std::uint16_t i = 0; i < map_->actions.size(); ++i) {
        if (map_->actions[i].gesture != Gesture::hold) state_.waits[i] = false;
        // A release that debouncing still holds back was the end of a hold before the pause.
        if (!state_.bindings_down[i] && state_.passed_down[i]) pass_edge(i, Effect::cancel, state_.t0);
        state_.bindings_down[i] = state_.passed_down[i];
    }
    // A value held beyond its threshold starts a new hold after a pause, as a held button does.
    for (std::size_t row = 0; row < map_->of_values.size(); ++row) {
        const std::uint16_t number = map_->of_values[row].number;
        if (state_.switches[number].is_down) set_switch(number, false, false, state_.t0);
    }
    for (; occurred_ != occurrences_.size() && occurrences_[occurred_].part == PausePart::end; ++occurred_) {
        const Occurrence& it = occurrences_[occurred_];
        if (it.kind == Occurrence::Kind::value) values_[it.number] = it.value;
        if (it.kind == Occurrence::Kind::locks) locks_ = it.locks;
    }
    set_states_again(state_.t0);
}

bool ActionReaderCore::consume_press(ButtonAction action) noexcept {
    if (action.number >= map_->actions.size()) return false;
    const std::int64_t buffer = map_->actions[action.number].buffer;
    if (buffer == 0) return levels_[action.number].pressed;
    const bool waits = std::exchange(state_.holds_press[action.number], false);
    return waits && state_.t0 - state_.buffered_since[action.number] <= buffer;
}

// System repeats of an action, by each of its bindings that is down; chords repeat with their members.
void ActionReaderCore::count_system_repeat(Button button) {
    for (const ButtonSwitch& it : map_->switches_of(button)) {
        if (!map_->switches[it.number].is_button || !state_.switches[it.number].is_down) continue;
        ++system_repeats_[it.action];
        has_system_repeats_ = true;
    }
}

}  // namespace cursorum
