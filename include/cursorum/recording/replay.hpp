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

#include "cursorum/core/sampler.hpp"
#include "cursorum/recording/exact_rate.hpp"
#include "cursorum/recording/recording_reader.hpp"

namespace cursorum {

struct ReplayOptions {
    /// Frames per second; without it, the recording's own cuts.
    std::optional<ExactRate> rate{};
    Repeat repeat{};
    /// Passes over frames in which nothing is down and no event was taken, in one step however many they are. Only with
    /// a rate. Frame numbers stay right.
    bool skip_idle = false;
    /// Asked before frames are passed over; false: they are given one by one. For whoever has something going on that
    /// is not in the frames.
    std::function<bool()> may_skip{};
    /// A frame that is given though it is idle.
    std::optional<std::uint64_t> keep_frame{};
    /// Called with the number of idle frames before the next event, where they are given one by one and are many.
    std::function<void(std::uint64_t)> on_many_frames{};
    /// Shaping of devices in place of what the recording has for them, from their first connect on.
    std::map<DeviceId, DeviceShaping> shaping{};
    RecordingReaderOptions reader{};
    /// Called for each line as it is posted, or met; for explanations and statistics. The outcome is meant for events.
    std::function<void(const RecordingLine&, Outcome)> on_line{};
};

/// Plays a recording through one timeline (one inlet, no device at first, room for 64) and one sampler that starts
/// before the first line, and gives its frames one after the other. Memory does not grow with the recording, but with
/// the events of one frame, and with those that stand in the file far before the cut that takes them.
///
///     Replay replay{file, "shift.jsonl", {.rate = ExactRate{60}}};
///     while (const Frame* frame = replay.next()) …
///     if (replay.error()) …
class Replay {
public:
    Replay(std::istream& in, std::string name, ReplayOptions options = {});
    ~Replay();
    Replay(const Replay&) = delete;
    Replay& operator=(const Replay&) = delete;

    /// The next frame, good until the next call; null at the end and at an error. The end: with a rate, the frame that
    /// takes the last event; with cuts, the last cut. A recording without events has no frames. A cut that goes back is
    /// passed over and counted by the sampler.
    const Frame* next();

    /// The number of the frame that next() gave last, from 0.
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
