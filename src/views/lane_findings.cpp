// What is worth a look in a history of lanes: presses that comparing levels would have missed, what was cancelled, and
// what another input layer got wrong. Each is a sentence with its frame.

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <utility>

#include "cursorum/views/lane_picture.hpp"
#include "cursorum/views/text.hpp"
#include "views/lane_drawing.hpp"

namespace cursorum {
namespace {

std::string lost_text(const Lane& lane, const Lane::Cell& cell, std::uint64_t frame) {
    const std::string what = cell.state == ButtonState::blip && cell.presses == 1
                                 ? fmt::format("down for {} within the frame", span_text(cell.held_for))
                             : cell.state == ButtonState::dip && cell.presses == 1
                                 ? "released and pressed again within the frame"
                                 : fmt::format("{} within the frame", plural_text(cell.presses, "press"));
    return fmt::format("frame {}, {}: {}; comparing levels loses {}", frame, lane.title(), what,
                       cell.lost == 1 ? "a press" : fmt::format("{} presses", cell.lost));
}

std::string belief_text(const Lane& lane, const Lane::Belief& belief, std::uint64_t frame) {
    using Kind = BeliefFinding::Kind;
    const Kind kind = belief.what.kind;
    const std::string_view of = belief.what.of_release ? "a release" : "a press";
    return fmt::format("frame {}, {}: the other layer {}. {}", frame, lane.title(),
                       kind == Kind::lost      ? fmt::format("lost {}", of)
                       : kind == Kind::doubled ? fmt::format("counted {} again", of)
                       : kind == Kind::made_up ? fmt::format("made up {}", of)
                       : kind == Kind::stuck   ? "takes it for down"
                                               : "takes it for up",
                       describe(belief.what));
}

/// What was cancelled at one time, and which actions changed hands, by which modes and claims.
struct HandedOn {
    std::string cancelled, cancelled_actions, adopted_actions, by;
};
void list(std::string& names, const std::string& name) { names += (names.empty() ? "" : ", ") + name; }

std::map<Time, HandedOn> handed_on(const LaneHistory& lanes) {
    std::map<Time, HandedOn> all;
    for (const Lane& lane : lanes.lanes()) {
        const bool is_owner = lane.kind == Lane::Kind::mode || lane.kind == Lane::Kind::claim;
        for (const Lane::Bar& bar : lane.bars) {
            if (is_owner) {
                list(all[bar.from].by, lane.title() + " begins");
                if (bar.ended) list(all[bar.to].by, lane.title() + " ends");
            }
            const bool is_action = lane.kind == Lane::Kind::button_action;
            if (bar.began == EdgeKind::adopt && is_action) list(all[bar.from].adopted_actions, lane.title());
            if (bar.ended != EdgeKind::cancel) continue;
            list(all[bar.to].cancelled, lane.title());
            if (is_action) list(all[bar.to].cancelled_actions, lane.title());
        }
    }
    return all;
}

std::string text_of(const HandedOn& it) {
    std::string text = it.by + ":";
    if (!it.cancelled_actions.empty()) text += " cancelled " + it.cancelled_actions;
    if (it.adopted_actions.empty()) return text;
    return text + (it.cancelled_actions.empty() ? " found down " : "; found down ") + it.adopted_actions;
}

}  // namespace

std::vector<LaneFinding> lane_findings_without_text(const LaneHistory& lanes) {
    using Kind = LaneFinding::Kind;
    std::vector<LaneFinding> findings;
    for (std::size_t i = 0; i < lanes.lanes().size(); ++i) {
        const Lane& lane = lanes.lanes()[i];
        const auto add = [&](Kind kind, Time time, int frame) {
            findings.push_back({kind, time, static_cast<int>(i), frame});
        };
        const auto index = [&](std::uint32_t frame) { return static_cast<int>(frame - lanes.first_frame()); };
        for (const Lane::Belief& belief : lane.beliefs) {
            add(Kind::belief, belief.what.time, index(belief.frame));
            findings.back().text = belief_text(lane, belief, lanes.frame(belief.frame).number);
        }
        for (const Lane::Missed& it : lane.missed) add(Kind::missed, it.time, -1);
        if (lane.kind != Lane::Kind::button) continue;
        for (const Lane::Cell& cell : lane.cells) {
            const Time end = lanes.frame(cell.last).to;
            if (cell.lost != 0) add(Kind::lost, end, index(cell.last));
            if (cell.is_made_up) add(Kind::made_up, end, index(cell.last));
        }
    }
    std::map<Time, HandedOn> changes = handed_on(lanes);
    for (const auto& [time, it] : changes)
        if (!it.by.empty() && (!it.cancelled_actions.empty() || !it.adopted_actions.empty()))
            findings.push_back({Kind::handed_on, time, -1, -1, text_of(it)});
    for (const LaneSpan& span : lanes.spans())
        if (span.kind != LaneSpan::Kind::paused) {
            const std::string& cancelled = changes[span.from].cancelled;
            findings.push_back(
                {Kind::cancelled, span.from, -1, -1,
                 fmt::format("{}: cancelled {}",
                             span.kind == LaneSpan::Kind::without_focus ? std::string{"focus lost"} : span.title(),
                             cancelled.empty() ? "nothing" : cancelled)});
        }
    std::stable_sort(findings.begin(), findings.end(),
                     [](const LaneFinding& a, const LaneFinding& b) { return a.time < b.time; });
    return findings;
}

void add_text(const LaneHistory& lanes, LaneFinding& finding) {
    if (!finding.text.empty()) return;
    const Lane& lane = lanes.lanes()[static_cast<std::size_t>(finding.lane)];
    const std::uint32_t frame = lanes.first_frame() + static_cast<std::uint32_t>(finding.frame);
    if (finding.kind == LaneFinding::Kind::missed) {
        const auto press = std::lower_bound(lane.missed.begin(), lane.missed.end(), finding.time,
                                            [](const Lane::Missed& it, Time time) { return it.time < time; });
        finding.text = fmt::format("{} went down{}", lane.title(), press->why);
    } else if (finding.kind == LaneFinding::Kind::made_up) {
        finding.text = fmt::format("frame {}, {}: found down, not pressed; comparing levels makes up a press",
                                   lanes.frame(frame).number, lane.title());
    } else {
        const auto cell = std::lower_bound(lane.cells.begin(), lane.cells.end(), frame,
                                           [](const Lane::Cell& it, std::uint32_t last) { return it.last < last; });
        finding.text = lost_text(lane, *cell, lanes.frame(frame).number);
    }
}

std::vector<LaneFinding> lane_findings(const LaneHistory& lanes) {
    std::vector<LaneFinding> findings = lane_findings_without_text(lanes);
    for (LaneFinding& finding : findings) add_text(lanes, finding);
    return findings;
}

}  // namespace cursorum
