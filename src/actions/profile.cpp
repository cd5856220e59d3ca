#include "cursorum/actions/profile.hpp"

#include <algorithm>
#include <cmath>

#include "actions/finding.hpp"
#include "core/occasions/occasion_slot.hpp"
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
                                                 ActionKind kind, std::string* why) {
    std::optional<std::uint16_t> found;
    const Action* of_other_kind = nullptr;
    std::vector<std::string> in_modes;
    std::vector<std::string> names;
    for (const auto& [mode, action, number] : actions) {
        const std::string full = std::string{mode} + "." + action->name;
        if (name == full || name == action->name) {
            if (action->kind == kind) {
                found = number;
                in_modes.push_back(full);
            } else {
                of_other_kind = action;
            }
        }
        if (action->kind == kind) names.push_back(name.find('.') == std::string_view::npos ? action->name : full);
    }
    if (in_modes.size() == 1) return found;
    if (!why) return std::nullopt;
    if (in_modes.size() > 1) {
        *why = "found " + quoted(name) + ", which several modes have; expected one of";
        for (const std::string& full : in_modes) *why += (full == in_modes.front() ? " " : ", ") + full;
    } else if (of_other_kind) {
        *why = "found " + quoted(name) + ", whose kind is " + std::string{name_of(of_other_kind->kind)} +
               "; expected " + (kind == ActionKind::axis ? "an " : "a ") + std::string{name_of(kind)} + " action";
    } else {
        say(why, name,
            (kind == ActionKind::axis ? "the name of an " : "the name of a ") + std::string{name_of(kind)} + " action",
            {names.begin(), names.end()});
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

std::optional<std::uint16_t> Profile::find(std::string_view name, ActionKind kind, std::string* why) const {
    std::vector<detail::NamedAction> named;
    for (const Mode& mode : modes)
        for (const Action& action : mode.actions)
            named.push_back({mode.name, &action, static_cast<std::uint16_t>(named.size())});
    return detail::find_action(named, name, kind, why);
}

std::optional<ButtonAction> Profile::find_button(std::string_view name, std::string* why) const {
    const auto number = find(name, ActionKind::button, why);
    return number ? std::optional{ButtonAction{*number}} : std::nullopt;
}
std::optional<AxisAction> Profile::find_axis(std::string_view name, std::string* why) const {
    const auto number = find(name, ActionKind::axis, why);
    return number ? std::optional{AxisAction{*number}} : std::nullopt;
}
std::optional<VectorAction> Profile::find_vector(std::string_view name, std::string* why) const {
    const auto number = find(name, ActionKind::vector, why);
    return number ? std::optional{VectorAction{*number}} : std::nullopt;
}
std::optional<ModeHandle> Profile::find_mode(std::string_view name, std::string* why) const {
    std::vector<std::string_view> names;
    for (const Mode& mode : modes) names.push_back(mode.name);
    const auto number = detail::find_mode(names, name, why);
    return number ? std::optional{ModeHandle{*number}} : std::nullopt;
}

const Action* Profile::action_numbered(std::uint16_t number) const noexcept {
    std::size_t left = number;
    for (const Mode& mode : modes) {
        if (left < mode.actions.size()) return &mode.actions[left];
        left -= mode.actions.size();
    }
    return nullptr;
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

/// A handle, or one of nothing and the reason, once, among the problems.
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

// ---- what is wrong with it

namespace {

/// Names stand in files, tables and lists of other formats as they are.
bool is_name(std::string_view name) {
    const auto fits = [](char c) {
        return static_cast<unsigned char>(c) >= 0x20 && c != '.' && c != ',' && c != '"' && c != '\\';
    };
    return !name.empty() && std::all_of(name.begin(), name.end(), fits);
}
constexpr const char* no_name = "a name that is empty, or has a point, comma, quote, backslash or control character";

bool is_of_axes(Button button) { return button.number >= first_of_axes && button.number < first_either_side; }

std::string problem_of(const Binding& binding, ActionKind kind) {
    using enum Binding::Kind;
    const bool is_relative = binding.kind == motion || binding.kind == wheel;
    const bool fits = kind == ActionKind::button ? binding.kind == chord
                      : kind == ActionKind::axis
                          ? binding.kind == pair || binding.kind == axis || is_relative
                          : binding.kind == cross || binding.kind == stick || binding.kind == touch || is_relative;
    if (!fits) return "a binding that does not fit its kind";
    const std::size_t count = binding.buttons.size(), steps = binding.wheel_way != WheelWay::none;
    const bool has_lock = binding.lock != Button{};
    const bool is_touch_button = binding.kind != touch && binding.touch != TouchPart::none;
    const bool right_count =
        binding.kind == chord
            ? (has_lock || is_touch_button ? count + steps == 0 : count + steps >= 1 && count + steps <= chord_capacity)
        : binding.kind == pair  ? count == 2
        : binding.kind == cross ? count == 4
                                : count == 0;
    if (!right_count) return "a binding of " + std::to_string(count) + " buttons";
    if (has_lock &&
        std::find(detail::lock_keys.begin(), detail::lock_keys.end(), binding.lock) == detail::lock_keys.end())
        return "a binding of a lock that does not exist";
    if (is_touch_button && (has_lock || binding.kind != chord || binding.touch == TouchPart::position))
        return "a touch surface in a binding that does not fit it";
    if (binding.kind == touch && binding.touch != TouchPart::position)
        return "a touch surface of which it does not use the position";
    const auto [press, release] = binding.thresholds;
    if (press != 0 || release != 0 || binding.touch == TouchPart::pressure) {
        const bool is_pushed = count == 1 && steps == 0 && is_of_axes(binding.buttons.front());
        if (binding.kind != chord || !(is_pushed || binding.touch == TouchPart::pressure))
            return "thresholds, which only a trigger, a side of an axis or stick, or a touch's pressure has";
        if (!(press > release && release >= 0 && press <= 1))
            return "thresholds that are not 0 to 1, or whose release is not less than press";
    }
    if ((steps != 0 || has_lock) && binding.kind != chord)
        return "a wheel's steps or a lock in a binding that is not a chord";
    if (!binding.symbol.empty() && (binding.kind != chord || count == 0 || press != 0))
        return "a symbol in a binding that is not a chord";
    for (const Button& button : binding.buttons) {
        const bool is_symbols = !binding.symbol.empty() && &button == &binding.buttons.back();
        if (is_symbols && button == Button{}) continue;  // on no key
        if (name_of(button).empty()) return "a binding of a button that does not exist";
        if (std::count(binding.buttons.begin(), binding.buttons.end(), button) > 1)
            return "a binding that names " + std::string{name_of(button)} + " twice";
    }
    if (binding.axis.number >= axis_kinds || binding.stick.number >= stick_kinds)
        return "a binding of an axis that does not exist";
    if (!(binding.dead_zone >= 0 && binding.dead_zone < 1)) return "a dead zone that is not from 0 to less than 1";
    if (!std::isfinite(binding.scale)) return "a scale that is not a number";
    return {};
}

std::string problem_of(const Action& action) {
    if (!is_name(action.name)) return no_name;
    if (!action.repeat.is_valid()) return "a repeat whose delay or interval is not more than 0";
    if (action.directions != 0 &&
        (action.kind != ActionKind::vector || (action.directions != 4 && action.directions != 8)))
        return "directions that are not 4 or 8, or of an action that is no vector";
    if (action.rise.count() < 0 || action.fall.count() < 0) return "a rise or fall of less than 0";
    if (action.min_interval.count() < 0) return "a min_interval of less than 0";
    if (action.buffer.count() < 0 || action.debounce.count() < 0) return "a buffer or debounce of less than 0";
    if (usual_time(action.gesture) != Duration{} && action.gesture_time.count() <= 0)
        return "a " + std::string{name_of(action.gesture)} + " without a time";
    for (const Binding& binding : action.bindings)
        if (std::string what = problem_of(binding, action.kind); !what.empty()) return what;
    return {};
}

}  // namespace

std::optional<std::string> Profile::problem() const {
    const auto too_many = [](const char* what, std::size_t count, unsigned most) {
        return std::to_string(count) + " " + what + "; at most " + std::to_string(most);
    };
    if (shaping && !shaping->is_valid())
        return "a shaping that no device can have: dead_zone + outer_zone must be below 1, curve 0 to 1, and release "
               "less than press";
    if (modes.size() > mode_capacity) return too_many("modes", modes.size(), mode_capacity);
    std::size_t actions = 0, switches = 0, sources = 0;
    for (auto mode = modes.begin(); mode != modes.end(); ++mode) {
        if (!is_name(mode->name)) return "mode \"" + mode->name + "\" has " + no_name;
        if (std::any_of(modes.begin(), mode, [&](const Mode& other) { return other.name == mode->name; }))
            return "mode \"" + mode->name + "\" stands there twice";
        actions += mode->actions.size();
        for (auto action = mode->actions.begin(); action != mode->actions.end(); ++action) {
            const std::string where = "action \"" + mode->name + "." + action->name + "\"";
            const auto same = [&](const Action& other) { return other.name == action->name; };
            if (std::any_of(mode->actions.begin(), action, same)) return where + " stands there twice";
            if (const std::string what = problem_of(*action); !what.empty()) return where + " has " + what;
            if (action->kind != ActionKind::button && (action->closes || !action->opens.empty()))
                return where + " opens or closes a mode, which only button actions do";
            if (std::string why; !action->opens.empty() && !find_mode(action->opens, &why))
                return where + " opens an unknown mode: " + why;
            for (const Binding& binding : action->bindings) {
                const bool is_chord = binding.kind == Binding::Kind::chord;
                switches += is_chord ? 1 : binding.buttons.size();
                sources += !is_chord;
            }
        }
    }
    if (actions > action_capacity) return too_many("actions", actions, action_capacity);
    if (switches > switch_capacity) return too_many("chords and directions", switches, switch_capacity);
    if (sources > source_capacity) return too_many("bindings of axes and vectors", sources, source_capacity);
    return std::nullopt;
}

}  // namespace cursorum
