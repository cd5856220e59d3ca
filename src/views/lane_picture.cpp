// The page around the lanes: title, times, spans, findings, legend. It decides which lanes have room and how the time
// is divided; lane_drawing.cpp draws each.

#include "cursorum/views/lane_picture.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <set>
#include <utility>

#include "cursorum/views/text.hpp"
#include "views/lane_drawing.hpp"

namespace cursorum {
namespace {

using Form = PictureShape::Form;
using Role = PictureRole;

constexpr double margin = 12, label_width = 176, line_height = text_line_height;
constexpr double title_size = text_size_of(Role::title), label_size = text_size_of(Role::label),
                 small_size = text_size_of(Role::small_label);
/// The height from which counts appear under a lane's name, and the least and greatest heights of lanes.
constexpr double lane_with_counts = 32, least_lane = 2.9, greatest_lane = 46;
/// Letters that can still be read, in pixels.
constexpr double least_letters = 6.5;
/// An axis needs more height to be readable.
double weight(const Lane& lane) { return lane.has_values() ? 1.3 : 1; }

/// The least of 1, 2 or 5 times a power of ten that is not below the value.
double round_step(double least) {
    const double power = std::pow(10, std::floor(std::log10(least)));
    for (const double factor : {1.0, 2.0, 5.0})
        if (factor * power >= least * 0.999) return factor * power;
    return 10 * power;
}

std::string axis_time_text(double time, double step) {
    const int decimals = std::clamp(static_cast<int>(-std::floor(std::log10(step) + 1e-9)), 0, 9);
    return fmt::format("{:.{}f} s", time + 0.0, decimals);  // never -0
}

/// "3 presses", "12 own, 40 system repeats".
std::string counts_text(const Lane& lane) {
    if (lane.kind == Lane::Kind::mode) return "mode";
    if (lane.kind == Lane::Kind::claim) return "claim";
    std::uint64_t presses = 0, repeats = 0, system_repeats = 0;
    for (const Lane::Cell& cell : lane.cells) {
        presses += cell.presses;
        repeats += cell.repeats;
        system_repeats += cell.system_repeats;
    }
    return repeats + system_repeats != 0 ? fmt::format("{} own, {} system repeats", repeats, system_repeats)
                                         : plural_text(presses, "press");
}

std::string range_text(const Lane& lane) {
    const auto [bottom, top] = lane.range();
    if (lane.kind == Lane::Kind::pointer)
        return fmt::format("{:g} to {:g} pixels", std::min(bottom, top), std::max(bottom, top));
    return bottom == 0 ? "0 to 1" : fmt::format("-1 to 1, {:g} is at the top", top);
}

struct LegendEntry {
    Role role;
    std::string_view text;
};
constexpr std::array legend{LegendEntry{Role::bar, "down, exactly"},
                            LegendEntry{Role::system_repeat, "system repeat"},
                            LegendEntry{Role::hold, "frame: held"},
                            LegendEntry{Role::press, "press"},
                            LegendEntry{Role::release, "release"},
                            LegendEntry{Role::blip, "blip: tapped within a frame"},
                            LegendEntry{Role::dip, "dip: up within a frame"},
                            LegendEntry{Role::adopt, "adopt: found down"},
                            LegendEntry{Role::cancel, "cancel"},
                            LegendEntry{Role::repeat, "own repeat"},
                            LegendEntry{Role::missed, "press without effect"},
                            LegendEntry{Role::lost, "lost by comparing levels"},
                            LegendEntry{Role::made_up, "made up by comparing levels"},
                            LegendEntry{Role::belief, "the other layer is wrong"},
                            LegendEntry{Role::dead_zone, "dead zone"},
                            LegendEntry{Role::raw_value, "raw value"},
                            LegendEntry{Role::shaped_value, "shaped value"},
                            LegendEntry{Role::without_focus, "without focus"},
                            LegendEntry{Role::unplugged, "unplugged"},
                            LegendEntry{Role::paused, "paused or stalled"},
                            LegendEntry{Role::interrupted, "interrupted"}};

/// Builds a picture from top to bottom.
class Layout {
public:
    Layout(const LaneHistory& lanes, const PictureOptions& options)
        : lanes_{lanes},
          options_{options},
          width_{std::max(options.width, 400.0)},
          height_{std::max(options.height, 200.0)} {}

    Picture build() {
        scale_ = {lanes_.start(), margin + label_width, 1, width_ - margin};
        const double length = seconds(lanes_.end() - lanes_.start());
        scale_.per_second = length > 0 ? (scale_.right - scale_.left) / length : 1;
        picture_.shapes.reserve(512);
        picture_.width = width_;
        picture_.height = height_;
        picture_.plot_left = scale_.left;
        picture_.plot_right = scale_.right;
        double top = margin;
        if (!options_.title.empty()) {
            add_text(Role::title, fitted(options_.title, Role::title, width_ - 2 * margin), margin, top);
            top += title_size * line_height + 6;
        }
        if (lanes_.frames().empty()) {
            add_text(Role::label, "No frames to draw.", margin, top);
            return std::move(picture_);
        }
        std::vector<LaneFinding> findings =
            options_.with_findings ? lane_findings_without_text(lanes_) : std::vector<LaneFinding>{};
        choose_lanes(top, findings);
        const double lanes_top = top + head_height();
        double y = lanes_top;
        for (const std::size_t lane : chosen_) {
            draw_background(lane, y);
            y += high_of(lane);
        }
        draw_spans(top, lanes_top, y);
        draw_grid(lanes_top, y);
        draw_labels(lanes_top);
        y = lanes_top;
        for (const std::size_t lane : chosen_) {
            draw_lane(lanes_, static_cast<int>(lane), scale_, y, high_of(lane), picture_.shapes, crowded_);
            y += high_of(lane);
        }
        y += 8;
        say_what_is_left_out();
        y = draw_findings(findings, y, height_ - foot_height());
        if (with_legend_) y = draw_legend(y);
        for (const std::string& what : picture_.left_out) {
            if (y + row > height_) break;
            add_text(Role::small_label, fitted(what, Role::small_label, width_ - 2 * margin), margin, y);
            y += row;
        }
        picture_.height = std::min(std::ceil(y + margin - 4), height_);
        return std::move(picture_);
    }

private:
    double small_width(std::string_view text) const { return text_width(options_, Role::small_label, text); }
    /// The text, or as much of its beginning as fits, with dots.
    std::string fitted(std::string_view text, Role role, double width, bool is_bold = false) const {
        std::string result{text};
        while (!result.empty() && text_width(options_, role, result, is_bold) > width) {
            const bool had_dots = result.ends_with("\u2026");
            if (had_dots) result.erase(result.size() - 3);
            do result.pop_back();
            while (!result.empty() && (result.back() & 0xC0) == 0xC0);
            result += "\u2026";
            if (result.size() == 3) break;
        }
        return result;
    }
    PictureShape& add(PictureShape shape) {
        picture_.shapes.push_back(std::move(shape));
        return picture_.shapes.back();
    }
    PictureShape& add_text(Role role, std::string text, double x, double y, bool is_bold = false) {
        return add(text_shape(options_, role, std::move(text), {x, y}, is_bold));
    }
    void add_grid(double x, double top, double bottom) {
        add({.form = Form::rectangle, .role = Role::grid, .x = x - 0.5, .y = top, .width = 1, .height = bottom - top});
    }
    void add_line(Role role, PicturePoint from, PicturePoint to) { add(line_shape(role, from, to)); }

    // Two rows for the spans' labels, one for times, one for frame numbers.
    static constexpr double row = small_size * line_height + 2, legend_row = row + 4;
    double head_height() const { return (lanes_.spans().empty() ? 2 : 4) * row + 4; }
    double high_of(std::size_t lane) const { return unit_ * weight(lanes_.lanes()[lane]); }

    /// Room for the legend and for the list of omitted things. Both depend on the lanes, so they are laid out after
    /// them.
    double foot_height() const {
        double width = 0;
        for (const LegendEntry& entry : legend) width += legend_width(entry);
        const double rows = std::ceil(width * 1.1 / (width_ - 2 * margin));
        return (with_legend_ ? rows * legend_row + row : 0) + 2 * row + margin;
    }
    double legend_width(const LegendEntry& entry) const { return 20 + small_width(entry.text) + 14; }

    /// Lanes share the height that findings, legend and notes leave. If that is too little, first the findings go, then
    /// the legend, then the lanes become strips; at last those with the fewest events go.
    void choose_lanes(double top, std::vector<LaneFinding>& findings) {
        for (std::size_t i = 0; i < lanes_.lanes().size(); ++i) chosen_.push_back(i);
        double weights = 0;
        for (const Lane& lane : lanes_.lanes()) weights += weight(lane);
        const auto room = [&] {
            const double lines = static_cast<double>(std::min<std::size_t>((findings.size() + 1) / 2, 7));
            const double foot =
                8 + (!findings.empty() ? (lines + 1) * (label_size * line_height + 1) + 12 : 0) + foot_height();
            return height_ - top - head_height() - foot;
        };
        // Marks are worth more than findings and legend.
        if (weights * least_lane_with_marks > room() && !findings.empty()) {
            picture_.left_out.push_back(
                fmt::format("{} about what stands out did not fit.", plural_text(findings.size(), "line")));
            findings.clear();
        }
        if (weights * least_lane_with_marks > room()) with_legend_ = false;
        if (weights * least_lane > room()) leave_out_lanes(weights, room());
        for (const std::string_view name : lanes_.silent())
            picture_.left_out.push_back(fmt::format("{} has no events in this time.", name));
        unit_ = chosen_.empty() ? 0 : std::clamp(room() / weights, least_lane, greatest_lane);
        unit_ = std::min(unit_, (height_ - margin - top - head_height()) / std::max(weights, 1.0));
    }
    /// What is active now comes first.
    static std::uint64_t rank(const Lane& lane) {
        return (lane.is_active() ? std::uint64_t{1} << 63 : 0) + lane.event_count();
    }
    void leave_out_lanes(double& weights, double room) {
        std::vector<std::uint64_t> events;  // of each lane
        for (const Lane& lane : lanes_.lanes()) events.push_back(rank(lane));
        std::vector<std::string> out;
        while (chosen_.size() > 1 && weights * least_lane > room) {
            const auto least = std::min_element(chosen_.begin(), chosen_.end(),
                                                [&](std::size_t a, std::size_t b) { return events[a] < events[b]; });
            out.push_back(lanes_.lanes()[*least].title());
            weights -= weight(lanes_.lanes()[*least]);
            chosen_.erase(least);
        }
        picture_.left_out.push_back(fmt::format("No room for {}: {}. Use a greater height or --control to see them.",
                                                plural_text(out.size(), "more lane"), fmt::join(out, ", ")));
    }

    void draw_background(std::size_t number, double y) {
        const double high = high_of(number);
        if (is_odd_ = !is_odd_; is_odd_)
            add({.form = Form::rectangle,
                 .role = Role::lane_band,
                 .x = margin,
                 .y = y,
                 .width = width_ - 2 * margin,
                 .height = high});
        if (lanes_.lanes()[number].is_active())
            add({.form = Form::rectangle,
                 .role = Role::active,
                 .x = margin - 5,
                 .y = y + high * 0.1,
                 .width = 3,
                 .height = high * 0.8});
    }

    /// Where lanes are lower than letters, those that are active now have their names first, then those with the most
    /// events.
    void draw_labels(double lanes_top) {
        std::vector<std::pair<std::size_t, double>> order;  // lanes, and where they begin
        double y = lanes_top;
        for (const std::size_t lane : chosen_) {
            order.emplace_back(lane, y);
            y += high_of(lane);
        }
        const double letters = std::clamp(0.99 * unit_ / line_height, least_letters, label_size),
                     high = letters * line_height;
        std::vector<double> taken;  // tops of labels
        if (high > unit_ + 0.01) {
            std::stable_sort(order.begin(), order.end(), [&](const auto& a, const auto& b) {
                return rank(lanes_.lanes()[a.first]) > rank(lanes_.lanes()[b.first]);
            });
        }
        for (const auto& [lane, begin] : order) {
            const double middle = begin + high_of(lane) / 2, top = middle - high / 2;
            const bool is_hidden = high > unit_ + 0.01 && std::any_of(taken.begin(), taken.end(), [&](double other) {
                                       return std::abs(other - top) < high - 0.01;
                                   });
            if (is_hidden) continue;
            taken.push_back(top);
            draw_label(lane, begin, letters);
        }
        if (taken.size() < order.size())
            picture_.left_out.push_back(
                fmt::format("{} did not fit.", plural_text(order.size() - taken.size(), "name")));
    }

    void draw_label(std::size_t number, double y, double letters) {
        const Lane& lane = lanes_.lanes()[number];
        const double high = high_of(number), scale = letters / label_size;
        const bool has_counts = high >= lane_with_counts;
        const double block = (letters + (has_counts ? small_size : 0)) * line_height;
        const double first = y + (high - block) / 2;
        const auto resized = [&](PictureShape& shape) -> PictureShape& {
            shape.width *= scale;
            shape.height *= scale;
            return shape;
        };
        const double room = label_width - 10;
        PictureShape& name =
            resized(add_text(Role::label, fitted(lane.name, Role::label, room / scale, true), margin + 4, first, true));
        name.lane = static_cast<int>(number);
        const double end = name.width + 5;
        if (!has_counts) {
            if (lane.of.empty() || room - end < 20) return;
            resized(add_text(Role::small_label, fitted(lane.of, Role::small_label, (room - end) / scale),
                             margin + 4 + end, first + (letters - small_size * scale) * 0.9));
            return;
        }
        std::string counts = lane.has_values() ? range_text(lane) : counts_text(lane);
        if (!lane.of.empty()) counts = lane.of + ": " + counts;
        add_text(Role::small_label, fitted(counts, Role::small_label, label_width - 8), margin + 4,
                 first + letters * line_height);
    }

    void draw_spans(double top, double lanes_top, double bottom) {
        constexpr Role roles[] = {Role::without_focus, Role::paused, Role::unplugged, Role::interrupted};
        std::array<double, 2> ends{scale_.left, scale_.left};  // of the labels in both rows
        std::uint64_t unlabelled = 0;
        for (const LaneSpan& span : lanes_.spans()) {
            const Role role = roles[static_cast<unsigned>(span.kind)];
            const double from = scale_.x(span.from), to = std::max(scale_.x(span.to), from + 1);
            const auto shade = [&](double shade_top, double high) {
                add({.form = Form::rectangle,
                     .role = role,
                     .x = from,
                     .y = shade_top,
                     .width = to - from,
                     .height = high});
            };
            if (span.kind == LaneSpan::Kind::interrupted) {
                add_line(role, {from, lanes_top - 3}, {from, bottom});
            } else {
                shade(lanes_top - 5, 5);
                double y = lanes_top, shade_from = y;
                for (const std::size_t lane : chosen_) {
                    const double end = y + high_of(lane);
                    if (!span.concerns(lanes_.lanes()[lane])) {
                        if (y > shade_from) shade(shade_from, y - shade_from);
                        shade_from = end;
                    }
                    y = end;
                }
                if (y > shade_from) shade(shade_from, y - shade_from);
            }
            const std::string text = span.title();
            const double wide = small_width(text);
            bool is_placed = false;
            for (std::size_t i = 0; i < ends.size() && !is_placed; ++i) {
                // To the left of its beginning if there is not enough room to the right.
                const double x = std::min(from, scale_.right - wide);
                if (x < ends[i]) continue;
                add_text(Role::small_label, text, x, top + static_cast<double>(i) * row);
                ends[i] = x + wide + 8;
                is_placed = true;
            }
            unlabelled += !is_placed;
        }
        if (unlabelled != 0)
            picture_.left_out.push_back(fmt::format("{} at the top did not fit.", plural_text(unlabelled, "label")));
    }

    void draw_grid(double lanes_top, double bottom) {
        const double times = lanes_top - 2 * row - 2, numbers = times + row;
        const double from = seconds(lanes_.start() - Time{}), to = seconds(lanes_.end() - Time{});
        const double step = round_step(std::max(90 / scale_.per_second, 1e-9));
        double end = 0;
        add_text(Role::small_label, "time", margin + 4, times);
        for (double time = std::ceil(from / step - 1e-6) * step; time <= to + step * 1e-6; time += step) {
            const double x = scale_.left + (time - from) * scale_.per_second;
            add_grid(x, times + row - 3, bottom);
            const std::string text = axis_time_text(time, step);
            const double wide = small_width(text), left = std::min(x + 2, scale_.right - wide);
            if (left < end) continue;
            add_text(Role::small_label, text, left, times);
            end = left + wide + 6;
        }
        const std::span<const LaneFrame> frames = lanes_.frames();
        const double wide_frame = (scale_.right - scale_.left) / static_cast<double>(frames.size());
        add_text(Role::small_label, "frame", margin + 4, numbers);
        const auto every = static_cast<std::uint64_t>(std::max(1.0, round_step(70 / wide_frame)));
        end = 0;
        for (const LaneFrame& frame : frames) {
            const double x = scale_.x(frame.from);
            if (wide_frame >= 5) add_grid(x, lanes_top, bottom);
            if (frame.number % every != 0) continue;
            add_line(Role::small_label, {x, numbers + 3}, {x, numbers + row});
            const std::string text = fmt::format("{}", frame.number);
            const double wide = small_width(text), left = std::min(x + 2, scale_.right - wide);
            if (left < end) continue;
            add_text(Role::small_label, text, left, numbers);
            end = left + wide + 6;
        }
    }

    /// The legend: rows of the marks that occur in the picture. Returns their bottom.
    double draw_legend(double top) {
        std::set<Role> used;
        for (const PictureShape& shape : picture_.shapes) used.insert(shape.role);
        struct Place {
            const LegendEntry* entry;
            double x;
            std::size_t row;
        };
        std::vector<Place> places;
        double x = margin;
        std::size_t rows = 1;
        for (const LegendEntry& entry : legend) {
            if (!used.contains(entry.role)) continue;
            const double wide = legend_width(entry);
            if (x + wide > width_ - margin && x > margin) {
                x = margin;
                ++rows;
            }
            places.push_back({&entry, x, rows - 1});
            x += wide;
        }
        if (places.empty() || top + static_cast<double>(rows) * legend_row > height_) return top;
        for (const Place& place : places) {
            const double y = top + static_cast<double>(place.row) * legend_row,
                         middle = y + small_size * line_height / 2;
            add_sample(place.entry->role, {place.x + 8, middle});
            add_text(Role::small_label, std::string{place.entry->text}, place.x + 20, y);
        }
        return top + static_cast<double>(rows) * legend_row;
    }
    void add_sample(Role role, PicturePoint at) {
        const auto box = [&](Role of, double high) {
            add({.form = Form::rectangle,
                 .role = of,
                 .x = at.x - 8,
                 .y = at.y - high / 2,
                 .width = 16,
                 .height = high});
        };
        switch (role) {
            case Role::bar:
                box(role, 9);
                add_line(Role::press_edge, {at.x - 8, at.y - 4.5}, {at.x - 8, at.y + 4.5});
                return add_line(Role::release_edge, {at.x + 8, at.y - 4.5}, {at.x + 8, at.y + 4.5});
            case Role::system_repeat:
                box(Role::bar, 9);
                for (const double x : {-4.0, 0.0, 4.0}) add_line(role, {at.x + x, at.y - 1.5}, {at.x + x, at.y + 4.5});
                return;
            case Role::hold: return box(role, 4);
            case Role::dead_zone:
            case Role::without_focus:
            case Role::unplugged:
            case Role::paused: return box(role, 11);
            case Role::interrupted: return add_line(role, {at.x, at.y - 6}, {at.x, at.y + 6});
            case Role::raw_value:
            case Role::shaped_value: return add_line(role, {at.x - 8, at.y + 3}, {at.x + 8, at.y - 3});
            case Role::repeat: add(mark_shape(role, at, 4)); return;
            case Role::lost:
            case Role::made_up: add(mark_shape(role, at, 12)); return;
            default: add(mark_shape(role, at, 9)); return;
        }
    }

    /// A heading and two columns, down to `bottom` at most. Returns their bottom.
    double draw_findings(std::vector<LaneFinding>& findings, double top, double bottom) {
        if (findings.empty()) return top;
        const double high = label_size * line_height + 1, column = (width_ - 2 * margin) / 2, first = top + 21;
        const auto rows = static_cast<std::size_t>(std::max(0.0, std::floor((bottom - first - 4) / high)));
        if (rows == 0) {
            picture_.left_out.push_back(
                fmt::format("{} about what stands out did not fit.", plural_text(findings.size(), "line")));
            return top;
        }
        add_text(Role::title, "What stands out", margin, top);
        const std::size_t shown = findings.size() <= 2 * rows ? findings.size() : 2 * rows - 1;
        const std::size_t in_column = shown < findings.size() ? rows : (shown + 1) / 2;
        for (std::size_t i = 0; i < shown; ++i) {
            cursorum::add_text(lanes_, findings[i]);
            const std::string text = fmt::format("{:.3f} s  {}", seconds(findings[i].time - Time{}), findings[i].text);
            PictureShape& line = add_text(Role::label, fitted(text, Role::label, column - 10),
                                          margin + 4 + (i / in_column == 0 ? 0 : column),
                                          first + high * static_cast<double>(i % in_column));
            line.lane = findings[i].lane;
            line.frame = findings[i].frame;
        }
        if (shown < findings.size())
            add_text(Role::label, fmt::format("… and {} more", findings.size() - shown), margin + 4 + column,
                     first + high * static_cast<double>(rows - 1));
        return first + high * static_cast<double>(in_column) + 6;
    }

    void say_what_is_left_out() {
        std::string text;
        if (crowded_.marks != 0)
            text = fmt::format("{} closer to another than {} wide", plural_text(crowded_.marks, "mark"),
                               crowded_.marks == 1 ? "it is" : "they are");
        if (crowded_.repeats != 0)
            text += (text.empty() ? "" : " and ") +
                    fmt::format("{} closer than three pixels", plural_text(crowded_.repeats, "repeat"));
        if (!text.empty())
            picture_.left_out.push_back("Not shown: " + text + ". A shorter stretch of time shows them.");
    }

    const LaneHistory& lanes_;
    const PictureOptions& options_;
    double width_, height_, unit_ = 0;
    bool is_odd_ = false, with_legend_ = options_.with_legend;
    LaneScale scale_;
    Picture picture_;
    std::vector<std::size_t> chosen_;
    LaneLeftOut crowded_;
};

}  // namespace

Picture lane_picture(const LaneHistory& lanes, const PictureOptions& options) { return Layout{lanes, options}.build(); }

}  // namespace cursorum
