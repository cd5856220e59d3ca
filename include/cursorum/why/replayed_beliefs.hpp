// Compares what a recording states about another input layer with its frames.
#pragma once

#include <cstdint>
#include <memory>
#include <string>
#include <vector>

#include "cursorum/actions/action_reader.hpp"
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

    ReplayedBeliefs();
    ~ReplayedBeliefs();
    ReplayedBeliefs(const ReplayedBeliefs&) = delete;
    ReplayedBeliefs& operator=(const ReplayedBeliefs&) = delete;

    void note(const RecordingLine& line);
    /// Compares the frame that the replay returned last. `reader` has read it; without it, beliefs about actions are
    /// ignored. It must be the same in all calls.
    void take(const Frame& frame, const ActionReader* reader = nullptr);

    /// The number of belief lines so far.
    std::uint64_t count() const noexcept;
    const std::vector<Finding>& findings() const noexcept;
    /// Actions that belief lines name and the reader does not have.
    const std::vector<std::string>& unknown() const noexcept;

private:
    struct Parts;
    std::unique_ptr<Parts> parts_;
};

}  // namespace cursorum
