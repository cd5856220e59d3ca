// The nesting depth of a JSON text, checked before a recursive parser reads it: a line of a million brackets must be an
// error, not the end of the stack.
#pragma once

#include <cstddef>
#include <string_view>

namespace cursorum::detail {

/// A line of a recording is two levels deep, and one of frames four. Anything deeper is neither, and must not fill the
/// stack.
inline constexpr unsigned deepest = 32;

inline bool is_too_deep(std::string_view text) {
    unsigned depth = 0;
    bool in_text = false;
    for (std::size_t i = 0; i < text.size(); ++i) {
        const char c = text[i];
        if (in_text) {
            if (c == '\\') ++i;
            in_text = c != '"';
        } else if (c == '"') {
            in_text = true;
        } else if (c == '[' || c == '{') {
            if (++depth > deepest) return true;
        } else if (c == ']' || c == '}') {
            depth -= depth > 0;
        }
    }
    return false;
}

}  // namespace cursorum::detail
