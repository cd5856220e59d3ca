// Formats text for a terminal: arguments are foreign text unless their type says otherwise, and control characters in
// them are shown, never sent.
#pragma once

#include <fmt/format.h>

#include <string>
#include <string_view>
#include <type_traits>
#include <utility>

#include "cursorum/views/text.hpp"

namespace cursorum {

class TerminalTextMaker {
public:
    static TerminalText trust(std::string text) {
        TerminalText result;
        result.text_ = std::move(text);
        return result;
    }

    /// Numbers are unchanged; texts are made harmless.
    template <typename Value>
    static auto argument(const Value& value) {
        if constexpr (std::is_same_v<Value, TerminalText>)
            return std::string_view{value};
        else if constexpr (std::is_convertible_v<const Value&, std::string_view>)
            return TerminalText::of(value).string();
        else if constexpr (std::is_same_v<Value, char>)
            return TerminalText::of({&value, 1}).string();
        else {
            static_assert(std::is_arithmetic_v<Value>, "make a text of it first");
            return value;
        }
    }
};

template <typename... Values>
using ShownFormat =
    fmt::format_string<decltype(TerminalTextMaker::argument(std::declval<const std::type_identity_t<Values>&>()))...>;

/// As fmt::format(), for a terminal.
template <typename... Values>
TerminalText shown(std::type_identity_t<ShownFormat<Values...>> format, const Values&... values) {
    return TerminalTextMaker::trust(fmt::format(format, TerminalTextMaker::argument(values)...));
}

}  // namespace cursorum
