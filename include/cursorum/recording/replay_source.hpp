// Plays a recording as if it happened now: a source for machines without a gamepad or a display.
#pragma once

#include <memory>
#include <string>

#include "cursorum/core/event.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/timeline.hpp"

namespace cursorum {

struct ReplaySourceOptions {
    /// The recording.
    std::string file;
    /// The speed, 0.01 to 1000; 1 is the speed of the recording.
    double speed = 1;
    /// Starts again at the end, after disconnecting all devices.
    bool repeats = false;
};

/// Posts a recording's events when they are due, stamped with the present: devices connect and disconnect, the focus is
/// lost, and keys are held as in the recording. Its cuts, notes and rumble lines are ignored.
///
/// The recording starts with the first deliver(). Its devices have the recording's numbers in the inlet, too, unless
/// other devices of the timeline have them, such as the desk's own: then they get free ones, see device().
/// Threads: one, the one that posts into the inlet. Errors: open() and error() describe them, with file and line.
class CURSORUM_API ReplaySource {
public:
    /// Returns null and sets `error` if the file cannot be read, is not a recording, or the speed is out of range.
    static std::unique_ptr<ReplaySource> open(const ReplaySourceOptions& options, std::string& error);
    ~ReplaySource();
    ReplaySource(const ReplaySource&) = delete;
    ReplaySource& operator=(const ReplaySource&) = delete;

    /// Posts all events that are due, and returns the present, up to which that is complete. Never waits.
    Time deliver(Timeline& timeline);
    /// The same, to any inlet. It sets the inlet's complete_until().
    Time deliver(Inlet& inlet);
    /// The same, to a recorder or any other sink.
    Time deliver(EventSink& sink);
    /// The same for a given time instead of the present, for tests. Times must not decrease.
    Time deliver(EventSink& sink, Time now);

    /// The number that a device of the recording has in the inlet, once it has connected.
    DeviceId device(DeviceId recorded) const noexcept;

    /// The time until the next event is due; zero if one is due, and at the end.
    Duration until_next() const noexcept;
    /// Returns false at the end of the recording and after an error.
    bool is_open() const noexcept;
    /// The error in the recording; empty if there is none.
    const std::string& error() const noexcept;

private:
    struct Parts;
    explicit ReplaySource(std::unique_ptr<Parts> parts);
    std::unique_ptr<Parts> parts_;
};

}  // namespace cursorum
