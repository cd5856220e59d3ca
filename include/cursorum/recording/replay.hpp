// A recording cut into frames.
#pragma once

#include <cstdint>
#include <functional>
#include <iosfwd>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "cursorum/core/export.hpp"
#include "cursorum/core/sampler.hpp"
#include "cursorum/recording/exact_rate.hpp"
#include "cursorum/recording/recording_reader.hpp"

namespace cursorum {

struct ReplayOptions {
    /// Frames per second; if absent, the recording's own cuts are used.
    std::optional<ExactRate> rate{};
    Repeat repeat{};
    /// Skips frames in which nothing is down and no event was taken, any number of them in one step. Only with a rate.
    /// Frame numbers stay correct.
    bool skip_idle = false;
    /// Called before frames are skipped; if it returns false, they are returned one by one. For callers with activity
    /// of their own that is not in the frames.
    std::function<bool()> may_skip{};
    /// A frame that is not skipped even if it is idle.
    std::optional<std::uint64_t> keep_frame{};
    /// Called with the number of idle frames before the next event, if they are returned one by one and are many.
    std::function<void(std::uint64_t)> on_many_frames{};
    /// More of them are an error: at a million frames per second, they take minutes.
    std::uint64_t most_frames_in_a_row = 100'000'000;
    /// The shaping of devices, instead of the recording's own, from their first connect on.
    std::map<DeviceId, DeviceShaping> shaping{};
    /// Of its timeline, so that RecentInput can follow it: see TimelineOptions::ledger.
    std::uint32_t ledger = 0;
    RecordingReaderOptions reader{};
    /// Called for each line when it is read or posted; for explanations and statistics. The outcome is that of events.
    std::function<void(const RecordingLine&, Outcome)> on_line{};
};

/// Plays a recording through one timeline (with its inlets, no device at first, room for 64) and one sampler that starts
/// before the first line, and returns its frames one after the other. Memory does not grow with the length of the
/// recording, but with the events of one frame, and with events that are in the file long before the cut that takes
/// them.
///
///     Replay replay{file, "shift.jsonl", {.rate = ExactRate{60}}};
///     while (const Frame* frame = replay.next()) …
///     if (replay.error()) …
class CURSORUM_API Replay {
public:
    Replay(std::istream& in, std::string name, ReplayOptions options = {});
    ~Replay();
    Replay(const Replay&) = delete;
    Replay& operator=(const Replay&) = delete;

    /// The next frame, valid until the next call; null at the end and after an error. The last frame is the one that
    /// takes the last event (with a rate), or the one of the last cut. A recording without events has no frames. A cut
    /// that goes back is skipped and counted by the sampler.
    const Frame* next();

    /// The number of the last frame, from 0.
    std::uint64_t frame_number() const noexcept;
    const Timeline& timeline() const noexcept;
    const Sampler& sampler() const noexcept;
    const RecordingReader& reader() const noexcept;
    const std::optional<RecordingError>& error() const noexcept;

private:
    struct Parts;
    std::unique_ptr<Parts> parts_;
};

}  // namespace cursorum
