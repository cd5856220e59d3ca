// The cursor: where it may go, and whether it is shown.
#pragma once

#include <cstdint>

namespace cursorum {

/// Where the cursor may go.
enum class CursorHold : std::uint8_t {
    free,    ///< anywhere
    kept,    ///< within the window
    locked,  ///< nowhere: the mouse has motion, but no position, for looking around
};

/// The state of the cursor: as a game asks for it, and as a source reports it.
struct CursorState {
    CursorHold hold = CursorHold::free;
    bool hidden = false;  ///< not shown while it is over the window

    friend constexpr bool operator==(const CursorState&, const CursorState&) = default;
};

}  // namespace cursorum
