#include "lane_page.hpp"

#include <algorithm>
#include <nlohmann/json.hpp>
#include <string_view>

#include "cursorum/views/lane_picture.hpp"
#include "cursorum/views/text.hpp"
#include "lane_page_text.hpp"

namespace cursorum::tool {
namespace {

using nlohmann::json;

template <typename Kind>
int code(const std::optional<Kind>& kind) {
    return kind ? static_cast<int>(*kind) : -1;
}

constexpr const char* kinds[] = {"button", "axis", "pointer", "mode", "claim", "button_action", "axis_action"};

json as_json(const Lane& lane) {
    json bars = json::array(), cells = json::array(), repeats = json::array(), values = json::array();
    for (const Lane::Bar& bar : lane.bars)
        bars.push_back({nanoseconds(bar.from), nanoseconds(bar.to), code(bar.began), code(bar.ended)});
    for (const Lane::Cell& cell : lane.cells)
        cells.push_back({cell.first, cell.last, static_cast<int>(cell.state), cell.presses, cell.releases, cell.adopts,
                         cell.cancels, cell.repeats, cell.system_repeats, cell.held_for.count(), cell.lost,
                         cell.is_made_up ? 1 : 0});
    for (const Time time : lane.system_repeats) repeats.push_back(nanoseconds(time));
    for (const Lane::Value& value : lane.values) values.push_back({nanoseconds(value.time), value.raw, value.shaped});
    json beliefs = json::array(), missed = json::array();
    for (const Lane::Missed& it : lane.missed)
        missed.push_back({nanoseconds(it.time), TerminalText::of(it.why).string()});
    for (const Lane::Belief& belief : lane.beliefs) beliefs.push_back({belief.frame, describe(belief.what)});
    const Lane::Range range = lane.range();
    return {{"name", lane.title()},
            {"kind", kinds[static_cast<unsigned>(lane.kind)]},
            {"bars", std::move(bars)},
            {"cells", std::move(cells)},
            {"repeats", std::move(repeats)},
            {"values", std::move(values)},
            {"beliefs", std::move(beliefs)},
            {"missed", std::move(missed)},
            {"dead", lane.dead_zone},
            {"bottom", range.bottom},
            {"top", range.top}};
}

}  // namespace

std::string lane_page(const LaneHistory& lanes, const std::string& title) {
    json data{{"title", TerminalText::of(title).string()}, {"start", nanoseconds(lanes.start())}};
    json lengths = json::array(), gaps = json::array(), all = json::array(), spans = json::array(),
         findings = json::array();
    const std::span<const LaneFrame> frames = lanes.frames();
    for (std::size_t i = 0; i < frames.size(); ++i) {
        lengths.push_back((frames[i].to - frames[i].from).count());
        if (i != 0 && frames[i].from != frames[i - 1].to)
            gaps.push_back({i, (frames[i].from - frames[i - 1].to).count()});
    }
    for (const Lane& lane : lanes.lanes()) all.push_back(as_json(lane));
    for (const LaneSpan& span : lanes.spans()) {
        json concerned = json::array();
        for (std::size_t i = 0; i < lanes.lanes().size(); ++i)
            if (span.concerns(lanes.lanes()[i])) concerned.push_back(i);
        spans.push_back({static_cast<int>(span.kind), nanoseconds(span.from), nanoseconds(span.to),
                         TerminalText::of(span.title()).string(), std::move(concerned)});
    }
    for (const LaneFinding& finding : lane_findings(lanes))
        findings.push_back(
            {nanoseconds(finding.time), finding.lane, finding.frame, TerminalText::of(finding.text).string()});
    data["first"] = frames.empty() ? 0 : frames.front().number;
    data["lengths"] = std::move(lengths);
    data["gaps"] = std::move(gaps);
    data["lanes"] = std::move(all);
    data["spans"] = std::move(spans);
    data["findings"] = std::move(findings);
    std::string text = data.dump(-1, ' ', true, json::error_handler_t::replace);
    // Within a script element, "</script" ends it and "<!--<script" begins another one, whatever stands in a title or a
    // device's name. Outside of texts, JSON has no such character.
    for (std::size_t at = 0; (at = text.find('<', at)) != text.npos;) text.replace(at, 1, "\\u003c");
    std::string page{lane_page_text};
    constexpr std::string_view slot = "{{DATA}}";
    return page.replace(page.find(slot), slot.size(), text);
}

}  // namespace cursorum::tool
