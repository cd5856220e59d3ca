// Profiles as values: finding actions by name, numbering, symbols of a keyboard layout, and labels. Nothing here is
// used while frames are read.
#include "cursorum/actions/profile.hpp"

#include <algorithm>

#include "actions/finding.hpp"
#include "actions/validity.hpp"
#include "core/text/utf8.hpp"
#include "cursorum/core/near_name.hpp"

namespace cursorum {

std::string_view name_of(ActionKind kind) noexcept {
    constexpr std::string_view names[] = {"button", "axis", "vector"};
    return names[static_cast<unsigned>(kind)];
}

std::string_view name_of(WheelWay way) noexcept {
    constexpr std::string_view names[] = {"", "WheelUp", "WheelDown", "WheelLeft", "WheelRight"};
    return names[static_cast<unsigned>(way)];
}

std::string_view name_of(TouchPart part) noexcept {
    constexpr std::string_view names[] = {"", "contact", "pressure", "position"};
    return names[static_cast<unsigned>(part)];
}

std::string_view name_of(Gesture gesture) noexcept {
    constexpr std::string_view names[] = {"hold", "tap", "long_press", "double_tap", "toggle", "release"};
    return names[static_cast<unsigned>(gesture)];
}

Duration usual_time(Gesture gesture) noexcept {
    constexpr std::int64_t milliseconds[] = {0, 200, 500, 300, 0, 0};
    return Duration{milliseconds[static_cast<unsigned>(gesture)] * 1'000'000};
}

namespace {

using detail::quoted;

void say(std::string* why, std::string_view found, std::string_view expected,
         const std::vector<std::string_view>& known) {
    if (!why) return;
    *why = "found " + quoted(found) + "; expected " + std::string{expected};
    const std::string_view near = near_name(found, known);
    if (!near.empty()) {
        *why += "; did you mean " + quoted(near) + "?";
        return;
    }
    *why += known.empty() ? "; there is none" : "; there are";
    for (std::size_t i = 0; i < known.size(); ++i) *why += (i == 0 ? " " : ", ") + std::string{known[i]};
}

}  // namespace

std::optional<std::uint16_t> detail::find_action(const std::vector<NamedAction>& actions, std::string_view name,
                                                 std::optional<ActionKind> kind, std::string* why) {
    std::optional<std::uint16_t> found;
    const Action* of_other_kind = nullptr;
    std::vector<std::string> in_modes;
    std::vector<std::string> names;
    for (const auto& [mode, action, number] : actions) {
        const std::string full = std::string{mode} + "." + action->name;
        const bool is_wanted = !kind || action->kind == *kind;
        if (name == full || name == action->name) {
            if (is_wanted) {
                found = number;
                in_modes.push_back(full);
            } else {
                of_other_kind = action;
            }
        }
        if (is_wanted) names.push_back(name.find('.') == std::string_view::npos ? action->name : full);
    }
    if (in_modes.size() == 1) return found;
    if (!why) return std::nullopt;
    const std::string wanted =
        !kind ? "an action" : (*kind == ActionKind::axis ? "an " : "a ") + std::string{name_of(*kind)} + " action";
    if (in_modes.size() > 1) {
        *why = "found " + quoted(name) + ", which several modes have; expected one of";
        for (const std::string& full : in_modes) *why += (full == in_modes.front() ? " " : ", ") + full;
    } else if (of_other_kind) {
        *why = "found " + quoted(name) + ", whose kind is " + std::string{name_of(of_other_kind->kind)} +
               "; expected " + wanted;
    } else {
        say(why, name, "the name of " + wanted, {names.begin(), names.end()});
    }
    return std::nullopt;
}

std::optional<std::uint8_t> detail::find_mode(const std::vector<std::string_view>& names, std::string_view name,
                                              std::string* why) {
    const auto found = std::find(names.begin(), names.end(), name);
    if (found != names.end()) return static_cast<std::uint8_t>(found - names.begin());
    say(why, name, "the name of a mode", names);
    return std::nullopt;
}

std::optional<std::uint16_t> Profile::find(std::string_view name, std::optional<ActionKind> kind,
                                           std::string* why) const {
    std::vector<detail::NamedAction> named;
    for (const Mode& mode : modes)
        for (const Action& action : mode.actions)
            named.push_back({mode.name, &action, static_cast<std::uint16_t>(named.size())});
    return detail::find_action(named, name, kind, why);
}

std::optional<ButtonAction> Profile::find_button(std::string_view name, std::string* why) const {
    const auto number = find(name, ActionKind::button, why);
    return number ? std::optional{ButtonAction{*number, numbering()}} : std::nullopt;
}
std::optional<AxisAction> Profile::find_axis(std::string_view name, std::string* why) const {
    const auto number = find(name, ActionKind::axis, why);
    return number ? std::optional{AxisAction{*number, numbering()}} : std::nullopt;
}
std::optional<VectorAction> Profile::find_vector(std::string_view name, std::string* why) const {
    const auto number = find(name, ActionKind::vector, why);
    return number ? std::optional{VectorAction{*number, numbering()}} : std::nullopt;
}
std::optional<ModeHandle> Profile::find_mode(std::string_view name, std::string* why) const {
    std::vector<std::string_view> names;
    for (const Mode& mode : modes) names.push_back(mode.name);
    const auto number = detail::find_mode(names, name, why);
    return number ? std::optional{ModeHandle{*number, numbering()}} : std::nullopt;
}

const Action* Profile::action(std::string_view name, std::string* why) const {
    const auto number = find(name, std::nullopt, why);
    return number ? action_of(*number, 0) : nullptr;
}

const Action* Profile::action_of(std::uint16_t number, std::uint32_t of_numbering) const noexcept {
    if (of_numbering != 0 && of_numbering != numbering()) return nullptr;
    std::size_t left = number;
    for (const Mode& mode : modes) {
        if (left < mode.actions.size()) return &mode.actions[left];
        left -= mode.actions.size();
    }
    return nullptr;
}

// Names have no control characters: 1 ends a mode's name; 2 and up end an action's name, by its kind.
std::uint32_t Profile::numbering() const noexcept {
    std::uint32_t hash = 2'166'136'261U;
    const auto add = [&hash](std::string_view name, unsigned end) {
        for (const char c : name) hash = (hash ^ static_cast<unsigned char>(c)) * 16'777'619U;
        hash = (hash ^ end) * 16'777'619U;
    };
    for (const Mode& mode : modes) {
        add(mode.name, 1);
        for (const Action& action : mode.actions) add(action.name, 2 + static_cast<unsigned>(action.kind));
    }
    return hash != 0 ? hash : 1;
}

Profile with_layout(Profile profile, const KeyLayout& layout) {
    for (Mode& mode : profile.modes)
        for (Action& action : mode.actions)
            for (Binding& binding : action.bindings)
                if (const Button key = layout.key_of(binding.symbol); key && !binding.buttons.empty())
                    binding.buttons.back() = key;
    return profile;
}

namespace {

template <typename Handle>
using Finder = std::optional<Handle> (Profile::*)(std::string_view, std::string*) const;

/// A handle; for an unknown name, an empty handle, and the reason is added to the problems once.
template <typename Handle>
Handle looked_up(const Profile& profile, std::string_view name, Finder<Handle> find,
                 std::vector<std::string>& problems) {
    std::string why;
    const std::optional<Handle> handle = (profile.*find)(name, &why);
    if (!handle && std::find(problems.begin(), problems.end(), why) == problems.end())
        problems.push_back(std::move(why));
    return handle.value_or(Handle{});
}

}  // namespace

ButtonAction ActionNames::button(std::string_view name) {
    return looked_up<ButtonAction>(*profile_, name, &Profile::find_button, problems_);
}
AxisAction ActionNames::axis(std::string_view name) {
    return looked_up<AxisAction>(*profile_, name, &Profile::find_axis, problems_);
}
VectorAction ActionNames::vector(std::string_view name) {
    return looked_up<VectorAction>(*profile_, name, &Profile::find_vector, problems_);
}
ModeHandle ActionNames::mode(std::string_view name) {
    return looked_up<ModeHandle>(*profile_, name, &Profile::find_mode, problems_);
}

std::string ActionNames::problem() const {
    std::string all;
    for (const std::string& line : problems_) all += (all.empty() ? "" : "\n") + line;
    return all;
}

// ---- problems

std::optional<std::string> Profile::problem() const {
    const auto too_many = [](const char* what, std::size_t count, unsigned most) {
        return std::to_string(count) + " " + what + "; at most " + std::to_string(most);
    };
    if (!detail::is_utf8(title)) return "a title that is not UTF-8";
    if (shaping)
        if (std::string what = detail::problem_of(*shaping); !what.empty()) return what;
    if (modes.size() > mode_capacity) return too_many("modes", modes.size(), mode_capacity);
    std::size_t actions = 0, switches = 0, sources = 0;
    for (auto mode = modes.begin(); mode != modes.end(); ++mode) {
        for (const std::string& name : mode->formerly)
            if (!detail::is_name(name)) return "mode \"" + mode->name + "\" has formerly a name that is none";
        if (!detail::is_name(mode->name))
            return "mode \"" + mode->name +
                   "\" has a name that is empty, or has a point, comma, quote, backslash or "
                   "control character, or is not UTF-8";
        if (std::any_of(modes.begin(), mode, [&](const Mode& other) { return other.name == mode->name; }))
            return "mode \"" + mode->name + "\" occurs twice";
        actions += mode->actions.size();
        for (auto action = mode->actions.begin(); action != mode->actions.end(); ++action) {
            const std::string where = "action \"" + mode->name + "." + action->name + "\"";
            const auto same = [&](const Action& other) { return other.name == action->name; };
            if (std::any_of(mode->actions.begin(), action, same)) return where + " occurs twice";
            if (const std::string what = detail::problem_of(*action); !what.empty()) return where + " has " + what;
            if (action->kind != ActionKind::button && (action->closes || !action->opens.empty()))
                return where + " opens or closes a mode, which only button actions do";
            if (std::string why; !action->opens.empty() && !find_mode(action->opens, &why))
                return where + " opens an unknown mode: " + why;
            for (const Binding& binding : action->bindings) {
                const bool is_of_button = binding.is_of_button_action();
                switches += is_of_button ? 1 : binding.buttons.size();
                sources += !is_of_button;
            }
        }
    }
    if (actions > action_capacity) return too_many("actions", actions, action_capacity);
    if (switches > switch_capacity) return too_many("chords and directions", switches, switch_capacity);
    if (sources > source_capacity) return too_many("bindings of axes and vectors", sources, source_capacity);
    return std::nullopt;
}

}  // namespace cursorum
