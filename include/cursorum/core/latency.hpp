// How old input was when a frame took it.
#pragma once

#include <cstdint>

#include "cursorum/core/time.hpp"

namespace cursorum {

/// From the stamps of a frame's events to its cut. A late event's is longer than the frame.
struct Latency {
    std::uint32_t events = 0;                ///< that the frame took; without any, all is zero
    Duration least{}, median{}, greatest{};  ///< of an even number, the median is the longer of the two in the middle
};

}  // namespace cursorum
