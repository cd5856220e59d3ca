// Modes and claims change at a frame's start, or at the press of an action that opens or closes a mode; then everything
// is taken away first, and given afterwards.
#include <algorithm>
#include <utility>

#include "actions/edges.hpp"

namespace cursorum {

using detail::Owner;
using detail::Ownership;

// Applies the calls of open() and the like since the last frame.
void ActionReaderCore::start_with_openings() {
    const detail::ModeBits was_visible = state_.visible;
    apply_openings(state_.t0);
    // Actions of modes that are no longer visible stop at once.
    for (std::uint16_t i = 0; i < map_->actions.size(); ++i) {
        if (!detail::has_mode(was_visible, map_->actions[i].mode) || is_shown(i)) continue;
        forget(i, state_.t0);
        if (map_->actions[i].kind != ActionKind::button) movement_.enliven(i);
        state_.moving[i] = {};
    }
    for (std::size_t i = 0; i < map_->sources.size(); ++i) {
        const unsigned mode = map_->actions[map_->sources[i].action].mode;
        if (!detail::has_mode(state_.visible, mode)) state_.sources[i] = {};
    }
}

// Actions that open or close modes were pressed: applied within the frame, at that moment. First closes, then opens.
void ActionReaderCore::change_modes(std::int64_t time) {
    time = std::max(time, state_.t0);
    const auto note = [&](bool changed, std::uint16_t by, ModeHandle mode, bool opened) {
        if (changed)
            mode_changes_.push_back({Time{Duration{time}}, {by, numbering_}, {mode.number, numbering_}, opened});
    };
    for (const std::uint16_t action : edges_.mode_changers())
        if (const ModeHandle own{map_->actions[action].mode}; map_->actions[action].closes)
            note(Ownership::close(*this, own), action, own, false);
    for (const std::uint16_t action : edges_.mode_changers())
        note(Ownership::open(*this, map_->actions[action].opens), action, map_->actions[action].opens, true);
    edges_.forget_mode_changers();
    if (!state_.reopens) return;
    const detail::ModeSegment before{state_.t0, state_.visible, state_.flow_owners};
    apply_openings(time);
    segments_.add(before, {time, state_.visible, state_.flow_owners, mode_cause_});
    for (std::uint16_t i = 0; i < map_->actions.size(); ++i) {
        if (!detail::has_mode(before.visible, map_->actions[i].mode) || is_shown(i)) continue;
        let_go(i, time);
        if (map_->actions[i].kind != ActionKind::button) movement_.add_step(time, {}, i, detail::Movement::stops);
    }
    set_states_again(time);
}

// First everything is taken away, then given.
void ActionReaderCore::apply_openings(std::int64_t time) {
    state_.now = state_.next;
    state_.reopens = false;
    Ownership::find_visible(*this);
    for (std::uint16_t i = 0; i < button_capacity; ++i)
        state_.whose[i].next_owner = Ownership::find_next_owner(*this, {i});
    ButtonSet to_give;
    ButtonSet{state_.down}.for_each([&](Button button) {
        std::uint8_t& owner = state_.whose[button.number].owner;
        if (owner == Owner::owner_ended) return;
        if (owner >= Owner::first_claim && owner < Owner::first_late_claim) {
            // (Its place is free only after the frame in which it ended, so this is not another claim.)
            if ((state_.now.claimed >> (owner - Owner::first_claim) & 1) == 0) owner = Owner::owner_ended;
            return;
        }
        const std::uint8_t next = state_.whose[button.number].next_owner;
        if (Owner::is_mode(owner)) {
            const unsigned mode = owner - Owner::first_mode;
            const bool stays =
                detail::has_mode(state_.visible, mode) && (next == Owner::nobody || Owner::is_mode(next));
            if (stays) return;
            give_or_take(button, false, time);
        }
        owner = next;
        if (Owner::is_mode(next)) to_give.insert(button);
    });
    to_give.for_each([&](Button button) {
        verdicts_.begin(time, button, false);
        give_or_take(button, true, time);
    });
    verdicts_.end();
}

}  // namespace cursorum
