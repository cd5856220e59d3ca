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

/// What became of a press, as the end of a sentence: "and crane.lock fired", "but the mode menu covered crane".
CURSORUM_API std::string verdict_text(const Verdict& verdict, const ActionReader& reader);

/// A press that no action could get, since the core did not take it or a pause skipped it.
struct MissedPress {
    Time time;
    Button button;
    std::string fate;  ///< "without focus, so it was ignored"
};
/// Its fate, from the outcome of its event; empty if it was taken. `in_pause`: it came within a pause.
CURSORUM_API std::string missed_text(Outcome outcome, bool in_pause = false);

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
    std::vector<Verdict> verdicts;  ///< on presses for this action that were decided in the frame
    Button asked{};                 ///< one of its buttons that was down

    /// Complete lines. `command`: how to ask for more of one of its buttons, except for the button's name, or empty.
    /// `colour`: with escape sequences for terminals.
    TerminalText text(std::string_view command = {}, bool colour = false) const;
    /// One JSON object in a line: `action`, `frame`, `t0`, `t1`, `summary`, `sections`, each with its `title` and
    /// `lines`, and `verdicts`; docs/frame-format.md.
    std::string json() const;

private:
    std::string summary() const;
};

/// Describes what the reader made of the frame that it read last: the action's state, whether its mode sees anything,
/// what came of each binding and of each press, and the action's rules. `verdicts`: those that the reader wrote while
/// it read the frame. `number` and `where`: how to name the frame. `missed`: presses that came within it.
CURSORUM_API ActionExplanation explain_action(const ActionReader& reader, const Profile& profile,
                                              const ActionPlace& place, const Frame& frame,
                                              std::span<const Verdict> verdicts, std::string_view where,
                                              std::uint64_t number = 0, std::span<const MissedPress> missed = {});

/// Keeps the verdicts of a frame: clear it before each read.
class CURSORUM_API VerdictList final : public VerdictSink {
public:
    void take(const Verdict& verdict) override { all.push_back(verdict); }
    std::vector<Verdict> all;
};

}  // namespace cursorum
