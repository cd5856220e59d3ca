// Whether the pointer is inside the window, and what the cursor is like, as it is posted.
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

Outcome Inlet::pointer_locked(DeviceId device, bool locked, Time when) noexcept {
    return core_of(*this).post_pointer_flags(Event::pointer_locked(when, device, locked));
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
    if (event.has_locked && device->is_locked != event.locked) {
        device->is_locked = event.locked;
        // The jump to the position where it reappears does not count as motion.
        device->has_position = false;
        motion_writer_.forget_position();
    }
    if (event.has_kept) device->is_kept = event.kept;
    if (event.has_hidden) device->is_hidden = event.hidden;
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
    occasion.begin[0] = device.is_outside * 1U | device.is_locked * 2U | device.is_kept * 4U | device.is_hidden * 8U;
    occasion_writer_.write(device, OccasionKind::pointer_flags, 0, 0, 0, occasion);
}

}  // namespace cursorum
