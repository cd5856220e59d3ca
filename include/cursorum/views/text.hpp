// Times and lengths as people read them.
#pragma once

#include <string>
#include <string_view>

#include "cursorum/core/button_reading.hpp"
#include "cursorum/core/span_text.hpp"
#include "cursorum/core/time.hpp"

namespace cursorum {

/// "1.402113 s": seconds, exact, at least three decimals, no trailing zeros beyond.
std::string time_text(Time time);

/// "13.313128 ms", "400 ms", "2.5 s", "870 ns": exact, in the largest unit that leaves at least one whole.
std::string span_text(Duration span);

/// Colours of a terminal; empty strings when `on` is false.
struct Paint {
    bool on = false;
    std::string operator()(std::string_view style, std::string_view text) const;

    static constexpr std::string_view bold = "1", dim = "2", red = "91", green = "92", yellow = "93", magenta = "95",
                                      cyan = "96";
};

/// Of a state in a table.
std::string_view style_of(ButtonState state);

}  // namespace cursorum
