// A frame's motion: the totals at both of its ends, the positions of its slots in the ring, and the hole that a pause
// left between them.
#pragma once

#include <array>
#include <cstdint>
#include <utility>

#include "core/motion/motion_slot.hpp"

namespace cursorum::detail {

/// Motion of one inlet within a frame, as positions in its ring. Its sum is the difference of two slots' totals and is
/// computed on demand.
struct MotionSpan {
    bool any = false;
    std::uint64_t from = 0, to = 0;
    std::uint64_t known_later = UINT64_MAX;  // the slot there is later than the frame's end
    std::uint64_t usual = 0;                 // the recent number of slots per frame, as an estimate
    bool has_gap = false;                    // some were overwritten; then
    MotionSlot gap;                          // the last slot before `from`
    // Slots in the middle that fell into a pause and are not part of the frame: their positions, and the last slots
    // before and within them.
    bool has_hole = false, was_any = false;
    std::uint64_t hole_from = 0, hole_to = 0;
    MotionSlot before_hole, end_of_hole;

    /// The last slot before the frame and the last within it (the same one if the frame has none). They swap roles from
    /// frame to frame, which is cheaper than copying.
    const MotionSlot& before() const noexcept { return *before_; }
    const MotionSlot& after() const noexcept { return taken_ ? *after_ : *before_; }
    /// Read into this one; take() makes it the last.
    MotionSlot& next() noexcept { return taken_ ? *spare_ : *after_; }
    void take() noexcept {
        if (taken_) [[unlikely]]  // a second look within the frame
            std::swap(after_, spare_);
        taken_ = true;
    }
    void clear() noexcept {
        any = has_gap = has_hole = false;
        if (taken_) std::swap(before_, after_);
        taken_ = false;
    }
    void start(const MotionSlot& slot) noexcept {
        taken_ = false;
        *before_ = slot;
    }
    void begin_hole() noexcept {
        hole_from = to;
        before_hole = after();
        was_any = any;
    }
    void end_hole() noexcept {
        if (!any || (was_any && hole_from == to)) return;
        end_of_hole = after();
        if (was_any) {
            has_hole = true;
            hole_to = to;
        } else {
            any = has_gap = false;
            start(end_of_hole);
        }
    }

    MotionSpan() = default;
    MotionSpan(const MotionSpan&) = delete;
    MotionSpan& operator=(const MotionSpan&) = delete;

private:
    std::array<MotionSlot, 3> slots_{};
    MotionSlot *before_ = &slots_[0], *after_ = &slots_[1], *spare_ = &slots_[2];
    bool taken_ = false;
};

}  // namespace cursorum::detail
