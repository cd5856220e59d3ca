#include "frame_events.hpp"

#include <fmt/format.h>

#include <nlohmann/json.hpp>
#include <utility>

#include "cursorum/views/frame_views.hpp"
#include "output.hpp"

namespace cursorum::tool {

void FrameEvents::watch(ActionReader& reader) {
    reader_ = &reader;
    reader.set_verdict_sink(&written_);
}

void FrameEvents::note(const RecordingLine& line, Outcome outcome) {
    if (line.kind != RecordingLine::Kind::event) return;
    const Event& event = line.event;
    if (outcome == Outcome::connected) names_[event.device] = event.info.name;
    ButtonSet buttons = event.down_set;
    if (event.type == EventType::button) buttons = {event.control};
    const auto name = names_.find(event.device);
    waiting_.push_back({line.number, line.time,
                        event_text(event, name == names_.end() ? std::string_view{} : name->second, event.text),
                        outcome, buttons});
}

void FrameEvents::take(Time end, const ButtonSet& controls) {
    end_ = end;
    events_.clear();
    verdicts_.clear();
    for (; !waiting_.empty() && waiting_.front().time <= end; waiting_.pop_front())
        if (controls.empty() || !(waiting_.front().buttons & controls).empty())
            events_.push_back(std::move(waiting_.front()));
    for (const Verdict& verdict : std::exchange(written_.all, {}))
        if (controls.empty() || !(physical_buttons(verdict.button) & controls).empty())
            verdicts_.push_back(named(verdict, *reader_));
}

TerminalText FrameEvents::table(std::uint64_t frame, bool colour) const {
    const Paint paint{colour};
    TerminalText text;
    const auto add = [&](Time time, const TerminalText& what) {
        text += shown("{:>5}  {:>9}  {:>14}  {}\n", frame, cut_text(end_), time_text(time), what);
    };
    for (const Posted& it : events_) add(it.time, shown("{}: ", it.words) + paint(Paint::dim, describe(it.outcome)));
    for (const auto& [it, action, mode, by] : verdicts_) {
        const TerminalText what =
            shown("{}: {}", it.button ? std::string{name_of(it.button)} : "not a button", verdict_text(it, *reader_));
        add(it.time, paint(weight_of(it.rule) == 3 ? Paint::green : Paint::yellow, what));
    }
    return text;
}

std::string FrameEvents::json() const {
    using nlohmann::ordered_json;
    ordered_json events = ordered_json::array();
    for (const Posted& it : events_)
        events.push_back(
            {{"line", it.line}, {"t", nanoseconds(it.time)}, {"event", it.words}, {"outcome", describe(it.outcome)}});
    std::string text = "\"events\":" + events.dump(-1, ' ', false, ordered_json::error_handler_t::replace);
    if (!reader_) return text;
    std::string verdicts;
    for (const NamedVerdict& it : verdicts_) verdicts += (verdicts.empty() ? "" : ",") + verdict_as_json(it);
    return text + ",\"verdicts\":[" + verdicts + "]";
}

}  // namespace cursorum::tool
