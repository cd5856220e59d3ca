// From the edges of bindings to those of actions: gestures, debouncing, buffered presses.
#include <algorithm>
#include <utility>

#include "actions/edges.hpp"

namespace cursorum {

using detail::Effect;

void ActionReaderCore::deliver(std::uint16_t action, Effect effect, std::int64_t time) {
    const ActionMap::Row& row = map_->actions[action];
    if (row.is_plain) return add_edge(action, effect, time);
    if (row.debounce != 0) return debounced(action, effect, time);
    gesture(action, effect, time);
}

// ---- edges of actions

// Debouncing: after an edge that counts, further edges are ignored for a while; then the level counts, if it differs.
void ActionReaderCore::debounced(std::uint16_t action, Effect effect, std::int64_t time) {
    settle(action, time - 1);
    const bool down = starts(effect);
    state_.bindings_down[action] = down;
    if (down == state_.passed_down[action] && effect != Effect::restart) return;
    const bool bounces = is_persons(effect) && state_.has_passed[action] &&
                         time - state_.passed_at[action] < map_->actions[action].debounce;
    if (!bounces || effect == Effect::restart) pass_edge(action, effect, time);
}

void ActionReaderCore::settle(std::uint16_t action, std::int64_t until) {
    const std::int64_t due = state_.passed_at[action] + map_->actions[action].debounce;
    const bool down = state_.bindings_down[action];
    if (down == state_.passed_down[action] || due > until) return;
    pass_edge(action, down ? Effect::press : Effect::release, due);
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
    const bool presses = detail::presses(effect);
    const auto add = [&](Effect as) {
        add_edge(action, as, time);
        if (as != Effect::press) return;
        note_press(action);
        if (row.buffer == 0) return;
        state_.holds_press[action] = true;
        state_.buffered_since[action] = std::max(time, state_.t0);
    };
    const auto turn = [&](bool on, Effect as) {
        is_on = on;
        add(as);
    };
    switch (row.gesture) {
        case Gesture::toggle:
            if (presses) turn(!is_on, is_on ? Effect::release : Effect::press);
            return;
        case Gesture::tap:
        case Gesture::release:
            if (effect == Effect::release && waits &&
                (row.gesture == Gesture::release || time - since <= row.gesture_time)) {
                add(Effect::press);
                add(Effect::release);
            }
            since = time;
            waits = presses;
            return;
        case Gesture::long_press:
            last_long_enough(action, time);
            if (is_on && !starts(effect)) turn(false, effect);
            if (is_on && effect == Effect::restart) turn(false, Effect::cancel);
            since = time;
            waits = presses;
            return;
        case Gesture::double_tap:
            if (is_on && (!starts(effect) || effect == Effect::restart))
                turn(false, effect == Effect::release ? Effect::release : Effect::cancel);
            if (effect == Effect::cancel) waits = false;
            if (!presses) return;
            if (waits && time - since <= row.gesture_time) {
                waits = false;
                return turn(true, Effect::press);
            }
            since = time;
            waits = true;
            return;
        case Gesture::hold:
            if (is_on && (!starts(effect) || effect == Effect::restart))
                turn(false, effect == Effect::release ? Effect::release : Effect::cancel);
            if (effect == Effect::adopt) return turn(true, Effect::adopt);
            // `waits`: there was a press, and the next one must not be too near.
            if (!presses || (waits && time - since < row.min_interval)) return;
            since = time;
            waits = true;
            return turn(true, Effect::press);
    }
}

/// Makes a continuing press a long one, if it is one by `until`.
void ActionReaderCore::last_long_enough(std::uint16_t action, std::int64_t until) {
    const std::int64_t due = state_.since[action] + map_->actions[action].gesture_time;
    if (!state_.waits[action] || due > until) return;
    state_.waits[action] = false;
    state_.is_on[action] = true;
    add_edge(action, Effect::press, due);
    note_press(action);
    state_.holds_press[action] = map_->actions[action].buffer != 0;
    state_.buffered_since[action] = std::max(due, state_.t0);
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

// Timers due by then that open or close a mode, in order of time.
void ActionReaderCore::run_timers(std::int64_t until) {
    for (;;) {
        std::int64_t due = INT64_MAX;
        std::uint16_t next = 0;
        for (const std::uint16_t action : map_->timed)
            if (const std::int64_t its = due_of(action); its < due) due = its, next = action;
        if (due > until || due == INT64_MAX) return;
        if (map_->actions[next].debounce != 0) settle(next, due);
        if (map_->actions[next].gesture == Gesture::long_press) last_long_enough(next, due);
        turner_ = {.kind = Turner::Kind::timer};
        if (is_turning_) turn_modes(due);
    }
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
