// Lengths of time as people write them.
#pragma once

#include <optional>
#include <string_view>

#include "cursorum/core/export.hpp"
#include "cursorum/core/time.hpp"

namespace cursorum {

/// Parses "250ms", "0.25s", "1.5 min", "40us", "17ns" or "0": a number and a unit, exact to the nanosecond (finer
/// digits are cut off). Returns nothing for any other text, for negative lengths, and if it is out of range.
CURSORUM_API std::optional<Duration> parse_span(std::string_view text);

}  // namespace cursorum
