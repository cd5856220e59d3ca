// Presses that no reader of frames receives: which ones, and why.
#pragma once

#include <cstdint>
#include <optional>
#include <set>
#include <string>
#include <utility>

#include "cursorum/core/event.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/outcome.hpp"
#include "cursorum/core/tick.hpp"
#include "cursorum/recording/recording_reader.hpp"

namespace cursorum {

/// Why no reader receives a press, as the end of a sentence: " without focus, so it was ignored". Empty if readers do.
/// `outcome`: that of its event; `in_pause`: its time is within a pause.
CURSORUM_API std::string missed_text(Outcome outcome, bool in_pause = false);

/// Finds these presses among events, which it is given in order. What the system repeats while nobody takes the key is
/// one press, whether its device marks repeats or not.
class CURSORUM_API MissedPresses {
public:
    /// Returns whether a key that is already known to be down goes down again, and no reader receives that.
    bool is_repeat(const Event& event, Outcome outcome);
    /// The reason why no reader receives the press of a recording's line, as missed_text() words it; for
    /// ReplayOptions::on_line. Empty for repeats, for presses that readers receive, and for all other lines. Pass lines
    /// of cuts as well, if the recording is replayed by its own cuts: they say which presses fell into a pause.
    std::string why(const RecordingLine& line, Outcome outcome);

private:
    std::set<std::pair<DeviceId, std::uint16_t>> down_;
    std::optional<Tick> tick_;  // of the cut that takes the events which follow
};

}  // namespace cursorum
