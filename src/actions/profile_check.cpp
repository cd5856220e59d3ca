// What can be read in a profile, but is hardly meant: an action without bindings, one control bound twice in a mode, a
// chord whose member fires another action on the way, a key that two players at one keyboard share.
#include <algorithm>
#include <map>
#include <optional>

#include "actions/binding_uses.hpp"
#include "actions/profile_lines.hpp"
#include "cursorum/core/button_set.hpp"
#include "cursorum/core/controls.hpp"

namespace cursorum {
namespace {

using detail::ProfileLines;

class Checking {
public:
    Checking(const Profile& profile, std::string_view file, const ProfileLines& lines, bool only_named)
        : profile_{profile}, file_{file}, lines_{lines}, only_named_{only_named} {}

    std::vector<ProfileError> run() {
        for (const Mode& mode : profile_.modes) check(mode);
        std::stable_sort(found_.begin(), found_.end(),
                         [](const ProfileError& a, const ProfileError& b) { return a.line < b.line; });
        return std::move(found_);
    }

private:
    struct Owner {
        const Action* action;
        std::string name;
    };

    void check(const Mode& mode) {
        std::map<std::string, Owner> owners;
        for (const Action& action : mode.actions) {
            if (action.bindings.empty()) add(mode, action, "no binding", "one, unless only the game injects it", "");
            for (const Binding& binding : action.bindings)
                for (const detail::BindingUse& use : detail::uses_of(binding)) claim(mode, action, use, owners);
        }
        for (const Action& action : mode.actions)
            for (const Binding& binding : action.bindings) check_chord(mode, action, binding, owners);
    }

    void claim(const Mode& mode, const Action& action, const detail::BindingUse& use,
               std::map<std::string, Owner>& owners) {
        const Owner* other = nullptr;
        for (const std::string& key : use.keys) {
            const auto [it, is_new] = owners.try_emplace(key, Owner{&action, use.name});
            if (!is_new && it->second.action != &action) other = &it->second;
        }
        if (!other || (other->action->kind == ActionKind::button && action.kind == ActionKind::button &&
                       other->action->gesture != action.gesture))
            return;
        // At the place of the one that the file names: of an overlay, the other may be the shipped one's.
        const Action& here = line_of(mode, action) ? action : *other->action;
        const Action& there = &here == &action ? *other->action : action;
        const std::string its = &here == &action ? use.name : other->name;
        add(mode, here, its + ", which " + mode.name + "." + there.name + " binds, too", "each control once in a mode",
            "both would fire; give one of them another control or another gesture");
    }

    void check_chord(const Mode& mode, const Action& action, const Binding& binding,
                     const std::map<std::string, Owner>& owners) {
        if (binding.buttons.size() < 2 ||
            (binding.kind != Binding::Kind::buttons && binding.kind != Binding::Kind::wheel_step))
            return;
        for (auto button = binding.buttons.begin(); button + 1 != binding.buttons.end(); ++button) {
            const Owner* other = nullptr;
            physical_buttons(*button).for_each([&](Button key) {
                if (const auto it = owners.find(std::string{name_of(key)}); it != owners.end()) other = &it->second;
            });
            if (!other || other->action == &action) continue;
            add(mode, action,
                "the chord " + detail::chord_text(binding) + ", of which " + std::string{name_of(*button)} +
                    " alone is bound to " + mode.name + "." + other->action->name,
                "members that do nothing by themselves, except the last one",
                "whoever presses the chord fires " + other->action->name + " on the way");
        }
    }

    std::optional<std::uint64_t> line_of(const Mode& mode, const Action& action) const {
        const std::string name = mode.name + "." + action.name;
        for (const auto& [its, line] : lines_)
            if (its == name) return line;
        return std::nullopt;
    }

    void add(const Mode& mode, const Action& action, std::string what, std::string expected, std::string hint) {
        const auto line = line_of(mode, action);
        if (!line && only_named_) return;
        found_.push_back({std::string{file_}, line.value_or(0),
                          mode.name + "." + action.name + " with " + std::move(what), std::move(expected),
                          std::move(hint)});
    }

    const Profile& profile_;
    std::string_view file_;
    const ProfileLines& lines_;
    bool only_named_;
    std::vector<ProfileError> found_;
};

std::vector<ProfileError> check(Profile& profile, bool is_overlay, std::string_view text, std::string_view name) {
    ProfileLines lines;
    auto errors = detail::read_profile_file(profile, is_overlay, text, name, lines);
    std::stable_sort(errors.begin(), errors.end(),
                     [](const ProfileError& a, const ProfileError& b) { return a.line < b.line; });
    return errors.empty() ? Checking{profile, name, lines, is_overlay}.run() : errors;
}

}  // namespace

std::vector<ProfileError> check_profile(std::string_view text, std::string_view name) {
    Profile profile;
    return check(profile, false, text, name);
}

std::vector<ProfileError> check_overlay(const Profile& profile, std::string_view text, std::string_view name) {
    Profile changed = profile;
    return check(changed, true, text, name);
}

std::vector<ProfileError> check_seats(const Profile& profile, std::string_view name, const Profile& other,
                                      std::string_view other_name) {
    const auto bound = [](const Profile& of) {
        std::map<Button, std::string, decltype([](Button a, Button b) { return a.number < b.number; })> buttons;
        for (const Mode& mode : of.modes)
            for (const Action& action : mode.actions)
                for (const Binding& binding : action.bindings)
                    for (const Button button : binding.buttons)
                        physical_buttons(button).for_each([&](Button key) {
                            const ControlFamily family = find_control(name_of(key))->family;
                            if (family == ControlFamily::key || family == ControlFamily::mouse_button)
                                buttons.try_emplace(key, mode.name + "." + action.name);
                        });
        return buttons;
    };
    std::vector<ProfileError> found;
    const auto others = bound(other);
    for (const auto& [button, action] : bound(profile))
        if (const auto it = others.find(button); it != others.end())
            found.push_back({std::string{name}, 0,
                             std::string{name_of(button)} + " of " + action + ", which " + std::string{other_name} +
                                 " binds to " + it->second,
                             "keys that only one of two players at a keyboard has", ""});
    return found;
}

}  // namespace cursorum
