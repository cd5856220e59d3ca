// Events of the X server as plain values: what XInput 2 packs into masks and fixed-point arrays is unpacked here, with
// every length checked.
#include "sources/x11_events.hpp"

#include "cursorum/core/controls.hpp"
#include "sources/x11_layout.hpp"

// The protocol's header calls a member as C++ calls a keyword.
#define explicit explicit_
#include <xcb/xkb.h>
#undef explicit

namespace cursorum::x11 {
namespace {

Valuators valuators_of(const std::uint32_t* mask, int words, const xcb_input_fp3232_t* values,
                       const xcb_input_fp3232_t* unaccelerated) noexcept {
    Valuators all;
    unsigned next = 0;
    for (unsigned number = 0; number < static_cast<unsigned>(words) * 32; ++number) {
        if ((mask[number / 32] >> (number % 32) & 1) == 0) continue;
        if (number < most_valuators) {
            all.mask |= 1U << number;
            all.values[number] = from_fixed(values[next]);
            if (unaccelerated) all.unaccelerated[number] = from_fixed(unaccelerated[next]);
        }
        ++next;
    }
    return all;
}

/// The members that window events and raw events have in common.
template <typename XEvent>
Input common(const XEvent& e, InputKind kind, bool down) noexcept {
    Input input;
    input.kind = kind;
    input.sequence = e.full_sequence;
    input.device = e.deviceid;
    input.source = e.sourceid;
    input.time = e.time;
    input.detail = e.detail;
    input.down = down;
    input.emulated = kind != InputKind::key && (e.flags & XCB_INPUT_POINTER_EVENT_FLAGS_POINTER_EMULATED) != 0;
    return input;
}

Input of_window(const xcb_generic_event_t& event, InputKind kind, bool down) noexcept {
    const auto& e = reinterpret_cast<const xcb_input_button_press_event_t&>(event);
    Input input = common(e, kind, down);
    input.repeat = kind == InputKind::key && (e.flags & XCB_INPUT_KEY_EVENT_FLAGS_KEY_REPEAT) != 0;
    input.x = from_fixed(e.event_x), input.y = from_fixed(e.event_y);
    input.root_x = from_fixed(e.root_x), input.root_y = from_fixed(e.root_y);
    if (kind == InputKind::key)
        input.keyboard = {e.mods.base, e.mods.latched, e.mods.locked, e.group.base, e.group.latched, e.group.locked};
    if (kind == InputKind::motion)
        input.valuators = valuators_of(xcb_input_button_press_valuator_mask(&e), e.valuators_len,
                                       xcb_input_button_press_axisvalues(&e), nullptr);
    return input;
}

Input of_root(const xcb_generic_event_t& event, InputKind kind, bool down) noexcept {
    const auto& e = reinterpret_cast<const xcb_input_raw_button_press_event_t&>(event);
    Input input = common(e, kind, down);
    input.raw = true;
    if (kind == InputKind::raw_motion)
        input.valuators =
            valuators_of(xcb_input_raw_button_press_valuator_mask(&e), e.valuators_len,
                         xcb_input_raw_button_press_axisvalues(&e), xcb_input_raw_button_press_axisvalues_raw(&e));
    return input;
}

}  // namespace

Button button_of_key(std::uint32_t keycode) noexcept {
    return keycode < 8 ? Button{} : button_of_linux_code(keycode - 8);
}

Button button_of_mouse(std::uint32_t number) noexcept {
    using namespace controls;
    switch (number) {
        case 0: return {};
        case 1: return MouseLeft;
        case 2: return MouseMiddle;
        case 3: return MouseRight;
        default: break;
    }
    // From 8 on, buttons follow in the order of their Linux codes, back (0x113) first.
    return number < 8 ? Button{} : button_of_linux_code(0x113 + number - 8);
}

std::optional<Input> decode(const xcb_generic_event_t& event, std::uint8_t extension,
                            std::uint8_t keyboard_event) noexcept {
    Input input;
    input.sequence = event.full_sequence;
    const std::uint8_t type = event.response_type & 0x7F;
    if (keyboard_event != 0 && type == keyboard_event) {
        const auto& e = reinterpret_cast<const xcb_xkb_indicator_state_notify_event_t&>(event);
        if (changes_key_layout(event)) {
            input.kind = InputKind::layout;
            return input;
        }
        if (e.xkbType != XCB_XKB_INDICATOR_STATE_NOTIFY) return std::nullopt;
        input.kind = InputKind::lamps;
        input.time = e.time;
        input.detail = e.state;
        return input;
    }
    if (type == XCB_DESTROY_NOTIFY) {
        input.kind = InputKind::destroyed;
        input.detail = reinterpret_cast<const xcb_destroy_notify_event_t&>(event).window;
        return input;
    }
    if (type != XCB_GE_GENERIC) return std::nullopt;
    const auto& generic = reinterpret_cast<const xcb_ge_generic_event_t&>(event);
    if (generic.extension != extension) return std::nullopt;
    switch (generic.event_type) {
        case XCB_INPUT_KEY_PRESS: return of_window(event, InputKind::key, true);
        case XCB_INPUT_KEY_RELEASE: return of_window(event, InputKind::key, false);
        case XCB_INPUT_BUTTON_PRESS: return of_window(event, InputKind::button, true);
        case XCB_INPUT_BUTTON_RELEASE: return of_window(event, InputKind::button, false);
        case XCB_INPUT_MOTION: return of_window(event, InputKind::motion, false);
        case XCB_INPUT_RAW_KEY_PRESS: return of_root(event, InputKind::key, true);
        case XCB_INPUT_RAW_KEY_RELEASE: return of_root(event, InputKind::key, false);
        case XCB_INPUT_RAW_BUTTON_PRESS: return of_root(event, InputKind::button, true);
        case XCB_INPUT_RAW_BUTTON_RELEASE: return of_root(event, InputKind::button, false);
        case XCB_INPUT_RAW_MOTION: return of_root(event, InputKind::raw_motion, false);
        case XCB_INPUT_ENTER:
        case XCB_INPUT_LEAVE:
        case XCB_INPUT_FOCUS_IN:
        case XCB_INPUT_FOCUS_OUT: {
            const auto& e = reinterpret_cast<const xcb_input_enter_event_t&>(event);
            input.focus_in = generic.event_type == XCB_INPUT_FOCUS_IN;
            input.kind = generic.event_type == XCB_INPUT_ENTER   ? InputKind::enter
                         : generic.event_type == XCB_INPUT_LEAVE ? InputKind::leave
                                                                 : InputKind::focus;
            input.device = e.deviceid;
            input.source = e.sourceid;
            input.time = e.time;
            input.mode = e.mode;
            input.detail_of_focus = e.detail;
            input.x = from_fixed(e.event_x), input.y = from_fixed(e.event_y);
            input.root_x = from_fixed(e.root_x), input.root_y = from_fixed(e.root_y);
            return input;
        }
        case XCB_INPUT_HIERARCHY: {
            const auto& e = reinterpret_cast<const xcb_input_hierarchy_event_t&>(event);
            input.kind = InputKind::hierarchy;
            input.time = e.time;
            input.detail = e.flags;
            return input;
        }
        default: return std::nullopt;
    }
}

}  // namespace cursorum::x11
