// The shapes of one lane: bars while something was down, marks for edges, curves for values. Shapes have roles instead
// of colours, so that any renderer draws them.
#include "views/lane_drawing.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <optional>
#include <utility>

namespace cursorum {
namespace {

using Form = PictureShape::Form;
using Role = PictureRole;

/// The mark of a frame's state; nothing for a hold, which is a band.
std::optional<Role> mark_of(const Lane::Cell& cell) {
    switch (cell.state) {
        case ButtonState::press: return Role::press;
        case ButtonState::release: return Role::release;
        case ButtonState::blip: return Role::blip;
        case ButtonState::dip: return Role::dip;
        case ButtonState::cancel: return Role::cancel;
        default: break;
    }
    if (cell.cancels != 0) return Role::cancel;
    if (cell.adopts != 0) return Role::adopt;
    return std::nullopt;
}

/// Of two marks in one place, the one with the higher rank is drawn.
int rank(Role role, bool is_lost) {
    const int by_role = role == Role::blip      ? 6
                        : role == Role::dip     ? 5
                        : role == Role::cancel  ? 4
                        : role == Role::press   ? 3
                        : role == Role::adopt   ? 2
                        : role == Role::release ? 1
                                                : 0;
    return by_role + (is_lost ? 10 : 0);
}

/// Draws one lane.
class LaneDrawing {
public:
    LaneDrawing(const LaneHistory& lanes, int number, const LaneScale& scale, double top, double height,
                std::vector<PictureShape>& shapes, LaneLeftOut& left_out)
        : lanes_{lanes},
          lane_{lanes.lanes()[static_cast<std::size_t>(number)]},
          number_{number},
          scale_{scale},
          top_{top},
          height_{height},
          shapes_{shapes},
          left_out_{left_out} {}

    void draw() {
        if (lane_.has_values()) return draw_values();
        draw_bars();
        if (!is_strip()) {
            draw_cells();
            draw_bands();
            draw_repeats();
            draw_marks();
        }
        draw_missed();
        draw_beliefs();
    }

private:
    PictureShape& add(PictureShape shape) {
        shape.lane = number_;
        shapes_.push_back(std::move(shape));
        return shapes_.back();
    }
    int index_of(std::uint32_t frame) const { return static_cast<int>(frame - lanes_.first_frame()); }
    double clamped(double x) const { return std::clamp(x, scale_.left, scale_.right); }

    // A bar is as high as a third of the lane, the state below it as another one. A lane that is too low for marks has
    // bars alone, and so has one without frames' states.
    bool is_strip() const {
        return height_ < least_lane_with_marks || lane_.kind == Lane::Kind::mode || lane_.kind == Lane::Kind::claim;
    }
    double bar_top() const { return top_ + height_ * (is_strip() ? 0.2 : 0.1); }
    double bar_height() const { return height_ * (is_strip() ? 0.6 : 0.3); }
    double cell_middle() const { return top_ + height_ * 0.68; }
    double mark_size() const { return std::clamp(height_ * 0.34, 5.0, 11.0); }

    void draw_bars() {
        // Bars that touch in the picture are one. Their ends come after all of them, where there is room to see them.
        double from = 0, to = -1;
        const auto finish = [&] {
            if (to > from)
                add({.form = Form::rectangle,
                     .role = Role::bar,
                     .x = from,
                     .y = bar_top(),
                     .width = to - from,
                     .height = bar_height()});
        };
        for (const Lane::Bar& bar : lane_.bars) {
            const double left = clamped(scale_.x(bar.from)), right = std::max(clamped(scale_.x(bar.to)), left + 1);
            if (left > to + 0.25) {
                finish();
                from = left;
            }
            to = std::max(to, right);
        }
        finish();
        double last_edge = -1e9;
        const auto edge = [&](Role role, double x) {
            if (x - last_edge < 0.75) return;
            last_edge = x;
            // Marks of Cursorum's own edges reach beyond the bar.
            const double more = role == Role::cancel_edge || role == Role::adopt_edge ? bar_height() * 0.3 : 0;
            upright(role, x, 1.6, bar_top() - more, bar_height() + 2 * more);
        };
        for (const Lane::Bar& bar : lane_.bars) {
            if (bar.began && bar.from >= lanes_.start())
                edge(*bar.began == EdgeKind::press ? Role::press_edge : Role::adopt_edge, clamped(scale_.x(bar.from)));
            if (bar.ended)
                edge(*bar.ended == EdgeKind::release ? Role::release_edge : Role::cancel_edge,
                     std::max(clamped(scale_.x(bar.to)), clamped(scale_.x(bar.from)) + 1));
        }
        double last = -1e9;
        for (const Time time : lane_.system_repeats) {
            const double x = scale_.x(time);
            if (x < scale_.left || x > scale_.right) continue;
            if (x - last < 3) {
                ++left_out_.repeats;
                continue;
            }
            last = x;
            upright(Role::system_repeat, x, 1, bar_top() + bar_height() * 0.35, bar_height() * 0.65);
        }
    }
    /// A line that needs no points.
    void upright(Role role, double x, double width, double top, double height) {
        add({.form = Form::rectangle, .role = role, .x = x - width / 2, .y = top, .width = width, .height = height});
    }
    void line(Role role, PicturePoint from, PicturePoint to) {
        add({.form = Form::curve, .role = role, .points = {from, to}});
    }

    double left_of(const Lane::Cell& cell) const { return clamped(scale_.x(lanes_.frame(cell.first).from)); }
    double right_of(const Lane::Cell& cell) const { return clamped(scale_.x(lanes_.frame(cell.last).to)); }

    // If frames are wide enough, each one with an event has an outline.
    void draw_cells() {
        for (const Lane::Cell& cell : lane_.cells) {
            const double left = left_of(cell), right = right_of(cell);
            if (right - left < 9 || !mark_of(cell)) continue;
            PictureShape& shape = add({.form = Form::rectangle,
                                       .role = Role::cell,
                                       .filled = false,
                                       .x = left + 1,
                                       .y = cell_middle() - mark_size() * 0.75,
                                       .width = right - left - 2,
                                       .height = mark_size() * 1.5});
            shape.frame = index_of(cell.last);
        }
    }

    // Frames in which the button is down at the end; one band for consecutive ones.
    void draw_bands() {
        double from = 0, to = -1;
        const double high = std::max(2.0, height_ * 0.1);
        const auto finish = [&] {
            if (to > from)
                add({.form = Form::rectangle,
                     .role = Role::hold,
                     .x = from,
                     .y = cell_middle() - high / 2,
                     .width = std::max(to - from, 1.0),
                     .height = high});
        };
        for (const Lane::Cell& cell : lane_.cells) {
            if (cell.state == ButtonState::blip) continue;
            const double left = left_of(cell), right = right_of(cell);
            if (left > to + 0.25) {
                finish();
                from = left;
            }
            to = right;
        }
        finish();
    }

    void draw_repeats() {
        double last = -1e9;
        for (const Lane::Cell& cell : lane_.cells) {
            if (cell.repeats == 0) continue;
            const double left = left_of(cell), right = right_of(cell), size = std::max(2.5, height_ * 0.09);
            // If a frame is wide, each of its repeats has a dot, whose position within the frame is not exact.
            for (std::uint32_t i = 0; i < cell.repeats; ++i) {
                const double x = left + (right - left) * (i + 1) / (cell.repeats + 1);
                if (x - last < 4) {
                    ++left_out_.repeats;
                    continue;
                }
                last = x;
                PictureShape& dot = add({.form = Form::circle,
                                         .role = Role::repeat,
                                         .x = x - size / 2,
                                         .y = top_ + height_ * 0.93 - size,
                                         .width = size,
                                         .height = size});
                dot.frame = index_of(cell.first);
            }
        }
    }

    struct Mark {
        Role role;
        double x;
        int frame;
        bool is_lost, is_made_up;
    };

    void draw_marks() {
        std::vector<Mark> marks;
        for (const Lane::Cell& cell : lane_.cells) {
            const std::optional<Role> role = mark_of(cell);
            if (!role) continue;
            // Comparing levels is about controls: an action's edges come from theirs.
            const bool is_control = lane_.kind == Lane::Kind::button;
            const Mark mark{*role, (left_of(cell) + right_of(cell)) / 2, index_of(cell.last),
                            is_control && cell.lost != 0, is_control && cell.is_made_up};
            if (!marks.empty() && mark.x - marks.back().x < mark_size()) {
                ++left_out_.marks;
                if (rank(mark.role, mark.is_lost) > rank(marks.back().role, marks.back().is_lost)) marks.back() = mark;
                continue;
            }
            marks.push_back(mark);
        }
        for (const Mark& mark : marks) {
            const auto draw = [&](Role role, double size) {
                PictureShape shape = mark_shape(role, {mark.x, cell_middle()}, size);
                shape.frame = mark.frame;
                add(std::move(shape));
            };
            draw(mark.role, mark_size());
            if (mark.is_lost) draw(Role::lost, mark_size() + 5);
            if (mark.is_made_up) draw(Role::made_up, mark_size() + 5);
        }
    }

    void draw_missed() {
        double last = -1e9;
        for (const Lane::Missed& it : lane_.missed) {
            const double x = scale_.x(it.time), size = mark_size();
            if (x < scale_.left || x > scale_.right) continue;
            if (x - last < size) {
                ++left_out_.marks;
                continue;
            }
            last = x;
            PictureShape shape = mark_shape(Role::missed, {x, bar_top() + bar_height() / 2}, size);
            shape.text = it.why;
            add(std::move(shape));
        }
    }

    void draw_beliefs() {
        double last = -1e9;
        for (const Lane::Belief& belief : lane_.beliefs) {
            const double x = clamped(scale_.x(lanes_.frame(belief.frame).to)), size = mark_size();
            if (x - last < size) {
                ++left_out_.marks;
                continue;
            }
            last = x;
            PictureShape shape = mark_shape(Role::belief, {x + size / 2, top_ + size / 2 + 1}, size);
            shape.frame = index_of(belief.frame);
            add(std::move(shape));
        }
    }

    void draw_values() {
        const Lane::Range range = lane_.range();
        const double bottom = top_ + height_ * 0.92, high = height_ * 0.84;
        const auto y = [&](double value) { return bottom - high * range.share(value); };
        if (lane_.dead_zone > 0) {
            const auto [above, below] = std::minmax({y(lane_.dead_zone), y(-lane_.dead_zone)});
            add({.form = Form::rectangle,
                 .role = Role::dead_zone,
                 .x = scale_.left,
                 .y = above,
                 .width = scale_.right - scale_.left,
                 .height = below - above});
        }
        if (lane_.kind != Lane::Kind::pointer) line(Role::zero, {scale_.left, y(0)}, {scale_.right, y(0)});
        if (lane_.kind == Lane::Kind::axis) curve(Role::raw_value, &Lane::Value::raw, y);
        curve(Role::shaped_value, &Lane::Value::shaped, y);
    }

    // Steps at the values' times; actions and the pointer move between them. Of many values in one pixel's column, the
    // least and the greatest are kept.
    template <typename ToY>
    void curve(Role role, double Lane::Value::*part, const ToY& y) {
        std::vector<PicturePoint> points;
        const bool has_steps = lane_.kind == Lane::Kind::axis;
        double column = std::numeric_limits<double>::lowest(), low = 0, high = 0, now = 0;
        const auto finish = [&] {
            if (points.empty() || low == high) return;
            points.push_back({points.back().x, low});
            points.push_back({points.back().x, high});
            points.push_back({points.back().x, now});
        };
        for (const Lane::Value& value : lane_.values) {
            const double x = clamped(scale_.x(value.time)), at = y(value.*part);
            if (std::floor(x) == column) {
                low = std::min(low, at);
                high = std::max(high, at);
                now = at;
                continue;
            }
            finish();
            if (has_steps && !points.empty()) points.push_back({x, points.back().y});
            points.push_back({x, at});
            column = std::floor(x);
            low = high = now = at;
        }
        finish();
        if (points.empty()) return;
        points.push_back({clamped(scale_.x(lanes_.end())), points.back().y});
        add({.form = Form::curve, .role = role, .points = std::move(points)});
    }

    const LaneHistory& lanes_;
    const Lane& lane_;
    int number_;
    const LaneScale& scale_;
    double top_, height_;
    std::vector<PictureShape>& shapes_;
    LaneLeftOut& left_out_;
};

}  // namespace

PictureShape mark_shape(Role role, PicturePoint middle, double size) {
    const double half = size / 2, left = middle.x - half, right = middle.x + half, top = middle.y - half,
                 bottom = middle.y + half;
    PictureShape shape{.form = Form::polygon, .role = role, .x = left, .y = top, .width = size, .height = size};
    switch (role) {
        case Role::press: shape.points = {{middle.x, top}, {right, bottom}, {left, bottom}}; break;
        case Role::missed:
            shape.filled = false;
            shape.points = {{middle.x, top}, {right, bottom}, {left, bottom}};
            break;
        case Role::release:
            shape.filled = false;
            shape.points = {{left, top}, {right, top}, {middle.x, bottom}};
            break;
        case Role::blip:
            shape.points = {{middle.x, top}, {right, middle.y}, {middle.x, bottom}, {left, middle.y}};
            break;
        case Role::dip: shape.points = {{left, top}, {right, top}, {left, bottom}, {right, bottom}}; break;
        case Role::cancel: {
            const double t = size * 0.18;
            shape.points = {{left, top + t},     {left + t, top},     {middle.x, middle.y - t},
                            {right - t, top},    {right, top + t},    {middle.x + t, middle.y},
                            {right, bottom - t}, {right - t, bottom}, {middle.x, middle.y + t},
                            {left + t, bottom},  {left, bottom - t},  {middle.x - t, middle.y}};
            break;
        }
        case Role::belief: {  // a pole at the left, and a flag
            const double t = size * 0.15;
            shape.points = {{left, top},
                            {right, top + size * 0.3},
                            {left + t, top + size * 0.6},
                            {left + t, bottom},
                            {left, bottom}};
            break;
        }
        case Role::made_up:
            shape.filled = false;
            shape.points = {{left, bottom}, {left, top}, {right, top}, {right, bottom}, {left, bottom}, {right, top}};
            break;
        case Role::adopt:
            shape.form = Form::circle;
            shape.filled = false;
            break;
        case Role::repeat: shape.form = Form::circle; break;
        default:
            shape.form = Form::rectangle;
            shape.filled = role != Role::lost;
            break;
    }
    return shape;
}

void draw_lane(const LaneHistory& lanes, int lane, const LaneScale& scale, double top, double height,
               std::vector<PictureShape>& shapes, LaneLeftOut& left_out) {
    LaneDrawing{lanes, lane, scale, top, height, shapes, left_out}.draw();
}

}  // namespace cursorum
