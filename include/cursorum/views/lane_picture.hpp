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
/// findings. At the left border, lanes that are active now have a mark. Shades of time without focus, of an unplugged
/// device and of pauses are on the lanes that they concern. Labels do not overlap. Where there is too little room,
/// findings and legend are omitted, then lanes become strips of bars and curves, down to 3 pixels (90 of them fit into
/// 640x360); marks closer than their own width are drawn as the more telling one of the two. `left_out` says so. Cost:
/// proportional to what the history has; ten seconds of two dozen lanes take about 0.1 ms.
CURSORUM_API Picture lane_picture(const LaneHistory& lanes, const PictureOptions& options = {});

/// Something in a history that somebody who looks for a fault would want to see.
struct LaneFinding {
    enum class Kind : std::uint8_t {
        lost,       ///< presses that comparing levels at the cuts does not see
        made_up,    ///< an adopt that comparing levels takes for a press
        missed,     ///< a press that had no effect
        cancelled,  ///< what a focus loss, an unplugged device or an interruption released
        handed_on,  ///< what a mode or claim released, or found down, when it began or ended
        belief      ///< something that another input layer got wrong
    };
    Kind kind{};
    Time time;           ///< of a lost press, the frame's end
    int lane = -1;       ///< index of LaneHistory::lanes(); -1 of `cancelled` and `handed_on`
    int frame = -1;      ///< index of LaneHistory::frames(); likewise, and of `missed`
    std::string text{};  ///< "frame 105, KeyW: down for 5.35 ms within the frame; comparing levels loses the press"
};
/// In order of time.
CURSORUM_API std::vector<LaneFinding> lane_findings(const LaneHistory& lanes);

}  // namespace cursorum
