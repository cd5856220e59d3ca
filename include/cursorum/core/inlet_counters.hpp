// What an inlet counts.
#pragma once

#include <cstdint>

namespace cursorum {

/// The counters of an inlet, from its construction on. Stray, ignored and refused events change nothing except time.
struct InletCounters {
    std::uint64_t events = 0;          ///< all events that were posted
    std::uint64_t strays = 0;          ///< releases of buttons that were up; events of unknown or disconnected devices
    std::uint64_t unknown = 0;         ///< of the strays, events of devices that never connected
    std::uint64_t ignored = 0;         ///< posted while the window had no focus
    std::uint64_t refused = 0;         ///< capacity exceeded, unknown control, or an invalid number (NaN, infinity)
    std::uint64_t system_repeats = 0;  ///< the operating system's own key repeat, never a press
    std::uint64_t lost_releases = 0;   ///< presses that showed that a release had been lost
    std::uint64_t backdated = 0;       ///< stamped earlier than an event that was posted before
    std::uint64_t clamped = 0;         ///< stamped outside earliest_time … latest_time
    std::uint64_t ahead = 0;           ///< stamped later than the present by more than set_ahead_limit() allows
    std::uint64_t interruptions = 0;   ///< sleep, debuggers, modal boxes
    std::uint64_t focus_losses = 0;    ///< focus losses, not counting repeated ones
    std::uint64_t limited = 0;         ///< axis values outside their range, which were clamped
    std::uint64_t source_overflows = 0;  ///< overflows of buffers in front of the inlet; see set_source_losses()
    std::uint64_t unread_devices = 0;    ///< connected devices that the source does not read; likewise
};

}  // namespace cursorum
