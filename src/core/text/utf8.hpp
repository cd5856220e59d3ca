// Well-formed UTF-8, for names, symbols and what is typed.
#pragma once

#include <cstddef>
#include <string_view>

namespace cursorum::detail {

/// The length of the well-formed character at the beginning of a text that is not empty; 0 if there is none: no
/// overlong forms, no surrogates, nothing beyond U+10FFFF (the Unicode Standard, table 3-7).
inline std::size_t character_length(std::string_view text) noexcept {
    const auto byte = [&](std::size_t i) { return i < text.size() ? static_cast<unsigned char>(text[i]) : 0U; };
    const unsigned first = byte(0), second = byte(1);
    if (first < 0x80) return 1;
    const std::size_t length = first >= 0xF0 ? 4 : first >= 0xE0 ? 3 : 2;
    const unsigned least = first == 0xE0 ? 0xA0 : first == 0xF0 ? 0x90 : 0x80;
    const unsigned most = first == 0xED ? 0x9F : first == 0xF4 ? 0x8F : 0xBF;
    if (first < 0xC2 || first > 0xF4 || second < least || second > most) return 0;
    for (std::size_t i = 2; i < length; ++i)
        if ((byte(i) & 0xC0) != 0x80) return 0;
    return length;
}

inline bool is_utf8(std::string_view text) noexcept {
    while (!text.empty()) {
        const std::size_t length = character_length(text);
        if (length == 0) return false;
        text.remove_prefix(length);
    }
    return true;
}

}  // namespace cursorum::detail
