// Motion that has the same time as a change of modes belongs before it or after it, depending on what changed them.
#include "actions/mode_segments.hpp"

#include <algorithm>

namespace cursorum::detail {

bool ModeSegments::has_begun(const ModeSegment& segment, const FrameInput& frame,
                             const FrameInput::Moved& moved) noexcept {
    const std::int64_t time = std::max(moved.time, frame.t0());
    if (time != segment.from) return time > segment.from;
    switch (segment.by.kind) {
        case ModeCause::Kind::timer: return true;
        case ModeCause::Kind::edge: return frame.is_after(moved, *segment.by.edge);
        case ModeCause::Kind::wheel: return moved.number > segment.by.number;
        case ModeCause::Kind::last: break;
    }
    return false;
}

}  // namespace cursorum::detail
