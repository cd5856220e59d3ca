// The keyboard layout of an X server: which symbol is printed on each key. It is asked for when the layout changes,
// never while events are read.
#pragma once

#include <xcb/xcb.h>

#include <cstdint>

#include "cursorum/core/key_layout.hpp"

namespace cursorum::x11 {

/// What is printed on the keys of the server's first keyboard, in the layout that is in force. The one that keys are
/// named after if the server does not tell. Some round trips.
KeyLayout read_key_layout(xcb_connection_t* connection);

/// From now on, the connection gets events when the layout changes.
void watch_key_layout(xcb_connection_t* connection);
/// Whether an event of the keyboard extension reports that.
bool changes_key_layout(const xcb_generic_event_t& event) noexcept;

}  // namespace cursorum::x11
