// What readings of button actions look at without a call. Not for callers.
#pragma once

namespace cursorum::detail {

/// A button action at the frame's end, and whether there was any of these edges. A byte for each, since a bit costs
/// more to take out; four together, written as one.
struct ActionLevels {
    bool down = false, pressed = false, released = false, ended = false;
};

}  // namespace cursorum::detail
