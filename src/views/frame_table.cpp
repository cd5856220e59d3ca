#include <fmt/format.h>

#include <iterator>

#include "cursorum/views/frame_views.hpp"
#include "cursorum/views/text.hpp"
#include "views/frame_details.hpp"
#include "views/frame_rows.hpp"

namespace cursorum {
namespace {

bool is_news(const ButtonFigures& f) {
    return f.press_count() + f.release_count() + f.adopt_count() + f.cancel_count() + f.system_repeat_count() != 0 ||
           f.repeat_count() != 0;
}

/// A dot for zero: the eye finds the figures.
std::string count_text(std::uint64_t count) { return count == 0 ? "·" : fmt::format("{}", count); }

std::string owner_heading(const FrameSelection& selection) {
    const std::string_view owners = owners_of(selection);
    return owners.empty() ? std::string{} : fmt::format("{:>6}  ", owners);
}

std::string_view style_of(FramePart part) {
    switch (part) {
        case FramePart::clicks:
        case FramePart::drags: return Paint::green;
        case FramePart::devices:
        case FramePart::seats: return Paint::yellow;
        case FramePart::contacts:
        case FramePart::locks: return Paint::cyan;
        default: return Paint::dim;
    }
}

void add_row(std::string& text, std::uint64_t number, const Frame& frame, const FrameRow& row,
             const FrameSelection& selection, const Paint& paint) {
    const ButtonFigures& f = row.figures;
    if (!is_news(f)) return;
    const std::string owner = owners_of(selection).empty() ? std::string{} : fmt::format("{:>6}  ", row.owner);
    fmt::format_to(
        std::back_inserter(text),
        "{:>7}  {:>12.6f} s  {}{:<16} {} {:>5}  {:>7}  {:>5}  {:>6}  {:>6}  {:>6}  {:>14}  {:>9.3f} ms {:>3.0f}%\n",
        number, seconds(frame.end().time_since_epoch()), owner, name_of(row.button),
        paint(style_of(f.state()), fmt::format("{:<8}", name_of(f.state()))), count_text(f.press_count()),
        count_text(f.release_count()), count_text(f.adopt_count()), count_text(f.cancel_count()),
        count_text(f.repeat_count()), count_text(f.system_repeat_count()), span_text(f.held_for()),
        seconds(f.down_span()) * 1e3, f.down_share() * 100);
}

}  // namespace

std::string frame_table_heading(const FrameSelection& selection, bool colour) {
    const Paint paint{colour};
    const std::string counts = "press  release  adopt  cancel  repeat  system";
    return paint(Paint::bold,
                 fmt::format("{:>7}  {:>14}  {}{:<16} {:<8} {}  {:>14}  {:>17}", "frame", "ends at",
                             owner_heading(selection), "control", "state", counts, "held for", "down in frame")) +
           "\n";
}

std::string frame_as_table(std::uint64_t number, const Frame& frame, const Timeline& timeline,
                           const FrameSelection& selection, bool colour) {
    const Paint paint{colour};
    std::string text;
    if (selection.parts.contains(FramePart::controls))
        for (const FrameRow& row : frame_rows(frame, timeline, selection))
            add_row(text, number, frame, row, selection, paint);
    for (unsigned i = 1; i < frame_part_count; ++i) {
        const auto part = static_cast<FramePart>(i);
        if (!selection.parts.contains(part)) continue;
        for (const DetailRow& row : detail_rows(part, frame, timeline, selection))
            if (row.is_news)
                fmt::format_to(std::back_inserter(text), "{:>7}  {:>12.6f} s  {}{:<16} {} {}\n", number,
                               seconds(frame.end().time_since_epoch()), owners_of(selection).empty() ? "" : "        ",
                               row.name, paint(style_of(part), fmt::format("{:<8}", row.state)), row.text);
    }
    return text;
}
}  // namespace cursorum
