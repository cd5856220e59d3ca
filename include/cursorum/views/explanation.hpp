// Explains a button's state in a frame, in sentences.
#pragma once

#include <cstdint>
#include <iosfwd>
#include <optional>
#include <string>

#include "cursorum/core/export.hpp"
#include "cursorum/recording/replay.hpp"
#include "cursorum/views/text.hpp"

namespace cursorum {

/// A question about one button in one frame, given either by its number or by an instant that it covers.
struct WhyQuestion {
    Button control;  ///< may be an either-side name
    std::optional<std::uint64_t> frame;
    std::optional<Time> at;
    std::optional<DeviceId> device{};  ///< as this device has it, instead of merged
};

enum class WhyFormat : std::uint8_t {
    text,
    coloured,  ///< text with escape sequences for terminals
    json       ///< one object in one line: docs/frame-format.md lists its members
};

struct WhyAnswer {
    bool found = false;  ///< the recording has that frame
    TerminalText text;   ///< the answer, or the reason why there is none; complete lines
    std::optional<RecordingError> error;
};

/// Replays the recording up to that frame and describes the state and its figures, the events that led to it with their
/// lines and times, the rule that made each edge (or why an event made none), the last event before and the first one
/// after the frame if there was none in it, and what comparing the levels at the two cuts would have shown. Cost: a
/// replay; memory does not grow with the recording.
CURSORUM_API WhyAnswer explain(std::istream& in, const std::string& name, ReplayOptions options,
                               const WhyQuestion& question, WhyFormat format = WhyFormat::text);

}  // namespace cursorum
