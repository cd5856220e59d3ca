// Frames: what happened between two cuts.
#pragma once

#include <cstddef>
#include <initializer_list>
#include <iterator>
#include <optional>

#include "cursorum/core/axis_reading.hpp"
#include "cursorum/core/button_reading.hpp"
#include "cursorum/core/contact.hpp"
#include "cursorum/core/detail/device_filter.hpp"
#include "cursorum/core/direction_reading.hpp"
#include "cursorum/core/edge.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/origin.hpp"
#include "cursorum/core/pointer_reading.hpp"
#include "cursorum/core/snapshot.hpp"
#include "cursorum/core/text_reading.hpp"

namespace cursorum {

struct Latency;

/// The part of a frame that one device, or all devices of one origin, contributed.
class CURSORUM_API DeviceFrame {
public:
    ButtonReading operator[](Button button) const noexcept { return {*frame_, button, devices_}; }
    /// These are as of the frame (see Frame), of this part alone.
    DirectionReading direction(const DirectionButtons& buttons,
                               std::optional<Stick> stick = std::nullopt) const noexcept;
    StickReading stick(Stick stick) const noexcept;
    AxisReading trigger(Axis trigger) const noexcept;
    AxisReading raw_axis(Axis axis) const noexcept;
    PointerReading pointer() const noexcept { return {*frame_, devices_}; }
    template <typename Visit>
    void for_each_value(Stick stick, Visit&& visit) const {
        auto call = [&visit](Time time, Vector2 value) { visit(time, value); };
        walk(stick, &call,
             [](void* to, Time time, Vector2 value) { (*static_cast<decltype(call)*>(to))(time, value); });
    }
    template <typename Visit>
    void for_each_raw_value(Axis axis, Visit&& visit) const {
        auto call = [&visit](Time time, double value) { visit(time, value); };
        walk(axis, &call, [](void* to, Time time, double value) { (*static_cast<decltype(call)*>(to))(time, value); });
    }
    /// The device at both cuts, for code that compares a previous state with the current one. Of one device: the part
    /// of an origin has no snapshot, and an empty one is returned. Cost: proportional to the buttons that are active in
    /// the frame.
    DeviceSnapshot previous() const noexcept;
    DeviceSnapshot current() const noexcept;

    /// Not for callers: frames make it.
    DeviceFrame(const detail::FrameWindow& frame, const detail::DeviceFilter& devices) noexcept
        : frame_{&frame}, devices_{devices} {}

private:
    void walk(Axis axis, void* to, void (*visit)(void*, Time, double)) const;
    void walk(Stick stick, void* to, void (*visit)(void*, Time, Vector2)) const;

    const detail::FrameWindow* frame_;
    detail::DeviceFilter devices_;
};

/// The edges of a frame, for a range-for.
class CURSORUM_API EdgeRange {
public:
    class Iterator {
    public:
        using value_type = Edge;
        using difference_type = std::ptrdiff_t;
        Edge operator*() const noexcept;
        Iterator& operator++() noexcept;
        void operator++(int) noexcept { ++*this; }
        friend bool operator==(const Iterator& it, std::default_sentinel_t) noexcept { return it.index_ >= it.count_; }

        /// Not for callers.
        explicit Iterator(const detail::FrameWindow& frame, bool with_axes) noexcept;

    private:
        void skip() noexcept;
        const detail::FrameWindow* frame_;
        std::uint32_t index_ = 0, count_;
        bool with_axes_;
    };

    Iterator begin() const noexcept { return Iterator{*frame_, with_axes_}; }
    static std::default_sentinel_t end() noexcept { return {}; }

    /// Not for callers: frames make it.
    EdgeRange(const detail::FrameWindow& frame, bool with_axes) noexcept : frame_{&frame}, with_axes_{with_axes} {}

private:
    const detail::FrameWindow* frame_;
    bool with_axes_;
};

/// Everything that a sampler took between two cuts. A frame covers (start, end].
///
/// Lifetime: it belongs to its sampler and is overwritten by the sampler's next advance, gather or restore.
/// Threads: any number of them may read a frame at the same time, as long as its sampler is not used meanwhile.
class CURSORUM_API Frame {
public:
    /// Not for callers: samplers make frames.
    explicit Frame(const detail::FrameWindow& window) noexcept : window_{&window} {}
    Frame(const Frame&) = delete;  // it is its sampler's; snapshots and figures can be kept
    Frame& operator=(const Frame&) = delete;

    /// One button, merged over all devices: it is down while it is down on any device. Either-side names work too:
    /// `frame[Shift]`. An unknown number reads as idle.
    ButtonReading operator[](Button button) const noexcept { return {*window_, button, {}}; }

    /// One reading for any of several buttons: down while any of them is down, with the edges at which that changes. A
    /// hold that began before the frame counts from the earliest beginning among the buttons that were down then.
    /// Repeats follow the setting of the first button in the list. Cost: proportional to the frame's events.
    ButtonFigures any(std::initializer_list<Button> buttons) const noexcept;

    /// The part that one device contributed. Unknown devices read as idle.
    DeviceFrame on(DeviceId device) const noexcept;

    /// The part that persons' devices, or virtual devices, contributed: merged over those alone. The length of a hold
    /// that began before the frame counts from the earliest beginning among the holds that were down at its start.
    DeviceFrame on(Origin origin) const noexcept;

    /// Returns whether a device of that origin pressed, released or repeated a button, moved, or turned a wheel in this
    /// frame. Adopts and cancels are not input. Cost: proportional to the frame's events.
    bool has_input_from(Origin origin) const noexcept;

    /// Pointer and wheel, of all devices together.
    PointerReading pointer() const noexcept { return {*window_, {}}; }

    /// Four buttons (or several for each direction) and, if one is given, a stick as one vector, to walk with:
    ///
    ///     const DirectionReading way = frame.direction({.left = {KeyA, ArrowLeft}, .right = {KeyD, ArrowRight},
    ///                                                   .up = {KeyW, ArrowUp}, .down = {KeyS, ArrowDown}},
    ///                                                  PadStickLeft);
    ///     x += speed * tick->step * way.mean.x;
    ///
    /// The stick is shaped. Merged over all devices. Cost: about 20 ns, and proportional to the frame's events.
    DirectionReading direction(const DirectionButtons& buttons,
                               std::optional<Stick> stick = std::nullopt) const noexcept {
        return DeviceFrame{*window_, {}}.direction(buttons, stick);
    }
    /// A stick, shaped by its device's setting (Inlet::set_shaping). Merged over several devices, the one that is
    /// pushed farthest counts; ties go to the lower device id. Cost: about 10 ns, and 3 ns for each further device; if
    /// it moved in the frame, proportional to the frame's axis events.
    StickReading stick(Stick stick) const noexcept;
    /// A trigger's travel (PadPullLeft, PadPullRight), shaped likewise.
    AxisReading trigger(Axis trigger) const noexcept;
    /// An axis as it was reported, unshaped: a stick that is at rest need not report zero. For axes beyond the usual
    /// ones (PadAxisExtra1 …), which have no shaping, and for showing what a device reports. Merged over several
    /// devices, it has the value of the largest magnitude at each moment; ties go to the lower device id. Cost:
    /// proportional to the devices that have the axis and to the frame's axis events.
    AxisReading raw_axis(Axis axis) const noexcept;
    /// Calls `visit(DeviceAxis)` for every axis that is not at rest at the frame's end, unshaped, by device then name.
    template <typename Visit>
    void for_each_raw_axis(Visit&& visit) const {
        DeviceAxis axis;
        for (std::uint64_t after = 0; next_axis(after, axis);) visit(axis);
    }

    /// The axes that may have had another raw value than 0 within the frame: bit n is that of axis n, and set if it was
    /// not at 0 at the start on some device, or has an event. Cost: about 2 ns for each axis of a device.
    std::uint32_t active_axes() const noexcept;

    /// Calls `visit(ContactReading)` for every contact that was there within the frame.
    template <typename Visit>
    void for_each_contact(Visit&& visit) const {
        ContactReading contact;
        for (std::uint32_t i = 0; next_contact(i, contact);) visit(contact);
    }
    /// What was typed in the frame, in order, and what is being composed at its end. Text that goes to a text field
    /// alone: ActionReader::text_of().
    TextReading text() const noexcept;
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
    bool is_connected(DeviceId device) const noexcept;
    bool was_connected(DeviceId device) const noexcept;

    /// Which of CapsLock, NumLock and ScrollLock were on, by the last call of Inlet::locks: at the frame's end, and at
    /// its start.
    ButtonSet locks() const noexcept;
    ButtonSet previous_locks() const noexcept;

    /// How old the events were when the frame ended. Computed on demand; the cost is proportional to the frame's
    /// events.
    Latency latency() const noexcept;

    /// The edges of all devices, in the order in which they were taken. Edges that one event made at once are ordered:
    /// ended before started, then by device, then by name.
    EdgeRange edges() const noexcept { return EdgeRange{*window_, false}; }
    /// The same with the edges of each device's buttons that are made of axes: sticks' directions and triggers.
    EdgeRange all_edges() const noexcept { return EdgeRange{*window_, true}; }

    /// Calls `visit(Time, Vector2)` with every deflection of a stick within the frame, shaped and merged as by stick(),
    /// or `visit(Time, double)` with every value of an axis, unshaped and merged as by raw_axis(), in order. Values of
    /// one device at one time are visited once. Before the first one, the value was `before` of the reading.
    template <typename Visit>
    void for_each_value(Stick stick, Visit&& visit) const {
        DeviceFrame{*window_, {}}.for_each_value(stick, visit);
    }
    template <typename Visit>
    void for_each_raw_value(Axis axis, Visit&& visit) const {
        DeviceFrame{*window_, {}}.for_each_raw_value(axis, visit);
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

    /// The number of this frame among its sampler's frames, from 0, as the tool and kept frames count; before the first
    /// advance, the largest number. It is saved and restored with the sampler's state.
    std::uint64_t serial() const noexcept { return window_->initial->serial - 1; }
    /// Returns whether the frame starts with the end of a pause: see Sampler::advance(const Tick&).
    bool follows_pause() const noexcept;

    Time start() const noexcept { return Time{Duration{window_->initial->t0}}; }
    Time end() const noexcept { return Time{Duration{window_->initial->t1}}; }
    Duration length() const noexcept { return end() - start(); }

    /// The levels at both cuts.
    Snapshot previous() const noexcept { return {start(), ButtonSet{window_->initial->levels}}; }
    Snapshot current() const noexcept;

    /// Not for callers: for what reads frames inside Cursorum.
    const detail::FrameWindow& window() const noexcept { return *window_; }

private:
    bool next_axis(std::uint64_t& after, DeviceAxis& axis) const noexcept;
    bool next_contact(std::uint32_t& index, ContactReading& contact) const noexcept;
    bool next_change(std::uint32_t& index, DeviceChange& change) const noexcept;
    bool next_merged_edge(std::uint32_t& index, Edge& edge) const noexcept;

    const detail::FrameWindow* window_;
};

}  // namespace cursorum
