// The words for outcomes, device kinds and event types, as messages and recordings use them. Nothing here is called
// while events are posted.
#include "cursorum/core/event.hpp"

namespace cursorum {

std::string_view describe(Outcome outcome) noexcept {
    switch (outcome) {
        case Outcome::press: return "down while up: a press";
        case Outcome::release: return "up while down: a release";
        case Outcome::system_repeat: return "down while down: a system repeat, counted and no press";
        case Outcome::lost_release:
            return "down while down, not marked as system repeat by a device that marks them: a release was lost, so a "
                   "cancel and then a press";
        case Outcome::adopted_repeat: return "system repeat while up: found down with no press seen, so an adopt";
        case Outcome::state_taken: return "polled state: the differences are presses and releases";
        case Outcome::state_adopted:
            return "polled state, the first since connect, focus gain or interruption, or marked adopt: the "
                   "differences are adopts and cancels";
        case Outcome::connected: return "the device connected, with everything up";
        case Outcome::disconnected: return "the device disconnected: its buttons are cancelled";
        case Outcome::focus_gained: return "focus gained: the next state of each device is adopted";
        case Outcome::focus_lost: return "focus lost: everything down is cancelled";
        case Outcome::focus_unchanged: return "focus was so already: nothing";
        case Outcome::interrupted: return "interruption: everything on every device is cancelled";
        case Outcome::taken: return "no button: it moves time on and changes no level";
        case Outcome::contact_restarted: return "a contact began that had no end: a cancel, then a new contact";
        case Outcome::stray_release: return "up while up: stray";
        case Outcome::stray_device: return "from a device that is unknown or disconnected: stray";
        case Outcome::stray_connect: return "a second connect: stray";
        case Outcome::stray_kind: return "an id that came back as another kind of device: stray";
        case Outcome::stray_inlet: return "connect of a device that belongs to another inlet: stray";
        case Outcome::stray_contact: return "of a contact that is not there: stray";
        case Outcome::ignored: return "without focus: ignored";
        case Outcome::refused_devices: return "more devices than there is room for: refused";
        case Outcome::refused_holds: return "more buttons down at once than there is room for: refused";
        case Outcome::refused_control: return "no button that a device can have: refused";
        case Outcome::refused_value: return "NaN, infinity, a number out of range or an invalid shaping: refused";
        case Outcome::refused_axes: return "more axes of devices than there is room for: refused";
        case Outcome::unchanged: return "a level that was known already: nothing happened";
        case Outcome::refused_contacts: return "more contacts at once than there is room for: refused";
    }
    return {};
}

std::string_view name_of(DeviceKind kind) noexcept {
    switch (kind) {
        case DeviceKind::keyboard: return "keyboard";
        case DeviceKind::mouse: return "mouse";
        case DeviceKind::gamepad: return "gamepad";
        case DeviceKind::touch: return "touch";
    }
    return {};
}

std::string_view name_of(EventType type) noexcept {
    switch (type) {
        case EventType::connect: return "connect";
        case EventType::disconnect: return "disconnect";
        case EventType::button: return "button";
        case EventType::state: return "state";
        case EventType::focus: return "focus";
        case EventType::interrupt: return "interrupt";
        case EventType::motion: return "motion";
        case EventType::wheel: return "wheel";
        case EventType::axis: return "axis";
        case EventType::locks: return "locks";
        case EventType::text: return "text";
        case EventType::pointer: return "pointer";
        case EventType::contact: return "contact";
        case EventType::shaping: return "shaping";
    }
    return {};
}

std::string_view name_of(ContactPhase phase) noexcept {
    switch (phase) {
        case ContactPhase::begin: return "begin";
        case ContactPhase::move: return "move";
        case ContactPhase::end: return "end";
        case ContactPhase::cancel: return "cancel";
    }
    return {};
}

}  // namespace cursorum
