// Events: raw facts with a time.
#pragma once

#include <array>
#include <cstdint>
#include <string_view>

#include "cursorum/core/axis.hpp"
#include "cursorum/core/button_set.hpp"
#include "cursorum/core/control.hpp"
#include "cursorum/core/cursor_state.hpp"
#include "cursorum/core/device.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/outcome.hpp"
#include "cursorum/core/shaping.hpp"
#include "cursorum/core/space.hpp"
#include "cursorum/core/text_reading.hpp"
#include "cursorum/core/time.hpp"

namespace cursorum {

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
    DeviceId device{};              ///< all but focus, interrupt and locks; text: 0 if unknown
    DeviceInfo info;                ///< connect
    Button control;                 ///< button; text: the key that made it, or 0
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
    bool has_inside = false, inside = true;  ///< pointer
    bool has_cursor = false;                 ///< pointer: all of the cursor's state is present
    CursorState cursor_state;                ///< pointer
    DeviceShaping shaping;                   ///< shaping: all of it
    std::string_view text;                   ///< text: what was typed; interrupt: the reason
    TextPhase text_phase{};                  ///< text
    unsigned caret = 0;                      ///< text that is being composed: the caret's place, in bytes

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
    static Event cursor(Time time, DeviceId device, const CursorState& state) noexcept {
        Event event = of(time, EventType::pointer, device);
        event.has_cursor = true;
        event.cursor_state = state;
        return event;
    }
    static Event shaped(Time time, DeviceId device, const DeviceShaping& shaping) noexcept {
        Event event = of(time, EventType::shaping, device);
        event.shaping = shaping;
        return event;
    }
    /// `text` must live until the event is posted.
    static Event typed(Time time, std::string_view text, Button key = {}) noexcept {
        Event event = of(time, EventType::text, {});
        event.text = text;
        event.control = key;
        return event;
    }
    static Event composed(Time time, TextPhase phase, std::string_view text, unsigned caret = 0) noexcept {
        Event event = typed(time, text);
        event.text_phase = phase;
        event.caret = caret;
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

/// The words of the recording format: "keyboard", "connect" …
CURSORUM_API std::string_view name_of(EventType type) noexcept;

/// Anything that takes events from a source, such as an inlet, a recorder or a test.
class CURSORUM_API EventSink {
public:
    virtual void take(const Event& event) = 0;

protected:
    EventSink() = default;
    EventSink(const EventSink&) = default;
    EventSink& operator=(const EventSink&) = default;
    ~EventSink() = default;
};

}  // namespace cursorum
