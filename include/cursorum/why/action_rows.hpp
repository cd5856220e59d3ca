// The actions that do something in a frame, as values and as a line of text.
#pragma once

#include <cstdint>
#include <set>
#include <string>
#include <vector>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/core/export.hpp"

namespace cursorum {

/// Which actions are shown, as "mode.action"; empty: all of them.
struct ActionFilter {
    std::set<std::string> shown;

    bool has(const std::string& action) const { return shown.empty() || shown.contains(action); }
};

/// One action in one frame. Buttons have `figures`, axes and vectors the rest (an axis in x). It points into the
/// profile.
struct ActionRow {
    const Mode* mode;
    const Action* action;
    ButtonFigures figures;
    Vector2 value, before, integral, relative;

    std::string name() const { return mode->name + "." + action->name; }
};

/// Of the reader's last frame, in the profile's order. The reader may have been given another profile first: actions
/// are found by name, and those that it does not have are idle. Allocates.
CURSORUM_API std::vector<ActionRow> every_action_row(const ActionReader& reader, const Profile& profile,
                                                     const ActionFilter& filter = {});

/// Of these, buttons that are not idle, and axes and vectors that are not at rest all the frame; by
/// the action's name as bytes, then by the mode's.
CURSORUM_API std::vector<ActionRow> action_rows(const ActionReader& reader, const Profile& profile,
                                                const ActionFilter& filter = {});

/// The reader's last frame as a line of docs/frame-format.md, with `actions` in place of `controls`; line feed
/// included.
CURSORUM_API std::string actions_as_jsonl(std::uint64_t number, const ActionReader& reader, const Profile& profile,
                                          const ActionFilter& filter = {});

}  // namespace cursorum
