// Another profile at run time: what is the same keeps its state under its new numbers, and what changed is cancelled,
// its controls waiting until they were up. Also injected input, which is one more binding of its action.
#include <algorithm>
#include <cmath>
#include <utility>
#include <vector>

#include "actions/edges.hpp"
#include "actions/ramps.hpp"

namespace cursorum {

using detail::ActionState;
using detail::Effect;
using detail::Owner;
using detail::SlotKind;

// ---- other bindings

bool ActionReaderCore::rebind(const Profile& profile, std::string* why) {
    auto problem = profile.problem();
    auto next =
        problem ? nullptr : std::make_unique<const ActionMap>(profile, next_map_ ? next_map_.get() : map_.get());
    if (next && next->known.size() > action_capacity)
        problem = std::to_string(next->known.size()) + " actions, with those that are gone; at most " +
                  std::to_string(action_capacity);
    if (next && next->modes.size() > mode_capacity)
        problem = std::to_string(next->modes.size()) + " modes, with those that are gone; at most " +
                  std::to_string(mode_capacity);
    if (problem) {
        if (why) *why = *problem;
        return false;
    }
    next_map_ = std::move(next);
    return true;
}

namespace {

/// Returns whether only names differ, its own and those of modes.
bool is_same(const ActionMap& was, const ActionMap& is, std::size_t number) {
    Action renamed = is.known[number].action;
    const Action& before = was.known[number].action;
    renamed.name = before.name, renamed.formerly = before.formerly, renamed.opens = before.opens;
    return renamed == before && was.known[number].is_gone == is.known[number].is_gone &&
           was.actions[number].opens == is.actions[number].opens;
}

}  // namespace

void ActionReaderCore::apply_bindings() {
    const std::int64_t t0 = state_.t0;
    // Actions that changed are cancelled, by their old bindings. The switches and sources of all others get new
    // numbers.
    ActionState next{next_map_->counts()};
    for (std::uint16_t i = 0; i < next_map_->actions.size(); ++i) {
        static const ActionMap::Row none{};
        const bool is_new = i >= map_->actions.size();
        const ActionMap::Row &was = is_new ? none : map_->actions[i], &is = next_map_->actions[i];
        if (!is_new && is_same(*map_, *next_map_, i)) {
            const auto take = [](const auto& from, const auto& to, unsigned was_first, unsigned is_first,
                                 unsigned count) { std::copy_n(&from[was_first], count, &to[is_first]); };
            const auto take_switches = [&](const auto& from, const auto& to) {
                take(from, to, was.first_switch, is.first_switch, was.switch_count);
            };
            const auto take_sources = [&](const auto& from, const auto& to) {
                take(from, to, was.first_source, is.first_source, was.source_count);
            };
            take_switches(state_.switches, next.switches);
            take_switches(state_.stale_members, next.stale_members);
            take_sources(state_.sources, next.sources);
            take_sources(state_.latest, next.latest);
            take_sources(state_.stale_sources, next.stale_sources);
            // A chord that is gone now may have kept the press of a single button.
            for (unsigned number = is.first_switch; number < unsigned{is.first_switch} + is.switch_count; ++number) {
                const ActionSwitch& it = next_map_->switches[number];
                if (it.member_count == 1 && ButtonSet{state_.down}.contains({it.members[0]}) &&
                    !next.switches[number].is_down)
                    next.stale_members[number] =
                        static_cast<std::uint8_t>(next.stale_members[number] | ActionState::passed_over);
            }
            continue;
        }
        if (!is_new) {
            forget(i, t0);
            ActionState::Moving& moving = state_.moving[i];
            VectorMotion motion{moving.value, moving.target, moving.rises};
            set_target(motion, {});
            moving.target = motion.target;
            moving.rises = motion.rises;
            moving.direction = 0;
        }
        for (unsigned number = is.first_switch; number < unsigned{is.first_switch} + is.switch_count; ++number) {
            const ActionSwitch& it = next_map_->switches[number];
            std::uint8_t& stale = next.stale_members[number];
            if (it.lock != 0 || it.is_value) stale = 1;  // until it is known to be off
            for (unsigned member = 0; member < it.member_count; ++member)
                if (ButtonSet{state_.down}.contains({it.members[member]}))
                    stale = static_cast<std::uint8_t>(stale | 1U << member);
        }
        std::fill_n(&next.stale_sources[is.first_source], is.source_count, true);
    }
    // A button that is down and newly bound in a mode, or no longer bound, belongs to no mode until it is up.
    ButtonSet{state_.down}.for_each([&](Button button) {
        std::uint8_t& owner = state_.whose[button.number].owner;
        for (unsigned mode = 0; mode < next_map_->modes.size(); ++mode) {
            const bool was = mode < map_->modes.size() && map_->modes[mode].buttons.contains(button);
            const bool is = next_map_->modes[mode].buttons.contains(button);
            if (was != is && (owner == Owner::nobody || detail::is_mode(owner, mode))) owner = Owner::owner_ended;
        }
    });
    next.take_actions_of(state_);
    state_ = std::move(next);
    state_.stale_switches = static_cast<std::uint16_t>(
        std::count_if(state_.stale_members.begin(), state_.stale_members.end(), [](unsigned m) { return m != 0; }));
    ++state_.bindings;
    state_.reopens = true;
    map_before_ = std::exchange(map_, std::move(next_map_));
    std::erase_if(injected_, [this](const Injected& what) { return map_->known[what.action].is_gone; });
    fit_to_map();
    if (map_->has_only_edges) clear_all_else();  // no later frame does it
    movement_.enliven_all(*map_);
}

// Drops the injected input of an action and its effect; if the action is down after that, it is cancelled.
void ActionReaderCore::forget(std::uint16_t action, std::int64_t time) {
    state_.injected[action] = {};
    let_go(action, time);
}

// The same, except for values, which are computed later.
void ActionReaderCore::let_go(std::uint16_t action, std::int64_t time) {
    // Locks and values that are still down: buttons have been taken away.
    const ActionMap::Row& row = map_->actions[action];
    for (unsigned number = row.first_switch; number < unsigned{row.first_switch} + row.switch_count; ++number)
        if (state_.switches[number].is_down && map_->switches[number].is_button) set_switch(number, false, false, time);
    if (std::exchange(state_.injected_down[action], false)) {
        const Effect effect = merge(state_.buttons[action].holders, SlotKind::cancel, true);
        if (effect != Effect::none) gestures_.deliver(*this, action, effect, time);
    }
    gestures_.let_go(*this, action, time);
}

// ---- what a bot does

bool ActionReaderCore::inject(std::uint16_t action, ActionKind kind, const Injected& what) {
    if (action >= map_->actions.size() || map_->actions[action].kind != kind || map_->known[action].is_gone)
        return false;
    if (!std::isfinite(what.value.x) || !std::isfinite(what.value.y)) return false;
    const auto later = [](std::int64_t time, const Injected& other) { return time < other.time; };
    injected_.insert(std::upper_bound(injected_.begin(), injected_.end(), what.time, later), what);
    return true;
}
bool ActionReaderCore::inject(ButtonAction action, bool down, Time when) {
    return inject(action.number, ActionKind::button, {nanoseconds(when), {}, action.number, true, down});
}
bool ActionReaderCore::inject(AxisAction action, double value, Time when) {
    return inject(action.number, ActionKind::axis, {nanoseconds(when), {value, 0}, action.number, false, false});
}
bool ActionReaderCore::inject(VectorAction action, Vector2 value, Time when) {
    return inject(action.number, ActionKind::vector, {nanoseconds(when), value, action.number, false, false});
}

bool ActionReaderCore::is_shown(unsigned action) const noexcept {
    return detail::has_mode(state_.visible, map_->actions[action].mode);
}

void ActionReaderCore::apply_injected(const Injected& what) {
    const std::int64_t time = std::max(what.time, state_.t0);
    if (!is_shown(what.action)) return;
    if (!what.is_button) {
        movement_.add_step(time, what.value, what.action, detail::Movement::by_bot);
        return;
    }
    if (std::exchange(state_.injected_down[what.action], what.down) == what.down) return;
    const Effect effect = merge(state_.buttons[what.action].holders, kind_of(what.down, true), true);
    if (what.down) {
        verdicts_.begin(time, {}, true);
        verdicts_.at(what.action, Verdict::by_bot);
        if (effect == Effect::none) verdicts_.decide(Rule::already_down);
    }
    if (effect != Effect::none) gestures_.deliver(*this, what.action, effect, time);
    if (edges_.changes_modes()) change_modes(time);
}

}  // namespace cursorum
