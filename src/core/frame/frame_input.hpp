// The door through which the floor of actions sees a frame. Its edges and the gap before them are read inline;
// everything else is a call, so that frame_core.hpp stays inside the core.
#pragma once

#include <cstdint>
#include <optional>

#include "core/buttons/edge_ring.hpp"
#include "core/motion/motion_slot.hpp"
#include "core/text/text_slot.hpp"
#include "cursorum/core/axis_reading.hpp"
#include "cursorum/core/detail/device_filter.hpp"
#include "cursorum/core/detail/frame_window.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/frame.hpp"

namespace cursorum {

/// Where something lies in a frame that begins with a pause. Otherwise, all comes after it.
enum class PausePart : std::uint8_t { before, end, after };

namespace detail {

struct CURSORUM_API FrameInput : FrameWindow {
    std::uint32_t count = 0;  ///< of FrameWindow::edges
    bool is_peek = false;
    /// There is a gap before the frame. Edges from before it keep their times, which gestures go by; for all else they
    /// take effect at the frame's start.
    bool has_gap = false;
    static constexpr std::uint32_t no_skip = UINT32_MAX;
    std::uint32_t skip_at = no_skip;  ///< of a frame that begins with a pause: how many edges come before it
    std::int64_t skip_from = 0;       ///< and when the pause began
    std::uint32_t skip_texts_at = 0;  ///< and how many texts come before it
    const TextEntries* texts = nullptr;

    std::int64_t t0() const noexcept { return initial->t0; }
    std::int64_t t1() const noexcept { return initial->t1; }
    /// Returns when something of that part takes effect: what changed before a pause does so just before the pause.
    std::int64_t time_in(PausePart part, std::int64_t time) const noexcept;
    /// The last cut: t0, unless there is a gap.
    std::int64_t last_cut() const noexcept;
    DeviceId id_of(unsigned device) const noexcept;
    /// A hold at the frame's start, by its number in the timeline.
    const Slot& hold(unsigned number) const noexcept;

    // Walks call `visit` with each change, in order; some return what was there at the start.

    /// When a value changed, and whether it did so without a person.
    struct Cause {
        std::int64_t time;
        bool is_forced;
        PausePart part;
    };
    /// One event of motion or a wheel.
    struct Moved {
        std::int64_t time;  ///< earlier than the frame's start if it came before a gap
        Distance motion, raw, wheel;
        WheelSteps steps;
        std::uint32_t number;  ///< among those of the filter's devices in this frame
        const MotionSlot* slot;
    };
    void walk_motion(DeviceFilter filter, void* to, void (*visit)(void*, const Moved&)) const;
    /// Returns whether motion that has the same time as an edge was posted after it; for two inlets, the one with the
    /// greater number counts as later.
    bool is_after(const Moved& motion, const StoredEdge& edge) const noexcept;
    double walk_axis(Axis axis, DeviceFilter filter, void* to, void (*visit)(void*, Time, double)) const;
    void walk_stick(Stick stick, DeviceFilter filter, void* to, void (*visit)(void*, Time, Vector2)) const;
    /// The shaped value of one side of an axis, on the device where it is greatest.
    double walk_side(Axis axis, AxisSide side, DeviceFilter filter, void* to,
                     void (*visit)(void*, const Cause&, double)) const;
    double axis_at_start(Axis axis, DeviceFilter filter) const noexcept;
    Vector2 stick_at_start(Stick stick, DeviceFilter filter) const noexcept;
    /// The contact on gamepads' touch surfaces that has been there for the longest time.
    struct Touch {
        Vector2 position;
        double pressure = 0;
        bool is_there = false;
    };
    Touch walk_touch(DeviceFilter filter, void* to, void (*visit)(void*, const Cause&, const Touch&)) const;
    /// Where the pointer was when that button was pressed. Nothing if that is not known.
    std::optional<WindowPoint> place_of_press(Button button, std::int64_t time) const noexcept;
    /// The lock keys' states are a bit for each, as in an occasion.
    unsigned walk_locks(void* to, void (*visit)(void*, const Cause&, unsigned)) const;
};

inline const FrameInput& input_of(const Frame& frame) noexcept {
    return static_cast<const FrameInput&>(frame.window());
}

}  // namespace detail
}  // namespace cursorum
