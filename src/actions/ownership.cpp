// Modes and claims, and what follows from them: which modes are visible, who gets a button's next press, and who owns
// axes, motion, wheel and touch.
#include "actions/ownership.hpp"

#include <algorithm>

namespace cursorum::detail {

bool Ownership::open(ReaderContext& of, ModeHandle mode) noexcept {
    if (mode.number >= of.map_->modes.size() || is_open(of, mode)) return false;
    of.state_.next.modes[of.state_.next.count++] = mode.number;
    of.state_.reopens = true;
    return true;
}

bool Ownership::close(ReaderContext& of, ModeHandle mode) noexcept {
    Openings& next = of.state_.next;
    const auto end = next.modes.begin() + next.count, found = std::find(next.modes.begin(), end, mode.number);
    if (found == end) return false;
    std::copy(found + 1, end, found);
    next.modes[--next.count] = 0;
    of.state_.reopens = true;
    return true;
}

bool Ownership::is_open(const ReaderContext& of, ModeHandle mode) noexcept {
    const auto end = of.state_.next.modes.begin() + of.state_.next.count;
    return std::find(of.state_.next.modes.begin(), end, mode.number) != end;
}

bool Ownership::pauses(const ReaderContext& of) noexcept {
    return std::any_of(of.state_.next.modes.begin(), of.state_.next.modes.begin() + of.state_.next.count,
                       [&of](std::uint8_t mode) { return of.map_->modes[mode].pauses; });
}

std::optional<ClaimId> Ownership::claim(ReaderContext& of, const Claim& claim) noexcept {
    // A slot whose claim ends at the next frame's start is not free before that.
    const unsigned used = unsigned{of.state_.next.claimed} | of.state_.now.claimed;
    for (unsigned i = 0; i < claim_capacity; ++i) {
        if ((used >> i & 1) != 0) continue;
        of.state_.next.claims[i] = claim;
        of.state_.next.claimed = static_cast<std::uint16_t>(of.state_.next.claimed | 1U << i);
        const unsigned of_device = claim.device != DeviceId{} ? 1U << i : 0U;
        of.state_.next.of_devices = static_cast<std::uint16_t>(of.state_.next.of_devices | of_device);
        of.state_.reopens = true;
        return ClaimId{static_cast<std::uint8_t>(i)};
    }
    return std::nullopt;
}

void Ownership::end_claim(ReaderContext& of, ClaimId claim) noexcept {
    const auto place = static_cast<unsigned>(claim);
    if (place >= claim_capacity) return;
    of.state_.next.claimed = static_cast<std::uint16_t>(of.state_.next.claimed & ~(1U << place));
    of.state_.next.of_devices = static_cast<std::uint16_t>(of.state_.next.of_devices & ~(1U << place));
    of.state_.next.claims[place] = {};
    of.state_.reopens = true;
}

bool Ownership::has_press(const ReaderContext& of, ClaimId claim, Button button) noexcept {
    if (of.state_.part.claimed_holds != 0)
        for (unsigned i = 0; i < hold_capacity; ++i)
            if (of.state_.part.claim_of[i] == static_cast<unsigned>(claim) + 1 &&
                of.state_.part.claimed[i] == button.number)
                return true;
    return button.number < button_capacity &&
           of.state_.whose[button.number].owner == Owner::first_claim + static_cast<unsigned>(claim);
}

ButtonOwner Ownership::owner_of(const ReaderContext& of, Button button, std::uint32_t numbering) noexcept {
    if (button.number >= button_capacity) return {};
    const bool down = ButtonSet{of.state_.down}.contains(button);
    const std::uint8_t owner = down ? of.state_.whose[button.number].owner : of.state_.whose[button.number].next_owner;
    if (owner == Owner::owner_ended) return {ButtonOwner::Kind::owner_ended, {}};
    if (owner >= Owner::first_claim) return {ButtonOwner::Kind::claim, {}};
    if (!Owner::is_mode(owner)) return down ? ButtonOwner{} : covering(of, button, numbering);
    return {ButtonOwner::Kind::mode, {static_cast<std::uint8_t>(owner - Owner::first_mode), numbering}};
}

// The uppermost open mode that covers those below it.
std::optional<std::uint8_t> Ownership::cover(const ReaderContext& of) noexcept {
    for (unsigned i = of.state_.now.count; i-- > 0;)
        if (of.map_->modes[of.state_.now.modes[i]].covers) return of.state_.now.modes[i];
    return std::nullopt;
}

// No mode takes it: check whether a mode covers those that would.
ButtonOwner Ownership::covering(const ReaderContext& of, Button button, std::uint32_t numbering) noexcept {
    for (unsigned i = 0; i < of.state_.now.count; ++i) {
        const std::uint8_t mode = of.state_.now.modes[i];
        if (!has_mode(of.state_.visible, mode) && of.map_->modes[mode].buttons.contains(button))
            return {ButtonOwner::Kind::covered, {cover(of).value_or(mode), numbering}};
    }
    return {};
}

Rule Ownership::rule_against(const ReaderContext& of, std::uint8_t mode, std::uint8_t owner,
                             std::optional<std::uint8_t>& by) noexcept {
    by.reset();
    if (Owner::is_mode(owner)) by = static_cast<std::uint8_t>(owner - Owner::first_mode);
    const auto end = of.state_.now.modes.begin() + of.state_.now.count;
    if (std::find(of.state_.now.modes.begin(), end, mode) == end) return Rule::mode_closed;
    if (owner >= Owner::first_claim && owner != Owner::owner_ended) return Rule::taken_by_claim;
    if (has_mode(of.state_.visible, mode)) return by ? Rule::taken_by_mode : Rule::owner_ended;
    by = cover(of);
    return Rule::mode_covered;
}

void Ownership::find_visible(ReaderContext& of) noexcept {
    const Openings& now = of.state_.now;
    of.state_.visible = 0;
    of.state_.flow_owners = {};
    std::uint64_t claimed = 0;  // flows
    for (unsigned i = 0; i < claim_capacity; ++i) {
        if ((now.claimed >> i & 1) == 0) continue;
        const Claim& claim = now.claims[i];
        if (claim.everything || claim.axes) claimed |= (std::uint64_t{1} << axis_kinds) - 1;
        claimed |= std::uint64_t{claim.everything || claim.motion} << motion_flow;
        claimed |= std::uint64_t{claim.everything || claim.wheel} << wheel_flow;
        claimed |= std::uint64_t{claim.everything || claim.axes} << touch_flow;
    }
    for (unsigned i = now.count; i-- > 0;) {
        const unsigned mode = now.modes[i];
        of.state_.visible |= ModeBits{1} << mode;
        for (unsigned flow = 0; flow < flow_kinds; ++flow)
            if (of.state_.flow_owners[flow] == Owner::nobody && (of.map_->modes[mode].flows & ~claimed) >> flow & 1)
                of.state_.flow_owners[flow] = static_cast<std::uint8_t>(Owner::first_mode + mode);
        if (of.map_->modes[mode].covers) break;
    }
}

// The lowest claim first; else the uppermost mode that sees it.
std::uint8_t Ownership::find_next_owner(const ReaderContext& of, Button button) noexcept {
    const Openings& now = of.state_.now;
    for (unsigned i = 0; i < claim_capacity && now.claimed != 0; ++i)
        if ((now.claimed >> i & 1) != 0 && now.claims[i].has(button))
            return static_cast<std::uint8_t>(Owner::first_late_claim + i);
    for (unsigned i = now.count; i-- > 0;) {
        const unsigned mode = now.modes[i];
        if (!has_mode(of.state_.visible, mode)) break;
        if (of.map_->modes[mode].buttons.contains(button)) return static_cast<std::uint8_t>(Owner::first_mode + mode);
    }
    return Owner::nobody;
}

// By the press of its key. Where that is not known: the first claim of everything, or else the uppermost mode.
std::uint8_t Ownership::owner_of_text(const ReaderContext& of, Button key) noexcept {
    const Openings& now = of.state_.now;
    // Only profiles with such modes note whose presses were.
    if (key && (of.map_->has_text || ButtonSet{of.state_.down}.contains(key))) {
        const std::uint8_t owner =
            of.map_->has_text ? of.state_.pressers[key.number] : of.state_.whose[key.number].owner;
        if (Owner::is_mode(owner))
            return of.map_->modes[owner - Owner::first_mode].takes_text ? owner : std::uint8_t{Owner::nobody};
        const bool is_claim = owner >= Owner::first_claim && owner < Owner::first_late_claim;
        return is_claim && (now.claimed >> (owner - Owner::first_claim) & 1) != 0 ? owner : std::uint8_t{Owner::nobody};
    }
    for (unsigned i = 0; i < claim_capacity; ++i)
        if ((now.claimed >> i & 1) != 0 && now.claims[i].everything)
            return static_cast<std::uint8_t>(Owner::first_claim + i);
    for (unsigned i = now.count; i-- > 0;) {
        const unsigned mode = now.modes[i];
        if (!has_mode(of.state_.visible, mode)) break;
        if (of.map_->modes[mode].takes_text) return static_cast<std::uint8_t>(Owner::first_mode + mode);
    }
    return Owner::nobody;
}

unsigned Ownership::claim_on(const ReaderContext& of, DeviceId device) noexcept {
    for (unsigned i = 0; i < claim_capacity; ++i)
        if ((of.state_.now.claimed >> i & 1) != 0 && of.state_.now.claims[i].device == device && device != DeviceId{})
            return i + 1;
    return 0;
}

}  // namespace cursorum::detail
