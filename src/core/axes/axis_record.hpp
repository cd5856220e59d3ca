// A frame's values of axes, in order, each linked to the one before it on its track. Raw and shaped value stand side by
// side, as of their time.
#pragma once

#include <cstdint>

#include "core/axes/axis_slot.hpp"

namespace cursorum::detail {

/// A value of an axis within a frame, linked to the previous record of its track, as a button's records are. Records
/// from before a gap at the frame's start keep their times, as edges do; for readings they take effect at the frame's
/// start.
struct AxisRecord {
    std::int64_t time;
    double value, shaped;
    std::uint32_t link;
    AxisTag tag;  // as in a slot

    unsigned track() const noexcept { return tag.track(); }
    unsigned device() const noexcept { return tag.device(); }
    unsigned axis() const noexcept { return tag.axis(); }
    bool is_forced() const noexcept { return tag.is_forced(); }
    bool is_same() const noexcept { return tag.is_same(); }
};

}  // namespace cursorum::detail
