// Finds the name nearest to a mistyped word, for error messages.
#pragma once

#include <span>
#include <string_view>

#include "cursorum/core/export.hpp"

namespace cursorum {

/// Of `candidates`, the one with the fewest slips of typing from `mistyped` (a letter more, less, other, or two
/// exchanged; upper and lower case count half), ties to the first. Empty if even that one is too far: more than a third
/// of its letters. Words over 48 bytes match nothing. Allocates nothing.
CURSORUM_API std::string_view near_name(std::string_view mistyped,
                                        std::span<const std::string_view> candidates) noexcept;

/// The number of half slips between two words, as near_name counts them; at most 2 * 48 + 1.
CURSORUM_API unsigned typing_distance(std::string_view left, std::string_view right) noexcept;

}  // namespace cursorum
