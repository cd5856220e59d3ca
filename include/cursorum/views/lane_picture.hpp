// The geometry of a picture of lanes.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "cursorum/core/export.hpp"
#include "cursorum/views/lane_history.hpp"
#include "cursorum/views/picture.hpp"

namespace cursorum {

/// Lays out a picture: time from left to right, one lane below the other, a legend of what appears in it, and the
/// findings. Labels do not overlap. Where there is too little room, lanes with the fewest events are left out, marks
/// closer than their own width are drawn as the more telling one of the two, and `left_out` says so. Cost:
/// proportional to what the history has; ten seconds of a dozen lanes take less than 0.1 ms.
CURSORUM_API Picture lane_picture(const LaneHistory& lanes, const PictureOptions& options = {});

/// Something in a history that somebody who looks for a fault would want to see.
struct LaneFinding {
    enum class Kind : std::uint8_t {
        lost,       ///< presses that comparing levels at the cuts does not see
        made_up,    ///< an adopt that comparing levels takes for a press
        cancelled,  ///< what a focus loss, an unplugged device or an interruption released
        belief      ///< something that another input layer got wrong
    };
    Kind kind{};
    Time time;           ///< of a lost press, the frame's end
    int lane = -1;       ///< index of LaneHistory::lanes(); -1 of `cancelled`
    int frame = -1;      ///< index of LaneHistory::frames(); likewise
    std::string text{};  ///< "frame 105, KeyW: down for 5.35 ms within the frame; comparing levels loses the press"
};
/// In order of time.
CURSORUM_API std::vector<LaneFinding> lane_findings(const LaneHistory& lanes);

}  // namespace cursorum
