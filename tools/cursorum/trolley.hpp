// How far a trolley got, by two ways of turning keys into motion.
#pragma once

#include <string>
#include <vector>

#include "cursorum/core/event.hpp"

namespace cursorum::tool {

/// Metres, from a start at 0.
struct TrolleyWay {
    double exact = 0;  ///< speed * how long the keys were down within each frame
    double level = 0;  ///< speed * the frame's length wherever a key is down at its end
    std::size_t frames = 0;
};

/// KeyW runs it out, KeyS in, both at 1.2 m/s; both together cancel out. `cuts` go up; the last covers all events.
TrolleyWay run_trolley(const std::vector<Event>& events, const std::vector<Time>& cuts);

/// Cuts at `rate` a second from 0 to past `end`.
std::vector<Time> even_cuts(std::uint64_t rate, Time end);

/// Cuts of 3 to 70 ms, the same at every run.
std::vector<Time> uneven_cuts(Time end);

}  // namespace cursorum::tool
