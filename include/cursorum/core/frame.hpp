// Frames: what happened between two cuts.
#pragma once

#include <cstddef>
#include <initializer_list>
#include <iterator>
#include <optional>

#include "cursorum/core/axis_reading.hpp"
#include "cursorum/core/button_reading.hpp"
#include "cursorum/core/contact.hpp"
#include "cursorum/core/detail/sampler_state.hpp"
#include "cursorum/core/edge.hpp"
#include "cursorum/core/latency.hpp"
#include "cursorum/core/origin.hpp"
#include "cursorum/core/pointer_reading.hpp"
#include "cursorum/core/snapshot.hpp"
#include "cursorum/core/timeline.hpp"

namespace cursorum {

class Frame;

/// One device at a cut: the buttons that are down, and its axes.
struct DeviceSnapshot {
    Time time;
    ButtonSet down;   ///< buttons that the device has; neither directions nor either-side names
    AxisValues axes;  ///< raw values; those that are absent are at rest
};

/// The part of a frame that one device, or all devices of one origin, contributed.
class DeviceFrame {
public:
    ButtonReading operator[](Button button) const noexcept { return {*frame_, button, device_}; }
    AxisReading axis(Axis axis) const noexcept;
    StickReading stick(Stick stick) const noexcept;
    AxisReading pull(Axis pull) const noexcept;
    PointerReading pointer() const noexcept { return {*frame_, device_}; }
    /// The levels at the frame's end. Cost: proportional to the buttons that are active in the frame.
    DeviceSnapshot current() const noexcept;

private:
    friend class Frame;
    DeviceFrame(const Frame& frame, unsigned device) noexcept : frame_{&frame}, device_{device} {}
    const Frame* frame_;
    unsigned device_;
};

/// The edges of a frame, for a range-for.
class EdgeRange {
public:
    class Iterator {
    public:
        using value_type = Edge;
        using difference_type = std::ptrdiff_t;
        Edge operator*() const noexcept;
        Iterator& operator++() noexcept;
        void operator++(int) noexcept { ++*this; }
        friend bool operator==(const Iterator& it, std::default_sentinel_t) noexcept { return it.index_ >= it.count_; }

    private:
        friend class EdgeRange;
        Iterator(const Frame& frame, std::uint32_t count) noexcept;
        void skip() noexcept;
        const Frame* frame_;
        std::uint32_t index_ = 0, count_;
    };

    Iterator begin() const noexcept;
    static std::default_sentinel_t end() noexcept { return {}; }

private:
    friend class Frame;
    explicit EdgeRange(const Frame& frame) noexcept : frame_{&frame} {}
    const Frame* frame_;
};

/// Everything that a sampler took between two cuts. A frame covers (start, end].
///
/// Lifetime: it belongs to its sampler and is overwritten by the sampler's next advance, gather or restore.
/// Threads: the same as its sampler's.
class Frame {
public:
    Frame(const Frame&) = delete;
    Frame& operator=(const Frame&) = delete;

    /// One button, merged over all devices: it is down while it is down on any device. Either-side names work too:
    /// `frame[Shift]`. An unknown number reads as idle.
    ButtonReading operator[](Button button) const noexcept { return {*this, button, every_device}; }

    /// One reading for any of several buttons: down while any of them is down, with the edges at which that changes. A
    /// hold that began before the frame counts from the earliest beginning among the buttons that were down then.
    /// Repeats follow the setting of the first button in the list. Cost: proportional to the frame's events.
    ButtonFigures any(std::initializer_list<Button> buttons) const noexcept;

    /// The part that one device contributed. Unknown devices read as idle.
    DeviceFrame on(DeviceId device) const noexcept;

    /// The part that persons' devices, or virtual devices, contributed: merged over those alone. The length of a hold
    /// that began before the frame counts from the earliest beginning among the holds that were down at its start.
    DeviceFrame on(Origin origin) const noexcept { return {*this, origin == Origin::person ? persons : programs}; }

    /// Returns whether a device of that origin pressed, released or repeated a button, moved, or turned a wheel in this
    /// frame. Adopts and cancels are not input. Cost: proportional to the frame's events.
    bool has_input_from(Origin origin) const noexcept;

    /// Pointer and wheel, of all devices together.
    PointerReading pointer() const noexcept { return {*this, every_device}; }

    /// An axis as it was reported, unshaped. Merged over several devices, it has the value of the largest magnitude at
    /// each moment; ties go to the lower device id. Cost: proportional to the devices that have the axis and to the
    /// frame's axis events.
    AxisReading axis(Axis axis) const noexcept { return axis_figures(axis, every_device); }
    /// A stick, shaped by its device's setting (Inlet::set_shaping). Merged over several devices, the one that is
    /// pushed farthest counts; ties go to the lower device id. Cost: about 10 ns, and 3 ns for each further device.
    StickReading stick(Stick stick) const noexcept { return stick_figures(stick, every_device); }
    /// A trigger's travel (PadPullLeft, PadPullRight), shaped likewise.
    AxisReading pull(Axis pull) const noexcept { return pull_figures(pull, every_device); }
    /// Calls `visit(DeviceAxis)` for every axis that is not at rest at the frame's end, unshaped, by device then name.
    template <typename Visit>
    void for_each_axis(Visit&& visit) const {
        DeviceAxis axis;
        for (std::uint64_t after = 0; next_axis(after, axis);) visit(axis);
    }

    /// Calls `visit(ContactReading)` for every contact that was there within the frame.
    template <typename Visit>
    void for_each_contact(Visit&& visit) const {
        ContactReading contact;
        for (std::uint32_t i = 0; next_contact(i, contact);) visit(contact);
    }
    /// Calls `visit(DeviceChange)` for every device that connected or disconnected, in order.
    template <typename Visit>
    void for_each_device_change(Visit&& visit) const {
        DeviceChange change;
        for (std::uint32_t i = 0; next_change(i, change);) visit(change);
    }

    /// Returns whether any device of the kind is connected at the frame's end.
    bool has(DeviceKind kind) const noexcept { return count_of(kind) != 0; }
    /// The number of connected devices of the kind.
    unsigned count_of(DeviceKind kind) const noexcept;
    /// The device in a lasting place among those of its kind: `device(DeviceKind::gamepad, 0)` is always the first
    /// gamepad that ever connected. Returns nothing while that device is unplugged, or if there never was one. Cost:
    /// proportional to the devices.
    std::optional<DeviceId> device(DeviceKind kind, unsigned place) const noexcept;

    /// Return whether a device is connected at the frame's end, and at its start. False for unknown devices.
    bool is_connected(DeviceId device) const noexcept { return has_device(desk_entries_->connected, device); }
    bool was_connected(DeviceId device) const noexcept { return has_device(desk_->connected, device); }

    /// Which of CapsLock, NumLock and ScrollLock were on, by the last call of Inlet::locks: at the frame's end, and at
    /// its start.
    ButtonSet locks() const noexcept { return locks_of(desk_entries_->locks); }
    ButtonSet previous_locks() const noexcept { return locks_of(desk_->locks); }

    /// How old the events were when the frame ended. Computed on demand; the cost is proportional to the frame's
    /// events.
    Latency latency() const noexcept;

    /// The edges of all devices, in the order in which they were taken. Edges that one event made at once are ordered:
    /// ended before started, then by device, then by name.
    EdgeRange edges() const noexcept { return EdgeRange{*this}; }

    /// Calls `visit(Time, double)` with every value that an axis took within the frame, unshaped and merged as by
    /// axis(), or `visit(Time, Vector2)` with every deflection of a stick, shaped and merged as by stick(), in order.
    /// Values of one device at one time are visited once. Before the first one, the value was `before` of the reading.
    template <typename Visit>
    void for_each_value(Axis axis, Visit&& visit) const {
        visit_values(axis, every_device, visit);
    }
    template <typename Visit>
    void for_each_value(Stick stick, Visit&& visit) const {
        visit_values(stick, every_device, visit);
    }

    /// The merged buttons whose state is not idle, including either-side names.
    ButtonSet active() const noexcept;
    /// The merged buttons for which the reading's member of that name is true: all that were pressed, are down, and so
    /// on. They include sticks' directions and triggers, but not either-side names, so that a Shift key is included
    /// only once. Cost: proportional to the buttons that are active in the frame.
    ButtonSet all_pressed() const noexcept;
    ButtonSet all_released() const noexcept;
    ButtonSet all_ended() const noexcept;
    ButtonSet all_repeated() const noexcept;
    ButtonSet all_down() const noexcept;
    /// The button that went down last among those that are down; no button if none is down. If two went down at the
    /// same time, the later one in the list counts. `newest({KeyA, KeyD})` makes the newest direction win.
    Button newest(std::initializer_list<Button> buttons) const noexcept;
    /// Calls `visit(Edge)` for every edge of a merged button, in order, including either-side names, directions and
    /// triggers (edges() has only the devices' own buttons). `device` is the device whose event made the edge. A press
    /// on one device while other devices' holds of the button were only adopted is a cancel and then a press.
    template <typename Visit>
    void for_each_merged_edge(Visit&& visit) const {
        Edge edge;
        for (std::uint32_t i = 0; next_merged_edge(i, edge);) visit(edge);
    }

    /// The number of this frame among its sampler's frames, starting with 1; 0 before the first advance. It is saved
    /// and restored with the sampler's state.
    std::uint64_t serial() const noexcept { return state_->serial; }
    /// Returns whether the frame starts with the end of a pause: see Sampler::advance(const Tick&).
    bool follows_pause() const noexcept { return entries_->skip_at != detail::FrameEntries::no_skip; }

    Time start() const noexcept { return Time{Duration{state_->t0}}; }
    Time end() const noexcept { return Time{Duration{state_->t1}}; }
    Duration length() const noexcept { return end() - start(); }

    /// The levels at both cuts.
    Snapshot previous() const noexcept { return {start(), ButtonSet{state_->levels}}; }
    Snapshot current() const noexcept;

private:
    friend class Sampler;
    friend class ActionReader;
    friend class ButtonReading;
    friend class EdgeRange;
    friend class DeviceFrame;
    friend class PointerReading;
    friend class SampleRange;
    friend class ClickRange;
    friend class Seats;
    friend class SeatFrame;

    // Instead of a device's number.
    static constexpr unsigned unknown_device = 255, every_device = 256, persons = 257, programs = 258, chosen = 259;

    Frame(const Timeline& timeline, const detail::SamplerState& state, const detail::FrameEntries& entries,
          const detail::DeskState& desk, const detail::DeskEntries& desk_entries) noexcept
        : timeline_{&timeline}, state_{&state}, entries_{&entries}, desk_{&desk}, desk_entries_{&desk_entries} {}

    bool was_down(Button button) const noexcept {
        return button.number < button_capacity && (state_->levels[button.number / 64] >> (button.number % 64) & 1) != 0;
    }
    /// The button's last entry in this frame, null if it has none.
    const detail::Record* last_of(Button button) const noexcept {
        if (button.number >= button_capacity) return nullptr;
        return entry(entries_->last[button.number]);
    }
    const detail::Record* entry(std::uint32_t ordinal) const noexcept {
        return ordinal >= entries_->base ? &entries_->records[ordinal - entries_->base] : nullptr;
    }
    /// The same button's entry before one of this frame's, null if there is none.
    const detail::Record* before(const detail::Record& of) const noexcept {
        return entry(entries_->links[static_cast<std::size_t>(&of - entries_->records.data())]);
    }
    /// Up at the start, and no device had anything to say of it.
    bool is_idle(Button button) const noexcept;
    ButtonFigures merged_figures(Button button) const noexcept;
    ButtonFigures merged_tally(Button button) const noexcept;
    ButtonFigures device_figures(Button button, unsigned device) const noexcept;
    const detail::DeviceHold* find_hold(Button button, unsigned device) const noexcept;
    template <typename Visit>
    void for_each_hold(Button button, unsigned device, Visit&& visit) const noexcept;
    bool is_of(const detail::Record& record, unsigned device) const noexcept;
    const Repeat& repeat_of(Button button) const noexcept { return state_->repeats[state_->repeat_of[button.number]]; }
    template <typename Visit>
    void for_each_record(Button button, Visit&& visit) const noexcept;

    double walk(Axis axis, detail::DeviceFilter device, void* to, void (*visit)(void*, Time, double)) const;
    void walk(Stick stick, detail::DeviceFilter device, void* to, void (*visit)(void*, Time, Vector2)) const;
    template <typename Visit>
    void visit_values(Axis axis, detail::DeviceFilter device, Visit& visit) const {
        walk(axis, device, &visit, [](void* to, Time time, double value) { (*static_cast<Visit*>(to))(time, value); });
    }
    template <typename Visit>
    void visit_values(Stick stick, detail::DeviceFilter device, Visit& visit) const {
        walk(stick, device, &visit,
             [](void* to, Time time, Vector2 value) { (*static_cast<Visit*>(to))(time, value); });
    }
    static ButtonSet locks_of(unsigned bits) noexcept {
        ButtonSet on;
        for (unsigned i = 0; i < detail::lock_keys.size(); ++i) on.set(detail::lock_keys[i], (bits >> i & 1) != 0);
        return on;
    }
    bool has_device(const detail::DeviceBits& devices, DeviceId id) const noexcept;
    PointerReading pointer_of(detail::DeviceFilter devices) const noexcept { return {*this, devices}; }
    AxisReading axis_figures(Axis axis, detail::DeviceFilter device) const noexcept;
    StickReading stick_figures(Stick stick, detail::DeviceFilter device) const noexcept;
    AxisReading pull_figures(Axis pull, detail::DeviceFilter device) const noexcept;
    bool next_axis(std::uint64_t& after, DeviceAxis& axis) const noexcept;
    bool next_contact(std::uint32_t& index, ContactReading& contact) const noexcept;
    bool next_change(std::uint32_t& index, DeviceChange& change) const noexcept;
    void describe(DeviceChange& change) const noexcept;
    bool next_merged_edge(std::uint32_t& index, Edge& edge) const noexcept;
    template <typename Wanted>
    ButtonSet all_that(Wanted&& wanted) const noexcept;
    /// A device of those that `device` stands for: a number, all, persons' or programs', or those of a set.
    bool stands_for(detail::DeviceFilter device, unsigned number) const noexcept;
    DeviceId id_of(unsigned device) const noexcept;
    template <typename Visit>
    void for_each_motion_stamp(Visit&& visit) const noexcept;
    template <typename Visit>
    void for_each_track(Axis axis, detail::DeviceFilter device, Visit&& visit) const;
    const detail::AxisRecord* last_of_track(unsigned track) const noexcept;

    bool is_peek_ = false;
    const Timeline* timeline_;
    const detail::SamplerState* state_;
    const detail::FrameEntries* entries_;
    const detail::DeskState* desk_;
    const detail::DeskEntries* desk_entries_;
};

inline AxisReading DeviceFrame::axis(Axis axis) const noexcept { return frame_->axis_figures(axis, device_); }
inline StickReading DeviceFrame::stick(Stick stick) const noexcept { return frame_->stick_figures(stick, device_); }
inline AxisReading DeviceFrame::pull(Axis pull) const noexcept { return frame_->pull_figures(pull, device_); }

inline bool Frame::is_idle(Button button) const noexcept {
    return button.number >= button_capacity || (entries_->last[button.number] < entries_->base && !was_down(button));
}
inline ButtonFigures ButtonReading::figures() const noexcept {
    if (frame_->is_idle(button_)) return ButtonFigures{frame_->length()};
    return device_ == Frame::every_device ? frame_->merged_figures(button_) : frame_->device_figures(button_, device_);
}
inline bool ButtonReading::was_down() const noexcept {
    return device_ == Frame::every_device ? frame_->was_down(button_) : figures().was_down();
}
inline bool ButtonReading::down() const noexcept {
    if (device_ != Frame::every_device) return figures().down();
    const detail::Record* last = frame_->last_of(button_);
    return last ? last->what().is_down() : frame_->was_down(button_);
}
inline bool ButtonReading::pressed() const noexcept {
    if (device_ != Frame::every_device) return figures().pressed();
    for (const detail::Record* entry = frame_->last_of(button_); entry; entry = frame_->before(*entry))
        if (entry->what().presses()) return true;
    return false;
}
inline bool ButtonReading::released() const noexcept {
    if (device_ != Frame::every_device) return figures().released();
    // From the last edge to the first: a release counts if the hold before it began with a press.
    bool is_release = false;
    for (const detail::Record* entry = frame_->last_of(button_); entry; entry = frame_->before(*entry)) {
        const detail::What what = entry->what();
        if (is_release && what.presses()) return true;
        if (what.ends() || what.starts()) is_release = what.effect() == detail::Effect::release;
    }
    return is_release && !frame_->state_->adopted[button_.number];
}
inline bool ButtonReading::ended() const noexcept {
    if (device_ != Frame::every_device) return figures().ended();
    for (const detail::Record* entry = frame_->last_of(button_); entry; entry = frame_->before(*entry))
        if (entry->what().ends()) return true;
    return false;
}

}  // namespace cursorum
