// Which modes were visible at which time of one frame. Most frames have no change of modes, and then no segments.
#pragma once

#include <array>
#include <cstdint>
#include <vector>

#include "actions/action_state.hpp"
#include "core/frame/frame_input.hpp"

namespace cursorum::detail {

/// The cause of a mode change within a frame, so that motion of the same time goes to the mode that had it: an edge; a
/// step of the wheel; a timer, which comes before all that has its time; or a lock, a value or a bot, which come after
/// it.
struct ModeCause {
    enum class Kind : std::uint8_t { timer, edge, wheel, last };
    Kind kind = Kind::last;
    const StoredEdge* edge = nullptr;
    std::uint32_t number = 0;  ///< of the wheel's event in the frame
};

/// The visible modes, and the owners of axes and motion, from a time within the frame on.
struct ModeSegment {
    std::int64_t from;
    ModeBits visible;
    std::array<std::uint8_t, flow_kinds> flow_owners;
    ModeCause by{};
};

/// The segments of the current frame, in order of time.
class ModeSegments {
public:
    ModeSegments() { segments_.reserve(usual_count); }

    /// Without segments, the whole frame has the modes of the reader's state.
    bool empty() const noexcept { return segments_.empty(); }
    auto begin() const noexcept { return segments_.begin(); }
    auto end() const noexcept { return segments_.end(); }
    const ModeSegment& front() const noexcept { return segments_.front(); }
    void clear() noexcept { segments_.clear(); }
    /// Adds a segment for a change of modes. `before`: how they were, for the frame's first segment.
    void add(const ModeSegment& before, const ModeSegment& now) {
        if (segments_.empty()) segments_.push_back(before);
        segments_.push_back(now);
    }
    const ModeSegment& at(std::int64_t time) const noexcept;
    /// Returns whether the segment had begun when that motion was posted.
    static bool has_begun(const ModeSegment& segment, const FrameInput& frame, const FrameInput::Moved& moved) noexcept;

    static constexpr std::size_t usual_count = 16;  // beyond it, reading allocates

private:
    std::vector<ModeSegment> segments_;
};

inline const ModeSegment& ModeSegments::at(std::int64_t time) const noexcept {
    auto it = segments_.end() - 1;
    while (it != segments_.begin() && it->from > time) --it;
    return *it;
}

}  // namespace cursorum::detail
