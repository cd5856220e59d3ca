// The rules of valid profiles. A profile built in code, one read from a file and one changed by a player are checked by
// the same functions; only the words around a problem differ.
#include "actions/validity.hpp"

#include <algorithm>
#include <cmath>

#include "core/occasions/occasion_slot.hpp"
#include "core/text/utf8.hpp"

namespace cursorum::detail {

namespace {

bool is_control_character(char c) noexcept { return static_cast<unsigned char>(c) < 0x20 || c == 0x7F; }

}  // namespace

bool is_name(std::string_view name) noexcept {
    const auto fits = [](char c) { return !is_control_character(c) && c != '.' && c != ',' && c != '"' && c != '\\'; };
    return !name.empty() && std::all_of(name.begin(), name.end(), fits) && is_utf8(name);
}

namespace {

constexpr const char* no_name =
    "a name that is empty, or has a point, comma, quote, backslash or control character, or is not UTF-8";

std::string problem_of_symbol(const Binding& binding) {
    const std::string& symbol = binding.symbol;
    if (symbol.size() > 7 || !is_utf8(symbol) || std::any_of(symbol.begin(), symbol.end(), is_control_character))
        return "a symbol that is more than 7 bytes, has control characters, or is not UTF-8";
    if (find_button(symbol)) return "a symbol that is a key's name";
    if (binding.buttons.empty() || binding.in_order) return "a symbol in a binding that does not fit it";
    return {};
}

std::string problem_of_thresholds(const Binding& binding) {
    const auto [press, release] = binding.thresholds;
    if (!(press > release && release >= 0 && press <= 1 && press >= least_press))
        return "thresholds that are not from 0.01 to 1, or whose release is not less than press";
    return {};
}

std::string problem_of_buttons(const Binding& binding) {
    for (const Button& button : binding.buttons) {
        const bool is_symbols = !binding.symbol.empty() && &button == &binding.buttons.back();
        if (is_symbols && button == Button{}) continue;  // on no key
        if (name_of(button).empty()) return "a binding of a button that does not exist";
        if (std::count(binding.buttons.begin(), binding.buttons.end(), button) > 1)
            return "a binding that names " + std::string{name_of(button)} + " twice";
    }
    return {};
}

std::string problem_of_button_binding(const Binding& binding) {
    const std::size_t count = binding.buttons.size();
    const std::size_t with_step = count + (binding.wheel_way != WheelWay::none);
    switch (binding.kind) {
        case Binding::Kind::buttons:
            if (count == 0 || count > chord_capacity) break;
            if (binding.in_order && count < 2) return "an order of a single button";
            return binding.symbol.empty() ? std::string{} : problem_of_symbol(binding);
        case Binding::Kind::wheel_step:
            if (binding.wheel_way == WheelWay::none) return "a step of a wheel without a direction";
            if (with_step > chord_capacity) break;
            return binding.in_order && count == 0 ? "an order of a single button" : "";
        case Binding::Kind::value:
            if (count != 1 || !is_of_axes(binding.buttons.front()))
                return "thresholds, which only a trigger, a side of an axis or stick, or a touch's pressure has";
            return problem_of_thresholds(binding);
        case Binding::Kind::lock:
            if (std::find(lock_keys.begin(), lock_keys.end(), binding.lock) == lock_keys.end())
                return "a binding of a lock that does not exist";
            return {};
        default:
            if (binding.touch == TouchPart::none) return "a touch surface of which it uses nothing";
            return binding.touch == TouchPart::pressure ? problem_of_thresholds(binding) : std::string{};
    }
    return "a binding of " + std::to_string(with_step) + " buttons";
}

/// The binding with only what its kind uses.
Binding used_of(const Binding& binding, ActionKind kind) {
    using enum Binding::Kind;
    Binding used{.kind = binding.kind};
    const bool is_vector = kind == ActionKind::vector, is_of_button = kind == ActionKind::button;
    const bool is_relative = binding.kind == motion || binding.kind == wheel;
    const bool is_analogue = is_relative || binding.kind == axis || binding.kind == stick || binding.kind == touch;
    if (!is_analogue && binding.kind != lock) used.buttons = binding.buttons;
    if (binding.kind == buttons || binding.kind == wheel_step) used.in_order = binding.in_order;
    if (binding.kind == buttons) used.symbol = binding.symbol;
    if (binding.kind == wheel_step) used.wheel_way = binding.wheel_way;
    if (binding.kind == lock) used.lock = binding.lock;
    if (binding.kind == value || (is_of_button && binding.touch == TouchPart::pressure))
        used.thresholds = binding.thresholds;
    if (binding.kind == touch) used.touch = binding.touch;
    if (is_of_button) return used;
    used.scale = binding.scale;
    if (binding.kind == axis) used.axis = binding.axis;
    if (binding.kind == stick) used.stick = binding.stick;
    if (is_analogue && !is_relative) used.dead_zone = binding.dead_zone;
    if (binding.kind == motion) used.raw = binding.raw;
    if (is_relative && !is_vector) used.vertical = binding.vertical;
    if (is_analogue && is_vector) used.invert_x = binding.invert_x, used.invert_y = binding.invert_y;
    return used;
}

}  // namespace

std::string problem_of(const Binding& binding, ActionKind kind) {
    using enum Binding::Kind;
    const bool is_relative = binding.kind == motion || binding.kind == wheel;
    const bool fits = kind == ActionKind::button ? binding.is_of_button_action()
                      : kind == ActionKind::axis
                          ? binding.kind == pair || binding.kind == axis || is_relative
                          : binding.kind == cross || binding.kind == stick || binding.kind == touch || is_relative;
    if (!fits) return "a binding that does not fit its kind";
    if (!std::isfinite(binding.scale) || std::abs(binding.scale) > greatest_scale)
        return "a scale that is not from -1000 to 1000";
    if (!(binding.dead_zone >= 0 && binding.dead_zone <= greatest_dead_zone))
        return "a dead zone that is not from 0 to 0.99";
    if (binding.axis.number >= axis_kinds || binding.stick.number >= stick_kinds)
        return "a binding of an axis that does not exist";
    const std::size_t count = binding.buttons.size();
    if ((binding.kind == pair && count != 2) || (binding.kind == cross && count != 4))
        return "a binding of " + std::to_string(count) + " buttons";
    if (std::string what = problem_of_buttons(binding); !what.empty()) return what;
    if (kind == ActionKind::button)
        if (std::string what = problem_of_button_binding(binding); !what.empty()) return what;
    if (kind != ActionKind::button && binding.kind == touch && binding.touch != TouchPart::position)
        return "a touch surface of which it does not use the position";
    if (binding != used_of(binding, kind))
        return "a binding with something that it cannot have: of keys a dead zone, of a pair an inversion, of a wheel "
               "raw counts, of a stick buttons, and the like";
    return {};
}

std::string problem_of(const Action& action) {
    if (!is_name(action.name)) return no_name;
    for (const std::string& name : action.formerly)
        if (!is_name(name)) return std::string{"formerly "} + no_name;
    if (action.kind == ActionKind::button) {
        if (action.opposed != WhenOpposed::neutral || action.directions != 0 || action.rise != Duration{} ||
            action.fall != Duration{})
            return "opposite, directions, a rise or a fall, which only axes and vectors have";
    } else {
        const Action none;
        if (action.repeat != none.repeat || action.gesture != none.gesture || action.gesture_time != Duration{} ||
            action.min_interval != Duration{} || action.buffer != Duration{} || action.debounce != Duration{})
            return "a repeat, gesture, min_interval, buffer or debounce, which only button actions have";
    }
    if (!action.repeat.is_valid()) return "a repeat whose delay or interval is not more than 0";
    if (action.repeat.cap > greatest_cap) return "a repeat whose cap is more than 1000000";
    if (action.directions != 0 &&
        (action.kind != ActionKind::vector || (action.directions != 4 && action.directions != 8)))
        return "directions that are not 4 or 8, or of an action that is no vector";
    if (action.rise.count() < 0 || action.fall.count() < 0) return "a rise or fall of less than 0";
    if (action.min_interval.count() < 0) return "a min_interval of less than 0";
    if (action.buffer.count() < 0 || action.debounce.count() < 0) return "a buffer or debounce of less than 0";
    const bool has_time = usual_time(action.gesture) != Duration{};
    if (has_time && action.gesture_time.count() <= 0)
        return "a " + std::string{name_of(action.gesture)} + " without a time";
    if (!has_time && action.gesture_time != Duration{})
        return "a time, which the gesture " + std::string{name_of(action.gesture)} + " does not have";
    for (const Binding& binding : action.bindings)
        if (std::string what = problem_of(binding, action.kind); !what.empty()) return what;
    return {};
}

std::string problem_of(const DeviceShaping& shaping) {
    if (!shaping.is_valid())
        return "a shaping that no device can have: dead_zone + outer_zone must be below 1, curve 0 to 1, and release "
               "less than press";
    for (const StickShaping& stick : shaping.sticks)
        if (stick.x != AxisRange{} || stick.y != AxisRange{}) return "a shaping with the centre or range of a device";
    for (const PullShaping& pull : shaping.pulls)
        if (pull.range != PullShaping{}.range) return "a shaping with the centre or range of a device";
    return {};
}

}  // namespace cursorum::detail
