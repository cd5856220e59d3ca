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
TerminalText actions_table_heading(const Profile& profile, bool colour);
TerminalText actions_as_table(std::uint64_t number, const ActionReader& reader, const Profile& profile,
                              const ActionFilter& filter, std::vector<ToldMotion>& last, bool colour);

}  // namespace cursorum::tool
