// From a button's edge to its bindings and actions. Inline, since every edge passes through it. For the action reader's
// own files.
#pragma once

#include <algorithm>
#include <cstdint>

#include "actions/action_reader_core.hpp"
#include "actions/bindings.hpp"
#include "core/rules/merging.hpp"

namespace cursorum {

constexpr detail::SlotKind kind_of(bool down, bool by_person) noexcept {
    return static_cast<detail::SlotKind>(3U - by_person * 2U - down);
}
static_assert(kind_of(true, true) == detail::SlotKind::press && kind_of(false, true) == detail::SlotKind::release);
static_assert(kind_of(true, false) == detail::SlotKind::adopt && kind_of(false, false) == detail::SlotKind::cancel);

/// The effect of the switch on all bindings of its action together.
[[gnu::always_inline]] inline detail::Effect ActionReaderCore::merge_switch(unsigned number, std::uint16_t action,
                                                                            bool down, bool by_person) {
    State::Switch& state = state_.switches[number];
    Holders& holders = state_.buttons[action].holders;
    // The common case: a person's edge while no other binding is down.
    if (by_person & !state.adopted & is_lone(holders, pressed_holder, down)) [[likely]] {
        state.is_down = down;
        return merge_lone(holders, down);
    }
    const bool was_adopted = state.adopted;
    state = {down, down && !by_person};
    return merge(holders, kind_of(down, by_person), !was_adopted);
}

template <bool with_verdicts>
[[gnu::always_inline]] inline void ActionReaderCore::set_switches(Button button, std::uint8_t owner, bool down,
                                                                  bool by_person, std::int64_t time) {
    if (with_verdicts | map_->buttons[button.number].in_chord | ((state_.stale_switches | state_.with_areas) != 0))
        [[unlikely]]
        return set_chords<with_verdicts>(button, owner, down, by_person, time);
    for (const ButtonSwitch& it : map_->switches_of(button)) {
        if (it.owner != owner) continue;
        if (!it.is_plain) {
            set_switch_as<with_verdicts>(it.number, down, by_person, time);
            continue;
        }
        const detail::Effect effect = merge_switch(it.number, it.action, down, by_person);
        if (effect != detail::Effect::none) add_edge(it.action, effect, time);
    }
}

/// Processes an edge of a button; inline in the loop over a frame's edges, otherwise called as take_rare_edge().
/// `with_verdicts`: the reader has a sink for them.
template <bool with_verdicts>
[[gnu::always_inline]] inline void ActionReaderCore::take_edge(Button button, bool down, bool by_person,
                                                               std::int64_t time) {
    using detail::Owner;
    state_.down[button.number / 64U] ^= std::uint64_t{1} << button.number % 64U;
    State::Whose& whose = state_.whose[button.number];
    // Chosen without a branch, as above.
    const unsigned if_down = 0U - down;
    auto owner = static_cast<std::uint8_t>((whose.next_owner & if_down) | (whose.owner & ~if_down));
    // A button that is found down was not pressed for the claim.
    if (owner >= Owner::first_late_claim && owner != Owner::owner_ended && down && by_person) [[unlikely]]
        owner = static_cast<std::uint8_t>(owner - Owner::first_late_claim + Owner::first_claim);
    whose.owner = static_cast<std::uint8_t>(owner & if_down);
    if (map_->buttons[button.number].is_noted && down) [[unlikely]]
        note_press(button, owner, by_person);
    if constexpr (with_verdicts) {
        verdicts_.end();
        if (down) verdicts_.begin(time, button, by_person), decide_for_others(button, owner);
    }
    if (Owner::is_mode(owner)) set_switches<with_verdicts>(button, owner, down, by_person, time);
    if (state_.stale_switches != 0 && !down) [[unlikely]]
        detail::Chords::freshen(*this, button);
    // An either-side name and its key are one press: the name's edge comes first, and modes change after the key's.
    if (edges_.changes_modes() && button.number < first_either_side) [[unlikely]]
        change_modes(time);
}

}  // namespace cursorum
