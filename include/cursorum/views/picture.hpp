// Pictures as geometry: rectangles, polygons, circles, curves and texts, for any renderer.
#pragma once

#include <cstdint>
#include <functional>
#include <string>
#include <string_view>
#include <vector>

#include "cursorum/core/control.hpp"
#include "cursorum/core/export.hpp"

namespace cursorum {

/// What a shape stands for: a renderer chooses colours by it. States differ in their shapes as well, so that a picture
/// is readable without colours.
enum class PictureRole : std::uint8_t {
    title,          ///< text
    label,          ///< text: a lane's name, a finding
    small_label,    ///< text: times, frame numbers, counts
    lane_band,      ///< the background of every other lane
    grid,           ///< lines at times, and between frames that are wide enough
    active,         ///< at the left border of a lane that is down, open or not at rest at the picture's end
    without_focus,  ///< a span's shade, as are the next two: on the lanes that it concerns, and above all of them
    paused,
    unplugged,
    interrupted,  ///< a line from top to bottom
    bar,          ///< a button was down, exactly
    press_edge,   ///< a bar's ends; there is none at a border of the picture
    adopt_edge,
    release_edge,
    cancel_edge,
    system_repeat,  ///< a tick in a bar
    cell,           ///< the outline of a frame in which something happened, where frames are wide enough
    hold,           ///< a frame's state: a band
    press,          ///< a filled triangle pointing up
    release,        ///< a hollow triangle pointing down
    blip,           ///< a filled diamond
    dip,            ///< a filled hourglass
    cancel,         ///< a cross
    adopt,          ///< a ring
    repeat,         ///< a dot: Cursorum's own repeat
    missed,         ///< a hollow triangle pointing up: a press that had no effect
    lost,           ///< a box: comparing levels loses a press in this frame
    made_up,        ///< a box with a line through it: comparing levels makes one up
    belief,         ///< a flag: another input layer got this frame wrong
    dead_zone,      ///< a band
    zero,           ///< the line of an axis at rest
    raw_value,      ///< a thin curve
    shaped_value,   ///< a thick curve
    outer_zone,     ///< of sticks: a ring, from which on a value counts as 1
    rest,           ///< of sticks: a cross where it rests
    device_outline,
    control,             ///< the outline of a control that is up
    control_down,        ///< filled: a control that is down, or the part of a trigger that is pulled
    control_marked,      ///< a ring around a control: "press this"
    control_label,       ///< text, as is the next one
    control_down_label,  ///< on what is filled
};
inline constexpr unsigned picture_role_count = static_cast<unsigned>(PictureRole::control_down_label) + 1;
/// "title", "label" …
CURSORUM_API std::string_view name_of(PictureRole role) noexcept;

struct PicturePoint {
    double x = 0, y = 0;

    friend constexpr bool operator==(const PicturePoint&, const PicturePoint&) = default;
};

/// One thing to draw. Lengths are in pixels; y points down.
struct PictureShape {
    enum class Form : std::uint8_t {
        rectangle,  ///< x, y, width, height
        polygon,    ///< `points`, closed
        circle,     ///< in the rectangle
        curve,      ///< `points`, open: a line if there are two
        text        ///< in the rectangle, whose height is 1.25 times that of the letters
    };
    Form form{};
    PictureRole role{};
    bool filled = true;  ///< else an outline, inside the rectangle or along the points
    double x = 0, y = 0, width = 0, height = 0;
    std::vector<PicturePoint> points{};
    std::string text{};    ///< of a mark for a missed press: why, as in Lane::Missed
    bool is_bold = false;  ///< of a text
    int lane = -1;         ///< of lanes: index of LaneHistory::lanes(); -1: none
    int frame = -1;        ///< likewise of LaneHistory::frames(), of marks and findings; -1: none
    Button control{};      ///< of control_picture(): what the shape belongs to
};

struct PictureOptions {
    double width = 1280;  ///< at least 400
    double height = 800;  ///< at least 200; a picture that needs less is less high
    std::string title{};
    /// How wide a text is when it is `size` pixels high; nothing: 0.62 times the size for each character, which is
    /// enough for most fonts.
    std::function<double(std::string_view text, double size, bool bold)> text_width{};
    bool with_legend = true;
    bool with_findings = true;  ///< of lanes
};

struct Picture {
    double width = 0, height = 0;
    /// In the order in which they are drawn, from back to front.
    std::vector<PictureShape> shapes;
    /// What the picture leaves out, in sentences; they are drawn, too.
    std::vector<std::string> left_out;
    double plot_left = 0, plot_right = 0;  ///< of lanes: where the first frame begins, and where the last one ends
};

// Parts of pictures, for pictures of one's own in the same style.

/// How high the letters of a text are, in pixels: by its role.
constexpr double text_size_of(PictureRole role) noexcept {
    return role == PictureRole::title ? 15 : role == PictureRole::label ? 11.5 : 10;
}
/// A text's height, in multiples of its letters' height.
inline constexpr double text_line_height = 1.25;
/// How wide a text of that role is.
CURSORUM_API double text_width(const PictureOptions& options, PictureRole role, std::string_view text,
                               bool is_bold = false);
/// A text with its top left corner there. Titles are bold.
CURSORUM_API PictureShape text_shape(const PictureOptions& options, PictureRole role, std::string text, PicturePoint at,
                                     bool is_bold = false);
/// A line from one point to another.
CURSORUM_API PictureShape line_shape(PictureRole role, PicturePoint from, PicturePoint to);

}  // namespace cursorum
