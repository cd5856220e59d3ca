// What the keys of an X server's keyboard type: by the server's keymap, its state (Shift, locks, the layout in force)
// and the compose sequences of the locale, with dead keys. All of it is libxkbcommon's work.
#pragma once

#include <xcb/xcb.h>
#include <xkbcommon/xkbcommon-compose.h>
#include <xkbcommon/xkbcommon.h>

#include <array>
#include <bitset>
#include <cstdint>
#include <memory>
#include <string_view>

#include "sources/x11_events.hpp"

namespace cursorum::x11 {

/// The keyboard of one connection. Reading the keymap and the state takes some round trips, and is done when the focus
/// comes and when the layout changes; a key takes none.
class TypedText {
public:
    /// Returns false if the server does not report its keymap; then nothing is typed.
    bool read(xcb_connection_t* connection);
    /// The keymap has to be read before the next key: at first, when the layout changed, and after a raw key came up
    /// that was held when the state was read, since it may have been a modifier. (Other keys have the state with them.)
    bool is_old() const noexcept { return is_old_; }
    void forget() noexcept { is_old_ = true; }
    /// A key went down, came up, or was repeated. Returns the text that it makes: empty for keys that make none, for
    /// dead keys, and while Alt or Meta is down. Valid until the next call.
    std::string_view key(const Input& input);

private:
    template <auto release>
    struct Unref {
        template <typename Object>
        void operator()(Object* object) const noexcept {
            release(object);
        }
    };
    std::unique_ptr<xkb_context, Unref<xkb_context_unref>> context_;
    std::unique_ptr<xkb_keymap, Unref<xkb_keymap_unref>> keymap_;
    std::unique_ptr<xkb_state, Unref<xkb_state_unref>> state_;
    std::unique_ptr<xkb_compose_table, Unref<xkb_compose_table_unref>> table_;
    std::unique_ptr<xkb_compose_state, Unref<xkb_compose_state_unref>> compose_;
    std::bitset<256> down_;  // since the state was read
    bool is_old_ = true;
    std::array<char, 64> text_{};
};

}  // namespace cursorum::x11
