// Players' changes as files: an overlay names what it changes in a profile, and the difference of two profiles is
// written as one. Also bindings as text, as a binding screen shows and reads them.
#include <algorithm>
#include <charconv>
#include <vector>

#include "actions/binding_uses.hpp"
#include "actions/finding.hpp"
#include "cursorum/actions/binding_text.hpp"
#include "cursorum/actions/profile_file.hpp"

namespace cursorum {
namespace {

/// The shortest text that reads as the same number, in every locale.
std::string number_text(double number) {
    char text[32];
    return {text, std::to_chars(text, text + sizeof text, number).ptr};
}

std::string span_text_of(Duration span) {
    constexpr std::int64_t ms = 1'000'000;
    const std::int64_t ns = span.count();
    return ns % ms == 0 ? std::to_string(ns / ms) + "ms" : std::to_string(ns) + "ns";
}

using detail::quoted;

/// Any text as a TOML string.
std::string toml_text(std::string_view text) {
    std::string all = "\"";
    for (const char c : text) {
        constexpr const char* digits = "0123456789ABCDEF";
        const auto code = static_cast<unsigned char>(c);
        if (c == '"' || c == '\\')
            all += std::string{"\\"} + c;
        else if (code < 0x20 || code == 0x7F)
            all += std::string{"\\u00"} + digits[code / 16] + digits[code % 16];
        else
            all += c;
    }
    return all + '"';
}

/// A key of a TOML table. Names have neither quotes nor backslashes.
std::string key_text(std::string_view name) {
    const auto is_bare = [](char c) {
        return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == '_' || c == '-';
    };
    return std::all_of(name.begin(), name.end(), is_bare) ? std::string{name} : quoted(name);
}

}  // namespace

std::string binding_text(ActionKind kind, const Binding& binding) {
    std::string text;
    const auto add = [&](std::string_view name, std::string_view value) {
        text += (text.empty() ? "{ " : ", ") + std::string{name} + " = " + std::string{value};
    };
    const auto add_buttons = [&](std::initializer_list<const char*> names) {
        auto button = binding.buttons.begin();
        for (const char* name : names)
            if (button != binding.buttons.end()) add(name, quoted(name_of(*button++)));
    };
    const auto add_thresholds = [&] {
        add("press", number_text(binding.thresholds.press));
        add("release", number_text(binding.thresholds.release));
    };
    const bool is_vertical = binding.vertical, is_vector = kind == ActionKind::vector;
    switch (binding.kind) {
        case Binding::Kind::buttons:
        case Binding::Kind::wheel_step:
            if (binding.symbol.empty()) return detail::chord_text(binding);
            add("symbol", toml_text(binding.symbol));
            if (binding.buttons.size() > 1) {
                Binding with = binding;
                with.buttons.pop_back();
                add("with", quoted(detail::chord_text(with)));
            }
            return text + " }";
        case Binding::Kind::lock: add("lock", quoted(name_of(binding.lock))); return text + " }";
        case Binding::Kind::value:
            add_buttons({"button"});
            add_thresholds();
            return text + " }";
        case Binding::Kind::pair: add_buttons({"minus", "plus"}); break;
        case Binding::Kind::cross: add_buttons({"left", "right", "up", "down"}); break;
        case Binding::Kind::axis:
            add("axis", quoted(name_of(binding.axis)));
            add("dead_zone", number_text(binding.dead_zone));
            break;
        case Binding::Kind::stick: add("stick", quoted(name_of(binding.stick))); break;
        case Binding::Kind::touch:
            add("touch", quoted(name_of(binding.touch)));
            if (binding.touch == TouchPart::pressure) add_thresholds();
            if (binding.touch != TouchPart::position) return text + " }";
            break;
        case Binding::Kind::motion: add("motion", quoted(is_vector ? "both" : is_vertical ? "y" : "x")); break;
        case Binding::Kind::wheel: add("wheel", quoted(is_vector ? "both" : is_vertical ? "y" : "x")); break;
    }
    if (binding.dead_zone != 0 && binding.kind != Binding::Kind::axis) add("dead_zone", number_text(binding.dead_zone));
    if (binding.raw) add("raw", "true");
    if (binding.scale != 1) add("scale", number_text(binding.scale));
    if (binding.invert_x || binding.invert_y)
        add("invert", quoted(!binding.invert_y ? "x" : binding.invert_x ? "both" : "y"));
    return text + " }";
}

namespace {

/// The kinds of devices that have a control, by its name: bit n for each.
unsigned kinds_of(std::string_view name) noexcept {
    const auto bit = [](DeviceKind kind) { return 1U << static_cast<unsigned>(kind); };
    if (name.starts_with("Pad")) return bit(DeviceKind::gamepad);
    if (name.starts_with("Mouse") || name.starts_with("Wheel")) return bit(DeviceKind::mouse);
    return bit(DeviceKind::keyboard);
}

/// The names of a binding's controls, as profiles write them.
std::vector<std::string_view> names_of(const Binding& binding) {
    std::vector<std::string_view> names;
    for (const Button button : binding.buttons) names.push_back(name_of(button));
    if (!binding.symbol.empty() && names.back().empty()) names.back() = binding.symbol;
    if (binding.wheel_way != WheelWay::none) names.push_back(name_of(binding.wheel_way));
    if (binding.lock != Button{}) names.push_back(name_of(binding.lock));
    if (binding.kind == Binding::Kind::axis) names.push_back(name_of(binding.axis));
    if (binding.kind == Binding::Kind::stick) names.push_back(name_of(binding.stick));
    if (binding.touch != TouchPart::none) names.push_back("PadTouch");
    if (binding.kind == Binding::Kind::motion) names.push_back("MouseMotion");
    if (binding.kind == Binding::Kind::wheel) names.push_back("Wheel");
    return names;
}

}  // namespace

const Binding* binding_for(const Action& action, DeviceKind kind) noexcept {
    const auto has = [](const Binding& binding, DeviceKind of) {
        const auto is_of = [of](std::string_view name) {
            return (kinds_of(name) >> static_cast<unsigned>(of) & 1) != 0;
        };
        switch (binding.kind) {
            case Binding::Kind::wheel_step:
            case Binding::Kind::motion:
            case Binding::Kind::wheel: return of == DeviceKind::mouse;
            case Binding::Kind::axis:
            case Binding::Kind::stick:
            case Binding::Kind::touch: return of == DeviceKind::gamepad;
            case Binding::Kind::lock: return of == DeviceKind::keyboard;
            default:
                return std::any_of(binding.buttons.begin(), binding.buttons.end(),
                                   [&](Button button) { return is_of(name_of(button)); });
        }
    };
    const auto first = [&](DeviceKind of) -> const Binding* {
        for (const Binding& binding : action.bindings)
            if (has(binding, of)) return &binding;
        return nullptr;
    };
    if (kind != DeviceKind::keyboard && kind != DeviceKind::mouse) return first(kind);
    const Binding* const key = first(DeviceKind::keyboard);
    return key ? key : first(DeviceKind::mouse);
}

std::string binding_label(const Binding& binding, const std::function<std::string(std::string_view name)>& label) {
    const bool is_chord = binding.is_of_button_action();
    // What is printed on the space bar cannot be seen.
    const auto is_blank = [](const std::string& its) { return its.find_first_not_of(' ') == its.npos; };
    std::string text;
    for (const std::string_view name : names_of(binding)) {
        std::string own = label ? label(name) : std::string{};
        text += (text.empty()       ? ""
                 : !is_chord        ? ", "
                 : binding.in_order ? ">"
                                    : "+") +
                (is_blank(own) ? std::string{name} : own);
    }
    return text;
}

namespace {

std::string shaping_text(const DeviceShaping& shaping) {
    std::string text = "\n[shaping]\npress = " + number_text(shaping.thresholds.press) +
                       "\nrelease = " + number_text(shaping.thresholds.release) + "\n";
    const auto add = [&](std::string_view name, const ResponseCurve& curve, const std::string& more) {
        text += std::string{name} + " = { dead_zone = " + number_text(curve.dead_zone) +
                ", outer_zone = " + number_text(curve.outer_zone) + ", curve = " + number_text(curve.curve) + more +
                " }\n";
    };
    for (std::uint8_t i = 0; i < stick_kinds; ++i) {
        const StickShaping& stick = shaping.sticks[i];
        add(name_of(Stick{i}), stick.response,
            std::string{stick.directions == StickDirections::eight ? ", directions = 8" : ", directions = 4"} +
                (stick.zone == StickShaping::Zone::axial ? ", zone = \"axial\"" : ", zone = \"radial\""));
    }
    for (std::uint8_t i = 0; i < 2; ++i)
        add(name_of(Axis{static_cast<std::uint8_t>(2 * stick_kinds + i)}), shaping.pulls[i].response, "");
    return text;
}

std::string names_text(const std::vector<std::string>& names) {
    std::string all;
    for (const std::string& name : names) all += (all.empty() ? "" : ", ") + toml_text(name);
    return "[" + all + "]";
}

const char* flag_text(bool flag) noexcept { return flag ? "true" : "false"; }

/// The members that differ, one per line.
class Differences {
public:
    void add(bool differs, const char* name, const std::string& value) {
        if (differs) text_ += std::string{name} + " = " + value + "\n";
    }
    void add_span(const char* name, Duration was, Duration is) { add(was != is, name, quoted(span_text_of(is))); }
    const std::string& text() const noexcept { return text_; }

private:
    std::string text_;
};

std::string differences_of(const Action& was, const Action& is) {
    Differences all;
    std::string bindings;
    for (const Binding& binding : is.bindings) {
        const std::string one = binding_text(is.kind, binding);
        bindings += (bindings.empty() ? "" : ", ") + (one.starts_with('{') ? one : quoted(one));
    }
    all.add(was.bindings != is.bindings, "bind", "[" + bindings + "]");
    all.add(was.gesture != is.gesture, "gesture", quoted(name_of(is.gesture)));
    all.add_span("time", was.gesture == is.gesture ? was.gesture_time : usual_time(is.gesture), is.gesture_time);
    all.add_span("min_interval", was.min_interval, is.min_interval);
    all.add_span("buffer", was.buffer, is.buffer);
    all.add_span("debounce", was.debounce, is.debounce);
    all.add(was.opens != is.opens, "opens", quoted(is.opens));
    all.add(was.closes != is.closes, "closes", flag_text(is.closes));
    all.add(was.repeat != is.repeat, "repeat",
            "{ delay = " + quoted(span_text_of(is.repeat.delay)) + ", interval = " +
                quoted(span_text_of(is.repeat.interval)) + ", cap = " + std::to_string(is.repeat.cap) + " }");
    all.add(was.opposed != is.opposed, "opposite", quoted(name_of(is.opposed)));
    all.add(was.directions != is.directions, "directions", std::to_string(is.directions));
    all.add_span("rise", was.rise, is.rise);
    all.add_span("fall", was.fall, is.fall);
    all.add(was.formerly != is.formerly, "formerly", names_text(is.formerly));
    return all.text();
}

template <typename Named>
const Named* named(const std::vector<Named>& all, std::string_view name) {
    const auto found = std::find_if(all.begin(), all.end(), [&](const Named& it) { return it.name == name; });
    return found == all.end() ? nullptr : &*found;
}

}  // namespace

std::string overlay_text(const Profile& shipped, const Profile& changed) {
    Differences of_file;
    of_file.add(changed.title != shipped.title, "title", toml_text(changed.title));
    of_file.add(shipped.shaping && !changed.shaping, "shaping", quoted("none"));
    std::string text = "format = \"cursorum-overlay\"\nversion = 1\n" + of_file.text();
    if (changed.shaping && changed.shaping != shipped.shaping) text += shaping_text(*changed.shaping);
    for (const Mode& is : changed.modes) {
        const Mode* const was = named(shipped.modes, is.name);
        if (!was) continue;
        Differences of_mode;
        of_mode.add(was->covers != is.covers, "covers", flag_text(is.covers));
        of_mode.add(was->pauses != is.pauses, "pauses", flag_text(is.pauses));
        of_mode.add(was->text != is.text, "text", flag_text(is.text));
        of_mode.add(was->formerly != is.formerly, "formerly", names_text(is.formerly));
        if (!of_mode.text().empty()) text += "\n[mode." + key_text(is.name) + "]\n" + of_mode.text();
        for (const Action& action : is.actions) {
            const Action* const before = named(was->actions, action.name);
            if (!before || *before == action) continue;
            text += "\n[mode." + key_text(is.name) + ".action." + key_text(action.name) + "]\n" +
                    differences_of(*before, action);
        }
    }
    return text;
}

}  // namespace cursorum
