// From the edges of bindings to those of an action: the OR of its bindings, debouncing, gestures, timers.
#include <algorithm>

#include "actions/plain_reader.hpp"

namespace test {

// ---- from bindings to actions

void PlainReader::contact(std::size_t number, Place place, EdgeKind kind, std::int64_t time) {
    State& state = actions_[number];
    state.is_down.erase(place);
    const bool pressed =
        std::any_of(state.is_down.begin(), state.is_down.end(), [](const auto& its) { return its.second.pressed; });
    const bool others = !state.is_down.empty();
    if (starts(kind)) state.is_down[place] = {kind == EdgeKind::press, ++order_};
    if (state.action->kind == ActionKind::button)
        or_edge(number, others || state.bot_down, pressed || state.bot_down, kind, time);
}

void PlainReader::bot(std::size_t number, bool down, std::int64_t time) {
    State& state = actions_[number];
    if (state.bot_down == down) return;
    state.bot_down = down;
    const bool pressed =
        std::any_of(state.is_down.begin(), state.is_down.end(), [](const auto& its) { return its.second.pressed; });
    or_edge(number, !state.is_down.empty(), pressed, down ? EdgeKind::press : EdgeKind::release, time);
}

void PlainReader::or_edge(std::size_t number, bool others_down, bool others_pressed, EdgeKind kind, std::int64_t time) {
    if (!others_down) return deliver(number, kind, time);
    if (kind != EdgeKind::press || others_pressed) return;
    deliver(number, EdgeKind::cancel, time);
    deliver(number, EdgeKind::press, time);
}

// After an edge that counts, nothing counts for a while; then the level does.
void PlainReader::deliver(std::size_t number, EdgeKind kind, std::int64_t time) {
    State& state = actions_[number];
    state.raw = starts(kind);
    if (state.action->debounce == Duration{}) return gesture(number, kind, time);
    if (state.raw == state.passed) return;
    if (is_persons(kind) && !state.is_fresh && time - state.passed_at < state.action->debounce.count()) return;
    pass(number, kind, time);
}
void PlainReader::pass(std::size_t number, EdgeKind kind, std::int64_t time) {
    State& state = actions_[number];
    state.passed = starts(kind);
    state.passed_at = time;
    state.is_fresh = !is_persons(kind);
    gesture(number, kind, time);
}

void PlainReader::gesture(std::size_t number, EdgeKind kind, std::int64_t time) {
    State& state = actions_[number];
    const std::int64_t limit = state.action->gesture_time.count();
    const bool in_time = state.waits && time - state.since <= limit;
    const auto turn_off = [&] {
        if (state.is_on && !starts(kind)) {
            state.is_on = false;
            fire(number, kind, time);
        }
    };
    const auto turn_on = [&] {
        state.is_on = true;
        fire(number, kind, time);
    };
    const auto wait = [&](bool waits) {
        state.waits = waits;
        state.since = time;
    };
    switch (state.action->gesture) {
        case Gesture::hold:
            turn_off();
            if (kind == EdgeKind::adopt) turn_on();
            if (kind != EdgeKind::press) return;
            if (state.waits && time - state.since < state.action->min_interval.count()) return;
            wait(true);
            return turn_on();
        case Gesture::tap:
        case Gesture::release:
            if (kind == EdgeKind::release && (state.action->gesture == Gesture::tap ? in_time : state.waits)) {
                fire(number, EdgeKind::press, time);
                fire(number, EdgeKind::release, time);
            }
            return wait(kind == EdgeKind::press);
        case Gesture::long_press: turn_off(); return wait(kind == EdgeKind::press);
        case Gesture::double_tap:
            turn_off();
            if (kind == EdgeKind::cancel) state.waits = false;
            if (kind != EdgeKind::press) return;
            if (in_time) {
                state.waits = false;
                return turn_on();
            }
            return wait(true);
        case Gesture::toggle:
            if (kind != EdgeKind::press) return;
            state.is_on = !state.is_on;
            return fire(number, state.is_on ? EdgeKind::press : EdgeKind::release, time);
    }
}

void PlainReader::fire(std::size_t number, EdgeKind kind, std::int64_t time) {
    State& state = actions_[number];
    const std::int64_t at = std::max(time, t0_);
    edges_.push_back({at, number, kind, !starts(kind) && state.hold && state.hold->adopted});
    of_action_[number].emplace_back(at, kind);
    state.hold.reset();
    if (starts(kind)) state.hold = Hold{kind == EdgeKind::adopt, at};
    if (kind != EdgeKind::press) return;
    if (state.action->buffer != Duration{}) state.buffered = at;
    if (state.action->closes || !state.action->opens.empty()) pressed_.push_back(number);
}

// What is due by then, in the order of time; at one time in the profile's order.
void PlainReader::run_timers(std::int64_t until) {
    for (;;) {
        std::int64_t due = never;
        std::size_t next = 0;
        for (std::size_t i = 0; i < actions_.size(); ++i) {
            const State& state = actions_[i];
            if (!state.action || state.action->kind != ActionKind::button) continue;
            std::int64_t its = never;
            if (state.action->debounce != Duration{} && state.raw != state.passed)
                its = state.passed_at + state.action->debounce.count();
            if (state.action->gesture == Gesture::long_press && state.waits)
                its = std::min(its, state.since + state.action->gesture_time.count());
            if (its < due) due = its, next = i;
        }
        if (due > until || due == never) return;
        move_to(std::max(due, t0_));
        State& state = actions_[next];
        if (state.raw != state.passed && state.action->debounce != Duration{} &&
            due == state.passed_at + state.action->debounce.count()) {
            pass(next, state.raw ? EdgeKind::press : EdgeKind::release, due);
        } else {
            state.waits = false;
            state.is_on = true;
            fire(next, EdgeKind::press, due);
        }
        change_modes(due, {Cause::Kind::timer});
    }
}

}  // namespace test
