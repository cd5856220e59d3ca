// Why an action's state in a frame is what it is, in sentences.
#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/actions/verdict.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/views/text.hpp"

namespace cursorum {

/// An action of a profile, and its mode.
struct ActionPlace {
    const Mode* of = nullptr;
    const Action* action = nullptr;

    std::string name() const { return of->name + "." + action->name; }
};

/// Finds an action of any kind by "mode.action", or by its name alone if only one mode has it. Returns nothing for an
/// unknown name; then `why`, if given, contains what was found, what was expected, and a near name. The profile must
/// outlive the result.
CURSORUM_API std::optional<ActionPlace> find_action(const Profile& profile, std::string_view name,
                                                    std::string* why = nullptr);

/// Returns whether a button that the action is bound to was down within the frame.
CURSORUM_API bool has_buttons_down(const ActionPlace& place, const Frame& frame);

/// A verdict in words: "crane.lock fired", "the mode menu covered crane".
CURSORUM_API std::string verdict_text(const Verdict& verdict, const ActionReader& reader);
/// The same as the end of a sentence about the press: ", and crane.lock fired", ", but the mode menu covered crane".
CURSORUM_API std::string verdict_clause(const Verdict& verdict, const ActionReader& reader);
/// The same for a press of `button` that has no verdict yet: ", and crane.lock fired, and waits in its buffer". Empty
/// if none waits. `action` is "mode.action"; the reader must have a sink.
CURSORUM_API std::string waiting_clause(std::string_view action, Button button, const ActionReader& reader);

/// A verdict, with the names of what it refers to by number.
struct NamedVerdict {
    Verdict verdict;
    std::string action;  ///< "crane.lock"; empty if it is about no action
    std::string mode;    ///< likewise
    std::string by;      ///< the action of a longer chord; likewise
};
CURSORUM_API NamedVerdict named(const Verdict& verdict, const ActionReader& reader);
/// One JSON object, without a line feed: `t`, `device`, `control`, `rule`, `action`, `mode`, `by` and `since`;
/// docs/frame-format.md.
CURSORUM_API std::string verdict_as_json(const NamedVerdict& verdict);

/// How much a rule says of a press for which several bindings have a verdict: 3 if the press counted, 1 if the rule is
/// only about what else was open or down, 2 for all others.
CURSORUM_API int weight_of(Rule rule) noexcept;

/// A press that no reader receives.
struct MissedPress {
    Time time;
    Button button;
    std::string why;  ///< as missed_text() returns it
};

/// Why an action's state in a frame is what it is.
struct CURSORUM_API ActionExplanation {
    struct Line {
        std::string text;
        unsigned depth = 0;  ///< how far it is below its section
        bool is_bold = false;
    };
    struct Section {
        std::string title;
        std::vector<Line> lines;
    };
    std::string action;  ///< "crane.lock"
    std::string where;   ///< the frame, such as "frame 402 of shift.jsonl"
    std::string state;   ///< the action's
    std::uint64_t frame = 0;
    Time start, end;
    std::vector<Section> sections;
    std::vector<NamedVerdict> verdicts;  ///< on presses for this action that were decided in the frame
    Button asked{};                      ///< one of its buttons that was down

    /// Complete lines. `command`: how to ask for more of one of its buttons, except for the button's name, or empty.
    /// `colour`: with escape sequences for terminals.
    TerminalText text(std::string_view command = {}, bool colour = false) const;
    /// One JSON object in a line: `action`, `frame`, `t0`, `t1`, `summary`, `sections`, each with its `title` and
    /// `lines`, and `verdicts`; docs/frame-format.md.
    std::string json() const;

private:
    std::string summary() const;
};

/// Describes the frame that the reader has read last: the action's state, whether its mode is visible, the state of
/// each binding, the verdict on each press, and the action's rules. `verdicts`: those that the reader wrote while it
/// read the frame. `number` and `where`: the frame's number and name. `missed`: presses with times in the frame that no
/// reader receives.
CURSORUM_API ActionExplanation explain_action(const ActionReader& reader, const Profile& profile,
                                              const ActionPlace& place, const Frame& frame,
                                              std::span<const Verdict> verdicts, std::string_view where,
                                              std::uint64_t number = 0, std::span<const MissedPress> missed = {});

}  // namespace cursorum
