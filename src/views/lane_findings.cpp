// What is worth a look in a history of lanes: presses that comparing levels would have missed, what was cancelled, and
// what another input layer got wrong. Each is a sentence with its frame.

#include <fmt/format.h>

#include <algorithm>

#include "cursorum/views/lane_picture.hpp"
#include "cursorum/views/text.hpp"

namespace cursorum {
namespace {

std::string lost_text(const Lane& lane, const Lane::Cell& cell, std::uint64_t frame) {
    const std::string what = cell.state == ButtonState::blip && cell.presses == 1
                                 ? fmt::format("down for {} within the frame", span_text(cell.held_for))
                             : cell.state == ButtonState::dip && cell.presses == 1
                                 ? "released and pressed again within the frame"
                                 : fmt::format("{} within the frame", plural_text(cell.presses, "press"));
    return fmt::format("frame {}, {}: {}; comparing levels loses {}", frame, lane.name, what,
                       cell.lost == 1 ? "a press" : fmt::format("{} presses", cell.lost));
}

std::string belief_text(const Lane& lane, const Lane::Belief& belief, std::uint64_t frame) {
    using Kind = BeliefFinding::Kind;
    const Kind kind = belief.what.kind;
    const std::string_view of = belief.what.of_release ? "a release" : "a press";
    return fmt::format("frame {}, {}: the other layer {}. {}", frame, lane.name,
                       kind == Kind::lost      ? fmt::format("lost {}", of)
                       : kind == Kind::doubled ? fmt::format("counted {} again", of)
                       : kind == Kind::made_up ? fmt::format("made up {}", of)
                       : kind == Kind::stuck   ? "takes it for down"
                                               : "takes it for up",
                       describe(belief.what));
}

std::string cancelled_text(const LaneHistory& lanes, const LaneSpan& span) {
    std::string names;
    for (const Lane& lane : lanes.lanes()) {
        if (lane.kind != Lane::Kind::button) continue;
        for (const Lane::Bar& bar : lane.bars)
            if (bar.ended == EdgeKind::cancel && bar.to == span.from) names += (names.empty() ? "" : ", ") + lane.name;
    }
    const std::string what =
        span.kind == LaneSpan::Kind::without_focus ? "focus lost"
        : span.kind == LaneSpan::Kind::interrupted
            ? (span.text.empty() ? std::string{"interrupted"} : fmt::format("interrupted ({})", span.text))
            : fmt::format("{} unplugged", span.text.empty() ? "a device" : span.text);
    return fmt::format("{}: cancelled {}", what, names.empty() ? "nothing" : names);
}

}  // namespace

std::vector<LaneFinding> lane_findings(const LaneHistory& lanes) {
    std::vector<LaneFinding> findings;
    for (std::size_t i = 0; i < lanes.lanes().size(); ++i) {
        const Lane& lane = lanes.lanes()[i];
        for (const Lane::Belief& belief : lane.beliefs)
            findings.push_back({LaneFinding::Kind::belief, belief.what.time, static_cast<int>(i),
                                static_cast<int>(belief.frame),
                                belief_text(lane, belief, lanes.frames()[belief.frame].number)});
        if (lane.kind != Lane::Kind::button) continue;
        for (const Lane::Cell& cell : lane.cells) {
            const LaneFrame& frame = lanes.frames()[cell.last];
            if (cell.lost != 0)
                findings.push_back({LaneFinding::Kind::lost, frame.to, static_cast<int>(i), static_cast<int>(cell.last),
                                    lost_text(lane, cell, frame.number)});
            if (cell.is_made_up)
                findings.push_back({LaneFinding::Kind::made_up, frame.to, static_cast<int>(i),
                                    static_cast<int>(cell.last),
                                    fmt::format("frame {}, {}: found down, not pressed; comparing levels makes up a "
                                                "press",
                                                frame.number, lane.name)});
        }
    }
    for (const LaneSpan& span : lanes.spans())
        if (span.kind != LaneSpan::Kind::paused)
            findings.push_back({LaneFinding::Kind::cancelled, span.from, -1, -1, cancelled_text(lanes, span)});
    std::stable_sort(findings.begin(), findings.end(),
                     [](const LaneFinding& a, const LaneFinding& b) { return a.time < b.time; });
    return findings;
}

}  // namespace cursorum
