// The events of each frame, with what became of them.
#pragma once

#include <cstdint>
#include <deque>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/recording/recording_reader.hpp"
#include "cursorum/views/text.hpp"
#include "cursorum/why/action_explanation.hpp"

namespace cursorum::tool {

/// Collects events as they are posted and, if a reader is watched, its verdicts.
class FrameEvents {
public:
    void watch(ActionReader& reader);
    void note(const RecordingLine& line, Outcome outcome);
    /// Takes the events up to the frame's end, and the verdicts that were written meanwhile. Of `controls`, unless that
    /// is empty.
    void take(Time end, const ButtonSet& controls);

    /// A line for each event of the frame, and one for each verdict.
    TerminalText table(std::uint64_t frame, bool colour) const;
    /// `"events":[…],"verdicts":[…]`.
    std::string json() const;

private:
    struct Posted {
        std::uint64_t line;
        Time time;
        std::string words;
        Outcome outcome;
        ButtonSet buttons;  // that it is about; empty: any
    };
    std::deque<Posted> waiting_;
    std::vector<Posted> events_;
    std::map<DeviceId, std::string> names_;
    ActionReader* reader_ = nullptr;
    VerdictList written_;
    std::vector<NamedVerdict> verdicts_;
    Time end_;
};

}  // namespace cursorum::tool
