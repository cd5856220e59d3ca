// How presses become taps, toggles, long presses and double taps, when an edge is a bounce, and what a timer does.
#include "actions/gestures.hpp"

#include <algorithm>
#include <utility>

namespace cursorum::detail {

namespace {

/// In place of verdicts that nobody asked for.
struct NoVerdicts {
    template <typename... Values>
    void decide(Values...) const noexcept {}
    void wait(Verdicts::Wait) const noexcept {}
    void decide_waiting(std::uint16_t, Verdicts::Wait, Rule) const noexcept {}
    void wait_on(std::uint16_t, Verdicts::Wait, Verdicts::Wait) const noexcept {}
};

template <bool with_verdicts>
auto& verdicts(ReaderContext& of) noexcept {
    static constexpr NoVerdicts none;
    if constexpr (with_verdicts)
        return of.verdicts_;
    else
        return none;
}

// The action is pressed by the present press, or by one that began its gesture: what the buffer held is no longer
// there.
template <bool with_verdicts>
void decide_fired(ReaderContext& of, std::uint16_t action) {
    auto& its = verdicts<with_verdicts>(of);
    if (of.map_->actions[action].buffer == 0) return its.decide(Rule::fired);
    its.decide_waiting(action, Verdicts::Wait::buffer, Rule::buffer_expired);
    its.wait(Verdicts::Wait::buffer);
}
template <bool with_verdicts>
void decide_gesture_fired(ReaderContext& of, std::uint16_t action) {
    auto& its = verdicts<with_verdicts>(of);
    if (of.map_->actions[action].buffer == 0) return its.decide_waiting(action, Verdicts::Wait::gesture, Rule::fired);
    its.decide_waiting(action, Verdicts::Wait::buffer, Rule::buffer_expired);
    its.wait_on(action, Verdicts::Wait::gesture, Verdicts::Wait::buffer);
}

bool waits_in_buffer(const ReaderContext& of, std::uint16_t action) noexcept {
    return of.state_.holds_press[action] &&
           of.state_.t0 - of.state_.buffered_since[action] <= of.map_->actions[action].buffer;
}

}  // namespace

template <bool with_verdicts>
void Gestures::deliver_as(ReaderContext& of, std::uint16_t action, Effect effect, std::int64_t time) {
    const ActionMap::Row& row = of.map_->actions[action];
    if (row.is_plain) {
        if (effect == Effect::press || effect == Effect::restart) verdicts<with_verdicts>(of).decide(Rule::fired);
        return of.add_edge(action, effect, time);
    }
    if (effect == Effect::restart) {
        deliver_as<with_verdicts>(of, action, Effect::cancel, time);
        return deliver_as<with_verdicts>(of, action, Effect::press, time);
    }
    if (row.debounce != 0)
        debounce<with_verdicts>(of, action, effect, time);
    else
        follow<with_verdicts>(of, action, effect, time);
    if (row.is_lasting) next_due_ = std::min(next_due_, due_of(of, action));
}

// After an edge that counts, the person's further edges are ignored for a while; then the level counts, if it differs.
template <bool with_verdicts>
void Gestures::debounce(ReaderContext& of, std::uint16_t action, Effect effect, std::int64_t time) {
    const bool down = starts(effect);
    of.state_.bindings_down[action] = down;
    if (!down) verdicts<with_verdicts>(of).decide_waiting(action, Verdicts::Wait::debounce, Rule::debounced);
    if (down == of.state_.passed_down[action]) {
        if (down) verdicts<with_verdicts>(of).decide(Rule::debounced, of.state_.passed_at[action]);
        return;
    }
    const bool bounces = is_persons(effect) && of.state_.has_passed[action] &&
                         time - of.state_.passed_at[action] < of.map_->actions[action].debounce;
    if (!bounces) return pass_edge<with_verdicts>(of, action, effect, time);
    if (down) verdicts<with_verdicts>(of).wait(Verdicts::Wait::debounce);
}

template <bool with_verdicts>
void Gestures::pass_edge(ReaderContext& of, std::uint16_t action, Effect effect, std::int64_t time) {
    of.state_.passed_down[action] = starts(effect);
    of.state_.passed_at[action] = time;
    of.state_.has_passed[action] = is_persons(effect);  // only presses and releases bounce
    follow<with_verdicts>(of, action, effect, time);
}

// Converts an edge of all bindings together to edges of the action.
template <bool with_verdicts>
void Gestures::follow(ReaderContext& of, std::uint16_t action, Effect effect, std::int64_t time) {
    const ActionMap::Row& row = of.map_->actions[action];
    std::int64_t& since = of.state_.since[action];
    bool &waits = of.state_.waits[action], &is_on = of.state_.is_on[action];
    const bool presses = effect == Effect::press;
    const auto set_on = [&](bool on, Effect as) {
        is_on = on;
        fire(of, action, as, time);
    };
    if (row.gesture == Gesture::toggle) {
        if (!presses) return;
        if (is_on)
            verdicts<with_verdicts>(of).decide(Rule::toggled_off);
        else
            decide_fired<with_verdicts>(of, action);
        set_on(!is_on, is_on ? Effect::release : Effect::press);
        return;
    }
    if (is_on && !starts(effect)) set_on(false, effect);
    switch (row.gesture) {
        case Gesture::tap:
        case Gesture::release:
            if (effect == Effect::release && waits &&
                (row.gesture == Gesture::release || time - since <= row.gesture_time)) {
                decide_gesture_fired<with_verdicts>(of, action);
                fire(of, action, Effect::press, time);
                fire(of, action, Effect::release, time);
            }
            [[fallthrough]];
        case Gesture::long_press:
            since = time;
            waits = presses;
            verdicts<with_verdicts>(of).decide_waiting(action, Verdicts::Wait::gesture,
                                                       effect != Effect::release            ? Rule::cancelled
                                                       : row.gesture == Gesture::long_press ? Rule::too_short
                                                                                            : Rule::too_long);
            if (presses) verdicts<with_verdicts>(of).wait(Verdicts::Wait::gesture);
            return;
        case Gesture::double_tap:
            if (effect == Effect::cancel) {
                waits = false;
                verdicts<with_verdicts>(of).decide_waiting(action, Verdicts::Wait::gesture, Rule::cancelled);
            }
            if (!presses) return;
            if (waits && time - since <= row.gesture_time) {
                waits = false;
                verdicts<with_verdicts>(of).decide_waiting(action, Verdicts::Wait::gesture, Rule::first_of_two);
                decide_fired<with_verdicts>(of, action);
                return set_on(true, Effect::press);
            }
            since = time;
            waits = true;
            verdicts<with_verdicts>(of).decide_waiting(action, Verdicts::Wait::gesture, Rule::too_late);
            verdicts<with_verdicts>(of).wait(Verdicts::Wait::gesture);
            return;
        default:
            if (effect == Effect::adopt) return set_on(true, Effect::adopt);
            // `waits`: there was a press, and the next one must not be too near.
            if (!presses) return;
            if (waits && time - since < row.min_interval)
                return verdicts<with_verdicts>(of).decide(Rule::min_interval, since);
            since = time;
            waits = true;
            decide_fired<with_verdicts>(of, action);
            return set_on(true, Effect::press);
    }
}

void Gestures::fire(ReaderContext& of, std::uint16_t action, Effect effect, std::int64_t time) {
    of.add_edge(action, effect, time);
    if (effect != Effect::press) return;
    if (of.map_->actions[action].changes_modes()) of.edges_.note_mode_changer(action);
    if (of.map_->actions[action].buffer == 0) return;
    of.state_.holds_press[action] = true;
    of.state_.buffered_since[action] = std::max(time, of.state_.t0);
}

// The time at which a continuing press becomes a long one, or debouncing ends; never, if neither is pending.
std::int64_t Gestures::due_of(const ReaderContext& of, std::uint16_t action) noexcept {
    const ActionMap::Row& row = of.map_->actions[action];
    std::int64_t due = INT64_MAX;
    if (row.debounce != 0 && of.state_.bindings_down[action] != of.state_.passed_down[action])
        due = of.state_.passed_at[action] + row.debounce;
    if (row.gesture == Gesture::long_press && of.state_.waits[action])
        due = std::min(due, of.state_.since[action] + row.gesture_time);
    return due;
}

bool Gestures::run_next(ReaderContext& of, std::int64_t until, std::int64_t& due) {
    std::uint16_t next = 0;
    due = INT64_MAX;
    for (const std::uint16_t action : of.map_->lasting)
        if (const std::int64_t its = due_of(of, action); its < due) due = its, next = action;
    next_due_ = due;
    if (due > until || due == INT64_MAX) return false;
    const bool down = of.state_.bindings_down[next];
    if (down != of.state_.passed_down[next] && due == of.state_.passed_at[next] + of.map_->actions[next].debounce) {
        of.verdicts_.resume(next, Verdicts::Wait::debounce);
        pass_edge<true>(of, next, down ? Effect::press : Effect::release, due);
        of.verdicts_.end();
    } else {
        decide_gesture_fired<true>(of, next);
        of.state_.waits[next] = false;
        of.state_.is_on[next] = true;
        fire(of, next, Effect::press, due);
    }
    return true;
}

// (For a hold, `waits` is the press that must not be too near.)
void Gestures::skip_pause(ReaderContext& of) {
    of.state_.holds_press.fill(false);
    decide_expired(of);
    for (std::uint16_t i = 0; i < of.map_->actions.size(); ++i) {
        if (of.map_->actions[i].gesture != Gesture::hold) of.state_.waits[i] = false;
        of.verdicts_.decide_waiting(i, Verdicts::Wait::gesture, Rule::paused);
        of.verdicts_.decide_waiting(i, Verdicts::Wait::debounce, Rule::paused);
        // A release that debouncing still holds back was the end of a hold before the pause.
        if (!of.state_.bindings_down[i] && of.state_.passed_down[i])
            pass_edge<true>(of, i, Effect::cancel, of.state_.t0);
        of.state_.bindings_down[i] = of.state_.passed_down[i];
    }
}

void Gestures::let_go(ReaderContext& of, std::uint16_t action, std::int64_t time) {
    of.verdicts_.decide_waiting(action, Verdicts::Wait::gesture, Rule::owner_ended);
    of.verdicts_.decide_waiting(action, Verdicts::Wait::debounce, Rule::owner_ended);
    of.verdicts_.decide_waiting(action, Verdicts::Wait::buffer, Rule::buffer_expired);
    of.state_.waits[action] = of.state_.holds_press[action] = false;
    of.state_.has_passed[action] = of.state_.passed_down[action] = of.state_.bindings_down[action] = false;
    if (std::exchange(of.state_.is_on[action], false)) of.add_edge(action, Effect::cancel, time);
}

bool Gestures::consume_press(ReaderContext& of, std::uint16_t action) noexcept {
    if (!waits_in_buffer(of, action)) return false;
    of.state_.holds_press[action] = false;
    of.verdicts_.decide_waiting(action, Verdicts::Wait::buffer, Rule::taken_from_buffer);
    return true;
}

void Gestures::decide_expired(ReaderContext& of) {
    if (!of.verdicts_.has_waiting()) return;
    for (std::uint16_t action = 0; action < of.map_->actions.size(); ++action)
        if (of.map_->actions[action].buffer != 0 && !waits_in_buffer(of, action))
            of.verdicts_.decide_waiting(action, Verdicts::Wait::buffer, Rule::buffer_expired);
}

template void Gestures::deliver_as<true>(ReaderContext&, std::uint16_t, Effect, std::int64_t);
template void Gestures::deliver_as<false>(ReaderContext&, std::uint16_t, Effect, std::int64_t);

}  // namespace cursorum::detail
