// An inlet's data about one button on one device, in 32 bits: its level, its hold's number, and what kind of button it
// is, so that posting looks at one word.
#pragma once

#include <cstdint>

namespace cursorum::detail {

/// One button on one device, in 32 bits: 16 bits the number of its hold, then its level, then what its control is.
struct Cell {
    std::uint32_t bits;

    /// Instead of a hold's number: the button was never down, or its hold has been given to another button since.
    static constexpr std::uint32_t never_held = 0xFFFF, hold_lost = 0xFFFE;
    static constexpr std::uint32_t down_bit = 0x1'0000, pressed_bit = 0x2'0000;
    /// What a control is: 0 if no device can have it, 1 a plain button, 2 to 5 one with an either-side name, then a
    /// mouse button, then one that is made of axes.
    static constexpr unsigned trait_shift = 24, plain_button = 1, either_side = 2, mouse_button = 6, of_axes = 7;

    constexpr unsigned hold() const noexcept { return bits & 0xFFFFU; }
    constexpr bool is_down() const noexcept { return (bits & down_bit) != 0; }
    constexpr bool is_pressed() const noexcept { return (bits & pressed_bit) != 0; }
    constexpr unsigned trait() const noexcept { return bits >> trait_shift; }
    /// A plain button that has a hold and whose level is about to become `down`. (Hold numbers are below 512.)
    constexpr bool is_usual(bool down) const noexcept {
        return (bits & 0xFF01'FE00U) == (plain_button << trait_shift | !down * down_bit);
    }
    constexpr Cell with_level(std::uint32_t level) const noexcept {
        return {(bits & ~(down_bit | pressed_bit)) | level};
    }
    constexpr Cell flipped(bool down) const noexcept { return with_level(down * (down_bit | pressed_bit)); }
    constexpr Cell with_hold(std::uint32_t hold) const noexcept { return {(bits & ~0xFFFFU) | hold}; }
};

}  // namespace cursorum::detail
