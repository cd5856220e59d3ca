// What a sampler remembers from cut to cut, and what it knows of the frame between two. Not for callers.
#pragma once

#include <array>
#include <cstdint>
#include <type_traits>
#include <utility>
#include <vector>

#include "cursorum/core/button_set.hpp"
#include "cursorum/core/detail/device_filter.hpp"
#include "cursorum/core/detail/motion_ring.hpp"
#include "cursorum/core/inlet.hpp"
#include "cursorum/core/repeat.hpp"

namespace cursorum::detail {

/// What a frame holds: a device's edge or a system repeat at its effective time, and what it did to the merged button.
/// `low` as in a slot.
using Record = Entry;

/// A button on one device, as of the frame's start: the record of the edge that began its hold, or ended it.
using DeviceHold = Entry;

// What concerns no hold, or no merged button, is written to a last entry that nobody reads: cheaper than a branch.
inline constexpr unsigned no_hold = hold_capacity;
inline constexpr unsigned no_button = button_capacity;

inline constexpr unsigned repeat_settings = 16;

/// How far a sampler has come in one inlet.
struct InletPosition {
    std::uint64_t edges = 0;    // in its ring of edges
    std::uint64_t events = 0;   // that have slots there, up to that position
    std::uint64_t motions = 0;  // in its ring of motions
};

/// Everything a sampler remembers; trivially copyable, no pointers.
///
/// Levels and holds are those of the frame's start, t0. The frame's records lead from there to its end; committing them
/// brings the state up to the end, which the next advance does, and every save on its copy.
struct SamplerState {
    std::int64_t t0 = 0, t1 = 0;
    std::int64_t late_before = 0;  // the last cut: t0, unless the frame has a gap before it
    std::int64_t effective = 0;    // of the last event taken, at least late_before
    std::uint64_t serial = 0;      // of the last frame, from 1
    std::uint64_t skipped = 0, moved = 0;
    std::uint64_t taken = 0, late = 0, lost = 0, overruns = 0, went_back = 0, held_back = 0;

    ButtonSet::Words levels{};                        // merged
    std::array<std::int64_t, no_button + 1> start{};  // of the merged holds
    std::array<bool, no_button + 1> adopted{};        // how they began
    std::array<DeviceHold, no_hold + 1> holds{};      // by the inlets' numbers; low as in a slot
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

/// What a sampler remembers beside buttons: pointer, axes, contacts. As of the frame's start, but for the positions.
struct DeskState {
    struct Place {
        std::uint64_t axes = 0, facts = 0;  // positions in the rings
        std::uint64_t beside = 0;           // all was taken of the inlet when it stood there
        std::uint64_t lone_axes = 0;        // as in the slot of axes before that position
        std::uint8_t last_count = 0;        // of clicks: the last one's
        std::uint8_t skipped_count = 0;     // how many clicks before the end of a pause the inlet counts on from
        /// Before InletPosition::motions: its totals, and where the pointer was. Of a sampler that goes on, the frame's
        /// MotionSpan has it: this is brought up when its state is copied.
        MotionSlot moved{};
    };
    std::array<Place, inlet_capacity> inlets{};

    std::array<double, axis_capacity> axis_values{}, axis_shaped{};  // by track

    bool placed = false, outside = false, locked = false;
    std::uint8_t locks = 0;  // lock keys' states, as in a fact
    DeviceBits connected{};
    FixedDistance pointer{};
    std::int64_t no_clicks_before = INT64_MIN;  // presses up to then were called off
    std::int64_t skipped_before = INT64_MIN;    // presses earlier than that fell into a pause, or were ended by it
    std::array<FactSlot, press_capacity> presses{};
    std::array<FactSlot, contact_capacity> contacts{};
};
static_assert(std::is_trivially_copyable_v<DeskState>);
static_assert(sizeof(DeskState) <= 19 * 1024);

/// A value that an axis took within a frame; linked to its track's record before, as a button's.
struct AxisRecord {
    std::int64_t time;
    double value, shaped;
    std::uint32_t link;
    std::uint32_t who;  // as in a slot

    unsigned track() const noexcept { return who >> 16 & 0x7FFF; }
    unsigned device() const noexcept { return who & 0xFF; }
    unsigned axis() const noexcept { return who >> 8 & 0xFF; }
    /// Only the shaped value changed.
    bool is_same() const noexcept { return (who & AxisSlot::same_bit) != 0; }
};

/// Motion of one inlet within a frame: positions in its ring. What it adds up to is the difference of two slots'
/// totals, and worked out when somebody asks.
struct MotionSpan {
    bool any = false;
    std::uint64_t from = 0, to = 0;
    std::uint64_t known_later = UINT64_MAX;  // the slot there is later than the frame's end
    std::uint64_t usual = 0;                 // how many there were of late: about as many there will be
    bool has_gap = false;                    // some were overwritten; then
    MotionSlot gap;                          // the last slot before `from`
    // Some in the middle fell into a pause and are no part of the frame: those from one position to another; then the
    // last slots before and in them.
    bool has_hole = false, was_any = false;
    std::uint64_t hole_from = 0, hole_to = 0;
    MotionSlot before_hole, end_of_hole;

    /// The last slot before the frame, and the last within it: the same one if there is none. They change places from
    /// frame to frame, which costs less than to copy them.
    const MotionSlot& before() const noexcept { return *before_; }
    const MotionSlot& after() const noexcept { return taken_ ? *after_ : *before_; }
    /// To be read into; by take() it becomes the last.
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

/// What a frame holds beside records of buttons. Sized once.
struct DeskEntries {
    bool has_any = false;  // since the frame was cleared; else all below is as clear() left it
    std::array<MotionSpan, inlet_capacity> spans{};
    std::vector<MotionSlot> kept;  // of a growing sampler: all slots, with what each added in place of the totals
    bool keeps = false;
    bool placed = false, outside = false, locked = false;  // at the end
    std::uint8_t locks = 0;                                // likewise
    DeviceBits connected{};                                // likewise
    FixedDistance pointer{};
    bool moved_by_person = false, moved_by_program = false;

    std::vector<AxisRecord> axes;
    std::uint32_t axis_room = 0;  // and as many again as there are tracks, for healing
    std::uint32_t axis_count = 0, axis_base = 1;
    std::array<std::uint32_t, axis_capacity> axis_last{};  // ordinals
    std::vector<FactSlot> facts;
    std::uint32_t fact_count = 0;

    const AxisRecord* axis_record(std::uint32_t ordinal) const noexcept {
        return ordinal >= axis_base ? &axes[ordinal - axis_base] : nullptr;
    }
    void commit(DeskState& state) const noexcept;
    void clear(unsigned inlets) noexcept;
    /// Commits to a copy of the sampler's state, which leaves it.
    void bring_up(DeskState& copy, unsigned inlets) const noexcept {
        commit(copy);
        for (unsigned i = 0; i < inlets; ++i) copy.inlets[i].moved = spans[i].after();
    }
    /// Goes on from a state that came from elsewhere.
    void start(const DeskState& state, unsigned inlets) noexcept {
        for (unsigned i = 0; i < inlets; ++i) spans[i].start(state.inlets[i].moved);
        clear(inlets);
        placed = state.placed;
        outside = state.outside;
        locked = state.locked;
        locks = state.locks;
        connected = state.connected;
        pointer = state.pointer;
    }
};

/// The entries of a frame and how to find a button's own.
///
/// Entries are numbered through all frames by ordinals; a frame's own begin at `base`. So neither `last` nor the links
/// need clearing: what is below `base` belongs to an earlier frame.
struct FrameEntries {
    std::vector<Record> records;       // sized once; `count` are in use
    std::vector<std::uint32_t> links;  // beside records: the same button's record before, by ordinal; or below `base`
    // Of the events taken that have no record whose time is their stamp; but for motion, whose ring still has them.
    std::vector<std::int64_t> stamps;
    mutable std::vector<std::int64_t> ages;  // worked with when latency is asked for
    /// Of a frame with a gap before it: the records' times as they would be without the gap, which gestures go by.
    std::vector<std::int64_t> original_times;
    bool has_gap = false;
    static constexpr std::uint32_t no_skip = UINT32_MAX;
    std::uint32_t skip_at = no_skip;       // of a frame that begins with a pause: how many records come before it
    std::size_t room = 0, stamp_room = 0;  // for slots of events; healing has room beyond
    std::uint32_t count = 0;
    std::uint32_t stamp_count = 0;
    std::uint32_t base = 1;
    std::array<std::uint32_t, no_button + 1> last{};  // ordinal of each button's last entry

    /// Allocates.
    void make_room(std::size_t slots, std::size_t events, std::size_t healing) {
        room = slots;
        records.resize(slots + healing);
        links.resize(slots + healing);
        original_times.resize(slots + healing);
        make_stamp_room(events);
    }
    void make_stamp_room(std::size_t events) {
        stamp_room = events;
        stamps.resize(events + 1);  // one is written to before it is known to be needed
    }
    /// Brings the state from the frame's start to its end, where an empty frame begins.
    void commit(SamplerState& state) const noexcept;
    /// A new frame, without entries.
    void clear() noexcept {
        base += count;
        count = stamp_count = 0;
        has_gap = false;
        skip_at = no_skip;
        if (base < 0x80000000U) return;
        base = 1;
        last = {};
    }
};

}  // namespace cursorum::detail
