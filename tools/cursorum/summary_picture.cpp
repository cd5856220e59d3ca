#include "summary_picture.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <utility>

#include "cursorum/views/text.hpp"
#include "picture_file.hpp"

namespace cursorum::tool {

std::string short_span(Duration span) {
    const auto ns = static_cast<double>(span.count());
    return ns >= 1e9   ? fmt::format("{:.3g} s", ns / 1e9)
           : ns >= 1e6 ? fmt::format("{:.3g} ms", ns / 1e6)
           : ns >= 1e3 ? fmt::format("{:.3g} us", ns / 1e3)
                       : fmt::format("{:.0f} ns", ns);
}

std::vector<LatenessBin> lateness_bins(const Lengths& lengths) {
    constexpr std::array<int, 9> borders{0, 1, 2, 4, 8, 16, 32, 64, 128};
    std::vector<LatenessBin> bins;
    std::uint64_t below = 0;
    for (std::size_t i = 1; i <= borders.size(); ++i) {
        const bool is_last = i == borders.size();
        const std::uint64_t up_to = is_last ? lengths.count() : lengths.count_below(Duration{borders[i] * 1'000'000});
        bins.push_back({is_last ? fmt::format("{} ms and more", borders[i - 1])
                                : fmt::format("{} to {} ms", borders[i - 1], borders[i]),
                        up_to - std::exchange(below, up_to)});
    }
    return bins;
}

namespace {

using Form = PictureShape::Form;
using Role = PictureRole;

constexpr double width = 1280, margin = 12, line_height = text_line_height;
constexpr double title_size = text_size_of(Role::title), label_size = text_size_of(Role::label),
                 small_size = text_size_of(Role::small_label);
constexpr double name_width = 150, middle = 800;  // where the right half begins

class Layout {
public:
    Layout(const RecordingSummary& summary, const std::string& rate) : summary_{summary}, rate_{rate} {}

    Picture build(const std::string& title) {
        picture_.width = width;
        add_text(Role::title, title, margin, margin);
        const double top = margin + title_size * line_height + 10;
        const double left_end = draw_holds(top), right_end = draw_lateness(top);
        picture_.height = std::ceil(std::max(left_end, right_end) + margin);
        return std::move(picture_);
    }

private:
    void add_text(Role role, std::string text, double x, double y) {
        picture_.shapes.push_back(text_shape(options_, role, std::move(text), {x, y}));
    }
    void add_box(Role role, double x, double y, double wide, double high) {
        picture_.shapes.push_back(
            {.form = Form::rectangle, .role = role, .x = x, .y = y, .width = wide, .height = high});
    }
    void add_line(Role role, PicturePoint from, PicturePoint to) {
        picture_.shapes.push_back(line_shape(role, from, to));
    }

    // On a logarithmic scale from 1 ms to 100 s.
    static double x_of(Duration length) {
        const double ms = std::clamp(static_cast<double>(length.count()) / 1e6, 1.0, 1e5);
        return margin + name_width + std::log10(ms) / 5 * (middle - 90 - margin - name_width);
    }

    double draw_holds(double top) {
        constexpr double high = 26;
        add_text(Role::title, "How long controls were held", margin, top);
        double y = top + title_size * line_height + 6;
        const double bottom =
            y + 2 * (small_size * line_height + 4) + high * static_cast<double>(summary_.controls.size());
        const double times = y + small_size * line_height + 4, rows = times + small_size * line_height + 6;
        for (std::size_t i = 0; i < summary_.controls.size(); i += 2)
            add_box(Role::lane_band, margin, rows + high * static_cast<double>(i), middle - 20 - margin, high);
        for (const auto& [ms, text] :
             {std::pair{1, "1 ms"}, {10, "10 ms"}, {100, "100 ms"}, {1000, "1 s"}, {10'000, "10 s"}}) {
            const double x = x_of(Duration{std::int64_t{ms} * 1'000'000});
            add_line(Role::grid, {x, times}, {x, bottom});
            add_text(Role::small_label, text, x + 2, times);
        }
        add_text(Role::small_label, "one frame at", margin, y);
        for (const int rate : {144, 60, 30}) {
            const double x = x_of(Duration{1'000'000'000 / rate});
            add_line(Role::lost, {x, times - 2}, {x, bottom});
            const std::string text = fmt::format("{}", rate);
            add_text(Role::small_label, text, x - text_width(options_, Role::small_label, text) / 2, y);
        }
        y = rows;
        add_text(Role::small_label, "presses", middle - 78, times);
        for (const auto& [name, its] : summary_.controls) {
            add_text(Role::label, name, margin + 4, y + (high - label_size * line_height) / 2);
            add_text(Role::small_label, fmt::format("{}", its.presses), middle - 60,
                     y + (high - small_size * line_height) / 2);
            if (its.holds.count() != 0) {
                const double centre = y + high / 2;
                add_line(Role::shaped_value, {x_of(its.holds.at(0)), centre}, {x_of(its.holds.at(1)), centre});
                const double from = x_of(its.holds.at(0.25)), to = x_of(its.holds.at(0.75));
                add_box(Role::bar, from - 1, centre - 6, std::max(to - from, 1.0) + 2, 12);
                for (const double end : {0.0, 1.0}) {
                    const double x = x_of(its.holds.at(end));
                    add_line(Role::press_edge, {x, centre - 4}, {x, centre + 4});
                }
                const double x = x_of(its.holds.at(0.5));
                add_line(Role::press_edge, {x, centre - 8}, {x, centre + 8});
            }
            y += high;
        }
        if (summary_.controls.empty()) add_text(Role::label, "No button was pressed.", margin + 4, y);
        y += 6;
        add_text(Role::small_label,
                 "Line: shortest to longest; box: the middle half; tall tick: the median. Left of a red line: a tap "
                 "shorter than a frame.",
                 margin, y);
        y += small_size * line_height + 10;
        add_text(Role::label,
                 fmt::format("Comparing levels at {} would lose {} and make up {}.", rate_,
                             summary_.lost == 0 ? "no press" : plural_text(summary_.lost, "press"),
                             summary_.made_up == 0 ? "none" : std::to_string(summary_.made_up)),
                 margin, y);
        return y + label_size * line_height;
    }

    double draw_lateness(double top) {
        double y = top;
        if (summary_.to_cut.count() != 0) {
            add_text(Role::title, "From an event to the cut that takes it", middle, y);
            y += title_size * line_height + 6;
            add_text(Role::label,
                     fmt::format("least {}, median {}, 99 % within {}, most {}", short_span(summary_.to_cut.at(0)),
                                 short_span(summary_.to_cut.at(0.5)), short_span(summary_.to_cut.at(0.99)),
                                 short_span(summary_.to_cut.at(1))),
                     middle, y);
            y += label_size * line_height + 6;
            const std::vector<LatenessBin> bins = lateness_bins(summary_.to_cut);
            std::uint64_t most = 1;
            for (const LatenessBin& bin : bins) most = std::max(most, bin.count);
            for (const LatenessBin& bin : bins) {
                if (bin.count == 0) continue;
                constexpr double high = 20, left = middle + 100, room = width - margin - left - 60;
                const double wide = room * static_cast<double>(bin.count) / static_cast<double>(most);
                const double text_top = y + (high - small_size * line_height) / 2;
                add_text(Role::small_label, bin.range, left - 8 - text_width(options_, Role::small_label, bin.range),
                         text_top);
                add_box(Role::bar, left, y + 2, std::max(wide, 1.0), high - 4);
                add_text(Role::small_label, fmt::format("{}", bin.count), left + wide + 6, text_top);
                y += high;
            }
            y += 12;
        }
        const auto line = [&](std::string text) {
            add_text(Role::label, std::move(text), middle, y);
            y += label_size * line_height + 3;
        };
        const auto spread = [](const Lengths& of) {
            return fmt::format("{} ({} to {})", short_span(of.at(0.5)), short_span(of.at(0)), short_span(of.at(1)));
        };
        const auto device = [&](DeviceId id) {
            const auto known = summary_.devices.find(id);
            return known == summary_.devices.end() || known->second.empty()
                       ? fmt::format("device {}", static_cast<std::uint32_t>(id))
                       : known->second;
        };
        const auto heading = [&](const char* text) {
            add_text(Role::title, text, middle, y);
            y += title_size * line_height + 4;
        };
        if (!summary_.repeats.empty()) heading("System repeats, median and spread");
        for (const auto& [id, its] : summary_.repeats) {
            line(fmt::format("{}: first after {}", device(id), spread(its.delays)));
            line(fmt::format("then every {}; {} in all", spread(its.intervals),
                             its.delays.count() + its.intervals.count()));
        }
        if (!summary_.mice.empty()) heading("Motion");
        for (const auto& [id, its] : summary_.mice)
            line(fmt::format("{}: {}, every {}; 90 % within {} to {}", device(id), plural_text(its.events, "event"),
                             short_span(its.intervals.at(0.5)), short_span(its.intervals.at(0.05)),
                             short_span(its.intervals.at(0.95))));
        return y;
    }

    const RecordingSummary& summary_;
    const std::string& rate_;
    const PictureOptions options_{.text_width = picture_text_width};
    Picture picture_;
};

}  // namespace

Picture summary_picture(const RecordingSummary& summary, const std::string& title, const std::string& rate) {
    return Layout{summary, rate}.build(title);
}

}  // namespace cursorum::tool
