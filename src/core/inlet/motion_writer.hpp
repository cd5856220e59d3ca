// An inlet's motion and wheel: totals, to which each event adds, and where the pointer is.
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <span>

#include "core/inlet/inlet_posting.hpp"
#include "core/motion/motion_fields.hpp"
#include "core/motion/pointer_state.hpp"
#include "cursorum/core/event.hpp"

namespace cursorum::detail {

/// Writes an inlet's motion. Every call gets the inlet that it posts to as a parameter: keeping a reference would make
/// motion 5 % dearer.
class MotionWriter {
public:
    /// Writes without publishing, and returns the stamp as accepted. `known`: which fields the event has, where that is
    /// known at compile time; motion is posted thousands of times per second. `is_extra`: the event is counted
    /// elsewhere.
    template <unsigned known>
    std::int64_t write(InletPosting& to, Device& device, const MotionFields& moving, Time when, bool is_extra) noexcept;
    /// Writes as many of them as are in time and fit, while no button of the device is pressed, without publishing.
    std::size_t write_plain(InletPosting& to, const Device& device, std::span<const MotionSample> samples) noexcept;
    static void publish(InletPosting& to) noexcept {
        to.motions_.publish();
        to.changes_of_others_.publish(to.changes_of_others_.get() + 1);
    }
    /// Moves the pointer with a contact that acts as pointer. The contact's event is counted, not this motion.
    void follow_contact(InletPosting& to, Device& device, const Event& event) noexcept;

    const FixedDistance& motion() const noexcept { return motion_; }
    const PointerState& pointer() const noexcept { return pointer_; }
    /// The way to the pointer's next position is not motion. Call this when focus comes, and when the pointer is locked
    /// or freed.
    void forget_position() noexcept { pointer_.is_fresh = false; }

private:
    FixedDistance motion_{}, raw_{}, wheel_{};     // totals
    std::array<std::int64_t, 2> wheel_carried_{};  // turned, but not yet a whole step
    std::array<std::uint32_t, 2> steps_{};
    std::uint64_t counts_ = 0;  // as in slots
    PointerState pointer_;
};

}  // namespace cursorum::detail
