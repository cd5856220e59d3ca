#include <fmt/format.h>

#include <iterator>

#include "cursorum/views/frame_views.hpp"
#include "cursorum/views/text.hpp"
#include "views/frame_rows.hpp"

namespace cursorum {
namespace {

std::string_view style_of(ButtonState state) {
    switch (state) {
        case ButtonState::press:
        case ButtonState::dip: return Paint::green;
        case ButtonState::blip: return Paint::yellow;
        case ButtonState::release: return Paint::cyan;
        default: return Paint::dim;
    }
}

bool is_news(const ButtonFigures& f) {
    return f.press_count() + f.release_count() + f.adopt_count() + f.cancel_count() + f.system_repeat_count() != 0 ||
           f.repeat_count() != 0;
}

/// A dot for zero: the eye finds the figures.
std::string count_text(std::uint64_t count) { return count == 0 ? "·" : fmt::format("{}", count); }

}  // namespace

std::string frame_table_heading(const FrameSelection& selection, bool colour) {
    const Paint paint{colour};
    const std::string counts = "press  release  adopt  cancel  repeat  system";
    return paint(Paint::bold, fmt::format("{:>7}  {:>14}  {}{:<14} {:<8} {}  {:>14}  {:>17}", "frame", "ends at",
                                          selection.per_device ? "device  " : "", "control", "state", counts,
                                          "held for", "down in frame")) +
           "\n";
}

std::string frame_as_table(std::uint64_t number, const Frame& frame, const Timeline& timeline,
                           const FrameSelection& selection, bool colour) {
    const Paint paint{colour};
    std::string text;
    for (const FrameRow& row : frame_rows(frame, timeline, selection)) {
        const ButtonFigures& f = row.figures;
        if (!is_news(f)) continue;
        const std::string device =
            selection.per_device ? fmt::format("{:>6}  ", static_cast<std::uint32_t>(row.device)) : std::string{};
        fmt::format_to(
            std::back_inserter(text),
            "{:>7}  {:>12.6f} s  {}{:<14} {} {:>5}  {:>7}  {:>5}  {:>6}  {:>6}  {:>6}  {:>14}  {:>9.3f} ms {:>3.0f}%\n",
            number, seconds(frame.end().time_since_epoch()), device, name_of(row.button),
            paint(style_of(f.state()), fmt::format("{:<8}", name_of(f.state()))), count_text(f.press_count()),
            count_text(f.release_count()), count_text(f.adopt_count()), count_text(f.cancel_count()),
            count_text(f.repeat_count()), count_text(f.system_repeat_count()), span_text(f.held_for()),
            seconds(f.down_span()) * 1e3, f.down_share() * 100);
    }
    return text;
}

}  // namespace cursorum
