// Why a button's state in a frame is what it is: the rules that its edges met, each as a sentence with its times. The
// facts come from the frame; nothing is decided here a second time.
#include "cursorum/views/explanation.hpp"
#include "cursorum/core/event.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <deque>
#include <iterator>
#include <map>
#include <memory>
#include <utility>
#include <vector>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/shaping.hpp"
#include "cursorum/views/frame_views.hpp"
#include "cursorum/views/text.hpp"
#include "views/json_text.hpp"
#include "views/shown.hpp"

namespace cursorum {

std::string event_text(const Event& event, std::string_view device_name, std::string_view reason) {
    std::string text{name_of(event.type)};
    switch (event.type) {
        case EventType::button:
            text = fmt::format("{} {}{}", name_of(event.control), event.down ? "down" : "up",
                               event.system_repeat ? " (marked as system repeat)" : "");
            break;
        case EventType::focus: return event.focused ? "focus gained" : "focus lost";
        case EventType::interrupt: return reason.empty() ? "interruption" : fmt::format("interruption ({})", reason);
        case EventType::locks: return text;
        case EventType::text:  // what it is stands in frames alone
            if (event.control) return fmt::format("text of {}", name_of(event.control));
            return event.text_phase == TextPhase::typed ? text : fmt::format("text, {}", name_of(event.text_phase));
        case EventType::state: text = "polled state"; break;
        case EventType::axis: text = fmt::format("{} at {:g}", name_of(event.axis), event.value); break;
        case EventType::contact: text = fmt::format("contact {} {}", event.contact, name_of(event.phase)); break;
        default: break;
    }
    text += fmt::format(", device {}", static_cast<std::uint32_t>(event.device));
    if (!device_name.empty()) text += fmt::format(" \"{}\"", device_name);
    return text;
}

namespace {

/// An event that concerns the control, and its effect.
struct Cause {
    std::uint64_t line = 0;
    Time stamp, effective;
    Event event;                        // its texts are the two below
    std::string text{}, device_name{};  // of an interruption; of the device, as it was known then
    Outcome outcome{};
    std::vector<Edge> edges{};  // of the control's keys
    std::string rule{};         // instead of the outcome's sentence

    bool is_late() const { return effective != stamp; }
    bool is_system_repeat() const { return outcome == Outcome::system_repeat; }
};

/// Collects, while the recording is replayed, the events that concern one control.
class CauseCollector {
public:
    CauseCollector(Button control, std::optional<DeviceId> device)
        : keys_{physical_buttons(control)}, device_{device} {}

    const ButtonSet& keys() const { return keys_; }
    bool is_of(DeviceId device) const { return !device_ || device == *device_; }

    void look(const RecordingLine& line, Outcome outcome, const Timeline& timeline, Time frame_start) {
        if (line.kind != RecordingLine::Kind::event) return;
        const Event& event = line.event;
        Time latest = earliest_time;
        for (unsigned i = 0; i < timeline.inlet_count(); ++i) latest = std::max(latest, timeline.inlet(i).latest());
        note(event, outcome);
        // The effect of one event is the content of a frame that ends with it.
        if (!after_each_) after_each_ = std::make_shared<Sampler>(timeline, one_event_frames);
        std::vector<Edge> edges;
        for (const Edge& edge : after_each_->advance(latest).all_edges())
            if (keys_.contains(edge.button) && is_of(edge.device)) edges.push_back(edge);
        const bool named = is_of(event.device) && ((event.type == EventType::button && keys_.contains(event.control)) ||
                                                   (event.type == EventType::axis && is_made_of(event.axis)));
        if (!named && edges.empty()) return;
        Cause cause{.line = line.number,
                    .stamp = line.time,
                    .effective = std::max({line.time, frame_start, timeline.inlet(line.inlet).latest()}),
                    .event = event,
                    .text = std::string{event.text},
                    .device_name = names_[number_of(event)],
                    .outcome = outcome,
                    .edges = std::move(edges)};
        if (event.type == EventType::axis && outcome == Outcome::taken && named)
            cause.rule = shaped_in_words(event, !cause.edges.empty());
        in_frame.push_back(std::move(cause));
    }

    /// The frame has ended: its events become the past. The past of a control that is down begins with its hold; that
    /// of one that is up is its last event.
    void end_frame(bool was_down, bool down) {
        if (!was_down && down) past.clear();
        for (Cause& cause : in_frame) {
            if (cause.is_system_repeat())
                ++past_system_repeats;
            else if (cause.rule.empty() || !cause.edges.empty())
                past.push_back(std::move(cause));
        }
        in_frame.clear();
        const std::size_t keep = down ? 6 : 1;
        while (past.size() > keep) past.pop_front();
        if (!down) past_system_repeats = 0;
    }

    std::vector<Cause> in_frame;
    std::deque<Cause> past;
    std::uint64_t past_system_repeats = 0;

private:
    static constexpr SamplerOptions one_event_frames{.start = Time{}, .growing = true, .peeking = false};
    static std::uint32_t number_of(const Event& event) { return static_cast<std::uint32_t>(event.device); }

    // ---- buttons that are made of axes

    /// The axis, or the two axes of a stick's direction.
    bool is_made_of(Axis axis) const {
        bool made = false;
        keys_.for_each([&](Button key) {
            const auto push = axis_behind(key);
            const bool is_of_stick = push && push->axis.number < 2 * stick_kinds;
            made |= push && (push->axis == axis || (is_of_stick && push->axis.number / 2 == axis.number / 2));
        });
        return made;
    }

    // The data about devices that the sentences need.
    void note(const Event& event, Outcome outcome) {
        if (outcome == Outcome::connected) names_[number_of(event)] = event.info.name;
        if (outcome != Outcome::taken && outcome != Outcome::state_adopted) return;
        if (event.type == EventType::shaping) shaping_[number_of(event)] = event.shaping;
        if (event.type != EventType::axis && event.type != EventType::state) return;
        auto& values = axes_[number_of(event)];
        if (event.type == EventType::axis) values[event.axis.number] = event.value;
        for (unsigned axis = 0; axis < axis_kinds; ++axis)
            if (event.type == EventType::state && event.axes.has(axis)) values[axis] = event.axes.values[axis];
    }

    std::string shaped_in_words(const Event& event, bool crossed) {
        const auto& values = axes_[number_of(event)];
        const DeviceShaping& shaping = shaping_[number_of(event)];
        if (is_pull(event.axis)) {
            const double travel = shape(shaping.pulls[event.axis.number - 2 * stick_kinds], event.value);
            return fmt::format("shaped {:.3f}; down from {:g} up, up again at {:g}{}", travel, shaping.thresholds.press,
                               shaping.thresholds.release, crossed ? "" : ": no change");
        }
        if (is_extra(event.axis))
            return fmt::format("not shaped; down from {:g} up or from {:g} down, up again at {:g}{}",
                               shaping.thresholds.press, -shaping.thresholds.press, shaping.thresholds.release,
                               crossed ? "" : ": no change");
        const Stick stick{static_cast<std::uint8_t>(event.axis.number / 2)};
        const Vector2 v = shape(shaping.sticks[stick.number], {values[stick.x().number], values[stick.y().number]});
        return fmt::format(
            "the stick, shaped: {:.3f}, {:.3f}, {:.3f} from its centre; down from {:g} up, up again at "
            "{:g}{}",
            v.x, v.y, std::sqrt(v.x * v.x + v.y * v.y), shaping.thresholds.press, shaping.thresholds.release,
            crossed ? "" : ": no change");
    }

    ButtonSet keys_;
    std::optional<DeviceId> device_;
    std::shared_ptr<Sampler> after_each_;  // of the replay's timeline; copies of the collector only keep what it has
    std::map<std::uint32_t, std::string> names_;
    std::map<std::uint32_t, std::array<double, axis_kinds>> axes_;
    std::map<std::uint32_t, DeviceShaping> shaping_;
};

std::string in_words(const Cause& cause) { return event_text(cause.event, cause.device_name, cause.text); }

std::string_view state_sentence(const ButtonFigures& f) {
    switch (f.state()) {
        case ButtonState::idle: return "It is up at both cuts and nothing changed between them.";
        case ButtonState::blip: return "It is up at both cuts, but was down between them.";
        case ButtonState::press: return "It was up at the start, a press came, and it is down at the end.";
        case ButtonState::release: return "It was down at the start, was released, and is up at the end.";
        case ButtonState::cancel:
            return "It was down at the start and is up at the end, but nobody released it: it was cancelled.";
        case ButtonState::dip: return "It is down at both cuts, but was up between them and pressed again.";
        case ButtonState::hold:
            if (!f.was_down()) return "It was found down (adopted): nobody pressed it in this frame.";
            return f.adopt_count() != 0 ? "It is down at both cuts; between them it was cancelled and adopted again."
                                        : "It is down at both cuts and was not pressed in between.";
    }
    return {};
}

/// The result of code that only compares the levels at the two cuts.
std::string level_sentence(const ButtonFigures& f) {
    const auto level = [](bool down) { return down ? "down" : "up"; };
    std::string text = fmt::format("{} before, {} now: ", level(f.was_down()), level(f.down()));
    if (f.was_down() == f.down()) {
        text += f.down() ? "held" : "nothing";
        if (f.press_count() == 0 && f.release_count() == 0)
            return text +
                   (f.cancel_count() + f.adopt_count() == 0 ? ". The same." : ". It would not know of the healing.");
        text += ". It would have lost";
        if (f.press_count() != 0) text += " " + plural_text(f.press_count(), "press");
        if (f.press_count() != 0 && f.release_count() != 0) text += " and";
        if (f.release_count() != 0) text += " " + plural_text(f.release_count(), "release");
        return text + ".";
    }
    if (f.down()) {
        text += "a press";
        if (f.press_count() == 0) return text + ", which nobody made.";
        return text + (f.press_count() == 1 ? ". The same." : fmt::format(". There were {}.", f.press_count()));
    }
    text += "a release";
    if (f.release_count() == 0) return text + ", which nobody made.";
    if (f.press_count() != 0) return text + ". It would have lost " + plural_text(f.press_count(), "press") + ".";
    return text + ". The same.";
}

// `keys`: how many keys the control has.
void add_cause(TerminalText& text, const Cause& cause, std::size_t keys, const Paint& paint) {
    text += shown("  line {}, {}: {}\n", cause.line, time_text(cause.stamp), paint(Paint::bold, in_words(cause)));
    text += shown("      {}.\n", cause.rule.empty() ? describe(cause.outcome) : cause.rule);
    if (cause.is_late())
        text += shown("      Late: behind something stamped later, so it takes effect at {}.\n",
                      time_text(cause.effective));
    std::string edges;
    for (const Edge& edge : cause.edges)
        edges += fmt::format("{}{} on device {}{}", edges.empty() ? "" : ", ", name_of(edge.kind),
                             static_cast<std::uint32_t>(edge.device),
                             keys > 1 ? fmt::format(" ({})", name_of(edge.button)) : std::string{});
    text += shown("      {}\n", edges.empty() ? "No edge." : "Edge: " + edges + ".");
}

void add_figures(TerminalText& text, const ButtonFigures& f, Duration length) {
    text += shown(
        "  press_count {}, release_count {}, adopt_count {}, cancel_count {}, repeat_count {}, "
        "system_repeat_count {}\n  held for {}, down for {} of the frame's {} ({:.1f} %)\n",
        f.press_count(), f.release_count(), f.adopt_count(), f.cancel_count(), f.repeat_count(),
        f.system_repeat_count(), span_text(f.held_for()), span_text(f.down_span()), span_text(length),
        f.down_share() * 100);
}

JsonText json_of(const Cause& cause) {
    JsonText edges = JsonText::array();
    for (const Edge& edge : cause.edges)
        edges.add(std::move(JsonText::object()
                                .set("t", nanoseconds(edge.time))
                                .set("device", std::uint64_t{static_cast<std::uint32_t>(edge.device)})
                                .set("control", name_of(edge.button))
                                .set("edge", name_of(edge.kind))));
    JsonText all = JsonText::object();
    all.set("line", std::uint64_t{cause.line})
        .set("t", nanoseconds(cause.stamp))
        .set("effective", nanoseconds(cause.effective))
        .set("event", in_words(cause))
        .set("rule", cause.rule.empty() ? std::string{describe(cause.outcome)} : cause.rule)
        .set("edges", std::move(edges));
    return all;
}

struct FrameCopy {
    std::uint64_t number = 0;
    Time start, end;
    ButtonFigures figures;
    unsigned device_edges = 0;  // of the control's keys
};

TerminalText compose(const WhyQuestion& question, const std::string& name, const FrameCopy& frame,
                     const CauseCollector& causes, const std::optional<Cause>& next, const Repeat& repeat,
                     bool colour) {
    const Paint paint{colour};
    const ButtonFigures& f = frame.figures;
    TerminalText text;
    const std::string where =
        question.device ? fmt::format(" on device {}", static_cast<std::uint32_t>(*question.device)) : std::string{};
    text += shown("{}{} in frame {} of {}, after {} up to {}: {}\n", name_of(question.control), where, frame.number,
                  name, time_text(frame.start), time_text(frame.end), paint(Paint::bold, name_of(f.state())));
    text += shown("{}\n", state_sentence(f));

    text += shown("\n{}\n", paint(Paint::bold, "Events in this frame"));
    if (causes.in_frame.empty()) text += shown("  No event concerns it.\n");
    for (const Cause& cause : causes.in_frame) add_cause(text, cause, causes.keys().size(), paint);
    const unsigned merged = f.press_count() + f.release_count() + f.adopt_count() + f.cancel_count();
    if (frame.device_edges > merged)
        text += shown(
            "  Edges on devices: {}; of the merged button: {}. While one device holds it down, another's press or "
            "release changes nothing.\n",
            frame.device_edges, merged);

    if (f.was_down() || (causes.in_frame.empty() && !causes.past.empty())) {
        text += shown("\n{}\n", paint(Paint::bold, f.was_down() ? "Down since" : "The last event before that"));
        if (causes.past.empty()) text += shown("  The recording's beginning.\n");
        for (const Cause& cause : causes.past) add_cause(text, cause, causes.keys().size(), paint);
        if (causes.past_system_repeats != 0)
            text += shown("  and {} in earlier frames, none of them a press.\n",
                          plural_text(causes.past_system_repeats, "system repeat"));
    }
    if (f.state() == ButtonState::idle) {
        text += shown("\n{}\n", paint(Paint::bold, "What comes next"));
        if (next)
            add_cause(text, *next, causes.keys().size(), paint);
        else if (causes.past.empty() && causes.in_frame.empty())
            text += shown("  Nothing: no event of this recording concerns {}.\n", name_of(question.control));
        else
            text += shown("  Nothing more of it in this recording.\n");
    }

    text += shown("\n{}\n", paint(Paint::bold, "Figures"));
    add_figures(text, f, frame.end - frame.start);
    if (f.repeat_count() != 0)
        text += shown("  Our own repeat: first {} after the press, then every {}, at most {} per frame (0: no cap).\n",
                      span_text(repeat.delay), span_text(repeat.interval), repeat.cap);

    text += shown("\n{}\n  {}\n", paint(Paint::bold, "A comparison of levels would have said"), level_sentence(f));
    if (f.system_repeat_count() != 0)
        text += shown("  Key-down messages taken for presses would have fired {} more.\n",
                      f.system_repeat_count() == 1 ? "once" : fmt::format("{} times", f.system_repeat_count()));
    return text;
}

std::string compose_json(const WhyQuestion& question, const FrameCopy& frame, const CauseCollector& causes,
                         const std::optional<Cause>& next) {
    const ButtonFigures& f = frame.figures;
    JsonText all = JsonText::object();
    all.set("control", name_of(question.control)).set("frame", frame.number);
    if (question.device) all.set("device", std::uint64_t{static_cast<std::uint32_t>(*question.device)});
    all.set("t0", nanoseconds(frame.start))
        .set("t1", nanoseconds(frame.end))
        .set("state", name_of(f.state()))
        .set("sentence", state_sentence(f))
        .set("press_count", std::uint64_t{f.press_count()})
        .set("release_count", std::uint64_t{f.release_count()})
        .set("adopt_count", std::uint64_t{f.adopt_count()})
        .set("cancel_count", std::uint64_t{f.cancel_count()})
        .set("repeat_count", std::uint64_t{f.repeat_count()})
        .set("system_repeat_count", std::uint64_t{f.system_repeat_count()})
        .set("held_for_ns", f.held_for().count())
        .set("down_span_ns", f.down_span().count());
    const auto list_of = [](const auto& causes_of_it) {
        JsonText list = JsonText::array();
        for (const Cause& cause : causes_of_it) list.add(json_of(cause));
        return list;
    };
    all.set("events", list_of(causes.in_frame)).set("before", list_of(causes.past));
    all.set("system_repeats_before", std::uint64_t{causes.past_system_repeats});
    all.set("next", next ? json_of(*next) : JsonText::null());
    return all.set("comparison", level_sentence(f)).line();
}

}  // namespace

WhyAnswer explain(std::istream& in, const std::string& name, ReplayOptions options, const WhyQuestion& question,
                  WhyFormat format) {
    CauseCollector causes{question.control, question.device};
    const Replay* playing = nullptr;
    Time frame_start;
    options.on_line = [&](const RecordingLine& line, Outcome outcome) {
        causes.look(line, outcome, playing->timeline(), frame_start);
    };
    if (options.rate) {
        options.skip_idle = true;
        options.keep_frame = question.frame ? *question.frame : options.rate->frame_of(*question.at);
    }
    const Repeat repeat = options.repeat;
    const auto reading = [&](const Frame& frame) {
        return question.device ? frame.on(*question.device)[question.control].figures()
                               : frame[question.control].figures();
    };
    Replay replay{in, name, std::move(options)};
    playing = &replay;

    WhyAnswer answer;
    std::uint64_t frames = 0;
    Time last_end;
    while (const Frame* frame = replay.next()) {
        frames = replay.frame_number() + 1;
        last_end = frame->end();
        const bool wanted = question.frame ? replay.frame_number() == *question.frame
                                           : frame->start() < *question.at && *question.at <= frame->end();
        const bool first_instant = question.at && *question.at == frame->start() && replay.frame_number() == 0;
        if (!wanted && !first_instant) {
            causes.end_frame(reading(*frame).was_down(), reading(*frame).down());
            frame_start = frame->end();
            continue;
        }
        FrameCopy copy{replay.frame_number(), frame->start(), frame->end(), reading(*frame), 0};
        for (const Edge& edge : frame->all_edges())
            copy.device_edges += causes.keys().contains(edge.button) && causes.is_of(edge.device);
        const CauseCollector until_then = causes;
        std::optional<Cause> next;
        if (copy.figures.state() == ButtonState::idle) {
            causes.in_frame.clear();
            while (causes.in_frame.empty() && replay.next()) {
            }
            if (!causes.in_frame.empty()) next = causes.in_frame.front();
        }
        answer.found = true;
        answer.text = format == WhyFormat::json
                          ? TerminalText::lines_of(compose_json(question, copy, until_then, next))
                          : compose(question, name, copy, until_then, next, repeat, format == WhyFormat::coloured);
        return answer;
    }
    answer.error = replay.error();
    if (answer.error) return answer;
    const std::string asked =
        question.frame ? fmt::format("frame {}", *question.frame) : fmt::format("frame at {}", time_text(*question.at));
    answer.text = frames == 0 ? shown("{} has no frames: no event is in it.\n", name)
                              : shown("{} has no {}: it has frames 0 to {}, up to {}.\n", name, asked, frames - 1,
                                      time_text(last_end));
    return answer;
}

}  // namespace cursorum
