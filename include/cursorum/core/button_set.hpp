// A set of buttons, one bit each.
#pragma once

#include <array>
#include <bit>
#include <cstdint>
#include <initializer_list>

#include "cursorum/core/control.hpp"

namespace cursorum {

inline constexpr unsigned button_words = button_capacity / 64;

/// A plain value of 56 bytes. Buttons with numbers of button_capacity or more are never in it.
class ButtonSet {
public:
    using Words = std::array<std::uint64_t, button_words>;

    constexpr ButtonSet() noexcept = default;
    constexpr ButtonSet(std::initializer_list<Button> buttons) noexcept {
        for (const Button button : buttons) insert(button);
    }
    constexpr explicit ButtonSet(const Words& words) noexcept : words_{words} {}

    constexpr bool contains(Button button) const noexcept {
        return button.number < button_capacity && (words_[button.number / 64] >> (button.number % 64) & 1) != 0;
    }
    constexpr void insert(Button button) noexcept {
        if (button.number < button_capacity) words_[button.number / 64] |= std::uint64_t{1} << (button.number % 64);
    }
    constexpr void erase(Button button) noexcept {
        if (button.number < button_capacity) words_[button.number / 64] &= ~(std::uint64_t{1} << (button.number % 64));
    }
    constexpr void toggle(Button button) noexcept {
        if (button.number < button_capacity) words_[button.number / 64] ^= std::uint64_t{1} << (button.number % 64);
    }
    constexpr void set(Button button, bool in) noexcept { in ? insert(button) : erase(button); }
    constexpr bool empty() const noexcept { return *this == ButtonSet{}; }
    constexpr unsigned size() const noexcept {
        unsigned count = 0;
        for (const std::uint64_t word : words_) count += static_cast<unsigned>(std::popcount(word));
        return count;
    }

    /// Bit n of word n / 64 is button n.
    constexpr const Words& words() const noexcept { return words_; }

    /// Always looks at all words: cheaper than stopping at the first that differs, since mostly none does.
    friend constexpr bool operator==(const ButtonSet& a, const ButtonSet& b) noexcept {
        std::uint64_t differing = 0;
        for (unsigned i = 0; i < button_words; ++i) differing |= a.words_[i] ^ b.words_[i];
        return differing == 0;
    }
    friend constexpr ButtonSet operator|(const ButtonSet& a, const ButtonSet& b) noexcept {
        ButtonSet result;
        for (unsigned i = 0; i < button_words; ++i) result.words_[i] = a.words_[i] | b.words_[i];
        return result;
    }
    friend constexpr ButtonSet operator&(const ButtonSet& a, const ButtonSet& b) noexcept {
        ButtonSet result;
        for (unsigned i = 0; i < button_words; ++i) result.words_[i] = a.words_[i] & b.words_[i];
        return result;
    }
    /// What is in `a` and not in `b`.
    friend constexpr ButtonSet operator-(const ButtonSet& a, const ButtonSet& b) noexcept {
        ButtonSet result;
        for (unsigned i = 0; i < button_words; ++i) result.words_[i] = a.words_[i] & ~b.words_[i];
        return result;
    }

    /// Calls `visit(Button)` for each button in the set, by number; cost: proportional to the buttons in it.
    template <typename Visit>
    constexpr void for_each(Visit&& visit) const {
        for (unsigned i = 0; i < button_words; ++i)
            for (std::uint64_t rest = words_[i]; rest != 0; rest &= rest - 1)
                visit(Button{static_cast<std::uint16_t>(i * 64 + static_cast<unsigned>(std::countr_zero(rest)))});
    }

private:
    Words words_{};
};

/// The buttons that a name stands for: for Shift, Control, Alt or Meta its two keys, for any other button itself.
constexpr ButtonSet physical_buttons(Button button) noexcept {
    if (button.number < first_either_side) return {button};
    // HID usages 0xE0 to 0xE7: the left keys in the order of the names' numbers, then the right ones.
    const auto left = static_cast<std::uint16_t>(0xE0 + button.number - first_either_side);
    return {Button{left}, Button{static_cast<std::uint16_t>(left + 4)}};
}

}  // namespace cursorum
