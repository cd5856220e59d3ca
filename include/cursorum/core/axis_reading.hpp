// Axes and sticks during a frame.
#pragma once

#include "cursorum/core/device.hpp"

namespace cursorum {

/// One axis during a frame. A value holds until the next event.
struct AxisReading {
    double before = 0;               ///< at the frame's start
    double now = 0;                  ///< at its end
    double least = 0, greatest = 0;  ///< within the frame, including both cuts
    /// The mean over the frame, by the times of its events: times a speed and a time step, it is a distance that does
    /// not depend on the frame rate. 0 for a zero-length frame.
    double mean = 0;

    friend constexpr bool operator==(const AxisReading&, const AxisReading&) = default;
};

/// A stick, shaped: never longer than 1.
struct StickReading {
    Vector2 before;  ///< at the frame's start
    Vector2 now;     ///< at its end
    Vector2 mean;    ///< over the frame, as of an axis: use it to move something; `now` is for what points

    friend constexpr bool operator==(const StickReading&, const StickReading&) = default;
};

/// An axis that is not at rest, with its unshaped value.
struct DeviceAxis {
    DeviceId device{};
    Axis axis;
    double value = 0;

    friend constexpr bool operator==(const DeviceAxis&, const DeviceAxis&) = default;
};

}  // namespace cursorum
