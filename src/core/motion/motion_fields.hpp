// What an event of motion or of the wheel has.
#pragma once

namespace cursorum::detail {

/// The fields of a motion or wheel event, and which of them are present.
struct MotionFields {
    unsigned fields = 0;
    double dx = 0, dy = 0, x = 0, y = 0, raw_dx = 0, raw_dy = 0;
    static constexpr unsigned motion = 1, position = 2, raw = 4, wheel = 8, warp = 16;
};

}  // namespace cursorum::detail
