// Where events go in.
#pragma once

#include <array>
#include <cstdint>
#include <memory>
#include <vector>

#include "cursorum/core/detail/slot_ring.hpp"
#include "cursorum/core/event.hpp"

namespace cursorum {

class Frame;
class Sampler;
class Timeline;

/// So many buttons, all devices of a timeline together, can be down at once. A press beyond is refused and counted.
inline constexpr unsigned hold_capacity = 512;

/// How much a timeline makes room for. Everything is allocated when the timeline is constructed.
struct TimelineOptions {
    /// Devices known at once, 1 to 64; each takes 0.9 KB.
    unsigned devices = 8;
    /// Slots of history, rounded up to a power of two, at least 4,096; 16 bytes each. An event takes one slot (a Shift
    /// key's two, a focus loss one for each button it cancels). A sampler that falls farther behind than this is
    /// overrun, and heals.
    std::uint32_t history = 4096;
    /// The desk begins with a keyboard (device 1, which does not mark system repeats) and a mouse (device 2).
    /// Without them it begins with no device.
    bool desk_devices = true;
};

/// What an inlet has counted since it was made. Strays, ignored and refused events change nothing but time.
struct InletCounters {
    std::uint64_t events = 0;          ///< all that were posted
    std::uint64_t strays = 0;          ///< releases of what was up; events of unknown or disconnected devices …
    std::uint64_t ignored = 0;         ///< without focus
    std::uint64_t refused = 0;         ///< no room, or no such control
    std::uint64_t system_repeats = 0;  ///< the operating system's own, never a press
    std::uint64_t lost_releases = 0;   ///< presses that proved that a release had been lost
    std::uint64_t backdated = 0;       ///< stamped earlier than an event posted before
    std::uint64_t clamped = 0;         ///< stamped outside earliest_time … latest_time
};

/// One producer's way into a timeline. The rules run here, once, when an event is posted: the inlet knows what is down
/// on its devices, decides what an event is, and writes the edges that follow into its ring.
///
/// Threads: one thread posts. Samplers read on the same thread.
/// Cost: about 20 ns an event; nothing allocates, throws, locks or waits. Focus loss, disconnect, interruption and
/// polled states cost by the buttons that are down.
/// Order: events are taken in the order posted. One stamped earlier than its predecessor takes effect at the
/// predecessor's time and is counted as late by every sampler.
class Inlet {
public:
    Inlet(const Inlet&) = delete;
    Inlet& operator=(const Inlet&) = delete;

    // The desk's keyboard and mouse, for an engine's own callbacks. Mouse buttons go to the mouse, all else to the
    // keyboard. Stamped with the present unless a time is given.

    /// A key or mouse button went down or up.
    Outcome button(Button control, bool down, Time when = Clock::now()) noexcept;
    /// The operating system repeated a held key and said so. Where it does not say so, post button(control, true).
    Outcome system_repeat(Button control, Time when = Clock::now()) noexcept;
    /// The mouse moved, in pixels or counts, right and down positive. Taken at its time; frames tell no motion yet.
    Outcome motion(double dx, double dy, Time when = Clock::now()) noexcept;
    /// The wheel turned, in detents, right and away from the person positive. Likewise.
    Outcome wheel(double dx, double dy, Time when = Clock::now()) noexcept;
    /// The program's window gained or lost the keyboard's attention. On loss all buttons are cancelled; until it comes
    /// back, what is posted is ignored. On gain, post focus first and then the true states.
    Outcome focus(bool has, Time when = Clock::now()) noexcept;
    /// The machine slept, a debugger held the program, a modal box swallowed input: everything down is cancelled.
    Outcome interrupt(Time when = Clock::now()) noexcept;

    // Any device.

    Outcome connect(DeviceId device, const DeviceInfo& info, Time when = Clock::now()) noexcept;
    Outcome disconnect(DeviceId device, Time when = Clock::now()) noexcept;
    Outcome button(DeviceId device, Button control, bool down, Time when = Clock::now()) noexcept;
    Outcome system_repeat(DeviceId device, Button control, Time when = Clock::now()) noexcept;
    /// All buttons that are down on the device right now, as polled. Differences from what was known are presses and
    /// releases; after connect, focus gain and interruption, or with `adopt`, they are adopts and cancels.
    Outcome state(DeviceId device, const ButtonSet& down, Time when = Clock::now(), bool adopt = false) noexcept;
    /// Any event, as sources and recordings give them. Motion, wheel, axis, locks and text are taken at their time.
    Outcome post(const Event& event) noexcept;

    InletCounters counters() const noexcept;
    bool has_focus() const noexcept { return focused_; }
    /// The latest stamp posted; earliest_time before the first event.
    Time latest() const noexcept { return Time{Duration{latest_}}; }

private:
    friend class Sampler;
    friend class Frame;
    friend class Timeline;

    /// A button held on a device. The entry stays bound to that button and device until the room is needed.
    struct Hold {
        std::int64_t start = 0;
        std::uint16_t button = 0;
        std::uint8_t device = 0;
        bool pressed = false;
        bool down = false;
    };
    struct Device {
        DeviceId id{};
        DeviceKind kind{};
        std::uint8_t number = 0;  // its place in devices_
        bool connected = false;
        bool listens = false;  // connected, and in focus or in the background
        bool marks_repeats = false;
        bool background = false;
        bool is_virtual = false;
        bool adopt_next = false;
        std::uint8_t name_size = 0;
        std::array<char, 63> name{};
        ButtonSet down;
        std::array<std::uint16_t, button_capacity> hold_of;  // its place in holds_
    };
    // In Device::hold_of: it was never down; or its hold has gone to another button since.
    static constexpr std::uint16_t never_held = 0xFFFF, hold_lost = 0xFFFE;

    explicit Inlet(const TimelineOptions& options);

    Device* find_device(DeviceId id) noexcept;
    std::string_view device_name(unsigned device) const noexcept;

    // Every event runs begin, one rule, finish.
    std::uint64_t events() const noexcept;
    void begin(Time stamp) noexcept;
    Outcome finish(Outcome outcome) noexcept;
    void write(detail::SlotKind kind, const Device& device, Button button, unsigned hold, bool was_pressed) noexcept;
    void write_slot(detail::SlotKind kind, const Device& device, unsigned button, unsigned hold,
                    bool was_pressed) noexcept;

    Outcome post_button(DeviceId id, Button button, bool down, bool marked, Time when) noexcept;
    Outcome post_state(DeviceId id, const ButtonSet* down, bool adopt, Time when) noexcept;
    Outcome post_plain(DeviceId id, Time when) noexcept;
    static Outcome deaf(const Device* device) noexcept;
    Outcome down_again(Device& device, Button button, bool marked) noexcept;
    Outcome apply_state(Device& device, const ButtonSet& down, bool adopting) noexcept;
    Outcome apply_connect(DeviceId id, const DeviceInfo& info) noexcept;
    Outcome apply_focus(bool has) noexcept;
    void add_device(DeviceId id, const DeviceInfo& info) noexcept;
    void take_info(Device& device, const DeviceInfo& info) noexcept;

    bool edge(detail::SlotKind kind, Device& device, Button button) noexcept;
    unsigned try_bind_hold(Device& device, Button button) noexcept;
    unsigned try_rebind_hold(Device& device, Button button) noexcept;
    enum class Reach : std::uint8_t { device, foreground, everything };
    void cancel_all(Reach reach, const Device* device) noexcept;

    detail::SlotRing ring_;
    std::vector<Device> devices_;  // capacity reserved at construction
    unsigned device_room_;
    Device* recent_device_ = nullptr;  // devices_ never moves
    std::array<Hold, hold_capacity> holds_{};
    unsigned next_hold_ = 0;
    std::int64_t latest_;
    std::array<std::uint16_t, button_capacity> holders_{};  // merged: see merging.hpp
    bool focused_ = true;
    std::uint64_t backdated_ = 0, clamped_ = 0;
    std::array<std::uint64_t, outcome_count> outcomes_{};
};

}  // namespace cursorum
