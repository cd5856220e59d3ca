// Presses that no reader receives, while a recording is replayed.
#pragma once

#include <optional>
#include <string>

#include "cursorum/core/tick.hpp"
#include "cursorum/recording/replay.hpp"
#include "cursorum/views/text.hpp"

namespace cursorum::tool {

/// For ReplayOptions::on_line, with each line. In a recording that is replayed by its own cuts, a press may lie in a
/// pause in front of the cut that takes it.
class MissedPresses {
public:
    explicit MissedPresses(const ReplayOptions& options) : has_own_cuts_{!options.rate} {}

    /// Why no reader receives the press that the line is, as missed_text() says it; empty if readers do, or if it is no
    /// press.
    std::string why(const RecordingLine& line, Outcome outcome) {
        // A cut comes before the events that it takes are posted.
        if (line.kind == RecordingLine::Kind::frame && has_own_cuts_) tick_ = line.tick;
        if (line.kind != RecordingLine::Kind::event || line.event.type != EventType::button || !line.event.down)
            return {};
        const bool is_in_pause =
            tick_ && tick_->gap == Tick::Gap::paused && line.time >= tick_->gap_from && line.time < tick_->begin;
        return missed_text(outcome, is_in_pause);
    }

private:
    bool has_own_cuts_;
    std::optional<Tick> tick_;
};

}  // namespace cursorum::tool
