// Inlets: where events are posted.
#pragma once

#include <concepts>
#include <cstdint>
#include <optional>
#include <span>

#include "cursorum/core/button_set.hpp"
#include "cursorum/core/cursor_state.hpp"
#include "cursorum/core/device.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/inlet_counters.hpp"
#include "cursorum/core/outcome.hpp"
#include "cursorum/core/space.hpp"
#include "cursorum/core/text_reading.hpp"
#include "cursorum/core/time.hpp"

namespace cursorum {

struct DeviceShaping;
struct Event;

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
    explicit constexpr UnknownState(int) noexcept {}  // so that `{}` means no buttons
};
inline constexpr UnknownState unknown_state{0};

/// For TimelineOptions::ledger: 4 MB.
inline constexpr std::uint32_t half_a_minute = 1U << 22;

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
    std::uint32_t occasion_history = 512;
    /// Texts in each inlet's history, likewise, at least 64; 64 bytes for each 40 bytes of a text. A sampler that falls
    /// farther behind loses text, and counts an overrun.
    std::uint32_t text_history = 128;
    /// Bytes in which each inlet keeps its events as they were posted, also those that were ignored or refused, for
    /// RecentInput: half a minute of a keyboard, a mouse and two pads at 1,000 events per second fits into
    /// half_a_minute. Rounded up to a power of two, 16 KB to 1 GB; 0: none, which costs nothing. An event of a button
    /// takes 16 bytes, of an axis or of motion 24. It then costs up to 4 ns more.
    std::uint32_t ledger = 0;
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
class CURSORUM_API Inlet {
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
    /// position (zero for the first position after a connect or a focus gain). The space has to be named,
    /// `desk.moved_to(WindowPoint{x, y})`: a place in the window is easily mistaken for one on the screen, or for a
    /// distance, and those do not compile.
    template <std::same_as<WindowPoint> Place>
    Outcome moved_to(Place place, Time when = Clock::now()) noexcept {
        return move_to(desk_mouse, place, when);
    }
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
    /// change. An engine that cannot ask which buttons are down leaves this out: a hold that goes on would count twice.
    Outcome interrupt(const ButtonSet& down, Time when = Clock::now()) noexcept;

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
    template <std::same_as<WindowPoint> Place>
    Outcome moved_to(DeviceId device, Place place, Time when = Clock::now()) noexcept {
        return move_to(device, place, when);
    }
    /// A program moved the pointer to that position. This does not count as motion.
    template <std::same_as<WindowPoint> Place>
    Outcome warped_to(DeviceId device, Place place, Time when = Clock::now()) noexcept {
        return warp_to(device, place, when);
    }
    /// Several motions at once, as a fast mouse reports them. Each is an event of its own, but they are published
    /// together. Returns the last one's outcome.
    Outcome motions(DeviceId device, std::span<const MotionSample> samples) noexcept;
    /// The pointer entered the window or left it.
    Outcome pointer_inside(DeviceId device, bool inside, Time when = Clock::now()) noexcept;
    /// The cursor's present state: free, kept in the window or locked (it then has motion, but no position), and
    /// hidden. A source posts it after each change, also when the loss of the focus frees it.
    Outcome cursor(DeviceId device, const CursorState& state, Time when = Clock::now()) noexcept;
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

    /// Text was entered: what the system made of a key, with its layout and dead keys. Pass the key that made it:
    /// whoever got its press gets the text, too, so that the key that opens a text field types nothing into it. Without
    /// a key, it is that of the key whose press or system repeat was posted last on this inlet, if nothing of a button
    /// was posted after that and it is less than 50 ms old. UTF-8; a text that is malformed, is longer than
    /// text_capacity or has control characters (other than tabs and line feeds) is refused. Ignored without focus.
    Outcome typed(std::string_view text, Button key = {}, Time when = Clock::now()) noexcept;
    /// What an input method does before text is entered: begin, change, commit, cancel. `caret`: a position in the
    /// text, in bytes. Focus loss cancels a composition. The beginning may be omitted; an end without a beginning has
    /// no effect.
    Outcome compose(TextPhase phase, std::string_view text, unsigned caret = 0, Time when = Clock::now()) noexcept;

    /// Posts any event, as sources and recordings give them.
    Outcome post(const Event& event) noexcept;

    /// How far ahead of Clock::now() a stamp may lie. A later one is replaced by now + limit when it is posted, and
    /// counted as `ahead`. The default, no limit, suits recordings and clocks other than Clock; Cursorum's live sources
    /// set 10 ms. Without a limit, an event stamped by a wrong clock holds back all events behind it until a cut
    /// reaches its stamp (SamplerCounters::held_back). Cost: the clock is read only when a stamp is later than any
    /// accepted since the last reading.
    void set_ahead_limit(std::optional<Duration> limit) noexcept;

    /// For sources: reports how often a buffer in front of the inlet has overflowed so far, and how many connected
    /// devices the source does not read at present. counters() returns both; InputCheck mentions them.
    void set_source_losses(std::uint64_t overflows, std::uint64_t unread_devices) noexcept;

    /// Reports that everything stamped up to `until` has been posted. Earlier times than before are ignored. A producer
    /// calls this once in each iteration of its loop, after posting, and with `latest_time` when it ends. A consumer
    /// that cuts no later than Timeline::complete_until() never gets late events from producers that report correctly.
    void set_complete_until(Time until) noexcept;

    // From any thread.

    /// The time reported last; earliest_time if none has been reported.
    Time complete_until() const noexcept;
    InletCounters counters() const noexcept;
    /// How many events had that outcome. `unchanged` is not counted.
    std::uint64_t count(Outcome outcome) const noexcept;
    bool has_focus() const noexcept;
    /// Returns whether the device is connected to this inlet.
    bool is_connected(DeviceId device) const noexcept;
    /// A number that no device of the timeline has, or had: `wanted`, or else that plus 1000, 2000 and so on. For a
    /// source's devices.
    DeviceId free_device(DeviceId wanted) const noexcept;
    /// The same for the device described; but one that an equal device of this inlet (kind, name, USB numbers) had and
    /// that is not connected now is taken before: it comes back. So a source that is opened anew has its old numbers.
    DeviceId free_device(DeviceId wanted, const DeviceInfo& info) const noexcept;
    /// The latest stamp posted; earliest_time before the first event.
    Time latest() const noexcept;

protected:
    Inlet() = default;  // by its timeline
    ~Inlet() = default;

private:
    Outcome move_to(DeviceId device, WindowPoint place, Time when) noexcept;
    Outcome warp_to(DeviceId device, WindowPoint place, Time when) noexcept;
};

}  // namespace cursorum
