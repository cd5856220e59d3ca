// Whether input comes from a person or from a program.
#pragma once

#include <cstdint>

namespace cursorum {

/// Virtual devices are operated by programs (scripts, bots, tests), all others by persons.
enum class Origin : std::uint8_t { person, program };

}  // namespace cursorum
