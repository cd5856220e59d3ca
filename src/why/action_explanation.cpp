// Why an action fired in a frame, or did not: for each of its controls what happened, who got it, and which of the
// action's rules let it pass. Read from a replayed recording.
#include "cursorum/why/action_explanation.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <iterator>
#include <utility>

#include "actions/reader_facts.hpp"
#include "cursorum/actions/binding_text.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/views/text.hpp"
#include "views/json_text.hpp"
#include "views/shown.hpp"

namespace cursorum {

std::optional<ActionPlace> find_action(const Profile& profile, std::string_view name, std::string* why) {
    const Action* found = profile.action(name, why);
    if (!found) return std::nullopt;
    for (const Mode& mode : profile.modes)
        for (const Action& action : mode.actions)
            if (&action == found) return ActionPlace{&mode, found};
    return std::nullopt;
}

namespace {

std::string source_text(ActionKind kind, const Binding& binding) {
    static constexpr const char* pair[] = {"minus ", "plus "};
    static constexpr const char* cross[] = {"left ", "right ", "up ", "down "};
    const bool is_pair = binding.kind == Binding::Kind::pair;
    std::string text;
    if (is_pair || binding.kind == Binding::Kind::cross)
        for (std::size_t i = 0; i < binding.buttons.size(); ++i)
            text += (i == 0 ? "" : ", ") + std::string{(is_pair ? pair : cross)[i]} +
                    std::string{name_of(binding.buttons[i])};
    switch (binding.kind) {
        case Binding::Kind::axis: return std::string{name_of(binding.axis)};
        case Binding::Kind::stick: return std::string{name_of(binding.stick)};
        case Binding::Kind::motion: return "motion";
        case Binding::Kind::wheel: return "wheel";
        case Binding::Kind::lock: return std::string{name_of(binding.lock)} + " on";
        case Binding::Kind::touch:
            if (kind == ActionKind::vector) return "the place of a finger on a touch surface";
            [[fallthrough]];
        default: return text.empty() ? binding_text(kind, binding) : text;
    }
}

/// Makes the explanation, section by section.
class Answer {
public:
    Answer(const ActionReader& reader, const Profile& profile, const ActionPlace& place, const Frame& frame,
           std::span<const Verdict> verdicts, std::span<const MissedPress> missed)
        : reader_{reader}, profile_{profile}, place_{place}, frame_{frame}, missed_{missed} {
        own_mode_ = reader.find_mode(place.of->name).value_or(own_mode_);
        for (const Verdict& verdict : verdicts) {
            NamedVerdict its = named(verdict, reader);
            if (its.action == place.name()) all_.verdicts.push_back(std::move(its));
        }
    }

    ActionExplanation compose(std::string_view where, std::uint64_t number) {
        all_.action = place_.name();
        all_.where = where;
        all_.frame = number;
        all_.start = frame_.start();
        all_.end = frame_.end();
        all_.state = state();
        add_modes();
        title("Its bindings");
        if (place_.action->bindings.empty()) add(0, "It has none.");
        for (const Binding& binding : place_.action->bindings) add_binding(binding);
        for (const auto& [verdict, action, mode, by] : all_.verdicts)
            if (!verdict.button) add(0, "At {}: {}.", time_text(verdict.time), verdict_text(verdict, reader_));
        add_rules();
        return std::move(all_);
    }

private:
    template <typename... Values>
    void add(unsigned depth, fmt::format_string<const Values&...> format, const Values&... values) {
        all_.sections.back().lines.push_back({fmt::format(format, values...), depth});
    }
    void title(const char* what) { all_.sections.push_back({what, {}}); }

    std::string state() const {
        const auto now_and_before = [](double now, double before) {
            return fmt::format("{:.3f}, {:.3f} before", now, before);
        };
        const auto pair = [](Vector2 v) { return fmt::format("({:.3f}, {:.3f})", v.x, v.y); };
        switch (place_.action->kind) {
            case ActionKind::button: {
                const ButtonFigures f = reader_[reader_.find_button(place_.name()).value_or(ButtonAction{})].figures();
                const std::string news = news_text(f);
                return std::string{name_of(f.state())} + (news.empty() ? "" : " (" + news + ")");
            }
            case ActionKind::axis: {
                const AxisActionReading r = reader_[reader_.find_axis(place_.name()).value_or(AxisAction{})];
                return now_and_before(r.value, r.before) +
                       (r.relative != 0 ? fmt::format(", moved by {:.3f}", r.relative) : "");
            }
            case ActionKind::vector: break;
        }
        const VectorActionReading r = reader_[reader_.find_vector(place_.name()).value_or(VectorAction{})];
        return pair(r.value) + ", " + pair(r.before) + " before" +
               (r.relative != Vector2{} ? ", moved by " + pair(r.relative) : "");
    }

    // ---- its mode

    void add_modes() {
        title("Its mode");
        if (reader_.is_visible(own_mode_))
            add(0, "{} is open and not covered.", place_.of->name);
        else if (!reader_.is_open(own_mode_))
            add(0, "{} is not open, so its actions see nothing. (--mode names the modes that are.)", place_.of->name);
        else
            add(0, "{} is covered by {}, so its actions see nothing.", place_.of->name, covering());
        for (std::size_t i = 0; i < reader_.mode_change_count(); ++i) {
            const ModeChange turn = reader_.mode_change(i);
            add(0, "At {}, the press of {} {} {}{}.", time_text(turn.time), reader_.name_of(turn.by),
                turn.opened ? "opened" : "closed", reader_.name_of(turn.mode),
                i == 0 ? ": earlier events of this frame belong to what was open before" : "");
        }
    }
    std::string covering() const {
        for (const Mode& mode : profile_.modes)
            if (const auto its = reader_.find_mode(mode.name); mode.is_covering() && its && reader_.is_visible(*its))
                return mode.name;
        return "another mode";
    }

    // ---- its bindings

    void add_binding(const Binding& binding) {
        const bool is_plain =
            binding.kind == Binding::Kind::buttons && binding.buttons.size() == 1 && binding.symbol.empty();
        if (!is_plain) all_.sections.back().lines.push_back({source_text(place_.action->kind, binding), 0, true});
        depth_ = is_plain ? 0 : 1;
        const bool is_seen = reader_.is_visible(own_mode_);
        if (!binding.symbol.empty() && binding.buttons.back() == Button{}) {
            add(1, "No key of the layout has this symbol.");
            return;
        }
        if (binding.kind == Binding::Kind::value || binding.kind == Binding::Kind::touch)
            return add_value(binding, is_seen);
        for (const Button button : binding.buttons) {
            const bool acted = add_button(button);
            for (const MissedPress& it : missed_)
                if (physical_buttons(button).contains(it.button))
                    add(depth_ + 1, "{} went down at {}{}.", name_of(it.button), time_text(it.time), it.why);
            if (!acted && !frame_[button].down()) continue;
            if (!all_.asked.number) all_.asked = button;
            bool is_judged = false;
            for (const auto& [verdict, action, mode, by] : all_.verdicts)
                if (verdict.button == button && is_of(verdict, binding)) {
                    add(depth_ + 1, "It went down at {}{}.", time_text(verdict.time), verdict_clause(verdict, reader_));
                    is_judged = true;
                }
            if (is_judged) continue;
            const std::string waits = waiting_clause(place_.name(), button, reader_);
            if (frame_[button].pressed() && !waits.empty())
                add(depth_ + 1, "It went down{}.", waits);
            else
                add_owner(button);
        }
        if (!is_seen) return;
        if (binding.is_of_button_action() && binding.buttons.size() > 1) add_chord(binding);
        if (binding.kind == Binding::Kind::lock)
            add(1, "It {} on at the frame's end, and {} on before.",
                frame_.locks().contains(binding.lock) ? "is" : "is not",
                frame_.previous_locks().contains(binding.lock) ? "was" : "was not");
        if (binding.kind == Binding::Kind::wheel_step) add(1, "Wheel: {}.", wheel_steps());
        if (binding.kind == Binding::Kind::axis) add_axis(binding);
        if (binding.kind == Binding::Kind::stick) {
            const StickReading stick = frame_.stick(binding.stick);
            add(1, "Shaped ({:.3f}, {:.3f}), ({:.3f}, {:.3f}) before.", stick.now.x, stick.now.y, stick.before.x,
                stick.before.y);
        }
    }

    /// The deflection of an axis, or the state of a finger.
    void add_value(const Binding& binding, bool is_seen) {
        if (binding.touch != TouchPart::none) {
            std::string touched = "No finger is on it.";
            frame_.for_each_contact([&](const ContactReading& contact) {
                touched = contact.down ? fmt::format("A finger is on it, at ({:.3f}, {:.3f}), with a pressure of {:g}.",
                                                     contact.position.x, contact.position.y, contact.pressure)
                                       : "A finger has left it.";
            });
            add(1, "{}", touched);
        } else {
            const Button button = binding.buttons.front();
            const AxisPush push = axis_behind(button).value_or(AxisPush{});
            const Axis axis = push.axis;
            double now = 0, before = 0;
            if (axis.number >= 2 * stick_kinds) {
                const AxisReading pull = is_pull(axis) ? frame_.trigger(axis) : frame_.raw_axis(axis);
                now = pull.now, before = pull.before;
            } else {
                const StickReading reading = frame_.stick(Stick{static_cast<std::uint8_t>(axis.number / 2)});
                const auto part = [&](Vector2 v) { return axis.number % 2 != 0 ? v.y : v.x; };
                now = part(reading.now), before = part(reading.before);
            }
            if (push.side == AxisSide::negative) now = -now, before = -before;
            add(1, "{}: {:.3f} shaped, {:.3f} before; pressed from {:g} on, released at {:g}.", name_of(button),
                now + 0.0, before + 0.0, binding.thresholds.press, binding.thresholds.release);
        }
        if (!is_seen) add(1, "Its mode sees nothing.");
    }

    /// Returns false if it was up all the time.
    bool add_button(Button button) {
        const ButtonFigures f = frame_[button].figures();
        const std::string news = news_text(f);
        add(depth_, "{}: {}{}.", name_of(button), name_of(f.state()), news.empty() ? "" : ", " + news);
        if (f.system_repeat_count() != 0 && f.press_count() == 0)
            add(depth_ + 1, "The system repeated it ({}): a repeat is not a press.", f.system_repeat_count());
        return f.state() != ButtonState::idle;
    }
    bool was_down_at_all(Button button) const {
        return frame_[button].down() || frame_[button].was_down() || frame_[button].press_count() != 0;
    }

    void add_chord(const Binding& binding) {
        std::string missing;
        for (const Button button : binding.buttons)
            if (!was_down_at_all(button)) missing += (missing.empty() ? "" : ", ") + std::string{name_of(button)};
        if (std::none_of(binding.buttons.begin(), binding.buttons.end(),
                         [this](Button button) { return was_down_at_all(button); }))
            return;
        if (!missing.empty()) add(1, "The chord lacks {}.", missing);
        if (missing.empty() && binding.in_order) add(1, "Its members have to go down in this order.");
    }

    /// Of several bindings with the same button, the one whose members are the verdict's.
    bool is_of(const Verdict& verdict, const Binding& binding) const {
        const std::string chord = detail::ReaderAccess::chord_text(reader_, verdict.binding);
        std::string members;
        for (const Button button : binding.buttons)
            members += (members.empty() ? "" : binding.in_order ? ">" : "+") + std::string{name_of(button)};
        return chord == members || !binding.is_of_button_action();
    }

    /// Of a button that is down since an earlier frame.
    void add_owner(Button button) {
        const ButtonOwner owner = reader_.owner_of(button);
        if (owner.kind == ButtonOwner::Kind::mode && owner.mode != own_mode_)
            add(depth_ + 1, "Its press belongs to the mode {}.", reader_.name_of(owner.mode));
        else if (owner.kind == ButtonOwner::Kind::claim)
            add(depth_ + 1, "Its press belongs to a claim.");
        else if (owner.kind == ButtonOwner::Kind::owner_ended)
            add(depth_ + 1, "No mode receives that press until the button is up.");
    }

    std::string wheel_steps() const {
        const WheelSteps steps = frame_.pointer().wheel_steps();
        return steps == WheelSteps{} ? "no whole step" : fmt::format("{} steps right, {} up", steps.x, steps.y);
    }

    void add_axis(const Binding& binding) {
        const AxisReading axis = frame_.raw_axis(binding.axis);
        add(1, "At {:.3f}, {:.3f} before; dead zone {:g}{}.", axis.now, axis.before, binding.dead_zone,
            std::max(std::abs(axis.least), std::abs(axis.greatest)) <= binding.dead_zone ? ": all of it within" : "");
    }

    // ---- its rules

    void add_rules() {
        const Action& action = *place_.action;
        title("Its rules");
        const auto rule = [this](const std::string& sentence) { add(0, "{}", sentence); };
        switch (action.gesture) {
            case Gesture::hold: break;
            case Gesture::tap:
                rule("A tap: fires when a press ends within " + span_text(action.gesture_time) + ".");
                break;
            case Gesture::long_press:
                rule("A long press: fires once a press has lasted " + span_text(action.gesture_time) + ".");
                break;
            case Gesture::double_tap:
                rule("A double tap: fires with the second press within " + span_text(action.gesture_time) + ".");
                break;
            case Gesture::toggle: rule("A toggle: on by one press, off by the next."); break;
            case Gesture::release: rule("On release: fires when a press ends."); break;
        }
        if (action.closes) rule("Its press closes " + place_.of->name + ", at that very moment.");
        if (!action.opens.empty()) rule("Its press opens " + action.opens + ", at that very moment.");
        if (action.min_interval != Duration{})
            rule("Presses less than " + span_text(action.min_interval) + " after the last one are dropped.");
        if (action.debounce != Duration{})
            rule("After an edge nothing counts for " + span_text(action.debounce) + ": debouncing.");
        if (action.buffer != Duration{}) rule("A press waits " + span_text(action.buffer) + " to be taken.");
        if (action.kind != ActionKind::button) {
            if (action.rise != Duration{} || action.fall != Duration{})
                rule(fmt::format("It rises from 0 to 1 within {}, and falls within {}.", span_text(action.rise),
                                 span_text(action.fall)));
            rule("Of several bindings the largest counts; opposite buttons: " + std::string{name_of(action.opposed)} +
                 ".");
        } else {
            rule(
                "It is down while any binding is: a second one adds no press. What is adopted or cancelled fires "
                "nothing.");
        }
    }

    const ActionReader& reader_;
    const Profile& profile_;
    const ActionPlace& place_;
    ModeHandle own_mode_{};
    const Frame& frame_;
    std::span<const MissedPress> missed_;
    unsigned depth_ = 0;
    ActionExplanation all_;
};

}  // namespace

bool has_buttons_down(const ActionPlace& place, const Frame& frame) {
    for (const Binding& binding : place.action->bindings)
        for (const Button button : binding.buttons)
            if (frame[button].state() != ButtonState::idle) return true;
    return false;
}

std::string verdict_text(const Verdict& verdict, const ActionReader& reader) {
    std::string_view mode_name;
    const Action* const found = detail::ReaderAccess::action_of(reader, verdict.action, &mode_name);
    static const Action none;
    const Action& action = found ? *found : none;
    const std::string name = std::string{mode_name} + "." + action.name;
    const auto chord = [&] { return detail::ReaderAccess::chord_text(reader, verdict.binding); };
    switch (verdict.rule) {
        case Rule::fired: return action.kind == ActionKind::button ? name + " fired" : name + " took it";
        case Rule::taken_from_buffer: return name + " fired, and consume_press() took it from its buffer";
        case Rule::buffer_expired:
            return fmt::format("{} fired, and no consume_press() took it from its buffer within {}", name,
                               span_text(action.buffer));
        case Rule::toggled_off: return name + " went off";
        case Rule::already_down: return "another binding of " + name + " was down: a second one adds no press";
        case Rule::adopted: return "it was found down instead of pressed: nothing fires";
        case Rule::unbound: return "no action is bound to it";
        case Rule::mode_closed:
            return fmt::format("the mode {} was not open", mode_name) +
                   (verdict.mode == ModeHandle{} ? "" : fmt::format(": it went to {}", reader.name_of(verdict.mode)));
        case Rule::mode_covered: return fmt::format("the mode {} covered {}", reader.name_of(verdict.mode), mode_name);
        case Rule::taken_by_mode:
            return fmt::format("it went to the mode {}, which lies above {} and binds it", reader.name_of(verdict.mode),
                               mode_name);
        case Rule::taken_by_claim: return "it went to a claim, as of a dialogue or a text field";
        case Rule::other_seat: return "its device belongs to another seat, or to none";
        case Rule::owner_ended: return "what had its press ended before that could count";
        case Rule::longer_chord: {
            const Action* const longer = detail::ReaderAccess::action_of(reader, verdict.by);
            return "it completed the longer chord of " + (longer ? longer->name : "another action");
        }
        case Rule::chord_incomplete: return "the rest of " + chord() + " was not down";
        case Rule::chord_out_of_order: return "the members of " + chord() + " went down in another order";
        case Rule::elsewhere: return "the pointer was not where " + name + " takes clicks";
        case Rule::not_up_since_bound: return "it has not been up since it was bound";
        case Rule::debounced:
            return "nothing counts within " + span_text(action.debounce) + " of the edge before it: debouncing";
        case Rule::min_interval:
            return fmt::format("it came {} after the last press that counted, within min_interval ({})",
                               span_text(verdict.time - verdict.since), span_text(action.min_interval));
        case Rule::too_long: return "it lasted longer than " + span_text(action.gesture_time) + ": no tap";
        case Rule::too_short: return "it ended before " + span_text(action.gesture_time) + ": no long press";
        case Rule::too_late:
            return "no other one followed within " + span_text(action.gesture_time) + ": no double tap";
        case Rule::first_of_two: return "the next press made it a double tap";
        case Rule::cancelled: return "it was cancelled before its gesture was complete";
        case Rule::paused: return "a pause came before its gesture was complete";
    }
    return {};
}

std::string verdict_clause(const Verdict& verdict, const ActionReader& reader) {
    return (weight_of(verdict.rule) == 3 ? ", and " : ", but ") + verdict_text(verdict, reader);
}

std::string waiting_clause(std::string_view action, Button button, const ActionReader& reader) {
    const ButtonAction found = reader.find_button(action).value_or(ButtonAction{});
    const std::string_view waits = detail::ReaderAccess::what_waits(reader, found.number, button);
    return waits.empty() ? std::string{} : fmt::format(", and {} {}", action, waits);
}

NamedVerdict named(const Verdict& verdict, const ActionReader& reader) {
    const auto action = [&](std::uint16_t number) {
        std::string_view mode;
        const Action* const found = detail::ReaderAccess::action_of(reader, number, &mode);
        return found ? std::string{mode} + "." + found->name : std::string{};
    };
    return {verdict, action(verdict.action), std::string{reader.name_of(verdict.mode)}, action(verdict.by)};
}

namespace {

JsonText json_of(const NamedVerdict& it) {
    JsonText json = JsonText::object();
    json.set("t", nanoseconds(it.verdict.time));
    if (it.verdict.device != DeviceId{}) json.set("device", static_cast<std::int64_t>(it.verdict.device));
    if (it.verdict.button) json.set("control", name_of(it.verdict.button));
    json.set("rule", name_of(it.verdict.rule));
    if (!it.action.empty()) json.set("action", it.action);
    if (!it.mode.empty()) json.set("mode", it.mode);
    if (!it.by.empty()) json.set("by", it.by);
    if (it.verdict.since != it.verdict.time) json.set("since", nanoseconds(it.verdict.since));
    return json;
}

}  // namespace

std::string verdict_as_json(const NamedVerdict& verdict) {
    std::string line = json_of(verdict).line();
    line.pop_back();
    return line;
}

int weight_of(Rule rule) noexcept {
    switch (rule) {
        case Rule::fired:
        case Rule::taken_from_buffer:
        case Rule::buffer_expired:
        case Rule::toggled_off:
        case Rule::first_of_two: return 3;
        case Rule::mode_closed:
        case Rule::longer_chord:
        case Rule::chord_incomplete:
        case Rule::chord_out_of_order: return 1;
        default: return 2;
    }
}

std::string ActionExplanation::summary() const {
    return fmt::format("{} in {}, after {} up to {}: ", action, where, time_text(start), time_text(end));
}

TerminalText ActionExplanation::text(std::string_view command, bool colour) const {
    const Paint paint{colour};
    TerminalText text = shown("{}{}\n", summary(), paint(Paint::bold, state));
    for (const Section& section : sections) {
        text += shown("\n{}\n", paint(Paint::bold, section.title));
        for (const Line& line : section.lines) {
            text += shown("{}", std::string(2 + 4 * line.depth, ' '));
            text += line.is_bold ? paint(Paint::bold, line.text) : shown("{}", line.text);
            text += "\n";
        }
    }
    if (asked.number && !command.empty())
        text += shown("\n{}\n  {} --control {}\n", paint(Paint::bold, "Events of one button"), command, name_of(asked));
    return text;
}

std::string ActionExplanation::json() const {
    JsonText all = JsonText::object();
    all.set("action", action)
        .set("frame", frame)
        .set("t0", nanoseconds(start))
        .set("t1", nanoseconds(end))
        .set("summary", summary() + state);
    JsonText all_sections = JsonText::array();
    for (const Section& section : sections) {
        JsonText lines = JsonText::array();
        for (const Line& line : section.lines) lines.add(line.text);
        all_sections.add(std::move(JsonText::object().set("title", section.title).set("lines", std::move(lines))));
    }
    JsonText all_verdicts = JsonText::array();
    for (const NamedVerdict& verdict : verdicts) all_verdicts.add(json_of(verdict));
    return all.set("sections", std::move(all_sections)).set("verdicts", std::move(all_verdicts)).line();
}

ActionExplanation explain_action(const ActionReader& reader, const Profile& profile, const ActionPlace& place,
                                 const Frame& frame, std::span<const Verdict> verdicts, std::string_view where,
                                 std::uint64_t number, std::span<const MissedPress> missed) {
    return Answer{reader, profile, place, frame, verdicts, missed}.compose(where, number);
}

}  // namespace cursorum
