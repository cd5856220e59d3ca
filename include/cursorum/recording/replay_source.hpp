// A recording played as if it happened now: a source for programs on machines without a pad or a display.
#pragma once

#include <memory>
#include <string>

#include "cursorum/core/event.hpp"
#include "cursorum/core/timeline.hpp"

namespace cursorum {

struct ReplaySourceOptions {
    /// The recording.
    std::string file;
    /// How fast it is played, from 0.01 to 1000: 1 is as fast as it was recorded.
    double speed = 1;
    /// Begins anew at the end, after everything that is still down has been let go by disconnects.
    bool repeats = false;
};

/// Posts a recording's events when their time has come, stamped with the present as it passes: devices come and go,
/// focus is lost, keys are held as they were. Cuts, notes and rumble in the recording are ignored.
///
/// The recording begins with the first deliver(). It brings its own devices with their own numbers; into a timeline
/// that has desk devices it may not bring devices 1 and 2, so make that with `.desk_devices = false`.
/// Threads: one, the one that posts into the inlet. Errors: open() and error() say why not, with file and line.
class ReplaySource {
public:
    /// Null, and why in `error`, if the file cannot be read or is not a recording, or the speed is out of range.
    static std::unique_ptr<ReplaySource> open(const ReplaySourceOptions& options, std::string& error);
    ~ReplaySource();
    ReplaySource(const ReplaySource&) = delete;
    ReplaySource& operator=(const ReplaySource&) = delete;

    /// Posts what is due, and returns the present: the time up to which that is complete. Never waits.
    Time deliver(Timeline& timeline);
    /// The same, to any inlet. It sets the inlet's complete_until().
    Time deliver(Inlet& inlet);
    /// The same, to a recorder or any other taker.
    Time deliver(EventTaker& taker);
    /// The same as of a given time, instead of the present: for tests. Must not go back.
    Time deliver(EventTaker& taker, Time now);

    /// How long until the next event is due; zero if one is, or at the end.
    Duration until_next() const noexcept;
    /// False at the end of the recording and after an error.
    bool is_open() const noexcept;
    /// What is wrong with the recording; empty if nothing is.
    const std::string& error() const noexcept;

private:
    struct Parts;
    explicit ReplaySource(std::unique_ptr<Parts> parts);
    std::unique_ptr<Parts> parts_;
};

}  // namespace cursorum
