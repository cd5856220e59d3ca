// A frame inside the core: its edges and what else was taken, with the sampler's state at its start. The readings that
// are made of it are in the other files of this folder.
#pragma once

#include <algorithm>
#include <array>
#include <atomic>
#include <cstddef>
#include <cstdint>
#include <initializer_list>
#include <memory>
#include <optional>
#include <vector>

#include "core/axes/axis_record.hpp"
#include "core/frame/frame_input.hpp"
#include "core/frame/sampler_state.hpp"
#include "core/inlet/timeline_core.hpp"
#include "core/motion/motion_span.hpp"
#include "cursorum/core/detail/frame_window.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/frame.hpp"

namespace cursorum {

namespace detail {

/// A frame's contents other than button edges. The levels are those of its end. Its size is fixed at construction.
struct OtherEntries : PointerLevels {
    bool has_any = false;                 // since the frame was cleared; else all below is as clear() left it
    std::unique_ptr<MotionSpan[]> spans;  // of each inlet
    std::vector<MotionSlot> kept;  // of a growing sampler: all slots, with what each added in place of the totals
    bool keeps = false;
    DeviceBits connected{};  // at the end
    bool moved_by_person = false, moved_by_program = false;

    std::vector<AxisRecord> axes;
    std::uint32_t axis_room = 0;  // and as many again as there are tracks, for healing
    std::uint32_t axis_count = 0, axis_base = 1;
    std::array<std::uint32_t, axis_capacity> axis_last{};  // ordinals
    std::vector<OccasionSlot> occasions;
    std::uint32_t occasion_count = 0;
    TextEntries texts;

    const AxisRecord* axis_record(std::uint32_t ordinal) const noexcept {
        return ordinal >= axis_base ? &axes[ordinal - axis_base] : nullptr;
    }
    void commit(OtherState& state) const noexcept;
    void clear(unsigned inlets) noexcept;
    /// Commits to a copy of the sampler's state, to be saved.
    void commit_to(OtherState& copy, unsigned inlets) const noexcept {
        commit(copy);
        for (unsigned i = 0; i < inlets; ++i) copy.inlets[i].moved = spans[i].after();
    }
    /// Continues from a restored state.
    void start(const OtherState& state, unsigned inlets) noexcept {
        for (unsigned i = 0; i < inlets; ++i) spans[i].start(state.inlets[i].moved);
        clear(inlets);
        static_cast<PointerLevels&>(*this) = state;
        connected = state.connected;
        texts.composed = state.composed;
    }
};

/// A frame's edges. Its size is fixed at construction.
struct FrameEntries : FrameInput {
    std::vector<StoredEdge> records;          // `count` are in use; FrameWindow::edges
    std::vector<std::uint32_t> record_links;  // FrameWindow::links
    // Of the events taken that have no record whose time is their stamp; but for motion, whose ring still has them.
    std::vector<std::int64_t> stamps;
    // Of a frame that begins with a pause, axes and occasions: those before it, and those that its end made.
    std::uint32_t skip_axes_at = 0, skip_axes_to = 0, skip_occasions_at = 0, skip_occasions_to = 0;
    std::size_t room = 0, stamp_room = 0;  // for slots of events; healing has room beyond
    std::uint32_t stamp_count = 0;
    std::uint64_t restored = 0;                               // how often the sampler was
    std::array<std::uint64_t, inlet_capacity> ledger_ends{};  // if there are ledgers: when the frame was cut

    /// Allocates.
    void make_room(std::size_t slots, std::size_t events, std::size_t healing) {
        room = slots;
        records.resize(slots + healing);
        record_links.resize(slots + healing);
        edges = records.data();
        links = record_links.data();
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
        skip_axes_at = skip_axes_to = skip_occasions_at = skip_occasions_to = skip_texts_at = 0;
        if (base < 0x80000000U) return;
        base = 1;
        last = {};
    }
};

}  // namespace detail

/// The data that readings use. It belongs to its sampler's core; a Frame points to its window. Exported for the library
/// of explanations only.
class CURSORUM_API FrameCore : public detail::FrameEntries {
public:
    FrameCore(const TimelineCore& of, const detail::SamplerState& state, const detail::OtherState& others,
              const detail::OtherEntries& other_entries) noexcept
        : timeline{&of}, state_{&state}, others_{&others}, other_entries_{&other_entries} {
        initial = &state;
        texts = &other_entries.texts;
    }
    FrameCore(const FrameCore&) = delete;
    FrameCore& operator=(const FrameCore&) = delete;

    const TimelineCore* const timeline;
    /// See SamplerCounters. Several threads may read a frame.
    mutable std::atomic<std::uint64_t> unplaced{0};
    void note_unplaced() const noexcept;

    const detail::SamplerState& state() const noexcept { return *state_; }
    /// Everything other than buttons: the state at the start, and what has happened since.
    const detail::OtherState& others() const noexcept { return *others_; }
    const detail::OtherEntries& other_entries() const noexcept { return *other_entries_; }

    /// When an edge of this frame took effect.
    std::int64_t time_of(const detail::StoredEdge& edge) const noexcept { return std::max(edge.time, state_->t0); }
    DeviceId id_of(unsigned device) const noexcept;
    bool has_device(const detail::DeviceBits& devices, DeviceId id) const noexcept;
    DeviceSnapshot snapshot_of(detail::DeviceFilter device, bool at_end) const noexcept;
    /// Returns whether the filter includes the device of that number.
    bool includes(detail::DeviceFilter filter, unsigned number) const noexcept {
        return filter.is_every() || is_among(filter, number);
    }

    /// Of the axis record, or the occasion, of that index.
    PausePart part_of_axis(std::uint32_t index) const noexcept { return part(index, skip_axes_at, skip_axes_to); }
    PausePart part_of_occasion(std::uint32_t index) const noexcept {
        return part(index, skip_occasions_at, skip_occasions_to);
    }
    // Buttons.
    ButtonFigures merged_figures(Button button) const noexcept;
    ButtonFigures device_figures(Button button, detail::DeviceFilter filter) const noexcept;
    ButtonFigures any(std::initializer_list<Button> buttons) const noexcept;
    const detail::Slot* find_hold(Button button, unsigned device) const noexcept;
    const Repeat& repeat_of(Button button) const noexcept { return state_->repeats[state_->repeat_of[button.number]]; }
    ButtonSet active() const noexcept;

    // Motion.
    /// Calls `visit` with each event, in order.
    void walk_motion(detail::DeviceFilter filter, void* to, void (*visit)(void*, const Moved&)) const;
    /// The position of an edge of this frame in its inlet's ring; nothing if it has been overwritten.
    std::optional<std::uint64_t> position_of(const detail::StoredEdge& edge) const noexcept;
    /// Returns whether motion that has the same time as an edge was posted after it; for two inlets, the one with the
    /// greater number counts as later.
    bool is_after(const detail::MotionSlot& motion, const detail::StoredEdge& edge) const noexcept;

    // Axes.
    double walk(Axis axis, detail::DeviceFilter filter, void* to, void (*visit)(void*, Time, double)) const;
    void walk(Stick stick, detail::DeviceFilter filter, void* to, void (*visit)(void*, Time, Vector2)) const;
    /// The shaped value of one side of an axis, on the device where it is greatest. Calls `visit` with each change;
    /// returns the value at the start.
    double walk_side(Axis axis, AxisSide side, detail::DeviceFilter filter, void* to,
                     void (*visit)(void*, const Cause&, double)) const;
    AxisReading raw_axis(Axis axis, detail::DeviceFilter filter) const noexcept;
    StickReading stick(Stick stick, detail::DeviceFilter filter) const noexcept;
    Vector2 stick_at_start(Stick stick, detail::DeviceFilter filter) const noexcept;
    AxisReading trigger(Axis trigger, detail::DeviceFilter filter) const noexcept;
    std::uint32_t active_axes() const noexcept;
    bool next_axis(std::uint64_t& after, DeviceAxis& axis) const noexcept;
    DirectionReading direction(const DirectionButtons& buttons, std::optional<Stick> stick,
                               detail::DeviceFilter filter) const noexcept;

    // Contacts.
    /// Calls `visit` with each change; returns the contact at the start.
    Touch walk_touch(detail::DeviceFilter filter, void* to, void (*visit)(void*, const Cause&, const Touch&)) const;

private:
    static PausePart part(std::uint32_t index, std::uint32_t at, std::uint32_t to) noexcept {
        return index < at ? PausePart::before : index < to ? PausePart::end : PausePart::after;
    }
    bool is_among(detail::DeviceFilter filter, unsigned number) const noexcept;
    ButtonFigures merged_tally(Button button) const noexcept;
    template <typename Visit>
    void for_each_hold(Button button, detail::DeviceFilter filter, Visit&& visit) const noexcept;
    bool is_of(const detail::StoredEdge& record, detail::DeviceFilter filter) const noexcept;
    template <typename Visit>
    void for_each_record(Button button, Visit&& visit) const noexcept;
    template <typename Visit>
    void for_each_track(Axis axis, detail::DeviceFilter filter, Visit&& visit) const;
    const detail::AxisRecord* last_of_track(unsigned track) const noexcept;
    template <typename Walk>
    AxisReading reading_of(Walk&& walk) const noexcept;
    StickReading levels_of(Stick stick, detail::DeviceFilter filter, bool& has_moved) const noexcept;
    Vector2 mean_of(Stick stick, detail::DeviceFilter filter, Vector2 before) const noexcept;

    const detail::SamplerState* state_;
    const detail::OtherState* others_;
    const detail::OtherEntries* other_entries_;
};

/// visit(track, id): every device's track of the axis.
template <typename Visit>
void FrameCore::for_each_track(Axis axis, detail::DeviceFilter filter, Visit&& visit) const {
    for (unsigned i = 0; i < timeline->inlet_count(); ++i)
        timeline->inlet(i).tracks_.for_each(axis, [&](unsigned track, unsigned number, DeviceId id) {
            if (includes(filter, number)) visit(track, id);
        });
}

inline const detail::AxisRecord* FrameCore::last_of_track(unsigned track) const noexcept {
    return other_entries_->axis_record(other_entries_->axis_last[track]);
}

inline const FrameCore& core_of(const detail::FrameWindow& window) noexcept {
    return static_cast<const FrameCore&>(window);
}
inline const FrameCore& core_of(const Frame& frame) noexcept { return core_of(frame.window()); }

}  // namespace cursorum
