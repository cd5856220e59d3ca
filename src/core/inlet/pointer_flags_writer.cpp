// Whether the pointer is inside the window, and the state of the cursor, as they are posted.
#include "core/inlet/inlet_core.hpp"
#include "core/rings/one_thread.hpp"
#include "cursorum/core/event.hpp"

namespace cursorum {

using detail::Device;
using detail::OccasionKind;
using detail::OccasionSlot;

Outcome Inlet::pointer_inside(DeviceId device, bool inside, Time when) noexcept {
    return core_of(*this).post_pointer_flags(Event::pointer_inside(when, device, inside));
}

Outcome Inlet::cursor(DeviceId device, const CursorState& state, Time when) noexcept {
    return core_of(*this).post_pointer_flags(Event::cursor(when, device, state));
}

Outcome InletCore::post_pointer_flags(const Event& event) noexcept {
    const OneThread here{guard_};
    begin(event.time);
    if (ledger_) ledger_->note_other(stamp(), event);
    Device* const device = find_device(event.device);
    if (!device || !device->listens) return finish(not_listening(device));
    if (event.has_cursor) {
        const bool was_locked = device->is_locked();
        device->cursor = event.cursor_state;
        if (device->is_locked() != was_locked) {
            // The jump to the position where it reappears does not count as motion.
            device->has_position = false;
            motion_writer_.forget_position();
        }
    }
    if (event.has_inside) {
        const bool leaves = !event.inside && !device->is_outside;
        device->is_outside = !event.inside;
        if (leaves) clicks_.follow_leaving(*device);
    }
    write_pointer_flags(*device);
    return finish(Outcome::taken);
}

void InletCore::write_pointer_flags(const Device& device) noexcept {
    OccasionSlot occasion;
    occasion.set_pointer_flags(device.is_outside, device.cursor);
    occasion_writer_.write(device, OccasionKind::pointer_flags, 0, 0, 0, occasion);
}

}  // namespace cursorum
