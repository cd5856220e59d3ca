#include "cursorum/actions/binding_editor.hpp"

#include <algorithm>
#include <utility>

#include "actions/binding_uses.hpp"
#include "cursorum/actions/profile_file.hpp"

namespace cursorum {
namespace {

Action* action_of(Profile& profile, std::uint16_t number) noexcept {
    return const_cast<Action*>(std::as_const(profile).action_numbered(number));
}

}  // namespace

BindingEditor::BindingEditor(Profile shipped, Profile changed)
    : shipped_{std::move(shipped)}, now_{std::move(changed)} {}

std::string BindingEditor::overlay() const { return overlay_text(shipped_, now_); }

std::vector<BindingConflict> BindingEditor::conflicts_of(std::uint16_t action, const Binding& binding) const {
    std::vector<BindingConflict> conflicts;
    const Action* const own = now_.action_numbered(action);
    if (!own) return conflicts;
    const auto wanted = detail::uses_of(binding);
    const auto is_shared = [&](const detail::BindingUse& use) {
        return std::any_of(wanted.begin(), wanted.end(), [&](const detail::BindingUse& other) {
            return std::any_of(use.keys.begin(), use.keys.end(),
                               [&](const std::string& key) { return other.keys.contains(key); });
        });
    };
    std::uint16_t number = 0;
    for (const Mode& mode : now_.modes) {
        const bool is_own_mode = own >= mode.actions.data() && own < mode.actions.data() + mode.actions.size();
        for (const Action& other : mode.actions) {
            const std::uint16_t its_number = number++;
            const bool both_buttons = other.kind == ActionKind::button && own->kind == ActionKind::button;
            if (!is_own_mode || &other == own || (both_buttons && other.gesture != own->gesture)) continue;
            for (std::size_t slot = 0; slot < other.bindings.size(); ++slot)
                for (const detail::BindingUse& use : detail::uses_of(other.bindings[slot]))
                    if (is_shared(use)) {
                        conflicts.push_back({its_number, slot, use.name});
                        break;
                    }
        }
    }
    return conflicts;
}

bool BindingEditor::bind(std::uint16_t action, std::size_t slot, const Binding& binding, Settle how, std::string* why) {
    const auto fail = [&](std::string reason) {
        if (why) *why = std::move(reason);
        return false;
    };
    const Action* const own = now_.action_numbered(action);
    if (!own) return fail("there is no such action");
    if (slot > own->bindings.size())
        return fail("found binding " + std::to_string(slot) + "; expected 0 to " +
                    std::to_string(own->bindings.size()));
    auto conflicts = conflicts_of(action, binding);
    if (how == Settle::refuse && !conflicts.empty())
        return fail(now_.action_numbered(conflicts.front().action)->name + " has " + conflicts.front().with);
    Profile changed = now_;
    Action* const its = action_of(changed, action);
    if (!its) return false;
    const bool replaces = slot < its->bindings.size();
    if (!replaces) its->bindings.emplace_back();
    const Binding replaced = std::exchange(its->bindings[slot], binding);
    if (how == Settle::take || how == Settle::swap) {
        // From the last one, so that slots stay what they are.
        const bool may_swap = how == Settle::swap && replaces;
        for (std::size_t i = conflicts.size(); i-- > 0;) {
            Action* const other = action_of(changed, conflicts[i].action);
            if (!other) continue;
            const auto at = other->bindings.begin() + static_cast<std::ptrdiff_t>(conflicts[i].slot);
            if (may_swap && i == 0 && other->kind == its->kind)
                *at = replaced;
            else
                other->bindings.erase(at);
        }
    }
    if (const auto problem = changed.problem()) return fail(*problem);
    commit(std::move(changed));
    return true;
}

bool BindingEditor::unbind(std::uint16_t action, std::size_t slot) {
    Profile changed = now_;
    Action* const its = action_of(changed, action);
    if (!its || slot >= its->bindings.size()) return false;
    its->bindings.erase(its->bindings.begin() + static_cast<std::ptrdiff_t>(slot));
    return commit(std::move(changed));
}

bool BindingEditor::reset(std::uint16_t action) {
    Profile changed = now_;
    Action* const its = action_of(changed, action);
    const Action* const was = shipped_.action_numbered(action);
    if (!its || !was) return false;
    *its = *was;
    return commit(std::move(changed));
}

bool BindingEditor::reset_all() { return commit(shipped_); }

bool BindingEditor::commit(Profile changed) {
    if (changed == now_) return false;
    before_.push_back(std::exchange(now_, std::move(changed)));
    return true;
}

bool BindingEditor::undo() {
    if (before_.empty()) return false;
    now_ = std::move(before_.back());
    before_.pop_back();
    return true;
}

}  // namespace cursorum
