// Lengths of time as people write them.
#pragma once

#include <optional>
#include <string_view>

#include "cursorum/core/time.hpp"

namespace cursorum {

/// "250ms", "0.25s", "1.5 min", "40us", "17ns", "0": a number and a unit, exact to the nanosecond (what is finer is cut
/// off); nothing for anything else, negative or out of range.
std::optional<Duration> parse_span(std::string_view text);

}  // namespace cursorum
