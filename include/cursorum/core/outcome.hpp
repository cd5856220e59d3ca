// What became of an event that was posted.
#pragma once

#include <cstdint>
#include <string_view>

#include "cursorum/core/export.hpp"

namespace cursorum {

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

}  // namespace cursorum
