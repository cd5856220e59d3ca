// Lanes of a profile's actions.
#pragma once

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/views/lane_history.hpp"
#include "cursorum/why/action_rows.hpp"

namespace cursorum {

/// Adds what the reader made of its last frame to the lanes of its actions, named "crane.lock"; a vector has the lanes
/// "crane.travel x" and "crane.travel y". Call it after LaneHistory::note() of the same frame. Cost: proportional to
/// the profile's actions. Allocates.
CURSORUM_API void note_actions(LaneHistory& lanes, const ActionReader& reader, const Profile& profile,
                               const ActionFilter& filter = {});

}  // namespace cursorum
