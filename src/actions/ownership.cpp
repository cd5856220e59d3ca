// Who owns a control: the uppermost mode that has it, or a claim. Modes and claims change at a frame's start, or at the
// press of an action that opens or closes one; then everything is taken away first, and given afterwards.
#include <algorithm>
#include <utility>

#include "actions/edges.hpp"

namespace cursorum {

using detail::Openings;
using detail::Owner;

bool ActionReaderCore::open(ModeHandle mode) noexcept {
    if (mode.number >= map_->modes.size() || is_open(mode)) return false;
    state_.next.modes[state_.next.count++] = mode.number;
    state_.reopens = true;
    return true;
}

bool ActionReaderCore::close(ModeHandle mode) noexcept {
    Openings& next = state_.next;
    const auto end = next.modes.begin() + next.count, found = std::find(next.modes.begin(), end, mode.number);
    if (found == end) return false;
    std::copy(found + 1, end, found);
    next.modes[--next.count] = 0;
    state_.reopens = true;
    return true;
}

bool ActionReaderCore::is_open(ModeHandle mode) const noexcept {
    const auto end = state_.next.modes.begin() + state_.next.count;
    return std::find(state_.next.modes.begin(), end, mode.number) != end;
}

bool ActionReaderCore::pauses() const noexcept {
    return std::any_of(state_.next.modes.begin(), state_.next.modes.begin() + state_.next.count,
                       [this](std::uint8_t mode) { return map_->modes[mode].pauses; });
}

std::optional<ClaimId> ActionReaderCore::claim(const Claim& claim) noexcept {
    // A slot whose claim ends at the next frame's start is not free before that.
    const unsigned used = unsigned{state_.next.claimed} | state_.now.claimed;
    for (unsigned i = 0; i < claim_capacity; ++i) {
        if ((used >> i & 1) != 0) continue;
        state_.next.claims[i] = claim;
        state_.next.claimed = static_cast<std::uint16_t>(state_.next.claimed | 1U << i);
        const unsigned of_device = claim.device != DeviceId{} ? 1U << i : 0U;
        state_.next.of_devices = static_cast<std::uint16_t>(state_.next.of_devices | of_device);
        state_.reopens = true;
        return ClaimId{static_cast<std::uint8_t>(i)};
    }
    return std::nullopt;
}

void ActionReaderCore::end_claim(ClaimId claim) noexcept {
    const auto place = static_cast<unsigned>(claim);
    if (place >= claim_capacity) return;
    state_.next.claimed = static_cast<std::uint16_t>(state_.next.claimed & ~(1U << place));
    state_.next.of_devices = static_cast<std::uint16_t>(state_.next.of_devices & ~(1U << place));
    state_.next.claims[place] = {};
    state_.reopens = true;
}

bool ActionReaderCore::has_press(ClaimId claim, Button button) const noexcept {
    if (state_.part.claimed_holds != 0)
        for (unsigned i = 0; i < hold_capacity; ++i)
            if (state_.part.claim_of[i] == static_cast<unsigned>(claim) + 1 && state_.part.claimed[i] == button.number)
                return true;
    return button.number < button_capacity &&
           state_.whose[button.number].owner == Owner::first_claim + static_cast<unsigned>(claim);
}

ButtonOwner ActionReaderCore::owner_of(Button button) const noexcept {
    if (button.number >= button_capacity) return {};
    const bool down = ButtonSet{state_.down}.contains(button);
    const std::uint8_t owner = down ? state_.whose[button.number].owner : state_.whose[button.number].next_owner;
    if (owner == Owner::owner_ended) return {ButtonOwner::Kind::owner_ended, {}};
    if (owner >= Owner::first_claim) return {ButtonOwner::Kind::claim, {}};
    if (!Owner::is_mode(owner)) return down ? ButtonOwner{} : covering(button);
    return {ButtonOwner::Kind::mode, {static_cast<std::uint8_t>(owner - Owner::first_mode), numbering_}};
}

// No mode takes it: check whether a mode covers those that would.
ButtonOwner ActionReaderCore::covering(Button button) const noexcept {
    ModeHandle cover{};
    for (unsigned i = state_.now.count; i-- > 0;) {
        const std::uint8_t mode = state_.now.modes[i];
        if (cover != ModeHandle{} && map_->modes[mode].buttons.contains(button))
            return {ButtonOwner::Kind::covered, cover};
        if (cover == ModeHandle{} && map_->modes[mode].covers) cover = {mode, numbering_};
    }
    return {};
}

void ActionReaderCore::find_visible() noexcept {
    const Openings& now = state_.now;
    state_.visible = 0;
    state_.flow_owners = {};
    std::uint64_t claimed = 0;  // flows
    for (unsigned i = 0; i < claim_capacity; ++i) {
        if ((now.claimed >> i & 1) == 0) continue;
        const Claim& claim = now.claims[i];
        if (claim.everything || claim.axes) claimed |= (std::uint64_t{1} << axis_kinds) - 1;
        claimed |= std::uint64_t{claim.everything || claim.motion} << detail::motion_flow;
        claimed |= std::uint64_t{claim.everything || claim.wheel} << detail::wheel_flow;
        claimed |= std::uint64_t{claim.everything || claim.axes} << detail::touch_flow;
    }
    for (unsigned i = now.count; i-- > 0;) {
        const unsigned mode = now.modes[i];
        state_.visible |= detail::ModeBits{1} << mode;
        for (unsigned flow = 0; flow < detail::flow_kinds; ++flow)
            if (state_.flow_owners[flow] == Owner::nobody && (map_->modes[mode].flows & ~claimed) >> flow & 1)
                state_.flow_owners[flow] = static_cast<std::uint8_t>(Owner::first_mode + mode);
        if (map_->modes[mode].covers) break;
    }
}

// The lowest claim first; else the uppermost mode that sees it.
std::uint8_t ActionReaderCore::find_next_owner(Button button) const noexcept {
    const Openings& now = state_.now;
    for (unsigned i = 0; i < claim_capacity && now.claimed != 0; ++i)
        if ((now.claimed >> i & 1) != 0 && now.claims[i].has(button))
            return static_cast<std::uint8_t>(Owner::first_late_claim + i);
    for (unsigned i = now.count; i-- > 0;) {
        const unsigned mode = now.modes[i];
        if (!detail::has_mode(state_.visible, mode)) break;
        if (map_->modes[mode].buttons.contains(button)) return static_cast<std::uint8_t>(Owner::first_mode + mode);
    }
    return Owner::nobody;
}

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
            note(close(own), action, own, false);
    for (const std::uint16_t action : edges_.mode_changers())
        note(open(map_->actions[action].opens), action, map_->actions[action].opens, true);
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
    find_visible();
    for (std::uint16_t i = 0; i < button_capacity; ++i) state_.whose[i].next_owner = find_next_owner({i});
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
            set_switches(button, owner, false, false, time);
        }
        owner = next;
        if (Owner::is_mode(next)) to_give.insert(button);
    });
    to_give.for_each(
        [&](Button button) { set_switches(button, state_.whose[button.number].owner, true, false, time); });
}

}  // namespace cursorum
