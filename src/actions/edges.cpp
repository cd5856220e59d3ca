// From a button's edge to those of the actions that it is bound to, where that is rare enough to be a call: edges.hpp
// has the part that is inlined into the loop over a frame's edges.
#include "actions/edges.hpp"

#include <algorithm>
#include <utility>

#include "core/controls/postable.hpp"

namespace cursorum {

using detail::Effect;

void ActionReaderCore::take_rare_edge(Button button, bool down, bool by_person, std::int64_t time) {
    verdicts_.has_sink() ? take_edge<true>(button, down, by_person, time)
                         : take_edge<false>(button, down, by_person, time);
}

// The order of presses, for ordered chords, and whose they were, for the text that they make.
void ActionReaderCore::note_press(Button button, std::uint8_t owner, bool by_person) noexcept {
    state_.press_order[button.number] = by_person ? ++state_.press_count : 0;
    if (map_->has_text) state_.pressers[button.number] = by_person ? owner : detail::Owner::nobody;
}

// Returns whether a press of a mouse button was not where the action wants it.
bool ActionReaderCore::is_elsewhere(std::uint16_t action, Button button, std::int64_t time) const noexcept {
    if (!is_mouse_button(button)) return false;
    for (unsigned i = 0; i < state_.area_count; ++i) {
        if (state_.areas[i].action != action) continue;
        const ClickArea& area = state_.areas[i].area;
        const auto place = frame_of_sampler_->place_of_press(button, time);
        return (place && area.rect.contains(*place)) == area.outside;
    }
    return false;
}

void ActionReaderCore::give_or_take(Button button, bool down, std::int64_t time) {
    const std::uint8_t owner = state_.whose[button.number].owner;
    verdicts_.has_sink() ? set_switches<true>(button, owner, down, false, time)
                         : set_switches<false>(button, owner, down, false, time);
}

// The first half of a restart. Modes change after the second one.
void ActionReaderCore::cancel_before_press(Button button, std::int64_t time) {
    const bool changes = edges_.set_changes_modes(false);
    take_rare_edge(button, false, false, time);
    edges_.set_changes_modes(changes);
}

void ActionReaderCore::set_direction(const ActionSwitch& it, bool down, std::int64_t time) {
    if (down) detail::Directions::note_newest(*this, it);
    movement_.add_step(std::max(time, state_.t0), detail::Directions::value(*this, it.source), it.action, it.source);
}

void ActionReaderCore::set_switch(unsigned number, bool down, bool by_person, std::int64_t time) {
    verdicts_.has_sink() ? set_switch_as<true>(number, down, by_person, time)
                         : set_switch_as<false>(number, down, by_person, time);
}

template <bool with_verdicts>
void ActionReaderCore::set_switch_as(unsigned number, bool down, bool by_person, std::int64_t time) {
    const ActionSwitch& it = map_->switches[number];
    if (with_verdicts && down) verdicts_.at(it.action, static_cast<std::uint16_t>(number));
    if (!it.is_button) {
        state_.switches[number] = {down, down && !by_person};
        if (with_verdicts && down) verdicts_.decide(by_person ? Rule::fired : Rule::adopted);
        return set_direction(it, down, time);
    }
    const Effect effect = merge_switch(number, it.action, down, by_person);
    if (with_verdicts && down && (effect == Effect::none || !by_person))
        verdicts_.decide(by_person ? Rule::already_down : Rule::adopted);
    if (effect != Effect::none) gestures_.deliver_as<with_verdicts>(*this, it.action, effect, time);
}

// After a release: whether presses may still be down that did not count because of an area.
[[gnu::cold, gnu::noinline]] void ActionReaderCore::look_for_areas() noexcept {
    state_.with_areas = state_.area_count;
    ButtonSet{state_.down}.for_each([&](Button button) { state_.with_areas |= is_mouse_button(button); });
}

/// For a button that is a member of chords, and for any button while some are newly bound or some actions have areas.
template <bool with_verdicts>
void ActionReaderCore::set_chords(Button button, std::uint8_t owner, bool down, bool by_person, std::int64_t time) {
    const auto complete = [&](unsigned number) {
        const std::uint16_t action = map_->switches[number].action;
        if (!by_person || state_.area_count == 0 || !is_elsewhere(action, button, time))
            return set_switch_as<with_verdicts>(number, true, by_person, time);
        verdicts_.at(action, static_cast<std::uint16_t>(number));
        verdicts_.decide(Rule::elsewhere);
    };
    if (down && !with_verdicts) return detail::Chords::for_each_completed(*this, button, owner, complete, nullptr);
    if (down)
        return detail::Chords::for_each_completed(
            *this, button, owner, complete, [&](std::uint16_t number, Rule rule, unsigned longest) {
                verdicts_.at(map_->switches[number].action, number);
                verdicts_.decide(rule, {}, rule == Rule::longer_chord ? map_->switches[longest].action : no_action);
            });
    for (const ButtonSwitch& it : map_->switches_of(button))
        if (state_.switches[it.number].is_down) set_switch_as<with_verdicts>(it.number, false, by_person, time);
    if (state_.with_areas != 0) [[unlikely]]
        look_for_areas();
}

// System repeats of an action, by each of its bindings that is down; chords repeat with their members.
void ActionReaderCore::count_system_repeat(Button button) {
    for (const ButtonSwitch& it : map_->switches_of(button))
        if (map_->switches[it.number].is_button && state_.switches[it.number].is_down)
            edges_.add_system_repeat(it.action);
}

template void ActionReaderCore::set_switch_as<true>(unsigned, bool, bool, std::int64_t);
template void ActionReaderCore::set_switch_as<false>(unsigned, bool, bool, std::int64_t);
template void ActionReaderCore::set_chords<true>(Button, std::uint8_t, bool, bool, std::int64_t);
template void ActionReaderCore::set_chords<false>(Button, std::uint8_t, bool, bool, std::int64_t);

}  // namespace cursorum
