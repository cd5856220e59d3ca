// Inlets: where events are posted.
#pragma once

#include <array>
#include <cstdint>
#include <memory>
#include <optional>
#include <span>

#include "cursorum/core/detail/device_cells.hpp"
#include "cursorum/core/detail/motion_ring.hpp"
#include "cursorum/core/detail/one_at_a_time.hpp"
#include "cursorum/core/detail/slot_ring.hpp"
#include "cursorum/core/detail/track_table.hpp"
#include "cursorum/core/event.hpp"
#include "cursorum/core/inlet_counters.hpp"
#include "cursorum/core/space.hpp"

namespace cursorum {

class Frame;
class Sampler;
class Timeline;

/// Maximum number of buttons that are down at once, on all devices of a timeline together; each inlet has an equal
/// share. A press beyond its inlet's share is refused and counted.
inline constexpr unsigned hold_capacity = 512;
/// Maximum number of inlets per timeline; each then has room for 16 buttons down at once.
inline constexpr unsigned inlet_capacity = 32;
/// Maximum number of devices per timeline: slots have a byte for a device's number.
inline constexpr unsigned device_capacity = 252;
/// Likewise: axes of devices; mouse buttons down that may become clicks; contacts on touch surfaces at once.
inline constexpr unsigned axis_capacity = 384, press_capacity = 32, contact_capacity = 64;

/// The desk's own devices: see TimelineOptions::desk_devices.
inline constexpr DeviceId desk_keyboard{1}, desk_mouse{2};

/// When a press counts as another click of the same series, and when it becomes a drag.
struct PointerSettings {
    /// A press within this time after a click's release, and within this distance of it, makes a double click (then a
    /// triple click, and so on).
    Duration again_within = std::chrono::milliseconds{400};
    double again_near = 4;  ///< pixels
    double drag_from = 6;   ///< pixels from the press
    /// When the pointer leaves the window, presses in progress are cancelled: they do not become clicks, and drags end.
    bool cancel_on_leave = false;
};

/// One of several motions that arrived together.
struct MotionSample {
    Time time;
    double dx = 0, dy = 0;
};

/// Passed instead of the buttons that are down, by an engine that cannot ask for them.
struct UnknownState {
    explicit UnknownState() = default;
};
inline constexpr UnknownState unknown_state{};

/// The capacities of a timeline. All memory is allocated when the timeline is constructed.
struct TimelineOptions {
    /// Number of threads that post events, 1 to 32. Inlet 0 is the desk.
    unsigned inlets = 1;
    /// Maximum number of devices on each inlet, 1 to 64; at most device_capacity on all inlets together. Each device
    /// takes 3 KB.
    unsigned devices = 8;
    /// Slots of each inlet's history of button events, rounded up to a power of two, 4,096 to 524,288; 16 bytes each.
    /// An event takes one slot. (A Shift key's event takes two, a focus loss one for each button that it cancels;
    /// motion, and events that only move axes, take none.) A sampler that falls farther behind than this is overrun and
    /// heals.
    std::uint32_t history = 4096;
    /// Motion and wheel events in each inlet's history, rounded up to a power of two, 64 to 1,048,576; 96 bytes each. A
    /// sampler that falls farther behind misses samples, but no distance.
    std::uint32_t motion_history = 2048;
    /// Axis values in each inlet's history, likewise; 40 bytes each. A sampler that falls farther behind misses values
    /// in between and counts their events as lost, but it has the latest ones.
    std::uint32_t axis_history = 2048;
    /// Clicks, drags, contacts, connects in each inlet's history, likewise; 80 bytes each.
    std::uint32_t fact_history = 512;
    PointerSettings pointer{};
    /// The desk starts with a keyboard (device 1, which does not mark system repeats) and a mouse (device 2). If false,
    /// it starts without devices, as all other inlets do.
    bool desk_devices = true;
    /// The desk's keyboard marks system repeats: the engine can tell them from presses and posts them by
    /// system_repeat(). A key that has been held since before the start then never counts as a press.
    bool desk_marks_repeats = false;
    /// The keys and mouse buttons that are already down when the timeline is constructed. On the desk's devices they
    /// are adopted, never pressed. Leave this empty if you cannot ask for them; see Inlet::gain_focus(UnknownState).
    ButtonSet down{};
    /// The time at which they were down; if absent, the present. Used only if `down` is not empty.
    std::optional<Time> start{};
    /// How long Timeline::complete_until() waits for a producer that does not report.
    Duration silent_limit = std::chrono::milliseconds{100};
};

/// One producer's way into a timeline. The rules run here, once, when an event is posted: the inlet knows which buttons
/// of its devices are down, decides what an event means, and writes the resulting edges into its history.
///
/// Threads: only one thread at a time may call members that are not const. Which thread that is may change from call to
/// call, provided that the calls are ordered; builds with assertions detect two threads at once. Any thread may call
/// the const members at any time, and any number of samplers read on threads of their own.
/// Cost: about 10 ns for each event. Nothing allocates, throws, locks or waits, whatever the samplers do. The cost of a
/// focus loss, a disconnect, an interruption or a polled state is proportional to the number of buttons that are down.
/// Order: events are taken in the order in which they were posted. An event stamped earlier than its predecessor takes
/// effect at the predecessor's time, and every sampler counts it as late.
/// Devices: a device belongs to the inlet that connects it first. A connect of the same id on another inlet is stray.
class Inlet {
public:
    Inlet(const Inlet&) = delete;
    Inlet& operator=(const Inlet&) = delete;

    // The desk's keyboard and mouse, for an engine's own callbacks. Mouse buttons belong to the mouse, all others to
    // the keyboard. Events are stamped with the present unless a time is given.

    /// A key or mouse button went down or up.
    Outcome button(Button control, bool down, Time when = Clock::now()) noexcept;
    /// For engines that poll: all keys and mouse buttons that are down now. Differences from the previous state are
    /// presses and releases, by the rules of state() below. Mouse buttons belong to the mouse, all others to the
    /// keyboard. Returns the keyboard's outcome.
    Outcome state(const ButtonSet& down, Time when = Clock::now()) noexcept;
    /// For engines that poll one button after the other: the button is down, or up. If that is already known, nothing
    /// is posted and nothing is counted (Outcome::unchanged), so it may be called in every iteration of the loop. A
    /// button that was up is pressed by this; therefore pass the buttons that are held to gain_focus() and interrupt(),
    /// which adopt them.
    Outcome set_level(Button control, bool down, Time when = Clock::now()) noexcept;
    Outcome set_level(DeviceId device, Button control, bool down, Time when = Clock::now()) noexcept;
    /// The operating system repeated a held key and reported it as a repeat. If it does not distinguish repeats, post
    /// button(control, true).
    Outcome system_repeat(Button control, Time when = Clock::now()) noexcept;
    /// The mouse moved, in pixels or counts; right and down are positive. Distances are rounded to 1/65536 (to nearest,
    /// ties to even), so that sums do not depend on order or cuts. NaN, infinity and values beyond 2^31 are refused and
    /// counted.
    Outcome motion(double dx, double dy, Time when = Clock::now()) noexcept;
    /// The wheel turned, in detents; right and away from the person are positive. The same rules apply.
    Outcome wheel(double dx, double dy, Time when = Clock::now()) noexcept;
    /// The mouse's position, from the top left corner of the window. Its motion is the difference from the previous
    /// position (zero for the first position after a connect or a focus gain).
    Outcome moved_to(WindowPoint place, Time when = Clock::now()) noexcept;
    /// The program's window lost the focus. All buttons that are down are cancelled and all axes come to rest. Until
    /// the focus comes back, events are ignored, except lock keys' states, shaping, connects and disconnects.
    Outcome lose_focus(Time when = Clock::now()) noexcept;
    /// The window has the focus again. `down`: the keys and mouse buttons that are down at this moment. On the desk's
    /// devices they are adopted, never pressed, so that a key that was held while the window came to the front has no
    /// effect. For other devices, the first polled state after this is adopted. Does nothing if the window already has
    /// the focus.
    Outcome gain_focus(const ButtonSet& down, Time when = Clock::now()) noexcept;
    /// For engines that cannot ask which buttons are down. A key that has been held since before counts as one press,
    /// when the system repeats it for the first time, unless its device marks system repeats
    /// (TimelineOptions::desk_marks_repeats).
    Outcome gain_focus(UnknownState, Time when = Clock::now()) noexcept;
    /// Input was interrupted: the machine slept, a debugger stopped the program, or a modal dialogue took the input.
    /// Everything that is down on any device is cancelled, and `down` is adopted as by gain_focus(). The focus does not
    /// change.
    Outcome interrupt(const ButtonSet& down, Time when = Clock::now()) noexcept;
    /// As gain_focus(unknown_state).
    Outcome interrupt(UnknownState, Time when = Clock::now()) noexcept;

    // Any device.

    Outcome connect(DeviceId device, const DeviceInfo& info, Time when = Clock::now()) noexcept;
    Outcome disconnect(DeviceId device, Time when = Clock::now()) noexcept;
    Outcome button(DeviceId device, Button control, bool down, Time when = Clock::now()) noexcept;
    Outcome system_repeat(DeviceId device, Button control, Time when = Clock::now()) noexcept;
    /// The polled state of a device: all buttons that are down now. Differences from the previous state are presses and
    /// releases; in the first state after a connect, a focus gain or an interruption, or with `adopt`, they are adopts
    /// and cancels.
    Outcome state(DeviceId device, const ButtonSet& down, Time when = Clock::now(), bool adopt = false) noexcept;
    Outcome motion(DeviceId device, double dx, double dy, Time when = Clock::now()) noexcept;
    Outcome wheel(DeviceId device, double dx, double dy, Time when = Clock::now()) noexcept;
    Outcome moved_to(DeviceId device, WindowPoint place, Time when = Clock::now()) noexcept;
    /// A program moved the pointer to that position. This does not count as motion.
    Outcome warped_to(DeviceId device, WindowPoint place, Time when = Clock::now()) noexcept;
    /// Several motions at once, as a fast mouse reports them. Each is an event of its own, but they are published
    /// together. Returns the last one's outcome.
    Outcome motions(DeviceId device, std::span<const MotionSample> samples) noexcept;
    /// The pointer entered the window or left it.
    Outcome pointer_inside(DeviceId device, bool inside, Time when = Clock::now()) noexcept;
    /// The pointer was locked to the window (it has motion, but no position), or freed.
    Outcome pointer_locked(DeviceId device, bool locked, Time when = Clock::now()) noexcept;
    /// Sets one axis: -1 to 1, or 0 to 1 for a trigger. Values outside the range are clamped and counted as `limited`;
    /// NaN and infinity are refused. Cost: 15 ns if the value is unchanged, else 50 to 80 ns.
    Outcome axis(DeviceId device, Axis axis, double value, Time when = Clock::now()) noexcept;
    /// Sets both axes of a stick, as one event.
    Outcome stick(DeviceId device, Stick stick, double x, double y, Time when = Clock::now()) noexcept;
    /// The polled state of a device with its axes. Axes that are not present are unchanged.
    Outcome state(DeviceId device, const ButtonSet& down, const AxisValues& axes, Time when = Clock::now(),
                  bool adopt = false) noexcept;
    /// A contact on a touch surface. `contact` is its id among the contacts on that surface; `x` and `y` are in the
    /// source's units (-1 to 1 for a gamepad's surface); `pressure` is 0 to 1, or 1 if it is unknown.
    Outcome contact(DeviceId device, std::uint32_t contact, ContactPhase phase, double x, double y, double pressure = 1,
                    Time when = Clock::now()) noexcept;
    /// Sets how a device's sticks and triggers are shaped from `when` on. This is an event like any other: frames shape
    /// each value by the setting that was in force at its time, and a threshold that the change crosses makes an adopt
    /// or a cancel. It replaces the device's whole shaping. It is also taken without focus and while the device is
    /// unplugged, and it survives reconnecting. Refused if DeviceShaping::is_valid() is false; stray for a device that
    /// never connected to this inlet.
    Outcome set_shaping(DeviceId device, const DeviceShaping& shaping, Time when = Clock::now()) noexcept;
    /// Which of CapsLock, NumLock and ScrollLock are on: the state that the keyboard's lamps show, not the keys. Other
    /// buttons in the set are ignored. Also taken while the window has no focus.
    Outcome locks(const ButtonSet& on, Time when = Clock::now()) noexcept;

    /// Posts any event, as sources and recordings give them.
    Outcome post(const Event& event) noexcept;

    /// How far ahead of Clock::now() a stamp may lie. A later one is replaced by now + limit when it is posted, and
    /// counted as `ahead`. The default, no limit, suits recordings and clocks other than Clock; Cursorum's live sources
    /// set 10 ms. Without a limit, an event stamped by a wrong clock holds back all events behind it until a cut
    /// reaches its stamp (SamplerCounters::held_back). Cost: the clock is read only when a stamp is later than any
    /// accepted since the last reading.
    void set_ahead_limit(std::optional<Duration> limit) noexcept;

    /// Reports that everything stamped up to `until` has been posted. Earlier times than before are ignored. A producer
    /// calls this once in each iteration of its loop, after posting, and with `latest_time` when it ends. A consumer
    /// that cuts no later than Timeline::complete_until() never gets late events from producers that report correctly.
    void set_complete_until(Time until) noexcept;

    // From any thread.

    /// The time reported last; earliest_time if none has been reported.
    Time complete_until() const noexcept { return Time{Duration{complete_until_.look()}}; }
    InletCounters counters() const noexcept;
    bool has_focus() const noexcept { return focused_.get(); }
    /// The latest stamp posted; earliest_time before the first event.
    Time latest() const noexcept { return Time{Duration{latest_.get()}}; }

private:
    friend class Sampler;
    friend class Frame;
    friend class SampleRange;
    friend class Timeline;

    /// Where an inlet stands in its timeline: what it numbers, it numbers from here.
    struct Place {
        std::uint16_t inlet;
        std::uint16_t first_hold, hold_room;
        std::uint8_t first_device, device_room;
        std::uint16_t first_track, track_room;
        std::uint8_t first_press, press_room;
        std::uint8_t first_contact, contact_room;
    };

    static constexpr std::uint8_t nobody = 255;  // in place of a device's number

    struct Keys;
    /// A mouse button down, of which a click may become.
    struct PointerPress {
        detail::Device* device = nullptr;  // none: the place is free
        Button button;
        std::int64_t time = 0;
        detail::FixedDistance begin{};
        double farthest_square = 0;
        bool has_position = false;  // begin is the pointer's; else the device's drift
        bool is_dragging = false;
        std::uint8_t count = 1;
    };
    struct LastClick {
        const detail::Device* device = nullptr;
        Button button;
        std::int64_t time = 0;
        detail::FixedDistance position{};
        std::uint8_t count = 0;
    };
    struct Contact {
        detail::Device* device = nullptr;
        std::uint32_t id = 0;
        std::int64_t time = 0;
        detail::FixedDistance begin{}, position{};
        double pressure = 0;
        bool points = false;
    };
    /// What an event of motion or wheel tells, and how much of it.
    struct Moving {
        unsigned told = 0;
        double dx = 0, dy = 0, x = 0, y = 0, raw_dx = 0, raw_dy = 0;
        static constexpr unsigned motion = 1, position = 2, raw = 4, wheel = 8, warp = 16;
    };
    /// Which button on which device has a hold's number.
    struct Bound {
        detail::Device* device = nullptr;
        Button button;
    };
    /// What a sampler that was overrun, or is new, takes from here: all holds as of one position in the ring.
    struct Standing {
        std::uint64_t position = 0;
        std::uint64_t events = 0;                         // in the ring up to there
        std::array<detail::Slot, hold_capacity> holds{};  // each one's last edge
    };

    Inlet(const TimelineOptions& options, const Place& place, detail::DeviceDirectory& directory);

    detail::Device* find_device(DeviceId id) noexcept;
    /// By the timeline's number; null if it is another inlet's, or there is none.
    const detail::Device* device_numbered(unsigned number) const noexcept {
        const unsigned place = number - place_.first_device;
        return place < place_.device_room && devices_[place].known_as.look() != 0 ? &devices_[place] : nullptr;
    }

    // Every event runs begin, one rule, finish.
    void begin(Time stamp) noexcept;
    std::uint32_t next_low(unsigned hold, bool is_virtual) noexcept;
    void begin_oddly(std::int64_t stamp) noexcept;
    std::int64_t accepted(std::int64_t stamp) noexcept;
    Outcome finish(Outcome outcome) noexcept;
    void show_holds() noexcept;
    void write(detail::SlotKind kind, const detail::Device& device, Button button, unsigned trait, unsigned hold,
               bool was_pressed) noexcept;
    void write_slot(detail::SlotKind kind, const detail::Device& device, unsigned button, unsigned hold,
                    bool was_pressed) noexcept;

    Outcome post_button(DeviceId id, Button button, bool down, Time when) noexcept;
    Outcome post_any_button(DeviceId id, Button button, bool down, bool marked, Time when) noexcept;
    Outcome post_state(DeviceId id, const ButtonSet* down, const AxisValues& axes, bool adopt, Time when) noexcept;
    Outcome post_motion(const Event& event) noexcept;
    void point_with(detail::Device& device, const Event& event) noexcept;
    template <unsigned known>
    Outcome post_moving(DeviceId id, const Moving& moving, Time when) noexcept;
    void publish_motions() noexcept;
    std::size_t write_plain_motions(const detail::Device& device, std::span<const MotionSample> samples) noexcept;
    template <unsigned known>
    void write_moving(detail::Device& device, const Moving& moving, Time when, bool is_extra) noexcept;
    struct AxisValue {
        unsigned axis;
        double value;
    };
    /// What an event does to a device's axes; bit n: axis n.
    struct AxisChanges {
        std::uint32_t touched = 0;            // heard, and another value than before or the first one
        std::uint32_t values = 0, shaped = 0;  // the value changed, the shaped value
    };
    Outcome post_axes(DeviceId id, std::span<const AxisValue> values, Time when) noexcept;
    Outcome post_contact(const Event& event) noexcept;
    Outcome post_pointer_flags(const Event& event) noexcept;
    static Outcome deaf(const detail::Device* device) noexcept;
    Outcome apply_connect(DeviceId id, const DeviceInfo& info) noexcept;
    Outcome apply_focus(bool has) noexcept;
    Outcome post_focus(bool has, const ButtonSet* down, Time when) noexcept;
    Outcome post_interrupt(const ButtonSet* down, Time when) noexcept;
    void adopt_desk(const ButtonSet& down) noexcept;

    bool edge(detail::SlotKind kind, detail::Device& device, Button button) noexcept;
    bool try_bind_hold(detail::Device& device, Button button) noexcept;
    ButtonSet down_on(const detail::Device& device) const noexcept;
    enum class Reach : std::uint8_t { device, foreground, everything };
    static bool reaches(Reach reach, const detail::Device* only, const detail::Device& device) noexcept;
    void cancel_all(Reach reach, detail::Device* device) noexcept;

    void write_fact(const detail::Device& device, detail::FactKind kind, unsigned place, unsigned button,
                    unsigned count, detail::FactSlot fact) noexcept;
    void write_pointer_flags(const detail::Device& device) noexcept;
    void write_press(detail::FactKind kind, unsigned place) noexcept;
    detail::FixedDistance point_of(const PointerPress& press) const noexcept;
    void track_button(detail::SlotKind kind, detail::Device& device, Button button) noexcept;
    void track_motion() noexcept;
    void cancel_presses(const detail::Device& device) noexcept;
    Outcome apply_contact(detail::Device& device, const Event& event) noexcept;
    void end_contact(unsigned place, detail::FactKind kind) noexcept;
    void write_contact(unsigned place, detail::FactKind kind) noexcept;
    Outcome apply_axes(detail::Device& device, const AxisValues& axes, bool adopting) noexcept;
    Outcome change_axis(detail::Device& device, AxisValue to, AxisChanges& changes) noexcept;
    bool try_bind_track(detail::Device& device, unsigned axis) noexcept;
    void write_axes(const detail::Device& device, const AxisChanges& changes, bool counts) noexcept;
    void write_undo(const detail::Device& device) noexcept;
    void reshape(detail::Device& device, AxisChanges& changes) noexcept;
    void update_axis_buttons(detail::Device& device, std::uint32_t touched, bool adopting) noexcept;
    void rest(detail::Device& device) noexcept;

    /// False, after a few tries, if the producer went round its whole history again and again meanwhile.
    bool try_read_standing(Standing& standing) const noexcept;

    // The producer's own.
    detail::Device* recent_device_;
    std::int64_t accepted_until_ = nanoseconds(latest_time);  // later stamps are looked at more closely
    std::int64_t ahead_limit_ = -1;                           // none
    std::int64_t stamp_ = 0;                                  // of the present event, as accepted
    std::uint64_t event_begin_ = 0;                           // where its slots begin
    std::uint64_t late_at_ = detail::in_time;                 // where its slot `late` stands
    unsigned late_slots_ = 0;                                 // how many of them
    std::uint64_t lone_axes_end_ = 0;                         // behind the last event that only the ring of axes has
    std::int64_t lone_axes_time_ = INT64_MIN;                 // of the last event that only the ring of axes has
    detail::SingleWriter<std::uint64_t> lone_axes_;           // how many there were
    detail::OneAtATime door_;
    Place place_;
    unsigned device_count_ = 0;
    unsigned next_hold_ = 0, holds_used_ = 0;
    PointerSettings pointer_settings_;
    detail::FixedDistance motion_{}, raw_{}, wheel_{};  // totals
    detail::FixedDistance pointer_{};                   // where the pointer is, if it is known
    bool pointer_known_ = false;
    bool pointer_fresh_ = false;                   // known since focus came, and since the pointer was locked or freed
    unsigned presses_held_ = 0;                    // of mouse buttons, in presses_
    std::array<std::int64_t, 2> wheel_carried_{};  // turned, but not yet a whole step
    std::array<std::uint32_t, 2> steps_{};
    std::uint64_t motion_counts_ = 0;  // as in slots
    std::array<PointerPress, press_capacity> presses_{};
    LastClick last_click_;
    std::array<Contact, contact_capacity> contacts_{};
    std::array<std::uint16_t, button_capacity> holders_{};  // merged: see merging.hpp
    std::array<Bound, hold_capacity> bound_{};
    detail::DeviceDirectory* directory_;

    // Written by the producer, read by anyone.
    detail::SingleWriter<std::int64_t> latest_;
    detail::SingleWriter<std::uint64_t> extra_slots_;    // in the ring of edges, beyond one for each event
    detail::SingleWriter<std::uint64_t> beside_;         // goes up whenever anything is published beside edges
    detail::SingleWriter<std::uint64_t> extra_motions_;  // in the ring of motion, of events counted elsewhere
    std::array<detail::SingleWriter<std::uint64_t>, outcome_count> outcomes_{};
    detail::SingleWriter<std::uint64_t> backdated_, clamped_, limited_, ahead_;
    detail::SingleWriter<bool> focused_{true};
    detail::SingleWriter<std::uint64_t> locks_;  // as in a fact
    detail::SingleWriter<std::int64_t> complete_until_;
    std::unique_ptr<detail::Device[]> devices_;
    detail::EdgeRing ring_;
    detail::HoldTable holds_;
    detail::MotionRing motions_;
    detail::AxisRing axes_;
    detail::FactRing facts_;
    detail::SlotTable<detail::AxisSlot> axis_table_;
    detail::TrackTable tracks_;
    detail::SlotTable<detail::FactSlot> contact_table_;
};

}  // namespace cursorum
