// Keys to text by libxkbcommon. Control characters are keys to a game, not text.
#include "sources/x11_text.hpp"

#include <xkbcommon/xkbcommon-x11.h>

#include <algorithm>
#include <cstdlib>

namespace cursorum::x11 {
namespace {

/// As setlocale(LC_CTYPE, "") finds it (POSIX), without changing the program's locale.
const char* locale() noexcept {
    for (const char* const name : {"LC_ALL", "LC_CTYPE", "LANG"})
        if (const char* const value = std::getenv(name); value && *value) return value;
    return "C";
}

bool is_control(std::string_view text) noexcept {
    return text.size() == 1 && (static_cast<unsigned char>(text[0]) < 0x20 || text[0] == 0x7F);
}

}  // namespace

bool TypedText::read(xcb_connection_t* connection) {
    is_old_ = false;
    down_.reset();
    if (!context_) {
        context_.reset(xkb_context_new(XKB_CONTEXT_NO_FLAGS));
        if (!context_) return false;
        table_.reset(xkb_compose_table_new_from_locale(context_.get(), locale(), XKB_COMPOSE_COMPILE_NO_FLAGS));
        if (table_) compose_.reset(xkb_compose_state_new(table_.get(), XKB_COMPOSE_STATE_NO_FLAGS));
    }
    state_.reset();
    keymap_.reset();
    if (xkb_x11_setup_xkb_extension(connection, XKB_X11_MIN_MAJOR_XKB_VERSION, XKB_X11_MIN_MINOR_XKB_VERSION,
                                    XKB_X11_SETUP_XKB_EXTENSION_NO_FLAGS, nullptr, nullptr, nullptr, nullptr) == 0)
        return false;
    const std::int32_t device = xkb_x11_get_core_keyboard_device_id(connection);
    if (device == -1) return false;
    keymap_.reset(xkb_x11_keymap_new_from_device(context_.get(), connection, device, XKB_KEYMAP_COMPILE_NO_FLAGS));
    if (keymap_) state_.reset(xkb_x11_state_new_from_device(keymap_.get(), connection, device));
    if (compose_) xkb_compose_state_reset(compose_.get());
    return state_ != nullptr;
}

std::string_view TypedText::key(const Input& input) {
    const std::uint32_t keycode = input.detail;
    const bool down = input.down, is_repeat = input.repeat;
    if (!state_ || keycode >= down_.size()) return {};
    if (input.raw) {
        if (!down && !down_[keycode]) is_old_ = true;
        down_[keycode] = down;
    } else {
        const KeyboardState& now = input.keyboard;
        xkb_state_update_mask(state_.get(), now.base, now.latched, now.locked, now.base_layout, now.latched_layout,
                              now.locked_layout);
    }
    int size = 0;
    if (down) {
        const xkb_keysym_t symbol = xkb_state_key_get_one_sym(state_.get(), keycode);
        const bool is_fed =
            compose_ && !is_repeat && xkb_compose_state_feed(compose_.get(), symbol) == XKB_COMPOSE_FEED_ACCEPTED;
        switch (is_fed ? xkb_compose_state_get_status(compose_.get()) : XKB_COMPOSE_NOTHING) {
            case XKB_COMPOSE_COMPOSED:
                size = xkb_compose_state_get_utf8(compose_.get(), text_.data(), text_.size());
                break;
            case XKB_COMPOSE_NOTHING:
                size = xkb_state_key_get_utf8(state_.get(), keycode, text_.data(), text_.size());
                break;
            case XKB_COMPOSE_COMPOSING:
            case XKB_COMPOSE_CANCELLED: break;
        }
        for (const char* const modifier : {XKB_MOD_NAME_ALT, XKB_MOD_NAME_LOGO})
            if (xkb_state_mod_name_is_active(state_.get(), modifier, XKB_STATE_MODS_EFFECTIVE) > 0) size = 0;
    }
    if (input.raw) xkb_state_update_key(state_.get(), keycode, down ? XKB_KEY_DOWN : XKB_KEY_UP);
    const std::string_view text{text_.data(),
                                std::min<std::size_t>(static_cast<std::size_t>(std::max(size, 0)), text_.size() - 1)};
    return is_control(text) ? std::string_view{} : text;
}

}  // namespace cursorum::x11
