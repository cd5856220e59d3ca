// What is made of recent input: a recording, and answers. An answer replays the few seconds around the last press
// through the same code as the game's own, and says what became of it.
#include "cursorum/why/recent_input.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <bit>
#include <cmath>
#include <memory>
#include <sstream>
#include <utility>

#include "cursorum/actions/profile_file.hpp"
#include "cursorum/recording/recording_writer.hpp"
#include "cursorum/recording/replay.hpp"
#include "cursorum/views/explanation.hpp"
#include "cursorum/views/missed_presses.hpp"
#include "cursorum/why/action_explanation.hpp"
#include "cursorum/why/replayed_calls.hpp"
#include "views/shown.hpp"
#include "why/recent_parts.hpp"

namespace cursorum {
namespace {

/// The controls that a question is about.
struct Controls {
    ButtonSet buttons;       // with buttons made of axes
    ButtonSet keys;          // the physical ones
    std::uint32_t axes = 0;  // bit n: axis n
    bool motion = false, wheel = false, touch = false;
    ButtonSet locks;

    void add(Button button) {
        buttons = buttons | physical_buttons(button);
        physical_buttons(button).for_each([&](Button key) {
            if (key.number < first_of_axes) keys.insert(key);
            if (const auto push = axis_behind(key)) axes |= 1U << push->axis.number;
            for (std::uint8_t stick = 0; stick < stick_kinds; ++stick)
                for (unsigned i = 0; i < 4; ++i)
                    if (direction_button(Stick{stick}, static_cast<Direction>(i)) == key) add(Stick{stick});
        });
    }
    void add(Stick stick) { axes |= 3U << stick.x().number; }
    void add(const Binding& binding) {
        for (const Button button : binding.buttons) add(button);
        switch (binding.kind) {
            case Binding::Kind::axis: axes |= 1U << binding.axis.number; break;
            case Binding::Kind::stick: add(binding.stick); break;
            case Binding::Kind::motion: motion = true; break;
            case Binding::Kind::wheel:
            case Binding::Kind::wheel_step: wheel = true; break;
            case Binding::Kind::lock: locks.insert(binding.lock); break;
            case Binding::Kind::touch: touch = true; break;
            default: break;
        }
        touch |= binding.touch != TouchPart::none;
    }

    /// Returns whether an event cannot concern one of their buttons: most of what moves.
    bool ignore(const detail::Ledger::Glance& event) const noexcept {
        return event.type == EventType::motion || (event.type == EventType::axis && (axes >> event.control & 1) == 0);
    }
    /// Returns whether an event may be news of one of them.
    bool concern(const detail::Ledger::Glance& event) const noexcept {
        switch (event.type) {
            case EventType::button: return keys.contains({event.control}) && event.is_flagged;
            case EventType::axis: return (axes >> event.control & 1) != 0;
            case EventType::motion: return motion;
            case EventType::wheel: return wheel;
            case EventType::contact: return touch;
            case EventType::locks: return !locks.empty();
            case EventType::state: return !keys.empty() || axes != 0;
            default: return false;
        }
    }
};

/// Writes a stretch as a recording. `only`: of values and motion, just what may concern these controls.
class StretchRecorder final : public StretchSink {
public:
    StretchRecorder(std::size_t inlets, std::ostream& out, Time zero, std::string_view title,
                    const Controls* only = nullptr)
        : only_{only}, writer_{out, zero}, last_cut_{zero} {
        writer_.header(title, static_cast<unsigned>(inlets));
    }

    bool ignores(const detail::Ledger::Glance& event) const override { return only_ && only_->ignore(event); }
    void event(unsigned inlet, const detail::LedgerEvent& event) override {
        const auto all_finite = [](auto... values) { return (std::isfinite(values) && ...); };
        const Event& it = event.event;
        const auto& axes = it.axes.values;
        nameless_ += event.is_nameless;
        // JSON has no words for values that are no numbers; an inlet refuses them.
        if (event.is_nameless || !all_finite(it.dx, it.dy, it.x, it.y, it.raw_dx, it.raw_dy, it.value) ||
            !std::all_of(axes.begin(), axes.end(), [](double value) { return std::isfinite(value); }))
            return;
        writer_.set_inlet(inlet);
        writer_.take(it);
    }
    void call(Time time, const RecordedCall& call) override { writer_.call(time, call); }
    void checkpoint(const RecordedCheckpoint& checkpoint, Time cut) override { writer_.checkpoint(cut, checkpoint); }
    bool cut(std::uint64_t, const Tick& tick) override {
        if (tick.begin > last_cut_ && tick.begin != tick.end)
            writer_.frame(tick);
        else
            writer_.frame(tick.end);
        last_cut_ = tick.end;
        return true;
    }
    /// Says what is not in the recording.
    void finish() {
        if (nameless_ != 0)
            writer_.note(last_cut_, fmt::format("{} of keys that no action binds, or that were typed, left out",
                                                nameless_ == 1 ? "1 event" : std::to_string(nameless_) + " events"));
    }

private:
    const Controls* only_;
    RecordingWriter writer_;
    Time last_cut_;
    std::uint64_t nameless_ = 0;
};

/// What became of a press, or of a motion of an axis.
struct Press {
    Time time;
    std::uint64_t cut = 0;
    std::string control;
    std::string verb;       // "went down", "moved"
    std::string clause;     // what became of it, as the end of the sentence; empty if that is not decided
    bool is_shown = false;  // a frame has it
    Button button{};        // of a press that a frame has
};

/// Plays a stretch again, through a timeline, a sampler and a reader of its own, for whoever looks at its frames.
class StretchReplay : public StretchSink {
public:
    /// `only`: as of a StretchRecorder.
    StretchReplay(const RecentParts& parts, const Profile* profile, const Stretch& stretch, Time zero,
                  const Controls* only)
        : parts_{parts},
          only_{only},
          timeline_{options_for(stretch, parts)},
          sampler_{timeline_, {.start = zero, .peeking = false}} {
        if (!profile) return;
        reader_.emplace(*profile);
        reader_->set_verdict_sink(&verdicts_);
    }

    bool ignores(const detail::Ledger::Glance& event) const override { return only_ && only_->ignore(event); }
    void event(unsigned inlet, const detail::LedgerEvent& event) override {
        if (event.is_nameless) return;
        const Outcome outcome = timeline_.inlet(inlet).post(event.event);
        const bool is_repeat = missed_.is_repeat(event.event, outcome);
        // Most of them, which are never missed.
        if (is_repeat || outcome == Outcome::taken || outcome == Outcome::release) return;
        const Event& it = event.event;
        posted_.push_back({it.time, it.type, it.down, it.control, it.axis, it.down_set, outcome});
    }
    void call(Time time, const RecordedCall& call) override {
        RecordingLine line;
        line.call = call;
        line.kind = RecordingLine::kind_of(call);
        line.time = time;
        calls_.note(line);
    }
    void checkpoint(const RecordedCheckpoint& checkpoint, Time cut) override {
        RecordingLine line;
        line.kind = RecordingLine::Kind::checkpoint;
        line.time = cut;
        line.checkpoint = beginning_ = std::make_shared<RecordedCheckpoint>(checkpoint);
        calls_.note(line);
    }
    bool cut(std::uint64_t number, const Tick& tick) override {
        const Frame& frame = tick.gap == Tick::Gap::none ? sampler_.advance(tick.end) : sampler_.advance(tick);
        verdicts_.all.clear();
        if (reader_) calls_.read(*reader_, frame);
        const bool goes_on = is_first_ || take_frame(number, tick);
        is_first_ = false;
        posted_.clear();
        if (beginning_) sampler_.set_hold_beginnings(std::exchange(beginning_, nullptr)->holds);
        return goes_on;
    }

    const Frame& frame() const noexcept { return sampler_.frame(); }
    const ActionReader& reader() const noexcept { return *reader_; }
    const RecentParts& parts() const noexcept { return parts_; }

protected:
    ~StretchReplay() = default;
    struct Posted {
        Time time;
        EventType type;
        bool down;
        Button control;
        Axis axis;
        ButtonSet down_set;
        Outcome outcome;
    };
    /// Returns false at the end of what is looked for.
    virtual bool take_frame(std::uint64_t number, const Tick& tick) = 0;
    /// That were decided in the frame.
    const std::vector<Verdict>& verdicts() const noexcept { return verdicts_.all; }
    std::vector<Posted> posted_;  // of the frame

private:
    /// No larger than it needs: room is what an answer's time goes into.
    static TimelineOptions options_for(const Stretch& stretch, const RecentParts& parts) {
        std::uint64_t most = 1024;  // words of a frame's events, each of which has at least two
        const std::size_t inlets = stretch.ledgers.size();
        for (std::size_t i = inlets; i < stretch.positions.size(); ++i)
            most = std::max(most, stretch.positions[i] - stretch.positions[i - inlets]);
        TimelineOptions options{.inlets = static_cast<unsigned>(inlets), .desk_devices = false};
        options.devices = static_cast<unsigned>(parts.timeline.device_count() + 4);
        options.history = options.motion_history = static_cast<std::uint32_t>(std::bit_ceil(most));
        return options;
    }

    const RecentParts& parts_;
    const Controls* only_;
    Timeline timeline_;
    Sampler sampler_;
    VerdictList verdicts_;
    MissedPresses missed_;
    std::optional<ActionReader> reader_;
    ReplayedCalls calls_;
    std::shared_ptr<const RecordedCheckpoint> beginning_;  // of the cut that follows
    bool is_first_ = true;
};

/// What is asked about: controls, and the action that they belong to, if any.
struct Question {
    const RecentParts& parts;
    const Profile* profile = nullptr;
    const ActionPlace* place = nullptr;
    Controls controls{};
};

/// Finds the last press among the controls, up to some cut, and what became of it later; explains the frames of that
/// cut and of the release, if the action goes by that.
class PressFinder final : public StretchReplay {
public:
    PressFinder(const Question& question, const Stretch& stretch, Time zero, std::uint64_t last)
        : StretchReplay{question.parts, question.profile, stretch, zero, question.place ? nullptr : &question.controls},
          profile_{question.profile},
          place_{question.place},
          controls_{question.controls},
          last_{last},
          goes_by_release_{place_ && place_->action->gesture != Gesture::hold} {}

    std::optional<Press> press;
    std::uint64_t release_cut = 0;  // of what the press began, 0 if it did not end
    TerminalText text;

private:
    bool take_frame(std::uint64_t number, const Tick& tick) override {
        const bool may_begin = number <= last_;
        for (const Posted& it : posted_)
            if (may_begin) look(it, number, tick);
        for (const Edge& edge : frame().all_edges()) {
            if (!controls_.buttons.contains(edge.button)) continue;
            const bool begins = edge.kind == EdgeKind::press || edge.kind == EdgeKind::adopt;
            if (begins && may_begin)
                found({edge.time, number, std::string{name_of(edge.button)},
                       edge.kind == EdgeKind::press ? "went down" : "was found down", "", true, edge.button});
            else if (!begins && press && press->is_shown)
                release_cut = number;
        }
        if (may_begin) look_at_values(number);
        if (!place_) return number < last_ || release_cut == 0;
        look_at_verdicts();
        if (number == last_ || (goes_by_release_ && number > last_ && number == release_cut)) explain();
        if (press && press->button && press->clause.empty() && number + 1 == parts().next_cut) look_at_what_waits();
        const bool is_decided = press && (!press->button || !press->clause.empty());
        return number < last_ || !is_decided || (goes_by_release_ && press->is_shown && release_cut == 0);
    }

    void explain() {
        const Time now = time_at(parts().last_end());
        text += "\n";
        text += explain_action(reader(), *profile_, *place_, frame(), verdicts(),
                               fmt::format("the frame {:.3f} s ago", seconds(now - frame().end())))
                    .text();
    }

    // Of several bindings with the button, the verdict that says most.
    void look_at_verdicts() {
        for (const Verdict& verdict : verdicts()) {
            if (!press || named(verdict, reader()).action != place_->name()) continue;
            const bool is_it = press->button ? physical_buttons(verdict.button).contains(press->button) &&
                                                   std::max(verdict.time, start_of_press_) == press->time
                                             : !verdict.button && press->is_shown;
            if (!is_it || weight_of(verdict.rule) <= weight_) continue;
            weight_ = weight_of(verdict.rule);
            press->clause = verdict_clause(verdict, reader());
        }
    }

    // No verdict up to the newest frame: unless the game has taken the press since then, it still waits.
    void look_at_what_waits() {
        press->clause = waiting_clause(place_->name(), press->button, reader());
        if (!press->clause.empty() && parts().was_taken(place_->name()))
            press->clause = ", and " + place_->name() + " fired, and consume_press() took it from its buffer";
    }

    void look(const Posted& it, std::uint64_t number, const Tick& tick) {
        std::string control, verb = "went down";
        if (it.type == EventType::button && it.down && controls_.keys.contains(it.control))
            control = name_of(it.control);
        if (it.type == EventType::axis && (controls_.axes >> it.axis.number & 1) != 0)
            control = name_of(it.axis), verb = "moved";
        if (it.type == EventType::state && it.outcome == Outcome::ignored)
            (it.down_set & controls_.keys).for_each([&](Button key) { control = name_of(key); });
        if (control.empty()) return;
        const bool is_in_pause = tick.gap == Tick::Gap::paused && it.time >= tick.gap_from && it.time < tick.begin;
        const std::string clause = missed_text(it.outcome, is_in_pause);
        if (!clause.empty()) found({it.time, number, control, verb, clause, false});
    }
    void look_at_values(std::uint64_t number) {
        const auto moved = [&](std::string_view control, const char* verb) {
            found({frame().end(), number, std::string{control}, verb, "", true});
        };
        for (std::uint8_t i = 0; i < axis_kinds; ++i)
            if ((controls_.axes >> i & 1) != 0 && frame().raw_axis(Axis{i}).now != frame().raw_axis(Axis{i}).before)
                moved(name_of(Axis{i}), "moved");
        if (controls_.motion && frame().pointer().motion() != Distance{}) moved("the mouse", "moved");
        if (controls_.wheel && frame().pointer().wheel() != Distance{}) moved("the wheel", "turned");
        controls_.locks.for_each([&](Button lock) {
            if (frame().locks().contains(lock) != frame().previous_locks().contains(lock))
                moved(name_of(lock), "went on or off");
        });
        if (controls_.touch)
            frame().for_each_contact([&](const ContactReading& contact) {
                if (contact.began) moved("a finger", "touched");
                if (!contact.down) release_cut = number;
            });
    }

    void found(Press next) {
        const bool is_newer = !press || next.cut > press->cut ||
                              (next.cut == press->cut && (next.time > press->time || next.is_shown >= press->is_shown));
        // An axis on its way may press a button; the press is what a person means.
        if (press && press->cut == next.cut && press->verb == "went down" && next.verb == "moved" && press->is_shown)
            return;
        if (!is_newer) return;
        press = std::move(next);
        release_cut = 0;
        weight_ = 0;
        start_of_press_ = frame().start();
    }

    const Profile* profile_;
    const ActionPlace* place_;
    const Controls& controls_;
    std::uint64_t last_;
    bool goes_by_release_;
    int weight_ = 0;  // of the verdict in `press`
    Time start_of_press_;
};

/// The last frame in which something that began with a press may still end: a few seconds after it.
std::uint64_t end_of_answer(const RecentParts& parts, std::uint64_t number) noexcept {
    constexpr std::int64_t longest = 3'000'000'000;
    const std::int64_t until = parts.cut(number).frame.end + longest;
    while (number + 1 < parts.next_cut && parts.cut(number + 1).frame.end <= until) ++number;
    return number;
}

/// The last press among the controls, what became of it, and the checkpoint from which it was found.
struct Finding {
    std::optional<Press> press;
    std::uint64_t release_cut = 0;
    TerminalText text;
    const Checkpoint* begin = nullptr;
    std::uint64_t end = 0;  // the last cut that was looked at
};

Finding find_up_to(const Question& question, std::uint64_t number) {
    const Checkpoint* const begin = question.parts.before(number);
    if (!begin) return {};
    const std::uint64_t end = end_of_answer(question.parts, number);
    const Stretch stretch = stretch_of(question.parts, *begin, end, {});
    PressFinder finder{question, stretch, beginning_of(*begin), number};
    play(stretch, finder);
    return {std::move(finder.press), finder.release_cut, std::move(finder.text), begin, end};
}

/// The frames with events that may be news, from a checkpoint up to a cut, in order. A key that is already down is
/// none.
std::vector<std::uint64_t> frames_with_news(const Question& question, const Checkpoint& begin, std::uint64_t last) {
    const RecentParts& parts = question.parts;
    std::vector<std::uint64_t> frames;
    ButtonSet down;
    for (unsigned i = 0; i < begin.levels.hold_count; ++i) down.insert(begin.levels.holds[i].button);
    for (std::uint64_t number = begin.cut + 1; number <= last; ++number)
        for (std::size_t i = 0; i < parts.ledgers.size(); ++i)
            for (std::uint64_t at = parts.ends(number - 1)[i]; at < parts.ends(number)[i];) {
                const detail::Ledger::Glance event = parts.ledgers[i]->glance(at);
                if (!parts.ledgers[i]->still_has(at)) break;
                at = event.next;
                const bool is_button = event.type == EventType::button;
                const bool is_news = question.controls.concern(event) && !(is_button && down.contains({event.control}));
                if (is_button) down.set({event.control}, event.is_flagged);
                if (event.type == EventType::focus || event.type == EventType::interrupt ||
                    event.type == EventType::disconnect || event.type == EventType::state)
                    down = {};
                if (is_news && (frames.empty() || frames.back() != number)) frames.push_back(number);
            }
    return frames;
}

/// From the newest checkpoint to the oldest: if frames after it have news, replays them; if that was not a press, those
/// before.
Finding find_press(const Question& question) {
    const Checkpoint* const first = question.parts.beginning();
    Finding found;
    std::uint64_t last = question.parts.next_cut - 1;
    question.parts.for_each_checkpoint([&](const Checkpoint& begin) {
        const std::vector<std::uint64_t> frames = frames_with_news(question, begin, last);
        last = begin.cut;
        if (!frames.empty()) {
            Finding next = find_up_to(question, frames.back());
            if (next.press) {
                found = next.press->cut == frames.back() ? std::move(next) : find_up_to(question, next.press->cut);
                return false;
            }
        }
        return &begin != first;
    });
    return found;
}

/// The last press that was posted after all frames, if any.
std::optional<Press> find_waiting(const RecentParts& parts, const Controls& controls) {
    std::optional<Press> press;
    for (std::size_t i = 0; i < parts.ledgers.size(); ++i) {
        const detail::Ledger& ledger = *parts.ledgers[i];
        for (std::uint64_t at = parts.ends(parts.next_cut - 1)[i], end = ledger.end(); at < end;) {
            const detail::Ledger::Glance event = ledger.glance(at);
            if (!ledger.still_has(at)) break;
            if (event.type == EventType::button && controls.concern(event) && !parts.hides({event.control}))
                press = Press{.time = time_at(event.stamp),
                              .cut = 0,
                              .control = std::string{name_of(Button{event.control})},
                              .verb = "went down",
                              .clause = {}};
            at = event.next;
        }
    }
    return press;
}

TerminalText waiting_text(const Press& press, Time now) {
    return shown("{} went down {:.3f} s after the last frame: none has taken it yet.\n", press.control,
                 seconds(press.time - now));
}

/// Half a second of much input: until a thread begins to read a copy's events, others may come in.
constexpr std::uint64_t copy_spare = 4096;

constexpr TerminalText::Literal nothing_yet = "Nothing has been noted yet.\n";
constexpr TerminalText::Literal no_ledger =
    "The timeline keeps no events: make it with TimelineOptions::ledger, such as half_a_minute.\n";

TerminalText sentence_of(const Press& press, Time now) {
    return shown("{} {} {:.3f} s ago{}.\n", press.control, press.verb, seconds(now - press.time), press.clause);
}

}  // namespace

TerminalText RecentInput::why(std::string_view action, const Profile& profile) const {
    std::string problem;
    const std::optional<ActionPlace> place = find_action(profile, action, &problem);
    if (!place) return shown("{}\n", problem);
    if (!parts_->has_ledger()) return no_ledger;
    if (!parts_->beginning()) return nothing_yet;
    Question question{*parts_, &profile, &*place};
    for (const Binding& binding : place->action->bindings) question.controls.add(binding);
    const Time now = time_at(parts_->last_end());
    if (const auto waiting = find_waiting(*parts_, question.controls)) return waiting_text(*waiting, now);
    const Finding found = find_press(question);
    if (!found.press)
        return shown("None of the controls of {} was pressed or moved in the last {}.\n", place->action->name,
                     span_text(length())) +
               find_up_to(question, parts_->next_cut - 1).text;
    return found.press->is_shown ? sentence_of(*found.press, now) + found.text : sentence_of(*found.press, now);
}

TerminalText RecentInput::why(Button button) const {
    Button missing{};
    physical_buttons(button).for_each([&](Button key) {
        if (key.number < first_of_axes && !parts_->keeps(key)) missing = key;
    });
    if (missing) return shown("{} is not kept, since no action binds it.\n", name_of(missing));
    if (!parts_->has_ledger()) return no_ledger;
    if (!parts_->beginning()) return nothing_yet;
    Question question{*parts_};
    question.controls.add(button);
    if (const auto waiting = find_waiting(*parts_, question.controls))
        return waiting_text(*waiting, time_at(parts_->last_end()));
    const Finding found = find_press(question);
    if (!found.press) return shown("{} did not go down in the last {}.\n", name_of(button), span_text(length()));
    TerminalText text = sentence_of(*found.press, time_at(parts_->last_end()));
    std::stringstream recording;
    const Time zero = beginning_of(*found.begin);
    StretchRecorder recorder{parts_->ledgers.size(), recording, zero, "", &question.controls};
    play(stretch_of(*parts_, *found.begin, found.end, zero), recorder);
    text += "\n";
    return text +=
           explain(
               recording, "recent input", {},
               {.control = button, .frame = std::max(found.press->cut, found.release_cut) - found.begin->cut, .at = {}})
               .text;
}

// ---- the public class

RecentInput::RecentInput(const Timeline& timeline, const Sampler& sampler, ActionReader& reader,
                         const RecentInputOptions& options)
    : parts_{std::make_unique<RecentParts>(timeline, sampler, reader, options)} {}
RecentInput::~RecentInput() = default;

void RecentInput::note() { parts_->note(); }
void RecentInput::forget() noexcept { parts_->forget(); }
std::uint64_t RecentInput::overruns() const noexcept { return parts_->overruns; }
Duration RecentInput::length() const noexcept {
    const Checkpoint* const begin = parts_->beginning();
    return Duration{begin ? parts_->last_end() - begin->levels.time : 0};
}

namespace {

/// Returns false if events were overwritten before they were read.
bool write_stretch(const Stretch& stretch, Time zero, std::ostream& out, std::string_view title) {
    StretchRecorder recorder{stretch.ledgers.size(), out, zero, title.empty() ? "recent input" : title};
    const bool is_whole = play(stretch, recorder);
    recorder.finish();
    return is_whole;
}

SavedInput save_stretch(const Stretch& stretch, Time zero, const std::string& path) {
    std::ostringstream text;
    std::string why;
    if (!write_stretch(stretch, zero, text, {}))
        return {false, path + ": not written, since events came in too fast; make the ledger larger"};
    if (!write_file_whole(path, text.str(), why)) return {false, why};
    return {true,
            fmt::format("{}: {:.1f} s of input", path, seconds(stretch.cuts.back().end - stretch.cuts.front().end))};
}

}  // namespace

bool RecentInput::write(std::ostream& out, std::string_view title) const {
    const Checkpoint* const begin = parts_->beginning();
    if (!begin) return false;
    const Time zero = beginning_of(*begin);
    return write_stretch(stretch_of(*parts_, *begin, parts_->next_cut - 1, zero), zero, out, title);
}

bool RecentInput::save(const std::string& path) {
    const Checkpoint* const begin = parts_->beginning(copy_spare);
    if (!begin || parts_->saving.is_going_on()) return false;
    const Time zero = beginning_of(*begin);
    parts_->saving.start([path, zero, stretch = stretch_of(*parts_, *begin, parts_->next_cut - 1, zero)] {
        return save_stretch(stretch, zero, path);
    });
    return true;
}

std::optional<SavedInput> RecentInput::saved() { return parts_->saving.result(); }

}  // namespace cursorum
