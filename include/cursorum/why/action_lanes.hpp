// Lanes of a profile's actions, modes and claims.
#pragma once

#include <memory>
#include <string>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/actions/verdict.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/views/lane_history.hpp"
#include "cursorum/why/action_rows.hpp"

namespace cursorum {

/// Adds to a history what a reader made of its frames: lanes of its actions, named "crane.lock" (a vector has two,
/// "crane.travel x" and "crane.travel y"), of its modes, of its claims, and marks on the controls' lanes for presses
/// that had no effect, each with the rule that says why.
///
///     LaneHistory lanes{timeline};
///     ActionLanes action_lanes{lanes, actions, profile};
///     actions.set_verdict_sink(&action_lanes);            // without it, no press is marked
///     …
///     const Frame& frame = picture.advance(complete);
///     actions.read(frame);
///     lanes.note(frame, frame_count++);
///     action_lanes.note();                                // after both
///
/// Cost of note(): 0.3 us, and 27 ns for each action at rest. Allocates. Threads: the reader's. Lifetime: the history,
/// the reader and the profile must outlive it; it must outlive its use as a sink.
class CURSORUM_API ActionLanes final : public VerdictSink {
public:
    /// `seat`: the name of the reader's seat, where several readers have lanes in one history.
    ActionLanes(LaneHistory& lanes, const ActionReader& reader, const Profile& profile, ActionFilter filter = {},
                std::string seat = {});
    ~ActionLanes();

    void note();
    void take(const Verdict& verdict) override;

private:
    struct Parts;
    std::unique_ptr<Parts> parts_;
};

}  // namespace cursorum
