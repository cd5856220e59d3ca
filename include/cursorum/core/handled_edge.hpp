// What handlers are called for.
#pragma once

#include <cstdint>

namespace cursorum {

/// What a handler is called for.
enum class HandledEdge : std::uint8_t {
    pressed,   ///< each press
    released,  ///< each release of a hold that a press began
    ended,     ///< each end of a hold, whoever ended it: released, or cancelled by focus loss, a pause, a closed mode
    adopted,   ///< found down, without a press
    repeated   ///< each of Cursorum's own repeats, after the frame's edges
};

/// Identifies a handler of one table. An id is never used again.
enum class HandlerId : std::uint64_t {};

}  // namespace cursorum
