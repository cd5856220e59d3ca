// Values of a TOML tree, each with an error that says what was found and what was expected. For the reader of profiles;
// it knows no member's name.
#pragma once

// The TOML reader asserts on some faults of a file, in place of reporting them. Here those are faults of the file too,
// in every build (the build system compiles profile_file.cpp without NDEBUG, which would leave the assertions out).
namespace cursorum {
struct TomlFault {};
inline void report_toml_fault() { throw TomlFault{}; }
}  // namespace cursorum
#define TOML_ASSERT(condition) ((condition) ? static_cast<void>(0) : cursorum::report_toml_fault())
#include <toml++/toml.h>
#include <algorithm>
#include <array>
#include <span>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "actions/finding.hpp"
#include "cursorum/actions/profile_file.hpp"
#include "cursorum/actions/span_text.hpp"
#include "cursorum/core/near_name.hpp"

namespace cursorum::detail {

/// The value found, for a message.
inline std::string found_text(const toml::node& node) {
    if (const auto text = node.value_exact<std::string>()) return quoted(*text);
    if (const auto number = node.value_exact<std::int64_t>()) return std::to_string(*number);
    if (const auto truth = node.value_exact<bool>()) return *truth ? "true" : "false";
    switch (node.type()) {
        case toml::node_type::table: return "a table";
        case toml::node_type::array: return "an array";
        case toml::node_type::floating_point: return "a number";
        default: return "a date or time";
    }
}

/// Reads values and adds an error for each unexpected one. A function that returns false has added one; the caller
/// continues with the next value.
class TomlValues {
public:
    explicit TomlValues(std::vector<ProfileError>& errors) : errors_{errors} {}

protected:
    bool fail(const toml::node& at, std::string found, std::string expected, std::string hint = {}) {
        errors_.push_back({{}, at.source().begin.line, std::move(found), std::move(expected), std::move(hint)});
        return false;
    }

    // TOML's tables are sorted by name here; a profile keeps the order its author chose.
    bool known_members(const toml::table& table, std::span<const std::string_view> names) {
        bool ok = true;
        for (const auto& [key, node] : table) {
            if (std::find(names.begin(), names.end(), key.str()) != names.end()) continue;
            std::string expected = "one of";
            for (const std::string_view name : names)
                expected += (name == names.front() ? " " : ", ") + std::string{name};
            ok = fail(node, "the member " + quoted(key.str()), expected, did_you_mean(key.str(), names));
        }
        return ok;
    }
    static std::string did_you_mean(std::string_view found, std::span<const std::string_view> names) {
        const std::string_view near = near_name(found, names);
        return near.empty() ? std::string{} : "did you mean " + std::string{near} + "?";
    }

    bool text_of(const toml::node& node, std::string& text) {
        const auto found = node.value_exact<std::string>();
        if (!found) return fail(node, found_text(node), "a text");
        text = *found;
        return true;
    }
    bool table_of(const toml::table& parent, std::string_view name, const toml::table*& table) {
        const toml::node* const node = parent.get(name);
        if (!node) return fail(parent, "no " + quoted(name), "tables such as [mode.crane.action.lock]");
        table = node->as_table();
        return table || fail(*node, found_text(*node), "a table");
    }
    bool number_of(const toml::node& node, double least, double most, double& number) {
        const auto found = node.value<double>();
        if (node.is_number() && found && *found >= least && *found <= most) {
            number = *found;
            return true;
        }
        std::string what = node.is_number() && found ? std::to_string(*found) : found_text(node);
        return fail(node, what, "a number from " + std::to_string(least) + " to " + std::to_string(most));
    }
    bool span_of(const toml::node& node, bool may_be_zero, Duration& span) {
        const auto text = node.value_exact<std::string>();
        const auto found = text ? parse_span(*text) : std::nullopt;
        if (found && (may_be_zero || found->count() > 0)) {
            span = *found;
            return true;
        }
        return fail(node, found_text(node), may_be_zero ? "a time" : "a time above 0", "such as \"250ms\" or \"0.5s\"");
    }
    bool flag_of(const toml::node& node, bool& flag) {
        const auto found = node.value_exact<bool>();
        if (!found) return fail(node, found_text(node), "true or false");
        flag = *found;
        return true;
    }
    template <typename Choice>
    bool choice_of(const toml::node& node, Choice last, Choice& choice) {
        std::string expected;
        std::vector<std::string_view> names;
        const auto text = node.value_exact<std::string>();
        for (unsigned i = 0; i <= static_cast<unsigned>(last); ++i) {
            names.push_back(name_of(static_cast<Choice>(i)));
            expected += (i == 0 ? "" : ", ") + quoted(names.back());
            if (text == names.back()) {
                choice = static_cast<Choice>(i);
                return true;
            }
        }
        return fail(node, found_text(node), "one of " + expected, text ? did_you_mean(*text, names) : "");
    }

    std::vector<ProfileError>& errors_;
};

}  // namespace cursorum::detail
