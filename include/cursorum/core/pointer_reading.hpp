// What a frame says of the pointer and the wheel.
#pragma once

namespace cursorum {

/// How far something went, right and down (for a wheel: right and away from the person) positive.
struct Distance {
    double x = 0, y = 0;

    friend constexpr bool operator==(const Distance&, const Distance&) = default;
};

/// Sums over all devices, of every event of the frame. They are kept in 1/65536 (each event's distance rounded to the
/// nearest, ties to even), so that however time is cut they add up to the same; nothing is lost when a sampler is
/// overrun.
struct PointerReading {
    Distance motion;  ///< in the source's pixels or counts
    Distance wheel;   ///< in detents

    friend constexpr bool operator==(const PointerReading&, const PointerReading&) = default;
};

}  // namespace cursorum
