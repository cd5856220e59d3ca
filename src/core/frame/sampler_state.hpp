// The state that a sampler keeps from cut to cut, as plain data: levels, holds, positions in the rings, and what other
// streams were like at the last cut.
#pragma once

#include <array>
#include <cstdint>
#include <type_traits>

#include "core/buttons/edge_ring.hpp"
#include "core/motion/motion_slot.hpp"
#include "core/occasions/occasion_slot.hpp"
#include "core/text/text_slot.hpp"
#include "cursorum/core/detail/device_filter.hpp"
#include "cursorum/core/inlet.hpp"
#include "cursorum/core/repeat.hpp"

namespace cursorum::detail {

// Writes that concern no hold, or no merged button, go to a last entry that is never read: cheaper than a branch.
inline constexpr unsigned no_hold = hold_capacity;
inline constexpr unsigned no_button = button_capacity;

inline constexpr unsigned repeat_settings = 16;

/// A sampler's position in one inlet.
struct InletPosition {
    std::uint64_t edges = 0;    // in its ring of edges
    std::uint64_t events = 0;   // that have slots there, up to that position
    std::uint64_t motions = 0;  // in its ring of motions
};

/// Where a sampler is, and its counters.
struct SamplerTotals {
    std::int64_t late_before = 0;  // the last cut: t0, unless the frame has a gap before it
    std::int64_t effective = 0;    // of the last event taken, at least late_before
    std::uint64_t skipped = 0, moved = 0;
    std::uint64_t taken = 0, late = 0, lost = 0, overruns = 0, went_back = 0, held_back = 0;
};

/// A sampler's whole state for buttons; trivially copyable, without pointers.
///
/// Levels and holds are those of the frame's start, t0. The frame's records lead from there to its end; committing them
/// brings the state up to the end, which the next advance does, and every save on its copy.
struct SamplerState : FrameStart, SamplerTotals {
    std::array<std::int64_t, no_button + 1> start{};  // of the merged holds
    std::array<Slot, no_hold + 1> holds{};            // by the inlets' numbers; low as in a slot
    std::array<InletPosition, inlet_capacity> inlets{};

    // A single inlet merges its devices, once for all samplers. After healing this sampler knows other holds than the
    // inlet (it adopted what the inlet saw pressed) and merges by itself, until everything is up. Of several inlets
    // none knows the others' holds, so the sampler always merges.
    bool merges = false, always_merges = false;
    std::array<std::uint16_t, button_capacity> holders{};  // now, while it merges
    std::array<bool, no_hold + 1> hold_pressed{};          // likewise

    std::array<Repeat, repeat_settings> repeats{};
    std::array<std::uint8_t, button_capacity> repeat_of{};
};
static_assert(std::is_trivially_copyable_v<SamplerState>);
static_assert(sizeof(SamplerState) <= 16 * 1024);

/// The pointer and the lock keys, at a frame's start or at its end.
struct PointerLevels {
    FixedDistance pointer{};
    bool placed = false, outside = false;
    CursorState cursor;
    std::uint8_t locks = 0;                 // lock keys' states, as in an occasion
    std::array<std::uint8_t, 3> padding{};  // so that it has no bytes without a value
};

/// A sampler's state other than buttons: pointer, axes, contacts. Values are those of the frame's start, except for the
/// positions.
struct OtherState : PointerLevels {
    /// The sampler's position in one inlet.
    struct OfInlet {
        std::uint64_t axes = 0, occasions = 0, texts = 0;  // positions in the rings
        std::uint64_t others = 0;                          // all was taken of the inlet when it stood there
        std::uint64_t axes_alone = 0;                      // as in the slot of axes before that position
        std::uint8_t last_count = 0;                       // of clicks: the last one's
        std::uint8_t skipped_count = 0;  // how many clicks before the end of a pause the inlet counts on from
        /// Before InletPosition::motions: its totals, and where the pointer was. Of a sampler that goes on, the frame's
        /// MotionSpan has it: this is brought up when its state is copied.
        MotionSlot moved{};
    };
    std::array<OfInlet, inlet_capacity> inlets{};

    std::array<double, axis_capacity> axis_values{}, axis_shaped{};  // by track

    DeviceBits connected{};
    std::int64_t no_clicks_before = INT64_MIN;  // presses up to then were cancelled by the consumer
    std::int64_t skipped_before = INT64_MIN;    // presses earlier than that fell into a pause, or were ended by it
    std::array<OccasionSlot, press_capacity> presses{};
    std::array<OccasionSlot, contact_capacity> contacts{};
    ComposedText composed;
};
static_assert(std::is_trivially_copyable_v<OtherState>);
static_assert(sizeof(OtherState) <= 20 * 1024);

}  // namespace cursorum::detail
