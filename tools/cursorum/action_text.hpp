// Actions as text: JSON Lines, CSV, and a table for people.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "cursorum/actions/action_reader.hpp"

namespace cursorum::tool {

/// Which actions are shown, by their numbers; empty: all of them.
struct ActionFilter {
    std::vector<bool> shown;

    bool has(std::uint16_t action) const { return shown.empty() || (action < shown.size() && shown[action]); }
};

/// One action in one frame. Buttons have `figures`, axes and vectors the rest (an axis in x).
struct ActionRow {
    const Mode* mode;
    const Action* action;
    ButtonFigures figures;
    Vector2 value, before, integral, relative;
};

/// Buttons that are not idle, and axes and vectors that are not at rest all the frame; by the action's name as bytes,
/// then by the mode's.
std::vector<ActionRow> action_rows(const ActionReader& reader, const Profile& profile, const ActionFilter& filter);

/// A frame's line, line feed included: docs/profile-format.md tells its members.
std::string actions_as_jsonl(std::uint64_t number, const ActionReader& reader, const Profile& profile,
                             const ActionFilter& filter);

std::string actions_csv_heading();
std::string actions_as_csv(std::uint64_t number, const ActionReader& reader, const Profile& profile,
                           const ActionFilter& filter);

/// Of buttons, what is news; of axes and vectors, where they set out, stop or turn, as `last` tells (one for each
/// action, kept from frame to frame).
struct ToldMotion {
    bool moving = false, steady = false;
    Vector2 way{};  ///< since it set out
    Time since{};
    bool shifting = false;  ///< by a mouse or wheel; then likewise
    Vector2 shifted{};
    Time shifting_since{};
};
std::string actions_table_heading(const Profile& profile, bool colour);
std::string actions_as_table(std::uint64_t number, const ActionReader& reader, const Profile& profile,
                             const ActionFilter& filter, std::vector<ToldMotion>& last, bool colour);

}  // namespace cursorum::tool
