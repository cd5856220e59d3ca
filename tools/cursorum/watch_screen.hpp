// What `cursorum watch` shows, as lines of text: what is down, lanes running with time, the last events.
#pragma once

#include <cstdint>
#include <deque>
#include <optional>
#include <string>
#include <vector>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/core/sampler.hpp"
#include "cursorum/views/lane_history.hpp"

namespace cursorum::tool {

enum class ScreenStyle : std::uint8_t {
    plain,
    strong,
    faint,
    heading,
    hold,
    press,
    release,
    tap,  ///< blip and dip
    cancel,
    warning
};

struct ScreenPart {
    ScreenStyle style{};
    std::string text;  ///< UTF-8; each character has one column
};
using ScreenLine = std::vector<ScreenPart>;

/// What is watched.
struct WatchedInput {
    const Timeline& timeline;
    const Sampler& sampler;
    const LaneHistory& lanes;
    const ActionReader* reader = nullptr;
    const Profile* profile = nullptr;
    std::string source;
    Time begin, now;
    double frames_per_second = 0, events_per_second = 0;
    std::deque<ScreenPart> events{};  ///< the last ones, the newest at the end
    bool is_open = true;              ///< the source has not ended
};

/// How it is looked at.
struct WatchView {
    int columns = 80, rows = 24;
    std::optional<Time> end{};         ///< scrolled or paused: the time at the right border; else the present
    Duration per_column{100'000'000};  ///< of time
    int first_lane = 0;
    std::string filter{};      ///< lanes whose names contain it, whatever the case
    bool is_typing = false;    ///< the filter is being typed
    bool with_help = false;    ///< what the marks and keys mean, in place of the lanes
    bool with_unicode = true;  ///< else ASCII
    std::string message{};     ///< in place of the keys, for a while
};

/// Exactly view.rows lines, none wider than view.columns.
std::vector<ScreenLine> watch_screen(const WatchedInput& input, const WatchView& view);

/// The lanes that the view's filter lets through, as indices; and how many fit on the screen.
std::vector<std::size_t> filtered_lanes(const LaneHistory& lanes, const std::string& filter);
int lane_rows(const WatchedInput& input, const WatchView& view);
/// The stretch of time that the lanes show.
Duration shown_time(const WatchView& view);

}  // namespace cursorum::tool
