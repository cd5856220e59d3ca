// Why a button's state in a frame is what it is, in sentences.
#pragma once

#include <cstdint>
#include <iosfwd>
#include <optional>
#include <string>

#include "cursorum/recording/replay.hpp"

namespace cursorum {

/// Asks about one button in one frame: the one with that number, or the one that covers that instant. One of the two.
struct WhyQuestion {
    Button control;  ///< either-side names too
    std::optional<std::uint64_t> frame;
    std::optional<Time> at;
};

struct WhyAnswer {
    bool found = false;  ///< the recording has that frame
    std::string text;    ///< the answer, or why there is none; lines, the last one ended
    std::optional<RecordingError> error;
};

/// Replays the recording up to that frame and tells: the state and its figures; the events behind it with their lines
/// and times; which rule made each edge, or why none came of an event; when nothing came in the frame, what came last
/// before and first after; and what a comparison of the levels at the two cuts would have said. Costs a replay;
/// memory does not grow with the recording.
WhyAnswer explain(std::istream& in, const std::string& name, ReplayOptions options, const WhyQuestion& question,
                  bool colour = false);

}  // namespace cursorum
