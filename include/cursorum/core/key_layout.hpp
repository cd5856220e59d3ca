// What is printed on the keys in the present layout.
#pragma once

#include <array>
#include <cstdint>
#include <string_view>

#include "cursorum/core/control.hpp"
#include "cursorum/core/export.hpp"

namespace cursorum {

/// The symbols of a keyboard's writing keys. Keys are known by position, whatever is printed on them: use a layout to
/// show a key as the person sees it, or to bind a symbol ("z") instead of a position.
///
///     const KeyLayout& layout = x11->key_layout();
///     layout.symbol_of(KeyZ);       // "z", or "y" on a German keyboard
///     layout.key_of("z");           // KeyZ, or KeyY
///
/// A plain value of about 1 KB; it allocates nothing.
class CURSORUM_API KeyLayout {
public:
    /// The layout that keys are named after: KeyZ has "z", Digit1 "1", Minus "-".
    KeyLayout() noexcept;
    /// A layout in which no key has a symbol, to be filled in by set().
    static KeyLayout empty() noexcept;

    /// Returns the symbol without modifiers, in UTF-8; empty if the key has none or is not a writing key. It is valid
    /// until the layout changes.
    std::string_view symbol_of(Button key) const noexcept;
    /// Returns the key with that symbol, the one with the lowest number if there are several; letters a to z in either
    /// case. No button if there is none.
    Button key_of(std::string_view symbol) const noexcept;
    /// Sets a key's symbol; an empty one removes it. Returns false and changes nothing if the key is not a writing key
    /// (see is_writing_key), or the symbol is longer than 7 bytes.
    bool set(Button key, std::string_view symbol) noexcept;

    /// Letters, digits, signs and the space bar of the main block, and the keys that only some keyboards have there:
    /// those whose symbol depends on the layout.
    static bool is_writing_key(Button key) noexcept;

    friend bool operator==(const KeyLayout&, const KeyLayout&) = default;

private:
    static constexpr unsigned key_count = 0x8A;  // up to IntlYen
    std::array<std::array<char, 8>, key_count> symbols_{};
};

}  // namespace cursorum
