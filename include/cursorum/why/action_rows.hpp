// The actions that do something in a frame, as values and as a line of text.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/core/export.hpp"

namespace cursorum {

/// Which actions are shown, by their numbers; empty: all of them.
struct ActionFilter {
    std::vector<bool> shown;

    bool has(std::uint16_t action) const { return shown.empty() || (action < shown.size() && shown[action]); }
};

/// One action in one frame. Buttons have `figures`, axes and vectors the rest (an axis in x). It points into the
/// profile.
struct ActionRow {
    const Mode* mode;
    const Action* action;
    ButtonFigures figures;
    Vector2 value, before, integral, relative;
};

/// One action of the profile, by its number, in the reader's last frame.
CURSORUM_API ActionRow action_row(const ActionReader& reader, const Mode& mode, const Action& action,
                                  std::uint16_t number);

/// Of the reader's last frame, buttons that are not idle, and axes and vectors that are not at rest all the frame; by
/// the action's name as bytes, then by the mode's. Allocates.
CURSORUM_API std::vector<ActionRow> action_rows(const ActionReader& reader, const Profile& profile,
                                                const ActionFilter& filter = {});

/// The reader's last frame as a line of docs/frame-format.md, with `actions` in place of `controls`; line feed
/// included.
CURSORUM_API std::string actions_as_jsonl(std::uint64_t number, const ActionReader& reader, const Profile& profile,
                                          const ActionFilter& filter = {});

}  // namespace cursorum
