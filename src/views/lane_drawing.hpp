// The shapes of one lane, in the coordinates of the picture. lane_picture.cpp places the lanes and draws the page
// around them.
#pragma once

#include <cstdint>
#include <vector>

#include "cursorum/views/lane_picture.hpp"

namespace cursorum {

/// From times to pixels.
struct LaneScale {
    Time from;
    double left = 0, per_second = 1, right = 0;

    double x(Time time) const { return left + seconds(time - from) * per_second; }
};

/// A lane that is lower than this has no room for marks: bars and curves alone.
inline constexpr double least_lane_with_marks = 12;

/// The marks that did not fit into a lane.
struct LaneLeftOut {
    std::uint64_t marks = 0;    ///< closer to another than a mark is wide
    std::uint64_t repeats = 0;  ///< ticks and dots, likewise
};

/// Adds the shapes of a lane in a strip between `top` and `top + height`.
void draw_lane(const LaneHistory& lanes, int lane, const LaneScale& scale, double top, double height,
               std::vector<PictureShape>& shapes, LaneLeftOut& left_out);

/// lane_findings(), but of those of which there may be many, add_text() makes the text: of a million, a picture
/// shows a dozen.
std::vector<LaneFinding> lane_findings_without_text(const LaneHistory& lanes);
void add_text(const LaneHistory& lanes, LaneFinding& finding);

/// One mark with its middle there, as in lanes and in the legend.
PictureShape mark_shape(PictureRole role, PicturePoint middle, double size);

}  // namespace cursorum
