// Axes and sticks during a frame.
#pragma once

#include "cursorum/core/device.hpp"

namespace cursorum {

/// One axis during a frame. A value holds until the next event.
struct AxisReading {
    double before = 0;               ///< at the frame's start
    double now = 0;                  ///< at its end
    double least = 0, greatest = 0;  ///< within the frame, including both cuts

    friend constexpr bool operator==(const AxisReading&, const AxisReading&) = default;
};

/// A stick, shaped: never longer than 1.
struct StickReading {
    Vector2 before;  ///< at the frame's start
    Vector2 now;     ///< at its end

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
