// One step of a simulation: which stretch of input time it covers, and how much game time it is worth.
#pragma once

#include <cstdint>

#include "cursorum/core/time.hpp"

namespace cursorum {

/// One tick of a TickClock, to be passed to Sampler::advance(). A plain value.
///
///     gap_from ....... begin ------- end
///        the gap          the tick
///
/// Without a gap, gap_from equals begin. The tick's frame starts at `begin`. What happened earlier and was not taken
/// yet takes effect at `begin`: its presses count, its time does not. The exception is a pause: what was pressed,
/// released or moved in [gap_from, begin) of a pause is skipped.
struct Tick {
    enum class Gap : std::uint8_t {
        none,
        paused,   ///< the clock was paused from gap_from to begin
        stalled,  ///< the program stood still: the time from gap_from to begin is not played
    };
    Time gap_from{};
    Time begin{};
    Time end{};
    Gap gap = Gap::none;
    /// The tick's length in game time, in seconds: multiply speeds by it. Usually 1 / rate, also in slow motion; longer
    /// after a stall, and 0 while the clock stands still: do not divide by it.
    double step = 0;

    friend bool operator==(const Tick&, const Tick&) = default;
};

}  // namespace cursorum
