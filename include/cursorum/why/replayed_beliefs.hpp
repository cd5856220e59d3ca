// Compares what a recording states about another input layer with its frames.
#pragma once

#include <cstdint>
#include <deque>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "cursorum/actions/action_belief_check.hpp"
#include "cursorum/core/belief_check.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/recording/recording_reader.hpp"

namespace cursorum {

/// Collects the belief lines of a recording while it is replayed by its own cuts, and compares them with its frames:
///
///     ReplayedBeliefs beliefs;
///     Replay replay{file, name, {.on_line = [&](const RecordingLine& line, Outcome) { beliefs.note(line); }}};
///     while (const Frame* frame = replay.next()) beliefs.take(*frame);
///     for (const ReplayedBeliefs::Finding& it : beliefs.findings()) …
///
/// Frames before the first belief are left out. A frame without one begins the comparison anew.
class CURSORUM_API ReplayedBeliefs {
public:
    struct Finding {
        std::string name;    ///< of the button, or "mode.action"
        BeliefFinding what;  ///< `frame` is the sampler's serial, which begins with 1; `button` is of buttons only
    };

    void note(const RecordingLine& line);
    /// Compares the frame that the replay returned last. `reader` has read it; without it, beliefs about actions are
    /// ignored. The profile must be the same in all calls.
    void take(const Frame& frame, const ActionReader* reader = nullptr, const Profile* profile = nullptr);

    /// The number of belief lines so far.
    std::uint64_t count() const noexcept { return count_; }
    const std::vector<Finding>& findings() const noexcept { return findings_; }
    /// Actions that belief lines name and the profile does not have.
    const std::vector<std::string>& unknown() const noexcept { return unknown_; }

private:
    using Recorded = std::shared_ptr<const RecordedBelief>;
    struct Cut {
        Time time;
        Recorded belief;
    };
    void take_buttons(const Frame& frame, const RecordedBelief& recorded);
    void take_actions(const Frame& frame, const RecordedBelief& recorded, const ActionReader& reader,
                      const Profile& profile);
    std::optional<ButtonAction> action_named(const Profile& profile, const std::string& name);

    std::uint64_t count_ = 0, buttons_seen_ = 0, actions_seen_ = 0;
    Recorded next_;
    std::deque<Cut> cuts_;  // those whose frames were not taken yet
    std::unique_ptr<BeliefCheck> buttons_;
    std::unique_ptr<ActionBeliefCheck> actions_;
    std::vector<Finding> findings_;
    std::vector<std::string> unknown_;
};

}  // namespace cursorum
