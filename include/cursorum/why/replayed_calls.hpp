// The calls on an action reader that a recording has.
#pragma once

#include <deque>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/seats.hpp"
#include "cursorum/recording/recording_reader.hpp"

namespace cursorum {

/// Collects the mode, claim, area, seat and checkpoint lines of a recording while it is replayed, and makes the calls
/// before the frames that they belong to, so that the reader's actions are as they were. Only those of one reader: of
/// the first that a line names, or of no name.
///
///     ReplayedCalls calls;
///     Replay replay{file, name, {.on_line = [&](const RecordingLine& line, Outcome) { calls.note(line); }}};
///     while (const Frame* frame = replay.next()) {
///         calls.read(reader, *frame);
///         …
///     }
class CURSORUM_API ReplayedCalls {
public:
    void note(const RecordingLine& line);
    bool empty() const noexcept { return calls_.empty() && !checkpoint_; }
    /// Makes the calls that belong to the frame, and lets the reader read it: all of it, or what its seat had.
    void read(ActionReader& reader, const Frame& frame);
    /// Modes that the recording names and the reader does not have.
    const std::vector<std::string>& unknown() const noexcept { return unknown_; }

private:
    struct Call {
        Time time;
        std::string mode, action;
        RecordedCall call;
    };
    void make(ActionReader& reader, Time start);
    void begin_at_checkpoint(ActionReader& reader);
    void set_seat(const RecordedCall& call);

    std::deque<Call> calls_;
    std::map<std::uint32_t, ClaimId> claims_;
    std::optional<Seats> seats_;  // one, of the reader
    std::vector<std::string> unknown_;
    std::string reader_;
    bool has_reader_ = false;
    std::shared_ptr<const RecordedCheckpoint> checkpoint_;
    Time checkpoint_time_;
};

}  // namespace cursorum
