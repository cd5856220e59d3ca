// Bindings of a TOML tree, each member with its own error. Reading a file stops at the first fault, and checking one
// goes on: both go through these functions.
#pragma once

#include "actions/toml_values.hpp"
#include "actions/validity.hpp"
#include "core/occasions/occasion_slot.hpp"

namespace cursorum::detail {

/// A binding of an action of that kind, from its value.
class BindingReading : protected TomlValues {
public:
    using TomlValues::TomlValues;

    bool read_binding(ActionKind kind, const toml::node& node, Binding& binding) {
        if (!read_parts(kind, node, binding)) return false;
        const std::string problem = problem_of(binding, kind);
        return problem.empty() || fail(node, problem, "a binding as docs/profile-format.md describes it");
    }

protected:
    bool read_parts(ActionKind kind, const toml::node& node, Binding& binding) {
        if (kind == ActionKind::button) {
            if (const toml::table* table = node.as_table()) return read_state(*table, binding);
            const auto text = node.value_exact<std::string>();
            if (!text)
                return fail(node, found_text(node),
                            "a button such as \"Space\", a chord such as \"Control+KeyL\", \"WheelUp\", or a table");
            return read_chord(node, *text, binding);
        }
        const toml::table* const table = node.as_table();
        const bool is_axis = kind == ActionKind::axis;
        const char* const expected =
            is_axis ? "{ minus = ..., plus = ... }, { axis = ... }, { motion = ... } or { wheel = ... }"
                    : "{ left = ..., right = ..., up = ..., down = ... }, { stick = ... }, "
                      "{ touch = \"position\" }, { motion = \"both\" } or { wheel = \"both\" }";
        if (!table) return fail(node, found_text(node), expected);
        if (const toml::node* axis = table->get("axis"); axis && is_axis) {
            binding.kind = Binding::Kind::axis;
            if (!known_members(*table, std::array<std::string_view, 4>{"axis", "invert", "scale", "dead_zone"}))
                return false;
            if (!axis_of(*axis, binding.axis)) return false;
            binding.dead_zone = binding.axis.number < 2 * stick_kinds ? 0.15 : 0;
            return read_dead_zone(*table, binding) && read_scale(*table, binding);
        }
        if (const toml::node* touch = table->get("touch"); touch && !is_axis) {
            binding.kind = Binding::Kind::touch;
            if (!known_members(*table, std::array<std::string_view, 4>{"touch", "scale", "invert", "dead_zone"}))
                return false;
            if (touch->value_exact<std::string>() != name_of(TouchPart::position))
                return fail(*touch, found_text(*touch), quoted(name_of(TouchPart::position)));
            binding.touch = TouchPart::position;
            return read_dead_zone(*table, binding) && read_scale(*table, binding, true);
        }
        if (const toml::node* stick = table->get("stick"); stick && !is_axis) {
            binding.kind = Binding::Kind::stick;
            if (!known_members(*table, std::array<std::string_view, 4>{"stick", "scale", "invert", "dead_zone"}) ||
                !read_dead_zone(*table, binding))
                return false;
            const auto name = stick->value_exact<std::string>();
            for (std::uint8_t i = 0; name && i < stick_kinds; ++i) {
                binding.stick = {i};
                if (name_of(binding.stick) == *name) return read_scale(*table, binding, true);
            }
            return fail(*stick, found_text(*stick), "\"PadStickLeft\" or \"PadStickRight\"");
        }
        for (const auto relative : {Binding::Kind::motion, Binding::Kind::wheel})
            if (const toml::node* given = table->get(relative == Binding::Kind::motion ? "motion" : "wheel")) {
                binding.kind = relative;
                return read_relative(is_axis, *given, *table, binding);
            }
        binding.kind = is_axis ? Binding::Kind::pair : Binding::Kind::cross;
        static constexpr std::array<std::string_view, 3> pair{"minus", "plus", "scale"};
        static constexpr std::array<std::string_view, 5> cross{"left", "right", "up", "down", "scale"};
        const std::span<const std::string_view> members =
            is_axis ? std::span<const std::string_view>{pair} : std::span<const std::string_view>{cross};
        if (!known_members(*table, members)) return false;
        for (const std::string_view member : members.first(members.size() - 1)) {
            const toml::node* const button = table->get(member);
            if (!button) return fail(*table, "no " + quoted(member), expected);
            const auto name = button->value_exact<std::string>();
            if (!name) return fail(*button, found_text(*button), "the name of a button");
            binding.buttons.emplace_back();
            if (!button_of(*button, *name, binding.buttons.back())) return false;
        }
        return read_scale(*table, binding);
    }

    bool button_of(const toml::node& node, std::string_view name, Button& button) {
        button = find_button(name);
        if (button) return true;
        if (find_axis(name))
            return fail(node, "the axis " + quoted(name), "the name of a button",
                        "a stick's directions have names: PadStickLeftUp and so on");
        std::string_view near = near_control_name(name);
        const std::array wheel{name_of(WheelWay::up), name_of(WheelWay::down), name_of(WheelWay::left),
                               name_of(WheelWay::right)};
        if (near.empty()) near = near_name(name, wheel);
        return fail(node, "the control " + quoted(name), "the name of a button",
                    near.empty() ? "cursorum keys lists them all" : "did you mean " + std::string{near} + "?");
    }

    bool read_dead_zone(const toml::table& table, Binding& binding) {
        const toml::node* const zone = table.get("dead_zone");
        return !zone || number_of(*zone, 0, greatest_dead_zone, binding.dead_zone);
    }

    /// What a button action binds as a table.
    bool read_state(const toml::table& table, Binding& binding) {
        if (const toml::node* lock = table.get("lock")) return read_lock(table, *lock, binding);
        if (const toml::node* button = table.get("button")) {
            const auto name = button->value_exact<std::string>();
            if (!known_members(table, std::array<std::string_view, 3>{"button", "press", "release"})) return false;
            binding.buttons.emplace_back();
            if (!name) return fail(*button, found_text(*button), "the name of a button");
            if (!button_of(*button, *name, binding.buttons.back())) return false;
            if (!is_of_axes(binding.buttons.back()))
                return fail(*button, found_text(*button),
                            "a trigger such as \"PadPullRight\", or a stick's direction such as \"PadStickLeftUp\"",
                            "other buttons have no thresholds");
            binding.kind = Binding::Kind::value;
            return read_thresholds(table, binding);
        }
        if (const toml::node* symbol = table.get("symbol")) return read_symbol(table, *symbol, binding);
        if (const toml::node* touch = table.get("touch")) {
            binding.kind = Binding::Kind::touch;
            if (touch->value_exact<std::string>() == name_of(TouchPart::contact)) {
                binding.touch = TouchPart::contact;
                return known_members(table, std::array<std::string_view, 1>{"touch"});
            }
            binding.touch = TouchPart::pressure;
            if (touch->value_exact<std::string>() != name_of(TouchPart::pressure))
                return fail(*touch, found_text(*touch), "\"contact\" or \"pressure\"");
            return known_members(table, std::array<std::string_view, 3>{"touch", "press", "release"}) &&
                   read_thresholds(table, binding);
        }
        static constexpr std::array<std::string_view, 7> members{"lock",  "button",  "touch", "symbol",
                                                                 "press", "release", "with"};
        return known_members(table, members) &&
               fail(table, "none of the members \"lock\", \"button\", \"touch\", \"symbol\"",
                    "{ lock = \"CapsLock\" }, { button = \"PadPullRight\", press = 0.7 } or { touch = \"contact\" }");
    }

    bool read_symbol(const toml::table& table, const toml::node& node, Binding& binding) {
        if (!known_members(table, std::array<std::string_view, 2>{"symbol", "with"})) return false;
        const auto symbol = node.value_exact<std::string>();
        if (!symbol || symbol->empty() || find_button(*symbol))
            return fail(node, found_text(node), "what is printed on a key, such as \"z\"",
                        symbol && find_button(*symbol) ? "a key's name stands without { symbol = ... }" : "");
        if (const toml::node* with = table.get("with")) {
            const auto text = with->value_exact<std::string>();
            if (!text) return fail(*with, found_text(*with), "buttons such as \"Control\" or \"Control+Shift\"");
            if (!read_chord(*with, *text, binding)) return false;
            if (binding.in_order || binding.wheel_way != WheelWay::none || binding.buttons.size() == chord_capacity)
                return fail(*with, found_text(*with),
                            "at most " + std::to_string(chord_capacity - 1) + " buttons with + between them");
        }
        binding.symbol = *symbol;
        binding.buttons.push_back(KeyLayout{}.key_of(*symbol));
        return true;
    }

    /// Defaults: the usual press, and a release a little below the press.
    bool read_thresholds(const toml::table& table, Binding& binding) {
        ButtonThresholds& its = binding.thresholds;
        its.press = ButtonThresholds{}.press;
        if (const toml::node* press = table.get("press"); press && !number_of(*press, least_press, 1, its.press))
            return false;
        its.release = its.press * 0.8;
        const toml::node* const release = table.get("release");
        if (!release) return true;
        if (!number_of(*release, 0, 1, its.release)) return false;
        return its.release < its.press || fail(*release, std::to_string(its.release), "less than press");
    }

    bool read_lock(const toml::table& table, const toml::node& lock, Binding& binding) {
        if (!known_members(table, std::array<std::string_view, 1>{"lock"})) return false;
        const auto name = lock.value_exact<std::string>();
        std::vector<std::string_view> names;
        for (const Button key : detail::lock_keys) {
            names.push_back(name_of(key));
            if (name == names.back()) binding.kind = Binding::Kind::lock, binding.lock = key;
        }
        return binding.lock != Button{} || fail(lock, found_text(lock), "\"CapsLock\", \"NumLock\" or \"ScrollLock\"",
                                                name ? did_you_mean(*name, names) : "");
    }

    bool read_relative(bool is_axis, const toml::node& node, const toml::table& table, Binding& binding) {
        const bool is_motion = binding.kind == Binding::Kind::motion;
        static constexpr std::array<std::string_view, 4> of_motion{"motion", "invert", "scale", "raw"};
        static constexpr std::array<std::string_view, 3> of_wheel{"wheel", "invert", "scale"};
        if (!known_members(table, is_motion ? std::span<const std::string_view>{of_motion}
                                            : std::span<const std::string_view>{of_wheel}))
            return false;
        const auto way = node.value_exact<std::string>();
        if (is_axis ? way != "x" && way != "y" : way != "both")
            return fail(node, found_text(node), is_axis ? "\"x\" or \"y\"" : "\"both\"");
        binding.vertical = way == "y";
        if (const toml::node* raw = table.get("raw"); raw && !flag_of(*raw, binding.raw)) return false;
        return read_scale(table, binding, !is_axis);
    }

    /// A chord's last part may be a step of the wheel.
    static bool is_wheel_step(std::string_view text, WheelWay& way) {
        for (const WheelWay it : {WheelWay::up, WheelWay::down, WheelWay::left, WheelWay::right})
            if (text == name_of(it)) way = it;
        return way != WheelWay::none;
    }

    bool read_chord(const toml::node& node, std::string_view text, Binding& binding) {
        // Control+KeyL in any order, Control>KeyL in this order.
        binding.in_order = text.find('>') != std::string_view::npos;
        if (binding.in_order && text.find('+') != std::string_view::npos)
            return fail(node, found_text(node), "either + or > between the buttons of a chord");
        for (bool is_last = false; !is_last;) {
            const std::size_t end = std::min(text.find(binding.in_order ? '>' : '+'), text.size());
            is_last = end == text.size();
            if (text.substr(0, end).empty())
                return fail(node, found_text(node), "the name of a button on either side of each + or >");
            if (is_last && is_wheel_step(text, binding.wheel_way)) {
                binding.kind = Binding::Kind::wheel_step;
                break;
            }
            binding.buttons.emplace_back();
            if (!button_of(node, text.substr(0, end), binding.buttons.back())) return false;
            if (std::count(binding.buttons.begin(), binding.buttons.end(), binding.buttons.back()) > 1)
                return fail(node, found_text(node), "each button once");
            text.remove_prefix(std::min(end + 1, text.size()));
        }
        const std::size_t count = binding.buttons.size() + (binding.wheel_way != WheelWay::none);
        if (count > chord_capacity)
            return fail(node, "a chord of " + std::to_string(count),
                        "at most " + std::to_string(chord_capacity) + " buttons");
        return true;
    }

    bool axis_of(const toml::node& node, Axis& axis) {
        const auto name = node.value_exact<std::string>();
        const auto found = name ? find_axis(*name) : std::nullopt;
        if (found) {
            axis = *found;
            return true;
        }
        std::vector<std::string_view> names;
        std::string expected = "one of";
        for (std::uint8_t i = 0; i < axis_kinds; ++i) {
            names.push_back(name_of(Axis{i}));
            if (i <= first_extra_axis) expected += (i == 0 ? " " : ", ") + std::string{names.back()};
        }
        expected += " to " + std::string{names.back()};
        return fail(node, found_text(node), expected, name ? did_you_mean(*name, names) : "");
    }

    /// `of_two`: it has two axes, each of which may be inverted.
    bool read_scale(const toml::table& table, Binding& binding, bool of_two = false) {
        if (const toml::node* scale = table.get("scale");
            scale && !number_of(*scale, -greatest_scale, greatest_scale, binding.scale))
            return false;
        const toml::node* const given = table.get("invert");
        if (!given) return true;
        if (of_two) {
            const auto which = given->value_exact<std::string>();
            binding.invert_x = which == "x" || which == "both" || given->value_exact<bool>() == true;
            binding.invert_y = which == "y" || which == "both" || given->value_exact<bool>() == true;
            if (binding.invert_x || binding.invert_y || given->value_exact<bool>() == false) return true;
            return fail(*given, found_text(*given), "\"x\", \"y\", \"both\", true or false");
        }
        bool invert = false;
        if (!flag_of(*given, invert)) return false;
        if (invert) binding.scale = -binding.scale;
        return true;
    }
};

}  // namespace cursorum::detail
