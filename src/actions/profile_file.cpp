// Profiles as TOML: one reader for loading (which stops at the first fault) and checking (which lists all of them), and
// the writer. Every fault has its file and line, what was found, what was expected, and the near name.
#include "cursorum/actions/profile_file.hpp"

#include <algorithm>
#include <array>
#include <span>
#include <vector>

#include "actions/binding_reading.hpp"
#include "actions/finding.hpp"
#include "actions/profile_lines.hpp"
#include "actions/toml_keys.hpp"
#include "actions/toml_values.hpp"
#include "cursorum/actions/binding_text.hpp"

namespace cursorum {

std::string ProfileError::message() const {
    std::string text = file + (line != 0 ? ":" + std::to_string(line) : "") + ": found " + found;
    if (!expected.empty()) text += "; expected " + expected;
    if (!hint.empty()) text += "; " + hint;
    return text;
}

namespace {

using detail::found_text;
using detail::ProfileLines;
using detail::quoted;

/// Reads a TOML tree into a profile and finds all its errors. An overlay names modes and actions that already exist. A
/// function that returns false has added an error; the caller continues with the next element.
class Reading : public detail::BindingReading {
public:
    /// `dropped`: elements of an overlay that do not fit the profile are left out and listed there instead of being
    /// errors.
    Reading(Profile& profile, bool is_overlay, std::vector<ProfileError>& errors, ProfileLines& lines,
            std::vector<ProfileError>* dropped = nullptr)
        : BindingReading{errors}, profile_{profile}, is_overlay_{is_overlay}, lines_{lines}, dropped_{dropped} {}

    bool read(const toml::table& root) {
        const std::string_view format = is_overlay_ ? "cursorum-overlay" : "cursorum-profile";
        bool ok = known_members(root, std::array<std::string_view, 5>{"format", "version", "title", "mode", "shaping"});
        const toml::node* const given = root.get("format");
        if (!given) return fail(root, "no \"format\"", "format = " + quoted(format));
        if (given->value_exact<std::string>() != format) return fail(*given, found_text(*given), quoted(format));
        const toml::node* const version = root.get("version");
        if (!version) return fail(root, "no \"version\"", "version = 1");
        if (version->value_exact<std::int64_t>() != 1) return fail(*version, found_text(*version), "1");
        if (const toml::node* title = root.get("title")) ok &= text_of(*title, profile_.title);
        if (const toml::node* shaping = root.get("shaping")) ok &= read_shaping(*shaping);
        const toml::table* modes = nullptr;
        if (!root.contains("mode") && is_overlay_) return ok;
        if (!table_of(root, "mode", modes)) return false;
        for (const Entry& entry : in_file_order(*modes)) {
            if (has_too_many_faults())
                return fail(*entry.node, "more than " + std::to_string(most_faults) + " faults before this line",
                            "a file with hardly any; the rest was not looked at");
            ok &= read_mode(entry.name, *entry.node);
        }
        if (!ok) return false;
        if (const auto problem = profile_.problem()) return fail(*place_of(*problem, root), *problem, "");
        return true;
    }

private:
    struct Entry {
        std::string_view name;
        const toml::node* node;
    };

    static constexpr std::size_t most_faults = 1000;
    bool has_too_many_faults() const { return errors_.size() + (dropped_ ? dropped_->size() : 0) >= most_faults; }

    /// The mode or action that a problem of the whole profile names first.
    const toml::node* place_of(const std::string& problem, const toml::node& otherwise) const {
        const toml::node* place = &otherwise;
        std::size_t first = problem.npos;
        for (const auto& [name, node] : places_) {
            const std::size_t at = problem.find(quoted(name));
            if (at >= first) continue;
            first = at;
            place = node;
        }
        return place;
    }

    // TOML's tables are sorted by name here; a profile keeps the order its author chose.
    static std::vector<Entry> in_file_order(const toml::table& table) {
        std::vector<Entry> entries;
        for (const auto& [key, node] : table) entries.push_back({key.str(), &node});
        std::stable_sort(entries.begin(), entries.end(), [](const Entry& a, const Entry& b) {
            const auto &left = a.node->source().begin, &right = b.node->source().begin;
            return left.line != right.line ? left.line < right.line : left.column < right.column;
        });
        return entries;
    }

    bool read_shaping(const toml::node& node) {
        if (is_overlay_ && node.value_exact<std::string>() == "none") {
            profile_.shaping.reset();
            return true;
        }
        const toml::table* const table = node.as_table();
        if (!table)
            return fail(node, found_text(node), is_overlay_ ? "a table [shaping], or \"none\"" : "a table [shaping]");
        bool ok = known_members(*table, std::array<std::string_view, 6>{
                                            "press", "release", name_of(Stick{0}), name_of(Stick{1}),
                                            name_of(Axis{2 * stick_kinds}), name_of(Axis{2 * stick_kinds + 1})});
        DeviceShaping& shaping = profile_.shaping ? *profile_.shaping : profile_.shaping.emplace();
        const auto number = [&](const toml::table& of, const char* name, double& value) {
            if (const toml::node* given = of.get(name)) ok &= number_of(*given, 0, 1, value);
        };
        number(*table, "press", shaping.thresholds.press);
        number(*table, "release", shaping.thresholds.release);
        const auto response = [&](std::string_view name, ResponseCurve& curve, StickShaping* stick) {
            const toml::node* const given = table->get(name);
            if (!given) return;
            const toml::table* const of = given->as_table();
            if (!of) {
                ok = fail(*given, found_text(*given),
                          "a table such as { dead_zone = 0.15, outer_zone = 0.05, curve = 0 }");
                return;
            }
            static constexpr std::array<std::string_view, 5> members{"dead_zone", "outer_zone", "curve", "directions",
                                                                     "zone"};
            ok &= known_members(*of, std::span{members}.first(stick ? 5 : 3));
            number(*of, "dead_zone", curve.dead_zone);
            number(*of, "outer_zone", curve.outer_zone);
            number(*of, "curve", curve.curve);
            if (const toml::node* zone = stick ? of->get("zone") : nullptr) {
                const auto zone_name = zone->value_exact<std::string>();
                if (zone_name != "radial" && zone_name != "axial")
                    ok = fail(*zone, found_text(*zone), "\"radial\" or \"axial\"");
                else
                    stick->zone = zone_name == "axial" ? StickShaping::Zone::axial : StickShaping::Zone::radial;
            }
            if (const toml::node* directions = stick ? of->get("directions") : nullptr) {
                const auto count = directions->value_exact<std::int64_t>();
                if (count != 4 && count != 8)
                    ok = fail(*directions, found_text(*directions), "4 or 8");
                else
                    stick->directions = count == 8 ? StickDirections::eight : StickDirections::four;
            }
        };
        for (std::uint8_t i = 0; i < stick_kinds; ++i)
            response(name_of(Stick{i}), shaping.sticks[i].response, &shaping.sticks[i]);
        for (std::uint8_t i = 0; i < 2; ++i)
            response(name_of(Axis{static_cast<std::uint8_t>(2 * stick_kinds + i)}), shaping.pulls[i].response, nullptr);
        if (ok && !shaping.is_valid())
            ok = fail(node, "a shaping that no device can have",
                      "dead_zone + outer_zone below 1, curve 0 to 1, release less than press");
        return ok;
    }

    bool read_mode(std::string_view name, const toml::node& node) {
        const toml::table* const table = node.as_table();
        places_.emplace_back(name, &node);
        lines_.emplace_back(name, node.source().begin.line);
        if (!table) return fail(node, found_text(node), "a table [mode." + std::string{name} + "]");
        bool ok =
            known_members(*table, std::array<std::string_view, 5>{"covers", "pauses", "text", "action", "formerly"});
        Mode* mode = nullptr;
        std::vector<std::string_view> names;
        for (Mode& known : profile_.modes) {
            names.push_back(known.name);
            if (known.name == name || (is_overlay_ && !mode && had_name(known.formerly, name))) mode = &known;
        }
        if (!mode && is_overlay_) {
            fail(node, "the mode " + quoted(name), "a mode that the profile has", did_you_mean(name, names));
            return drop_from(errors_.size() - 1);
        }
        if (!mode && profile_.modes.size() == mode_capacity)
            return std::exchange(has_too_many_modes_, true)
                       ? false
                       : fail(node, "more than " + std::to_string(mode_capacity) + " modes",
                              "at most " + std::to_string(mode_capacity));
        if (!mode) {
            profile_.modes.push_back({.name = std::string{name}});
            mode = &profile_.modes.back();
        }
        if (const toml::node* covers = table->get("covers")) ok &= flag_of(*covers, mode->covers);
        if (const toml::node* pauses = table->get("pauses")) ok &= flag_of(*pauses, mode->pauses);
        if (const toml::node* text = table->get("text")) ok &= flag_of(*text, mode->text);
        if (const toml::node* names_before = table->get("formerly")) ok &= names_of(*names_before, mode->formerly);
        if (!table->contains("action")) return ok;
        const toml::table* actions = nullptr;
        if (!table_of(*table, "action", actions)) return false;
        for (const Entry& entry : in_file_order(*actions)) {
            if (has_too_many_faults()) return false;
            const std::size_t known_errors = errors_.size();
            ok &= read_action(*mode, entry.name, *entry.node) || drop_from(known_errors);
        }
        return ok;
    }

    bool read_action(Mode& mode, std::string_view name, const toml::node& node) {
        const toml::table* const table = node.as_table();
        places_.emplace_back(mode.name + "." + std::string{name}, &node);
        lines_.emplace_back(places_.back().first, node.source().begin.line);
        if (!table) return fail(node, found_text(node), "a table");
        if (++action_count_ > action_capacity)
            return action_count_ == action_capacity + 1 &&
                   fail(node, "more than " + std::to_string(action_capacity) + " actions",
                        "at most " + std::to_string(action_capacity) + " in all modes together");
        Action* action = nullptr;
        std::vector<std::string_view> names;
        for (Action& known : mode.actions) {
            names.push_back(known.name);
            if (known.name == name || (is_overlay_ && !action && had_name(known.formerly, name))) action = &known;
        }
        if (!action && is_overlay_)
            return fail(node, "the action " + quoted(name), "an action that the profile's mode has",
                        did_you_mean(name, names));
        if (!action) {
            mode.actions.push_back({.name = std::string{name}});
            action = &mode.actions.back();
            const toml::node* const kind = table->get("kind");
            if (!kind) return fail(node, "no \"kind\"", "kind = \"button\", \"axis\" or \"vector\"");
            if (!choice_of(*kind, ActionKind::vector, action->kind)) return false;
        } else if (const toml::node* kind = table->get("kind")) {
            return fail(*kind, "a \"kind\"", "none: an overlay changes no kind");
        }
        const Action before = *action;
        if (read_whole_action(*action, *table, node)) return true;
        if (dropped_) *action = before;
        return false;
    }
    bool read_whole_action(Action& action, const toml::table& table, const toml::node& node) {
        if (!read_members(action, table)) return false;
        const std::string problem = detail::problem_of(action);
        if (!problem.empty())
            return fail(node, "the action " + quoted(places_.back().first) + " with " + problem,
                        "settings that fit its kind");
        if (is_overlay_ && !action.opens.empty() && !has_mode(action.opens))
            return fail(*table.get("opens"), "the mode " + quoted(action.opens), "a mode that the profile has");
        return true;
    }
    bool has_mode(std::string_view name) const {
        return std::any_of(profile_.modes.begin(), profile_.modes.end(),
                           [name](const Mode& mode) { return mode.name == name; });
    }

    static bool had_name(const std::vector<std::string>& names, std::string_view name) {
        return std::find(names.begin(), names.end(), name) != names.end();
    }
    bool names_of(const toml::node& node, std::vector<std::string>& names) {
        const toml::array* const list = node.as_array();
        if (!list) return fail(node, found_text(node), "an array of names");
        bool ok = true;
        names.clear();
        for (const toml::node& name : *list) ok &= text_of(name, names.emplace_back());
        return ok;
    }
    /// Moves the errors from `first` on to the dropped ones. Returns false if nothing may be dropped.
    bool drop_from(std::size_t first) {
        if (!dropped_) return false;
        dropped_->insert(dropped_->end(), errors_.begin() + static_cast<std::ptrdiff_t>(first), errors_.end());
        errors_.resize(first);
        return true;
    }

    bool read_members(Action& action, const toml::table& table) {
        static constexpr std::array<std::string_view, 11> of_button{"kind",  "bind",         "repeat",  "gesture",
                                                                    "time",  "min_interval", "buffer",  "debounce",
                                                                    "opens", "closes",       "formerly"};
        static constexpr std::array<std::string_view, 7> of_others{"kind", "bind",     "opposite",  "rise",
                                                                   "fall", "formerly", "directions"};
        bool ok =
            known_members(table, action.kind == ActionKind::button ? std::span<const std::string_view>{of_button}
                                                                   : std::span<const std::string_view>{of_others});
        const auto member = [&](const char* name, auto&& read) {
            if (const toml::node* const node = table.get(name)) ok &= read(*node);
        };
        if (action.kind == ActionKind::button) {
            member("repeat", [&](const toml::node& node) { return read_repeat(node, action.repeat); });
            member("opens", [&](const toml::node& node) { return text_of(node, action.opens); });
            member("closes", [&](const toml::node& node) { return flag_of(node, action.closes); });
            ok &= read_gesture(action, table);
        } else {
            member("opposite",
                   [&](const toml::node& node) { return choice_of(node, WhenOpposed::first, action.opposed); });
            member("rise", [&](const toml::node& node) { return span_of(node, true, action.rise); });
            member("fall", [&](const toml::node& node) { return span_of(node, true, action.fall); });
            member("directions", [&](const toml::node& node) {
                const auto count = node.value_exact<std::int64_t>();
                if (action.kind != ActionKind::vector || !count || (*count != 0 && *count != 4 && *count != 8))
                    return fail(node, found_text(node), "4 or 8, of a vector, or 0 for any direction");
                action.directions = static_cast<std::uint8_t>(*count);
                return true;
            });
        }
        member("formerly", [&](const toml::node& node) { return names_of(node, action.formerly); });
        const toml::node* const bind = table.get("bind");
        if (!bind) return (is_overlay_ || fail(table, "no \"bind\"", "bind = [...], which may be empty")) && ok;
        const toml::array* const list = bind->as_array();
        if (!list) return fail(*bind, found_text(*bind), "an array of bindings");
        action.bindings.clear();
        for (const toml::node& node : *list) {
            action.bindings.emplace_back();
            ok &= read_binding(action.kind, node, action.bindings.back());
        }
        return ok;
    }

    bool read_gesture(Action& action, const toml::table& table) {
        if (const toml::node* gesture = table.get("gesture")) {
            if (!choice_of(*gesture, Gesture::release, action.gesture)) return false;
            action.gesture_time = usual_time(action.gesture);
        }
        if (const toml::node* time = table.get("time")) {
            if (usual_time(action.gesture) == Duration{})
                return fail(*time, "a \"time\"", "none: only tap, long_press and double_tap have one");
            if (!span_of(*time, false, action.gesture_time)) return false;
        }
        const auto optional_span = [&](const char* name, Duration& span) {
            const toml::node* const given = table.get(name);
            return !given || span_of(*given, true, span);
        };
        return optional_span("min_interval", action.min_interval) & optional_span("buffer", action.buffer) &
               optional_span("debounce", action.debounce);
    }

    bool read_repeat(const toml::node& node, Repeat& repeat) {
        const toml::table* const table = node.as_table();
        if (!table)
            return fail(node, found_text(node), "a table such as { delay = \"400ms\", interval = \"60ms\", cap = 2 }");
        if (!known_members(*table, std::array<std::string_view, 3>{"delay", "interval", "cap"})) return false;
        if (const toml::node* delay = table->get("delay"); delay && !span_of(*delay, false, repeat.delay)) return false;
        if (const toml::node* interval = table->get("interval");
            interval && !span_of(*interval, false, repeat.interval))
            return false;
        if (const toml::node* cap = table->get("cap")) {
            const auto number = cap->value_exact<std::int64_t>();
            if (!number || *number < 0 || *number > detail::greatest_cap)
                return fail(*cap, found_text(*cap), "a whole number from 0 (no cap) to 1000000");
            repeat.cap = static_cast<std::uint32_t>(*number);
        }
        return true;
    }

    Profile& profile_;
    bool is_overlay_;
    ProfileLines& lines_;
    std::vector<ProfileError>* dropped_;
    std::vector<std::pair<std::string, const toml::node*>> places_;  // of modes and actions
    std::size_t action_count_ = 0;
    bool has_too_many_modes_ = false;
};

// Errors that make the whole text unreadable.
bool try_parse(std::string_view text, std::string_view name, toml::table& root, ProfileError& error) {
    if (text.size() > profile_text_capacity) {
        error.found = "a text of " + std::to_string(text.size()) + " bytes";
        error.expected = "at most " + std::to_string(profile_text_capacity);
        return false;
    }
    if (text.starts_with('{')) {
        error.line = 1;
        error.found = "an object of JSON";
        error.expected = "a profile or an overlay, in TOML";
        error.hint = "is this a recording?";
        return false;
    }
    if (const auto bad = find_bad_key(text)) {
        error.line = bad->line;
        if (bad->fault == BadKey::Fault::depth) {
            error.found = "arrays and tables nested too deeply";
            error.expected = "at most " + std::to_string(toml_depth) + " levels";
            return false;
        }
        if (bad->fault == BadKey::Fault::continuation) {
            error.found = quoted(bad->found) + " after a backslash in a text of several lines";
            error.expected = "an escape such as \\n, or a line that begins with a letter from a to z";
            return false;
        }
        error.found = quoted(bad->found) + " where a name should begin";
        error.expected = "a name of letters a to z, digits, underscores and hyphens";
        error.hint = "put other names in quotes";
        return false;
    }
    try {
        root = toml::parse(text, name);
        return true;
    } catch (const toml::parse_error& e) {
        error.line = e.source().begin.line;
        error.found = e.description();
        error.expected = "TOML 1.0";
        return false;
    } catch (const TomlFault&) {
        error.found = "a text that the TOML reader does not understand";
        error.expected = "TOML 1.0";
        error.hint = "look for brackets that do not match";
        return false;
    }
}

}  // namespace

namespace detail {

std::vector<ProfileError> read_profile_file(Profile& profile, bool is_overlay, std::string_view text,
                                            std::string_view name, ProfileLines& lines,
                                            std::vector<ProfileError>* dropped) {
    std::vector<ProfileError> errors;
    ProfileError fatal;
    toml::table root;
    if (!try_parse(text, name, root, fatal))
        errors.push_back(std::move(fatal));
    else
        Reading{profile, is_overlay, errors, lines, dropped}.read(root);
    for (ProfileError& error : errors) error.file = name;
    for (std::size_t i = 0; dropped && i < dropped->size(); ++i) (*dropped)[i].file = name;
    return errors;
}

}  // namespace detail

namespace {

bool read_into(Profile& profile, bool is_overlay, std::string_view text, std::string_view name, ProfileError& error,
               std::vector<ProfileError>* dropped = nullptr) {
    detail::ProfileLines lines;
    auto errors = detail::read_profile_file(profile, is_overlay, text, name, lines, dropped);
    error = {};
    error.file = name;
    if (!errors.empty()) error = std::move(errors.front());
    return errors.empty();
}

}  // namespace

std::optional<Profile> read_profile(std::string_view text, std::string_view name, ProfileError& error) {
    Profile profile;
    if (!read_into(profile, false, text, name, error)) return std::nullopt;
    return profile;
}

std::optional<Profile> load_profile(const std::string& path, ProfileError& error) {
    std::string why;
    const std::optional<std::string> text = read_file_whole(path, why);
    if (text) return read_profile(*text, path, error);
    error = {};
    error.file = path;
    // Of "PATH: found a folder; expected a file", or "PATH: cannot be read: No such file or directory".
    const std::string problem = why.substr(path.size() + 2);
    error.found = problem.starts_with("found ") ? problem.substr(6, problem.find(';') - 6) : "a file that " + problem;
    error.expected = "a profile";
    return std::nullopt;
}

bool apply_overlay(Profile& profile, std::string_view text, std::string_view name, ProfileError& error) {
    Profile changed = profile;
    if (!read_into(changed, true, text, name, error)) return false;
    profile = std::move(changed);
    return true;
}

bool apply_overlay(Profile& profile, std::string_view text, std::string_view name, ProfileError& error,
                   std::vector<ProfileError>& dropped) {
    dropped.clear();
    Profile changed = profile;
    if (!read_into(changed, true, text, name, error, &dropped)) return false;
    profile = std::move(changed);
    return true;
}

std::optional<Binding> parse_binding(ActionKind kind, std::string_view text, std::string* why) {
    const bool is_table = text.starts_with('{');
    ProfileError error;
    toml::table root;
    Binding binding;
    const std::string line = "binding = " + (is_table ? std::string{text} : quoted(text));
    bool ok = try_parse(line, {}, root, error);
    if (ok) {
        Profile none;
        std::vector<ProfileError> errors;
        detail::ProfileLines lines;
        ok = root.size() == 1 && Reading{none, false, errors, lines}.read_binding(kind, *root.get("binding"), binding);
        if (!errors.empty()) error = errors.front();
    }
    if (ok) return binding;
    if (why) {
        *why = "found " + (error.found.empty() ? quoted(text) : error.found);
        if (!error.expected.empty()) *why += "; expected " + error.expected;
        if (!error.hint.empty()) *why += "; " + error.hint;
    }
    return std::nullopt;
}

}  // namespace cursorum
