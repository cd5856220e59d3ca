// What is printed on the keys in the present layout: symbols of up to seven bytes in one table, found by key or by
// symbol.
#include "cursorum/core/key_layout.hpp"

#include <algorithm>

#include "cursorum/core/controls.hpp"

namespace cursorum {
namespace {

using namespace controls;

struct Sign {
    Button key;
    std::string_view symbol;
};
constexpr Sign signs[] = {{Minus, "-"},      {Equal, "="},     {BracketLeft, "["}, {BracketRight, "]"},
                          {Backslash, "\\"}, {Semicolon, ";"}, {Quote, "'"},       {Backquote, "`"},
                          {Comma, ","},      {Period, "."},    {Slash, "/"},       {Space, " "}};
constexpr Button of_some_keyboards[] = {IntlBackslash, IntlRo, IntlYen};

constexpr bool is_letter(Button key) noexcept { return key.number >= KeyA.number && key.number <= KeyZ.number; }
constexpr bool is_digit(Button key) noexcept { return key.number >= Digit1.number && key.number <= Digit0.number; }

constexpr char lower_case_of(char c) noexcept { return c >= 'A' && c <= 'Z' ? static_cast<char>(c - 'A' + 'a') : c; }

}  // namespace

KeyLayout::KeyLayout() noexcept {
    for (std::uint16_t i = 0; i < 26; ++i) {
        const char letter = static_cast<char>('a' + i);
        set({static_cast<std::uint16_t>(KeyA.number + i)}, {&letter, 1});
    }
    for (std::uint16_t i = 0; i < 10; ++i) {
        const char digit = static_cast<char>('0' + (i + 1) % 10);
        set({static_cast<std::uint16_t>(Digit1.number + i)}, {&digit, 1});
    }
    for (const Sign& sign : signs) set(sign.key, sign.symbol);
}

KeyLayout KeyLayout::empty() noexcept {
    KeyLayout layout;
    layout.symbols_ = {};
    return layout;
}

std::string_view KeyLayout::symbol_of(Button key) const noexcept {
    return is_writing_key(key) ? std::string_view{symbols_[key.number].data()} : std::string_view{};
}

Button KeyLayout::key_of(std::string_view symbol) const noexcept {
    if (symbol.empty()) return {};
    const auto same = [](char a, char b) { return lower_case_of(a) == lower_case_of(b); };
    for (std::uint16_t number = 0; number < key_count; ++number) {
        const std::string_view its = symbol_of({number});
        if (std::equal(its.begin(), its.end(), symbol.begin(), symbol.end(), same)) return {number};
    }
    return {};
}

bool KeyLayout::set(Button key, std::string_view symbol) noexcept {
    if (!is_writing_key(key) || symbol.size() >= symbols_[0].size()) return false;
    std::array<char, 8>& its = symbols_[key.number];
    its = {};
    std::copy(symbol.begin(), symbol.end(), its.begin());
    return true;
}

bool KeyLayout::is_writing_key(Button key) noexcept {
    const auto is_key = [key](const Sign& sign) { return sign.key == key; };
    return is_letter(key) || is_digit(key) || std::any_of(std::begin(signs), std::end(signs), is_key) ||
           std::find(std::begin(of_some_keyboards), std::end(of_some_keyboards), key) != std::end(of_some_keyboards);
}

}  // namespace cursorum
