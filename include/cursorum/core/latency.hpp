// How old input was when a frame took it.
#pragma once

#include <cstdint>

#include "cursorum/core/time.hpp"

namespace cursorum {

/// The time from the stamps of a frame's events to its cut. For a late event it is longer than the frame.
struct Latency {
    std::uint32_t events = 0;                ///< events that the frame took; if there are none, all members are zero
    Duration least{}, median{}, greatest{};  ///< for an even number, the median is the longer of the two in the middle
};

}  // namespace cursorum
