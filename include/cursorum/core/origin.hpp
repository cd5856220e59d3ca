// Whose input it is.
#pragma once

#include <cstdint>

namespace cursorum {

/// A device that says it is virtual is worked by a program (a script, a bot, a test), any other by a person.
enum class Origin : std::uint8_t { person, program };

}  // namespace cursorum
