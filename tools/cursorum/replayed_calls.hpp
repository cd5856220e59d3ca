// The calls on action readers that a recording has.
#pragma once

#include <deque>
#include <map>
#include <string>
#include <vector>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/recording/recording_reader.hpp"

namespace cursorum::tool {

/// Collects the mode and claim lines of a recording while it is replayed, and makes the calls in their frames. Only
/// those of one reader: of the first that is named, or of no name.
class ReplayedCalls {
public:
    void note(const RecordingLine& line);
    bool empty() const { return calls_.empty(); }
    /// Before the reader reads the frame that starts then.
    void make(ActionReader& reader, const Profile& profile, Time start);
    /// Modes that the recording names and the profile does not have.
    const std::vector<std::string>& unknown() const { return unknown_; }

private:
    struct Call {
        Time time;
        std::string mode;
        RecordedCall call;
    };
    std::deque<Call> calls_;
    std::map<std::uint32_t, ClaimId> claims_;
    std::vector<std::string> unknown_;
    std::string reader_;
    bool has_reader_ = false;
};

}  // namespace cursorum::tool
