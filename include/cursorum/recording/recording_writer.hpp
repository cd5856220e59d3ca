// Writes recordings.
#pragma once

#include <cstdint>
#include <ostream>
#include <string>
#include <string_view>

#include "cursorum/core/event.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/rumble.hpp"
#include "cursorum/recording/recording_reader.hpp"

namespace cursorum {

/// Writes a recording to a stream, one complete line for each event, so that a program that stops in between leaves a
/// readable file. Sources can deliver into it, because it is an EventSink.
///
/// Times: the first event or cut begins the recording, at 0, unless `begin` is given; earlier ones are written as 0.
/// Errors: check the stream's state. Threads: one.
class CURSORUM_API RecordingWriter final : public EventSink, public RumbleSink {
public:
    explicit RecordingWriter(std::ostream& out) : out_{out} {}
    /// The same, and writes the first line with that title.
    RecordingWriter(std::ostream& out, std::string_view title) : out_{out} { header(title); }
    RecordingWriter(std::ostream& out, Time begin) : out_{out}, begin_{begin}, has_begun_{true} {}

    /// Writes the first line. Call it before anything else. `inlets`: how many the timeline has.
    void header(std::string_view title, unsigned inlets = 1);
    /// From now on, events are those of this inlet; at first, of inlet 0.
    void set_inlet(unsigned number) noexcept { inlet_ = number; }
    void take(const Event& event) override;
    /// Writes a request to a gamepad. Returns true.
    bool try_rumble(const RumbleRequest& request, Time when) override;
    /// Writes a cut: in a replay, a frame ends here.
    void frame(Time time);
    /// Writes the cut at the end of a tick, with the gap before it: in a replay, the frame is as long as the tick's.
    void frame(const Tick& tick);
    /// Writes the state at a cut: call it before frame(time). Times are as they are for events.
    void checkpoint(Time time, const RecordedCheckpoint& checkpoint);
    void note(Time time, std::string_view text);
    /// Writes what another input layer believed of the frame that ends next: call it before frame(). The first one
    /// names what the layer handles.
    void belief(Time time, const RecordedBelief& belief);
    /// Writes that the game opened or closed a mode, or started or ended a claim, when it calls its action reader; what
    /// actions open and close by themselves is not written. `time`: the end of the reader's last frame.
    void call(Time time, const RecordedCall& call);

    std::uint64_t events() const noexcept { return events_; }

private:
    void open(Time time, std::string_view type);
    void close();
    void member(std::string_view name, std::string_view text);
    void member(std::string_view name, double value);
    void member(std::string_view name, bool value);
    void flag(std::string_view name, bool value);
    void names(std::string_view name, const ButtonSet& buttons);
    void shaping(const DeviceShaping& shaping);

    std::ostream& out_;
    std::string line_;
    Time begin_;
    bool has_begun_ = false;
    unsigned inlet_ = 0;
    std::uint64_t events_ = 0;
};

}  // namespace cursorum
