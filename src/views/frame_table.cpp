// Frames as tables for a terminal: a heading for each frame, and a line for each control with its counts and times,
// aligned over all frames shown.
#include <fmt/format.h>

#include "cursorum/views/frame_views.hpp"
#include "cursorum/views/text.hpp"
#include "views/frame_details.hpp"
#include "views/frame_rows.hpp"
#include "views/shown.hpp"

namespace cursorum {
namespace {

bool has_edges(const ButtonFigures& f) {
    return f.press_count() + f.release_count() + f.adopt_count() + f.cancel_count() != 0;
}

/// A dot for zero, so that the other figures stand out.
std::string count_text(std::uint64_t count) { return count == 0 ? "·" : fmt::format("{}", count); }

std::string_view style_of(FramePart part) {
    switch (part) {
        case FramePart::clicks:
        case FramePart::text:
        case FramePart::drags: return Paint::green;
        case FramePart::devices:
        case FramePart::seats: return Paint::yellow;
        case FramePart::contacts:
        case FramePart::locks: return Paint::cyan;
        default: return Paint::dim;
    }
}

void add_row(TerminalText& text, std::uint64_t number, const Frame& frame, const FrameRow& row,
             const FrameSelection& selection, const Paint& paint) {
    const ButtonFigures& f = row.figures;
    RepeatsSoFar::Counts repeats{f.repeat_count(), f.system_repeat_count()};
    if (selection.repeats) {
        RepeatsSoFar::Counts& so_far = selection.repeats->of[std::uint64_t{row.owner} << 16 | row.button.number];
        repeats = {so_far.own + repeats.own, so_far.system + repeats.system};
        so_far = has_edges(f) ? RepeatsSoFar::Counts{} : repeats;
        if (!has_edges(f)) return;
    } else if (!has_edges(f) && repeats.own + repeats.system == 0) {
        return;
    }
    const bool has_owner = !owners_of(selection).empty();
    text += shown("{:>5} {:>10}  ", number, cut_text(frame.end()));
    if (has_owner) text += shown("{:>6} ", row.owner);
    text += shown("{:<{}} {} ", name_of(row.button), selection.name_width,
                  paint(style_of(f.state()), fmt::format("{:<7}", name_of(f.state()))));
    if (selection.in_words) {
        text += shown("{}{}\n", news_text(f, repeats.own),
                      repeats.system == 0 ? "" : ", " + plural_text(repeats.system, "system repeat"));
        return;
    }
    text += shown("{:>5} {:>7} {:>5} {:>6} {:>6}", count_text(f.press_count()), count_text(f.release_count()),
                  count_text(f.adopt_count()), count_text(f.cancel_count()), count_text(repeats.own));
    if (!has_owner) text += shown(" {:>6}", count_text(repeats.system));
    text += shown(" {:>8.3f}", seconds(f.held_for()) * 1e3);
    if (!has_owner) text += shown(" {:>6.0f}", f.down_share() * 100);
    text += "\n";
}

}  // namespace

TerminalText frame_table_heading(const FrameSelection& selection, bool colour) {
    const Paint paint{colour};
    std::string heading = fmt::format("{:>5} {:>10}  ", "frame", "ends at s");
    const bool has_owner = !owners_of(selection).empty();
    const bool has_figures = selection.parts.contains(FramePart::controls) && !selection.in_words;
    if (has_owner) heading += fmt::format("{:>6} ", owners_of(selection));
    heading += fmt::format("{:<{}} {:<7} ", has_figures ? "control" : "what", selection.name_width, "state");
    heading += !has_figures ? "details"
               : has_owner  ? "press release adopt cancel repeat  held ms"
                            : "press release adopt cancel repeat system  held ms down %";
    return paint(Paint::bold, heading) + "\n";
}

TerminalText frame_as_table(std::uint64_t number, const Frame& frame, const Timeline& timeline,
                            const FrameSelection& selection, bool colour) {
    const Paint paint{colour};
    TerminalText text;
    if (selection.parts.contains(FramePart::controls))
        for (const FrameRow& row : frame_rows(frame, timeline, selection))
            add_row(text, number, frame, row, selection, paint);
    for (unsigned i = 1; i < frame_part_count; ++i) {
        const auto part = static_cast<FramePart>(i);
        if (!selection.parts.contains(part)) continue;
        for (const DetailRow& row : detail_rows(part, frame, timeline, selection))
            if (row.is_news)
                text += shown("{:>5} {:>10}  {}{:<{}} {} {}\n", number, cut_text(frame.end()),
                              owners_of(selection).empty() ? "" : "       ", row.name, selection.name_width,
                              paint(style_of(part), fmt::format("{:<7}", row.state)), row.text);
    }
    return text;
}
}  // namespace cursorum
