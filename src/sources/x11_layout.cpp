// The keyboard layout of an X server, by xkbcommon: which symbol each key has without modifiers, read again when the
// server reports a change.
#include "sources/x11_layout.hpp"

// The header has a member of that name.
#define explicit explicit_
#include <xcb/xkb.h>
#undef explicit
#include <xkbcommon/xkbcommon-x11.h>

#include <array>
#include <memory>

#include "sources/x11_events.hpp"

namespace cursorum::x11 {
namespace {

template <auto release>
struct Release {
    template <typename T>
    void operator()(T* it) const noexcept {
        release(it);
    }
};
using Context = std::unique_ptr<xkb_context, Release<xkb_context_unref>>;
using Keymap = std::unique_ptr<xkb_keymap, Release<xkb_keymap_unref>>;
using State = std::unique_ptr<xkb_state, Release<xkb_state_unref>>;

}  // namespace

KeyLayout read_key_layout(xcb_connection_t* connection) {
    const Context context{xkb_context_new(XKB_CONTEXT_NO_FLAGS)};
    if (!context ||
        xkb_x11_setup_xkb_extension(connection, XKB_X11_MIN_MAJOR_XKB_VERSION, XKB_X11_MIN_MINOR_XKB_VERSION,
                                    XKB_X11_SETUP_XKB_EXTENSION_NO_FLAGS, nullptr, nullptr, nullptr, nullptr) == 0)
        return {};
    const std::int32_t device = xkb_x11_get_core_keyboard_device_id(connection);
    if (device < 0) return {};
    const Keymap keymap{xkb_x11_keymap_new_from_device(context.get(), connection, device, XKB_KEYMAP_COMPILE_NO_FLAGS)};
    const State state{keymap ? xkb_x11_state_new_from_device(keymap.get(), connection, device) : nullptr};
    if (!state) return {};
    KeyLayout layout = KeyLayout::empty();
    for (xkb_keycode_t code = 8; code < 256; ++code) {
        const Button key = button_of_key(code);
        const xkb_layout_index_t in_force = xkb_state_key_get_layout(state.get(), code);
        if (!KeyLayout::is_writing_key(key) || in_force == XKB_LAYOUT_INVALID) continue;
        const xkb_keysym_t* symbols = nullptr;
        std::array<char, 8> text{};
        if (xkb_keymap_key_get_syms_by_level(keymap.get(), code, in_force, 0, &symbols) == 1 &&
            xkb_keysym_to_utf8(symbols[0], text.data(), text.size()) > 0)
            layout.set(key, text.data());
    }
    return layout;
}

void watch_key_layout(xcb_connection_t* connection) {
    constexpr std::uint16_t events =
        XCB_XKB_EVENT_TYPE_NEW_KEYBOARD_NOTIFY | XCB_XKB_EVENT_TYPE_MAP_NOTIFY | XCB_XKB_EVENT_TYPE_STATE_NOTIFY;
    constexpr std::uint16_t parts = XCB_XKB_MAP_PART_KEY_TYPES | XCB_XKB_MAP_PART_KEY_SYMS;
    xcb_xkb_select_events(connection, XCB_XKB_ID_USE_CORE_KBD, events, 0, events, parts, parts, nullptr);
    xcb_flush(connection);
}

bool changes_key_layout(const xcb_generic_event_t& event) noexcept {
    const auto& e = reinterpret_cast<const xcb_xkb_state_notify_event_t&>(event);
    switch (e.xkbType) {
        case XCB_XKB_NEW_KEYBOARD_NOTIFY:
        case XCB_XKB_MAP_NOTIFY: return true;
        case XCB_XKB_STATE_NOTIFY: return (e.changed & XCB_XKB_STATE_PART_GROUP_STATE) != 0;
        default: return false;
    }
}

}  // namespace cursorum::x11
