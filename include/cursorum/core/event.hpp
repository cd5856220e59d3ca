// Events: raw facts with a time, and the outcomes of posting them.
#pragma once

#include <array>
#include <cstdint>
#include <string_view>

#include "cursorum/core/axis.hpp"
#include "cursorum/core/button_set.hpp"
#include "cursorum/core/control.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/shaping.hpp"
#include "cursorum/core/space.hpp"
#include "cursorum/core/time.hpp"

namespace cursorum {

/// A device's number, chosen by whoever connects it, unique in its timeline. It stays reserved after a disconnect.
enum class DeviceId : std::uint32_t {};

enum class DeviceKind : std::uint8_t { keyboard, mouse, gamepad, touch };

/// Values of some of a device's axes.
struct AxisValues {
    std::array<double, axis_kinds> values{};
    std::uint32_t present = 0;  ///< bit n: the value of axis n is present

    constexpr void set(Axis axis, double value) noexcept {
        if (axis.number >= axis_kinds) return;
        values[axis.number] = value;
        present |= 1U << axis.number;
    }
    constexpr bool has(unsigned axis) const noexcept { return (present >> axis & 1) != 0; }
};

/// What is known of a device when it connects.
struct DeviceInfo {
    DeviceKind kind = DeviceKind::keyboard;
    std::string_view name{};            ///< UTF-8, for people; copied, cut at 63 bytes
    bool marks_repeats = false;         ///< its source distinguishes system repeats from presses (Event::system_repeat)
    bool background = false;            ///< exempt from focus
    bool is_virtual = false;            ///< a script or a bot instead of a person
    bool first_contact_points = false;  ///< its first contact acts as a mouse: position, motion, MouseLeft
    std::uint16_t vendor = 0, product = 0;  ///< USB numbers; 0 if unknown
    ButtonSet buttons{};                    ///< the buttons that it has; empty if unknown
    std::uint32_t axes = 0;                 ///< bit n: it has axis n; 0 if it has none, or if unknown
};

/// What a contact on a touch surface did.
enum class ContactPhase : std::uint8_t { begin, move, end, cancel };

enum class EventType : std::uint8_t {
    connect,
    disconnect,
    button,
    state,
    focus,
    interrupt,
    motion,
    wheel,
    axis,
    locks,
    text,
    pointer,  ///< outside or inside the window, locked to it or free
    contact,  ///< on a touch surface
    shaping   ///< how a device's sticks and triggers are shaped from then on
};

/// One raw fact. A plain value; its texts must stay valid until the event is posted.
struct CURSORUM_API Event {
    Time time;
    EventType type = EventType::button;
    DeviceId device{};              ///< all but focus, interrupt, locks and text
    DeviceInfo info;                ///< connect
    Button control;                 ///< button
    bool down = false;              ///< button
    bool system_repeat = false;     ///< button: the operating system's own repeated key-down
    bool has_down_set = false;      ///< state: `down_set` is present; otherwise the buttons are unchanged
    bool adopt = false;             ///< state: differences are adopts and cancels
    ButtonSet down_set;             ///< state: all buttons that are down; locks: all locks that are on
    bool focused = false;           ///< focus
    bool has_motion = false;        ///< motion: dx, dy are present
    bool has_position = false;      ///< motion: x, y are present
    bool has_raw = false;           ///< motion: raw_dx, raw_dy are present
    bool warp = false;              ///< motion: a program moved the pointer to x, y, which does not count as motion
    double dx = 0, dy = 0;          ///< motion: the source's pixels or counts; wheel: detents, right and away positive
    double x = 0, y = 0;            ///< motion, contact: position
    double raw_dx = 0, raw_dy = 0;  ///< motion: counts, before the system's acceleration
    Axis axis;                      ///< axis
    double value = 0;               ///< axis; contact: pressure
    AxisValues axes;                ///< state: the axes that are present; others are unchanged
    std::uint32_t contact = 0;      ///< contact: its id, unique among those on the surface
    ContactPhase phase{};           ///< contact
    bool has_inside = false, inside = true;   ///< pointer
    bool has_locked = false, locked = false;  ///< pointer
    DeviceShaping shaping;                    ///< shaping: all of it
    std::string_view text;                    ///< text: what was typed; interrupt: the reason

    static Event connect(Time time, DeviceId device, const DeviceInfo& info) noexcept {
        Event event = of(time, EventType::connect, device);
        event.info = info;
        return event;
    }
    static Event disconnect(Time time, DeviceId device) noexcept { return of(time, EventType::disconnect, device); }
    static Event button(Time time, DeviceId device, Button control, bool down, bool system_repeat = false) noexcept {
        Event event = of(time, EventType::button, device);
        event.control = control;
        event.down = down;
        event.system_repeat = system_repeat;
        return event;
    }
    static Event state(Time time, DeviceId device, const ButtonSet& down, bool adopt = false) noexcept {
        Event event = of(time, EventType::state, device);
        event.has_down_set = true;
        event.down_set = down;
        event.adopt = adopt;
        return event;
    }
    static Event focus(Time time, bool focused) noexcept {
        Event event = of(time, EventType::focus, {});
        event.focused = focused;
        return event;
    }
    static Event axis_value(Time time, DeviceId device, Axis axis, double value) noexcept {
        Event event = of(time, EventType::axis, device);
        event.axis = axis;
        event.value = value;
        return event;
    }
    static Event interrupt(Time time) noexcept { return of(time, EventType::interrupt, {}); }
    static Event motion(Time time, DeviceId device, Distance by) noexcept {
        Event event = of(time, EventType::motion, device);
        event.has_motion = true;
        event.dx = by.x;
        event.dy = by.y;
        return event;
    }
    static Event moved_to(Time time, DeviceId device, WindowPoint place) noexcept {
        Event event = of(time, EventType::motion, device);
        event.has_position = true;
        event.x = place.x;
        event.y = place.y;
        return event;
    }
    static Event wheel(Time time, DeviceId device, Distance turned) noexcept {
        Event event = of(time, EventType::wheel, device);
        event.dx = turned.x;
        event.dy = turned.y;
        return event;
    }
    static Event pointer_inside(Time time, DeviceId device, bool inside) noexcept {
        Event event = of(time, EventType::pointer, device);
        event.has_inside = true;
        event.inside = inside;
        return event;
    }
    static Event pointer_locked(Time time, DeviceId device, bool locked) noexcept {
        Event event = of(time, EventType::pointer, device);
        event.has_locked = true;
        event.locked = locked;
        return event;
    }
    static Event shaped(Time time, DeviceId device, const DeviceShaping& shaping) noexcept {
        Event event = of(time, EventType::shaping, device);
        event.shaping = shaping;
        return event;
    }
    /// `text` must live until the event is posted.
    static Event typed(Time time, std::string_view text) noexcept {
        Event event = of(time, EventType::text, {});
        event.text = text;
        return event;
    }

    static Event of(Time time, EventType type, DeviceId device) noexcept {
        Event event;
        event.time = time;
        event.type = type;
        event.device = device;
        return event;
    }
};

/// What an inlet made of an event, and by which rule. Posting functions return it; most callers can ignore it.
enum class Outcome : std::uint8_t {
    press,              ///< down while up
    release,            ///< up while down
    system_repeat,      ///< down while down, marked, or from a device that does not mark: counted, no edge
    lost_release,       ///< down while down, unmarked, from a device that marks: a cancel, then a press
    adopted_repeat,     ///< marked as system repeat while up: an adopt, and a system repeat
    state_taken,        ///< polled state: differences are presses and releases
    state_adopted,      ///< polled state, first after connect, focus gain or interruption, or marked: adopts, cancels
    contact_restarted,  ///< a contact began again without an end: a cancel, then a new contact
    connected,          ///< a device connected
    disconnected,       ///< a device disconnected: its buttons are cancelled
    focus_gained,       ///< the next state of each device in the foreground will be adopted
    focus_lost,         ///< buttons of devices in the foreground are cancelled
    focus_unchanged,    ///< the focus was already as reported: nothing changes
    interrupted,        ///< everything on every device is cancelled
    taken,              ///< motion, wheel, axis, shaping, locks, text: taken at its time; no button changes
    stray_release,      ///< up while up
    stray_device,       ///< an event of an unknown or disconnected device
    stray_connect,      ///< connect of a device that is already connected
    stray_kind,         ///< an id that came back as another kind of device
    stray_inlet,        ///< connect of a device that belongs to another inlet
    stray_contact,      ///< an event of an unknown contact
    ignored,            ///< posted while the window had no focus
    refused_devices,    ///< more devices than there is room for
    refused_holds,      ///< more buttons down at once than there is room for (hold_capacity)
    refused_control,    ///< a number without a name, or an either-side name
    refused_value,      ///< NaN, infinity, a number out of range, or an invalid shaping
    refused_axes,       ///< more axes of devices than there is room for (axis_capacity)
    refused_contacts,   ///< more contacts at once than there is room for (contact_capacity)
    unchanged           ///< a level that was known already: nothing is posted
};

inline constexpr unsigned outcome_count = static_cast<unsigned>(Outcome::unchanged) + 1;

/// The rule in a short English sentence, for messages.
CURSORUM_API std::string_view describe(Outcome outcome) noexcept;

/// The words of the recording format: "keyboard", "connect" …
CURSORUM_API std::string_view name_of(DeviceKind kind) noexcept;
CURSORUM_API std::string_view name_of(EventType type) noexcept;
CURSORUM_API std::string_view name_of(ContactPhase phase) noexcept;

/// Anything that takes events from a source, such as an inlet, a recorder or a test.
class CURSORUM_API EventTaker {
public:
    virtual void take(const Event& event) = 0;

protected:
    EventTaker() = default;
    EventTaker(const EventTaker&) = default;
    EventTaker& operator=(const EventTaker&) = default;
    ~EventTaker() = default;
};

}  // namespace cursorum
