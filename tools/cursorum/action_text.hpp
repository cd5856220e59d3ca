// Actions as text: JSON Lines, CSV, and a table for people.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/views/text.hpp"
#include "cursorum/why/action_rows.hpp"

namespace cursorum::tool {

std::string actions_csv_heading();
std::string actions_as_csv(std::uint64_t number, const ActionReader& reader, const Profile& profile,
                           const ActionFilter& filter);

/// What the table has shown of an action so far, kept from frame to frame.
struct ShownAction {
    std::uint64_t repeats = 0;  ///< of the hold in progress
    bool moving = false, steady = false;
    Vector2 way{};  ///< since it set out
    Time since{};
    bool shifting = false;  ///< by a mouse or wheel; then likewise
    Vector2 shifted{};
    Time shifting_since{};
};
struct ActionTable {
    bool colour = false;
    bool every_repeat = false;        ///< a line for each frame with a repeat; else they stand where the hold ends
    std::size_t name_width = 20;
    std::vector<ShownAction> shown{};  ///< one for each action
};
/// As wide as the longest name of the profile needs it.
std::size_t name_width_of(const Profile& profile);
TerminalText actions_table_heading(const ActionTable& table);
/// Rows for buttons with edges, and for axes and vectors that begin to move, become steady and stop. In the same
/// columns as frame_as_table() in words.
TerminalText actions_as_table(std::uint64_t number, const ActionReader& reader, const Profile& profile,
                              const ActionFilter& filter, ActionTable& table);

}  // namespace cursorum::tool
