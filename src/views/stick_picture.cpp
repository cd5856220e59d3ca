// Where sticks have been, and what shaping makes of it: the trace of raw values in a square with its dead zone, and the
// curve from raw to shaped. Values at rest are drawn as what they cover.
#include "cursorum/views/stick_picture.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <utility>

#include "cursorum/core/rest_finder.hpp"

namespace cursorum {

struct StickTraces::Parts {
    struct Device {
        std::string name;
        AxisValues values;
        DeviceShaping shaping;
        RestFinder rest;
        std::map<std::uint8_t, std::vector<Vector2>> raw;  // by the number of a stick, or of a trigger's axis and 100
    };
    Time from, to, last{};
    std::map<DeviceId, Device> devices{};
};

StickTraces::StickTraces(Time from, Time to) : parts_{std::make_unique<Parts>(Parts{from, to})} {}
StickTraces::~StickTraces() = default;

void StickTraces::note_line(const RecordingLine& line, Outcome outcome) {
    if (line.kind != RecordingLine::Kind::event) return;
    const Event& event = line.event;
    std::map<DeviceId, Parts::Device>& devices = parts_->devices;
    if (outcome == Outcome::focus_lost || outcome == Outcome::interrupted)
        for (auto& [id, device] : devices) device.rest.lost(line.time);
    if (outcome == Outcome::disconnected) devices[event.device].rest.lost(line.time);
    if (outcome == Outcome::connected) devices[event.device].name = event.info.name;
    if (event.type == EventType::shaping && outcome == Outcome::taken) devices[event.device].shaping = event.shaping;
    const bool has_values = (event.type == EventType::axis && outcome == Outcome::taken) ||
                            outcome == Outcome::state_taken || outcome == Outcome::state_adopted;
    if (!has_values || line.time < parts_->from || line.time >= parts_->to) return;
    parts_->last = std::max(parts_->last, line.time);
    Parts::Device& device = devices[event.device];
    const auto set = [&](Axis axis, double value) {
        device.values.set(axis, value);
        device.rest.add(line.time, axis, value);
        const auto now = [&](Axis of) { return device.values.has(of.number) ? device.values.values[of.number] : 0.0; };
        if (axis.number < 2 * stick_kinds) {
            const Stick stick{static_cast<std::uint8_t>(axis.number / 2)};
            device.raw[stick.number].push_back({now(stick.x()), now(stick.y())});
        } else if (is_pull(axis)) {
            device.raw[static_cast<std::uint8_t>(100 + axis.number)].push_back({value, 0});
        }
    };
    if (event.type == EventType::axis) return set(event.axis, event.value);
    for (std::uint8_t i = 0; i < axis_kinds; ++i)
        if (event.axes.has(i)) set(Axis{i}, event.axes.values[i]);
}

std::vector<StickTrace> StickTraces::traces() const {
    std::vector<StickTrace> result;
    for (const auto& [id, device] : parts_->devices) {
        RestFinder finder = device.rest;
        finder.end(parts_->last);
        for (const auto& [key, raw] : device.raw) {
            StickTrace trace{.device = id, .device_name = device.name, .is_trigger = key >= 100, .raw = raw};
            if (std::all_of(raw.begin(), raw.end(), [first = raw.front()](const Vector2& at) { return at == first; }))
                continue;
            if (trace.is_trigger) {
                trace.pull = Axis{static_cast<std::uint8_t>(key - 100)};
                trace.pull_shaping = device.shaping.pulls[trace.pull.number - 2 * stick_kinds];
                const TriggerRest rest = finder.trigger(trace.pull);
                trace.has_rest = rest.found;
                trace.rest = {rest.rest, 0};
                trace.rest_reach = rest.farthest;
            } else {
                trace.stick = Stick{key};
                trace.stick_shaping = device.shaping.sticks[key];
                const StickRest rest = finder.stick(trace.stick);
                trace.has_rest = rest.found;
                trace.rest = rest.centre;
                trace.rest_reach = rest.farthest;
            }
            result.push_back(std::move(trace));
        }
    }
    return result;
}

namespace {

using Form = PictureShape::Form;
using Role = PictureRole;

constexpr double margin = 12, line_height = text_line_height;
constexpr double title_size = text_size_of(Role::title), small_size = text_size_of(Role::small_label);

/// A square in which -1 to 1 (or 0 to 1) has its whole width.
struct Square {
    double x, y, size;
    double least = -1;

    double at_x(double value) const { return x + size * (value - least) / (1 - least); }
    /// Right and down positive, as of a stick.
    PicturePoint at(Vector2 value) const { return {at_x(value.x), y + size * (value.y - least) / (1 - least)}; }
    /// Up positive, as of a graph.
    PicturePoint graph(double from, double to) const {
        return {at_x(from), y + size - size * (to - least) / (1 - least)};
    }
    double length(double value) const { return size * value / (1 - least); }
};

class Layout {
public:
    Layout(const std::vector<StickTrace>& traces, const PictureOptions& options) : traces_{traces}, options_{options} {}

    Picture build() {
        picture_.width = std::max(options_.width, 400.0);
        picture_.height = std::max(options_.height, 200.0);
        double top = margin;
        if (!options_.title.empty()) {
            add_text(Role::title, options_.title, margin, top);
            top += title_size * line_height + 8;
        }
        const double foot = options_.with_legend ? 2 * (small_size * line_height + 6) : 0;
        // A trace has three squares in a row, the third one with the response; as large as possible while all of them
        // fit.
        constexpr double gap = 18, least_square = 84, head = 2 * 15, below = 18;
        const double room = picture_.height - top - foot - margin;
        double square = 230;
        const auto columns = [&] {
            return std::max(1.0, std::floor((picture_.width - 2 * margin + gap) / (3 * square + 3 * gap)));
        };
        const auto rows = [&] { return std::ceil(static_cast<double>(traces_.size()) / columns()); };
        while (square > least_square && rows() * (head + square + below) > room) square -= 2;
        const auto fitting =
            static_cast<std::size_t>(std::max(1.0, std::floor(room / (head + square + below))) * columns());
        for (std::size_t i = 0; i < std::min(fitting, traces_.size()); ++i) {
            const auto column = static_cast<double>(i % static_cast<std::size_t>(columns()));
            const auto row = static_cast<double>(i / static_cast<std::size_t>(columns()));
            draw(traces_[i], margin + column * (3 * square + 3 * gap), top + row * (head + square + below), square,
                 gap);
        }
        for (std::size_t i = fitting; i < traces_.size(); ++i)
            picture_.left_out.push_back(fmt::format("No room for {} of device {}. Use a greater height to see it.",
                                                    traces_[i].name(), static_cast<std::uint32_t>(traces_[i].device)));
        double y = picture_.height - margin - foot;
        if (options_.with_legend) draw_legend(y);
        return std::move(picture_);
    }

private:
    PictureShape& add(PictureShape shape) {
        picture_.shapes.push_back(std::move(shape));
        return picture_.shapes.back();
    }
    /// Names are bold. Returns the text's width.
    double add_text(Role role, std::string text, double x, double y) {
        return add(text_shape(options_, role, std::move(text), {x, y}, role == Role::label)).width;
    }
    void add_line(Role role, PicturePoint from, PicturePoint to) { add(line_shape(role, from, to)); }
    void add_circle(Role role, PicturePoint middle, double radius, bool filled) {
        add({.form = Form::circle,
             .role = role,
             .filled = filled,
             .x = middle.x - radius,
             .y = middle.y - radius,
             .width = 2 * radius,
             .height = 2 * radius});
    }
    void frame(const Square& in, std::string_view title) {
        add({.form = Form::rectangle,
             .role = Role::lane_band,
             .x = in.x,
             .y = in.y,
             .width = in.size,
             .height = in.size});
        add({.form = Form::rectangle,
             .role = Role::grid,
             .filled = false,
             .x = in.x,
             .y = in.y,
             .width = in.size,
             .height = in.size});
        if (in.least < 0) {
            add_line(Role::zero, in.at({-1, 0}), in.at({1, 0}));
            add_line(Role::zero, in.at({0, -1}), in.at({0, 1}));
        }
        add_text(Role::small_label, std::string{title}, in.x, in.y + in.size + 3);
    }
    /// The path, through points that are at least a pixel apart.
    void path(Role role, const Square& in, const std::vector<Vector2>& values) {
        std::vector<PicturePoint> points;
        for (const Vector2& value : values) {
            const PicturePoint at = in.at({std::clamp(value.x, -1.0, 1.0), std::clamp(value.y, -1.0, 1.0)});
            if (points.empty() || std::hypot(at.x - points.back().x, at.y - points.back().y) >= 1) points.push_back(at);
        }
        add({.form = Form::curve, .role = role, .points = points});
        for (const PicturePoint& at : points) add_circle(role, at, 1.3, true);
    }

    void draw(const StickTrace& trace, double x, double y, double size, double gap) {
        const double wide = add_text(Role::label, std::string{trace.name()}, x, y);
        add_text(Role::small_label,
                 fmt::format("device {}{}, {} values", static_cast<std::uint32_t>(trace.device),
                             trace.device_name.empty() ? "" : " \"" + trace.device_name + "\"", trace.raw.size()),
                 x + wide + 8, y + 1);
        const ResponseCurve& response = trace.is_trigger ? trace.pull_shaping.response : trace.stick_shaping.response;
        std::string facts =
            trace.has_rest
                ? (trace.is_trigger ? fmt::format("rests at {:.3g}, within {:.2g}", trace.rest.x, trace.rest_reach)
                                    : fmt::format("rests at {:.3g}, {:.3g}, within {:.2g}", trace.rest.x, trace.rest.y,
                                                  trace.rest_reach))
                : "never at rest for long";
        facts += fmt::format("; dead zone {:g}, outer zone {:g}, curve {:g}", response.dead_zone, response.outer_zone,
                             response.curve);
        add_text(Role::small_label, std::move(facts), x, y + 15);
        const double top = y + 30;
        const Square graph{x + 2 * (size + gap), top, size, 0};
        if (trace.is_trigger)
            draw_trigger(trace, {x, top, size, 0}, {x + size + gap, top, size, 0});
        else
            draw_stick(trace, {x, top, size}, {x + size + gap, top, size});
        draw_response(trace, response, graph);
    }

    void draw_stick(const StickTrace& trace, const Square& raw, const Square& shaped) {
        const StickShaping& shaping = trace.stick_shaping;
        frame(raw, "as reported");
        const auto real = [](const AxisRange& range, double share) {
            return range.centre + share * (share < 0 ? range.centre - range.least : range.greatest - range.centre);
        };
        // An ellipse where the axes' ranges differ.
        const auto ring = [&](double share) {
            std::vector<PicturePoint> points;
            for (int i = 0; i < 72; ++i) {
                const double angle = i * 3.14159265358979323846 / 36;
                points.push_back(raw.at({std::clamp(real(shaping.x, share * std::cos(angle)), -1.0, 1.0),
                                         std::clamp(real(shaping.y, share * std::sin(angle)), -1.0, 1.0)}));
            }
            return points;
        };
        const double dead = shaping.response.dead_zone, outer = 1 - shaping.response.outer_zone;
        if (shaping.zone == StickShaping::Zone::radial) {
            add({.form = Form::polygon, .role = Role::dead_zone, .points = ring(dead)});
            add({.form = Form::polygon, .role = Role::outer_zone, .filled = false, .points = ring(outer)});
        } else {
            const PicturePoint from = raw.at({real(shaping.x, -dead), real(shaping.y, -dead)});
            const PicturePoint to = raw.at({real(shaping.x, dead), real(shaping.y, dead)});
            add({.form = Form::rectangle,
                 .role = Role::dead_zone,
                 .x = from.x,
                 .y = raw.y,
                 .width = to.x - from.x,
                 .height = raw.size});
            add({.form = Form::rectangle,
                 .role = Role::dead_zone,
                 .x = raw.x,
                 .y = from.y,
                 .width = raw.size,
                 .height = to.y - from.y});
        }
        path(Role::raw_value, raw, trace.raw);
        if (trace.has_rest) {
            const PicturePoint at = raw.at(trace.rest);
            add_line(Role::rest, {at.x - 6, at.y}, {at.x + 6, at.y});
            add_line(Role::rest, {at.x, at.y - 6}, {at.x, at.y + 6});
        }
        frame(shaped, "shaped");
        add_circle(Role::outer_zone, shaped.at({0, 0}), shaped.length(1), false);
        std::vector<Vector2> values;
        for (const Vector2& value : trace.raw) values.push_back(shape(shaping, value));
        path(Role::shaped_value, shaped, values);
    }

    // Its travel over the values that it reported, from left to right.
    void draw_trigger(const StickTrace& trace, const Square& raw, const Square& shaped) {
        frame(raw, "as reported, in order");
        const AxisRange& range = trace.pull_shaping.range;
        const double dead = range.centre + trace.pull_shaping.response.dead_zone * (range.greatest - range.centre);
        const PicturePoint from = raw.graph(0, std::clamp(dead, 0.0, 1.0));
        add({.form = Form::rectangle,
             .role = Role::dead_zone,
             .x = raw.x,
             .y = from.y,
             .width = raw.size,
             .height = raw.y + raw.size - from.y});
        frame(shaped, "shaped, in order");
        std::vector<PicturePoint> reported, made;
        const auto last = static_cast<double>(trace.raw.size() - 1);
        for (std::size_t i = 0; i < trace.raw.size(); ++i) {
            const double at = last > 0 ? static_cast<double>(i) / last : 0, value = trace.raw[i].x;
            reported.push_back(raw.graph(at, std::clamp(value, 0.0, 1.0)));
            made.push_back(shaped.graph(at, shape(trace.pull_shaping, value)));
        }
        add({.form = Form::curve, .role = Role::raw_value, .points = std::move(reported)});
        if (trace.has_rest)
            add_line(Role::rest, raw.graph(0, std::clamp(trace.rest.x, 0.0, 1.0)),
                     raw.graph(1, std::clamp(trace.rest.x, 0.0, 1.0)));
        add({.form = Form::curve, .role = Role::shaped_value, .points = std::move(made)});
    }

    // The deflection and its shaped value; a dot for each value that occurred.
    void draw_response(const StickTrace& trace, const ResponseCurve& response, const Square& in) {
        frame(in, "deflection, reported to shaped");
        add({.form = Form::rectangle,
             .role = Role::dead_zone,
             .x = in.x,
             .y = in.y,
             .width = in.length(response.dead_zone),
             .height = in.size});
        const PullShaping plain{.range = {.centre = 0, .least = 0, .greatest = 1}, .response = response};
        std::vector<PicturePoint> points;
        for (int i = 0; i <= 100; ++i) points.push_back(in.graph(i / 100.0, shape(plain, i / 100.0)));
        add({.form = Form::curve, .role = Role::shaped_value, .points = std::move(points)});
        add_line(Role::outer_zone, in.graph(1 - response.outer_zone, 0), in.graph(1 - response.outer_zone, 1));
        double last = -1;
        std::vector<double> lengths;
        for (const Vector2& value : trace.raw) {
            const StickShaping& stick = trace.stick_shaping;
            const AxisRange& pull = trace.pull_shaping.range;
            const auto share = [](const AxisRange& range, double raw) {
                return (raw - range.centre) /
                       (raw < range.centre ? range.centre - range.least : range.greatest - range.centre);
            };
            lengths.push_back(std::clamp(
                trace.is_trigger ? share(pull, value.x) : std::hypot(share(stick.x, value.x), share(stick.y, value.y)),
                0.0, 1.0));
        }
        std::sort(lengths.begin(), lengths.end());
        for (const double length : lengths) {
            if (in.length(length - last) < 3) continue;
            last = length;
            add_circle(Role::raw_value, in.graph(length, shape(plain, length)), 2, true);
        }
    }

    void draw_legend(double y) {
        double x = margin;
        const auto entry = [&](Role role, std::string text) {
            const double wide = 24 + text_width(options_, Role::small_label, text) + 18;
            const double middle = y + small_size * line_height / 2;
            switch (role) {
                case Role::dead_zone:
                    add({.form = Form::rectangle, .role = role, .x = x, .y = middle - 5, .width = 16, .height = 10});
                    break;
                case Role::rest:
                    add_line(role, {x + 2, middle}, {x + 14, middle});
                    add_line(role, {x + 8, middle - 6}, {x + 8, middle + 6});
                    break;
                default: add_line(role, {x, middle}, {x + 16, middle}); break;
            }
            add_text(Role::small_label, std::move(text), x + 22, y);
            x += wide;
        };
        entry(Role::raw_value, "reported values");
        entry(Role::shaped_value, "what shaping makes of them");
        entry(Role::dead_zone, "dead zone: becomes 0");
        entry(Role::outer_zone, "outer zone: becomes 1");
        entry(Role::rest, "where it rests");
    }

    const std::vector<StickTrace>& traces_;
    const PictureOptions& options_;
    Picture picture_;
};

}  // namespace

Picture stick_picture(const std::vector<StickTrace>& traces, const PictureOptions& options) {
    return Layout{traces, options}.build();
}

}  // namespace cursorum
