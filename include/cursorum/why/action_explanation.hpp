// Why an action's state in a frame is what it is, in sentences.
#pragma once

#include <optional>
#include <string>
#include <string_view>

#include "cursorum/actions/action_reader.hpp"
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

/// Describes what the reader made of the frame that it read last: the action's state, whether its mode sees anything,
/// what came of each binding and who took it, and the action's rules. `where` is how the text names the frame, such as
/// "frame 402 of shift.jsonl"; `command` is how to ask for more of one of its buttons, except for the button's name, or
/// empty. `colour`: with escape sequences for terminals. Returns complete lines.
CURSORUM_API TerminalText explain_action(const ActionReader& reader, const Profile& profile, const ActionPlace& place,
                                         const Frame& frame, std::string_view where, std::string_view command = {},
                                         bool colour = false);

/// The same text, without colours, as one JSON object in a line: `action`, `frame`, `t0`, `t1`, `summary`, and
/// `sections`, each with its `title` and `lines`.
CURSORUM_API std::string explanation_as_json(std::string_view action, std::uint64_t number, const Frame& frame,
                                             std::string_view text);

}  // namespace cursorum
