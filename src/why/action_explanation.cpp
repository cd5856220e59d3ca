// Why an action fired in a frame, or did not: for each of its controls what happened, who got it, and which of the
// action's rules let it pass. Read from a replayed recording.
#include "cursorum/why/action_explanation.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <iterator>
#include <sstream>
#include <utility>

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

/// Writes the answer, section by section.
class Answer {
public:
    Answer(const ActionReader& reader, const Profile& profile, const ActionPlace& place, const Frame& frame,
           bool colour)
        : reader_{reader}, profile_{profile}, place_{place}, frame_{frame}, paint_{colour} {
        own_mode_ = reader.find_mode(place.of->name).value_or(own_mode_);
    }

    TerminalText compose(std::string_view where, std::string_view command) {
        add("{}.{} in {}, after {} up to {}: {}\n", place_.of->name, place_.action->name, where,
            time_text(frame_.start()), time_text(frame_.end()), paint_(Paint::bold, state()));
        add_modes();
        title("Its bindings");
        if (place_.action->bindings.empty()) add("  It has none.\n");
        for (const Binding& binding : place_.action->bindings) add_binding(binding);
        add_rules();
        if (!asked_.number || command.empty()) return text_;
        title("Events of one button");
        add("  {} --control {}\n", command, name_of(asked_));
        return text_;
    }

private:
    template <typename... Values>
    void add(ShownFormat<Values...> format, const Values&... values) {
        text_ += shown(format, values...);
    }
    void title(const char* what) { add("\n{}\n", paint_(Paint::bold, what)); }

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
            add("  {} is open and not covered.\n", place_.of->name);
        else if (!reader_.is_open(own_mode_))
            add("  {} is not open, so its actions see nothing. (--mode names the modes that are.)\n", place_.of->name);
        else
            add("  {} is covered by {}, so its actions see nothing.\n", place_.of->name, covering());
        for (std::size_t i = 0; i < reader_.mode_change_count(); ++i) {
            const ModeChange turn = reader_.mode_change(i);
            add("  At {}, the press of {} {} {}{}.\n", time_text(turn.time), reader_.name_of(turn.by),
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
        if (!is_plain) add("  {}\n", paint_(Paint::bold, source_text(place_.action->kind, binding)));
        indent_ = is_plain ? "  " : "      ";
        const bool is_seen = reader_.is_visible(own_mode_);
        if (!binding.symbol.empty() && binding.buttons.back() == Button{}) {
            add("      No key of the layout has this symbol.\n");
            return;
        }
        if (binding.kind == Binding::Kind::value || binding.kind == Binding::Kind::touch)
            return add_value(binding, is_seen);
        for (const Button button : binding.buttons) {
            const bool acted = add_button(button);
            const ButtonOwner owner = reader_.owner_of(button);
            if (!acted && !frame_[button].down()) continue;
            if (!asked_.number) asked_ = button;
            if (owner.kind == ButtonOwner::Kind::mode && owner.mode != own_mode_)
                add("      It went to the mode {}, which {}binds it.\n", reader_.name_of(owner.mode),
                    reader_.is_open(own_mode_) ? "lies above " + place_.of->name + " and " : std::string{});
            else if (owner.kind == ButtonOwner::Kind::claim)
                add("      It went to a claim: no mode gets what a dialogue or text field keeps for itself.\n");
            else if (owner.kind == ButtonOwner::Kind::owner_ended)
                add("      No mode receives that press until the button is up.\n");
            else if (const std::string longer = longer_chord(binding, button); is_seen && !longer.empty())
                add("      It went to {}, the longer chord.\n", longer);
        }
        if (!is_seen) return;
        if (binding.is_of_button_action() && binding.buttons.size() > 1) add_chord(binding);
        if (binding.kind == Binding::Kind::lock)
            add("      It {} on at the frame's end, and {} on before.\n",
                frame_.locks().contains(binding.lock) ? "is" : "is not",
                frame_.previous_locks().contains(binding.lock) ? "was" : "was not");
        if (binding.kind == Binding::Kind::wheel_step) add("      Wheel: {}.\n", wheel_steps());
        if (binding.kind == Binding::Kind::axis) add_axis(binding);
        if (binding.kind == Binding::Kind::stick) {
            const StickReading stick = frame_.stick(binding.stick);
            add("      Shaped ({:.3f}, {:.3f}), ({:.3f}, {:.3f}) before.\n", stick.now.x, stick.now.y, stick.before.x,
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
            add("      {}\n", touched);
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
            add("      {}: {:.3f} shaped, {:.3f} before; pressed from {:g} on, released at {:g}.\n", name_of(button),
                now + 0.0, before + 0.0, binding.thresholds.press, binding.thresholds.release);
        }
        if (!is_seen) add("      Its mode sees nothing.\n");
    }

    /// Returns false if it was up all the time.
    bool add_button(Button button) {
        const ButtonFigures f = frame_[button].figures();
        const std::string news = news_text(f);
        add("{}{}: {}{}.\n", indent_, name_of(button), name_of(f.state()), news.empty() ? "" : ", " + news);
        if (f.system_repeat_count() != 0 && f.press_count() == 0)
            add("      The system repeated it ({}): a repeat is not a press.\n", f.system_repeat_count());
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
        if (!missing.empty()) add("      The chord lacks {}.\n", missing);
        if (missing.empty() && binding.in_order) add("      Its members have to go down in this order.\n");
    }

    /// A longer chord of the same mode with the same button, whose members are all down.
    std::string longer_chord(const Binding& binding, Button button) const {
        for (const Action& action : place_.of->actions)
            for (const Binding& other : action.bindings) {
                const auto& members = other.buttons;
                const bool takes = other.kind == Binding::Kind::buttons && members.size() > binding.buttons.size() &&
                                   std::find(members.begin(), members.end(), button) != members.end() &&
                                   std::all_of(members.begin(), members.end(),
                                               [this](Button member) { return was_down_at_all(member); });
                if (takes) return source_text(ActionKind::button, other) + " of " + action.name;
            }
        return {};
    }

    std::string wheel_steps() const {
        const WheelSteps steps = frame_.pointer().wheel_steps();
        return steps == WheelSteps{} ? "no whole step" : fmt::format("{} steps right, {} up", steps.x, steps.y);
    }

    void add_axis(const Binding& binding) {
        const AxisReading axis = frame_.raw_axis(binding.axis);
        add("      At {:.3f}, {:.3f} before; dead zone {:g}{}.\n", axis.now, axis.before, binding.dead_zone,
            std::max(std::abs(axis.least), std::abs(axis.greatest)) <= binding.dead_zone ? ": all of it within" : "");
    }

    // ---- its rules

    void add_rules() {
        const Action& action = *place_.action;
        TerminalText rules;
        const auto rule = [&rules](const std::string& sentence) { rules += shown("  {}\n", sentence); };
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
        title("Its rules");
        text_ += rules;
    }

    const ActionReader& reader_;
    const Profile& profile_;
    const ActionPlace& place_;
    ModeHandle own_mode_{};
    const Frame& frame_;
    Paint paint_;
    Button asked_{};
    const char* indent_ = "";
    TerminalText text_;
};

}  // namespace

bool has_buttons_down(const ActionPlace& place, const Frame& frame) {
    for (const Binding& binding : place.action->bindings)
        for (const Button button : binding.buttons)
            if (frame[button].state() != ButtonState::idle) return true;
    return false;
}

TerminalText explain_action(const ActionReader& reader, const Profile& profile, const ActionPlace& place,
                            const Frame& frame, std::string_view where, std::string_view command, bool colour) {
    return Answer{reader, profile, place, frame, colour}.compose(where, command);
}

std::string explanation_as_json(std::string_view action, std::uint64_t number, const Frame& frame,
                                std::string_view text) {
    JsonText all = JsonText::object();
    all.set("action", action)
        .set("frame", number)
        .set("t0", nanoseconds(frame.start()))
        .set("t1", nanoseconds(frame.end()));
    JsonText sections = JsonText::array(), section = JsonText::null(), section_lines = JsonText::array();
    auto end_section = [&, is_first = true]() mutable {
        JsonText its_lines = std::exchange(section_lines, JsonText::array());
        if (!std::exchange(is_first, false)) sections.add(std::move(section.set("lines", std::move(its_lines))));
    };
    std::istringstream lines{std::string{text}};
    std::string line;
    std::getline(lines, line);
    all.set("summary", line);
    // A blank line, a title, and indented lines.
    for (bool is_title = false; std::getline(lines, line);) {
        if (line.empty()) {
            is_title = true;
        } else if (std::exchange(is_title, false)) {
            end_section();
            section = std::move(JsonText::object().set("title", line));
        } else {
            section_lines.add(line.substr(std::min(line.find_first_not_of(' '), line.size())));
        }
    }
    end_section();
    return all.set("sections", std::move(sections)).line();
}

}  // namespace cursorum
