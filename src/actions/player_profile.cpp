// The shipped profile with a player's changes laid over it. Each change is a whole new profile in a list that undo goes
// back through; conflicts are found by what bindings use.
#include "cursorum/actions/player_profile.hpp"

#include <algorithm>
#include <utility>

#include "actions/binding_uses.hpp"
#include "actions/finding.hpp"
#include "cursorum/core/button_set.hpp"
#include "cursorum/core/seats.hpp"

namespace cursorum {
namespace {

/// An action by name, with its mode; null, and why, if there is none.
struct Place {
    Mode* mode = nullptr;
    Action* action = nullptr;
};
Place place_of(Profile& profile, std::string_view name, std::string* why = nullptr) {
    std::vector<detail::NamedAction> named;
    std::vector<Place> places;
    for (Mode& mode : profile.modes)
        for (Action& action : mode.actions) {
            named.push_back({mode.name, &action, static_cast<std::uint16_t>(named.size())});
            places.push_back({&mode, &action});
        }
    const auto number = detail::find_action(named, name, std::nullopt, why);
    return number ? places[*number] : Place{};
}

std::string name_of(const Mode& mode, const Action& action) { return mode.name + "." + action.name; }

}  // namespace

PlayerProfile::PlayerProfile(Profile shipped) : shipped_{std::move(shipped)}, now_{shipped_} {}

std::string PlayerProfile::overlay() const { return overlay_text(shipped_, now_); }

void PlayerProfile::set_shipped(Profile shipped) {
    if (shipped == shipped_) return;
    const std::string changes = overlay();
    shipped_ = std::move(shipped);
    ProfileError error;
    now_ = shipped_;
    before_.clear();
    apply_overlay(now_, changes, "the player's changes", error, dropped_);
}

bool PlayerProfile::set_overlay(std::string_view text, std::string_view name, ProfileError& error) {
    Profile changed = shipped_;
    std::vector<ProfileError> dropped;
    if (!text.empty() && !apply_overlay(changed, text, name, error, dropped)) return false;
    dropped_ = std::move(dropped);
    if (changed == now_) return true;
    now_ = std::move(changed);
    before_.clear();
    return true;
}

namespace {

std::vector<BindingConflict> conflicts_in(const Profile& profile, std::string_view action, const Binding& binding) {
    std::vector<BindingConflict> conflicts;
    const auto [own_mode, own] = place_of(const_cast<Profile&>(profile), action);
    if (!own) return conflicts;
    const auto wanted = detail::uses_of(binding);
    const auto is_shared = [&](const detail::BindingUse& use) {
        return std::any_of(wanted.begin(), wanted.end(), [&](const detail::BindingUse& other) {
            return std::any_of(use.keys.begin(), use.keys.end(),
                               [&](const std::string& key) { return other.keys.contains(key); });
        });
    };
    for (const Action& other : own_mode->actions) {
        const bool both_buttons = other.kind == ActionKind::button && own->kind == ActionKind::button;
        if (&other == own || (both_buttons && other.gesture != own->gesture)) continue;
        for (std::size_t slot = 0; slot < other.bindings.size(); ++slot)
            for (const detail::BindingUse& use : detail::uses_of(other.bindings[slot]))
                if (is_shared(use)) {
                    conflicts.push_back({name_of(*own_mode, other), slot, use.name});
                    break;
                }
    }
    return conflicts;
}

}  // namespace

std::vector<BindingConflict> PlayerProfile::conflicts_of(std::string_view action, const Binding& binding) const {
    return conflicts_in(now_, action, binding);
}

bool PlayerProfile::bind(std::string_view action, std::size_t slot, const Binding& binding, Settle how,
                         std::string* why) {
    const auto fail = [&](std::string reason) {
        if (why) *why = std::move(reason);
        return false;
    };
    Profile changed = now_;
    const auto [mode, its] = place_of(changed, action, why);
    if (!its) return false;
    if (slot > its->bindings.size())
        return fail("found binding " + std::to_string(slot) + "; expected 0 to " +
                    std::to_string(its->bindings.size()));
    const auto conflicts = conflicts_in(changed, action, binding);
    if (how == Settle::refuse && !conflicts.empty())
        return fail(conflicts.front().action + " has " + conflicts.front().with);
    const bool replaces = slot < its->bindings.size();
    if (!replaces) its->bindings.emplace_back();
    const Binding replaced = std::exchange(its->bindings[slot], binding);
    if (how == Settle::replace || how == Settle::swap) {
        // From the last one, so that slot numbers remain valid.
        for (std::size_t i = conflicts.size(); i-- > 0;) {
            Action& other = *place_of(changed, conflicts[i].action).action;
            const auto at = other.bindings.begin() + static_cast<std::ptrdiff_t>(conflicts[i].slot);
            const bool swaps = how == Settle::swap && replaces && i == 0 && other.kind == its->kind &&
                               conflicts_in(changed, conflicts[i].action, replaced).empty();
            if (swaps)
                *at = replaced;
            else
                other.bindings.erase(at);
        }
    }
    if (const auto problem = changed.problem()) return fail(*problem);
    commit(std::move(changed));
    return true;
}

bool PlayerProfile::unbind(std::string_view action, std::size_t slot) {
    Profile changed = now_;
    Action* const its = place_of(changed, action).action;
    if (!its || slot >= its->bindings.size()) return false;
    its->bindings.erase(its->bindings.begin() + static_cast<std::ptrdiff_t>(slot));
    return commit(std::move(changed));
}

bool PlayerProfile::reset(std::string_view action) {
    Profile changed = now_;
    const auto [mode, its] = place_of(changed, action);
    if (!its) return false;
    const Action* const was = place_of(shipped_, name_of(*mode, *its)).action;
    if (!was) return false;
    *its = *was;
    return commit(std::move(changed));
}

bool PlayerProfile::reset_all() { return commit(shipped_); }

// ---- for different hands

namespace {

/// The other stick's or side's name for a control: "PadStickLeftUp" and "PadStickRightUp".
std::string on_the_other_stick(std::string_view name) {
    constexpr std::string_view left = "PadStickLeft", right = "PadStickRight", thumb_left = "PadThumbLeft",
                               thumb_right = "PadThumbRight";
    for (const auto& [from, to] :
         {std::pair{left, right}, {right, left}, {thumb_left, thumb_right}, {thumb_right, thumb_left}})
        if (name.starts_with(from)) return std::string{to} + std::string{name.substr(from.size())};
    return std::string{name};
}

bool is_analogue(const Binding& binding) noexcept {
    return !binding.is_of_button_action() && binding.kind != Binding::Kind::pair &&
           binding.kind != Binding::Kind::cross;
}

Hand side_of(Button button, Hand mouse) {
    const std::string_view name = name_of(button);
    if (button.number >= first_mouse_button && button.number < end_of_mouse_buttons) return mouse;
    if (!name.starts_with("Pad")) return left_half().contains(button) ? Hand::left : Hand::right;
    for (const auto& [part, side] : {std::pair{"PadStickLeft", Hand::left},
                                     {"PadStickRight", Hand::right},
                                     {"PadHat", Hand::left},
                                     {"PadSelect", Hand::left}})
        if (name.starts_with(part)) return side;
    return name.ends_with("Left") ? Hand::left : Hand::right;
}

bool is_reached(const Binding& binding, Hand hand, Hand mouse) {
    // A key that exists on both sides counts for either.
    const auto reaches = [&](Button button) {
        bool any = false;
        physical_buttons(button).for_each([&](Button key) { any |= side_of(key, mouse) == hand; });
        return any;
    };
    if (!std::all_of(binding.buttons.begin(), binding.buttons.end(), reaches)) return false;
    const auto is_side = [&](std::string_view name) {
        return (name.find("Left") != name.npos ? Hand::left : Hand::right) == hand;
    };
    switch (binding.kind) {
        case Binding::Kind::axis: return is_side(name_of(binding.axis));
        case Binding::Kind::stick: return is_side(name_of(binding.stick));
        case Binding::Kind::motion:
        case Binding::Kind::wheel:
        case Binding::Kind::wheel_step: return hand == mouse;
        default: return true;
    }
}

}  // namespace

bool PlayerProfile::invert(std::string_view action, bool x, bool y) {
    Profile changed = now_;
    Action* const its = place_of(changed, action).action;
    if (!its) return false;
    for (Binding& binding : its->bindings) {
        if (!is_analogue(binding)) continue;
        if (its->kind == ActionKind::axis && x) binding.scale = -binding.scale;
        if (its->kind == ActionKind::vector) binding.invert_x ^= x, binding.invert_y ^= y;
    }
    return commit(std::move(changed));
}

bool PlayerProfile::swap_sticks() {
    Profile changed = now_;
    for (Mode& mode : changed.modes)
        for (Action& action : mode.actions)
            for (Binding& binding : action.bindings) {
                for (Button& button : binding.buttons)
                    if (const Button other = find_button(on_the_other_stick(name_of(button)))) button = other;
                if (binding.kind == Binding::Kind::stick) binding.stick.number ^= 1;
                if (binding.kind == Binding::Kind::axis && binding.axis.number < 2 * stick_kinds)
                    binding.axis.number ^= 2;
            }
    return commit(std::move(changed));
}

bool PlayerProfile::hold_or_toggle(std::string_view action) {
    Profile changed = now_;
    Action* const its = place_of(changed, action).action;
    if (!its || its->kind != ActionKind::button || (its->gesture != Gesture::hold && its->gesture != Gesture::toggle))
        return false;
    its->gesture = its->gesture == Gesture::hold ? Gesture::toggle : Gesture::hold;
    return commit(std::move(changed));
}

std::vector<std::string> PlayerProfile::out_of_reach(Hand hand, Hand mouse) const {
    std::vector<std::string> actions;
    for (const Mode& mode : now_.modes)
        for (const Action& action : mode.actions) {
            const auto reached = [&](const Binding& binding) { return is_reached(binding, hand, mouse); };
            if (std::none_of(action.bindings.begin(), action.bindings.end(), reached))
                actions.push_back(name_of(mode, action));
        }
    return actions;
}

bool PlayerProfile::commit(Profile changed) {
    if (changed == now_) return false;
    before_.push_back(std::exchange(now_, std::move(changed)));
    return true;
}

bool PlayerProfile::undo() {
    if (before_.empty()) return false;
    now_ = std::move(before_.back());
    before_.pop_back();
    return true;
}

}  // namespace cursorum
