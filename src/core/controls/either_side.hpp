// Which either-side name a key belongs to: Shift, Control, Alt and Meta stand for both of their keys. By the bits of
// the keys' numbers, since this is asked for each edge.
#pragma once

#include <cstdint>

#include "cursorum/core/button_set.hpp"
#include "cursorum/core/controls.hpp"

namespace cursorum {

/// The number of Control, Shift, Alt or Meta for one of their keys; 0 for all others. The eight keys are HID usages
/// 0xE0 to 0xE7, left before right, in the order of the names' numbers.
constexpr unsigned either_side_of(unsigned button) noexcept {
    return (button & ~7U) == 0xE0U ? first_either_side + (button & 3U) : 0U;
}

inline constexpr ButtonSet either_side_names{controls::Control, controls::Shift, controls::Alt, controls::Meta};

#define CURSORUM_BUTTON(name, number, hid_page, hid_usage, linux_code, what)
#define CURSORUM_EITHER_SIDE(name, its_number, left_key, right_key, what)       \
    static_assert(either_side_of(controls::left_key.number) == (its_number) &&  \
                  either_side_of(controls::right_key.number) == (its_number) && \
                  physical_buttons({its_number}) == ButtonSet{controls::left_key, controls::right_key});
#include "core/controls/derived_control_list.hpp"
#undef CURSORUM_BUTTON

/// Calls `visit` for the either-side name that a key belongs to, if it has one, and then for the key.
template <typename Visit>
void for_each_name(std::uint16_t button, Visit&& visit) {
    if (const unsigned either = either_side_of(button); either != 0) visit(static_cast<std::uint16_t>(either));
    visit(button);
}

}  // namespace cursorum
