// Recordings out.
#pragma once

#include <cstdint>
#include <ostream>
#include <string>
#include <string_view>

#include "cursorum/core/event.hpp"
#include "cursorum/core/rumble.hpp"

namespace cursorum {

/// Writes a recording to a stream, a line an event, each line whole: a program that stops in between leaves a file that
/// can be read. It is an EventTaker: a source delivers into it.
///
/// Times: the first event or cut begins the recording, at 0, unless `begin` is given; earlier ones are written as 0.
/// Errors: look at the stream's state. Threads: one.
class RecordingWriter final : public EventTaker, public RumbleTaker {
public:
    explicit RecordingWriter(std::ostream& out) : out_{out} {}
    RecordingWriter(std::ostream& out, Time begin) : out_{out}, begin_{begin}, has_begun_{true} {}

    /// The first line; before anything else.
    void header(std::string_view title);
    void take(const Event& event) override;
    /// What the program asked of a pad. True: it is written down.
    bool try_rumble(const RumbleRequest& request, Time when) override;
    /// A cut: replayed, a frame ends here.
    void frame(Time time);
    void note(Time time, std::string_view text);

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
    std::uint64_t events_ = 0;
};

}  // namespace cursorum
