// How a contact's event is applied, and the member of Inlet that posts one.
#include "core/inlet/contact_writer.hpp"

#include <algorithm>

#include "core/inlet/inlet_core.hpp"
#include "core/rings/one_thread.hpp"
#include "core/rules/fixed_point.hpp"
#include "cursorum/core/controls.hpp"

namespace cursorum {
namespace detail {

Outcome ContactWriter::apply(Device& device, const Event& event) noexcept {
    if (!has_fixed(event.x) || !has_fixed(event.y) || !(event.value == event.value)) return Outcome::refused_value;
    const auto contacts = std::span{contacts_}.first(to_.numbers_.contact_room);
    const auto found = std::find_if(contacts.begin(), contacts.end(),
                                    [&](const Contact& c) { return c.device == &device && c.id == event.contact; });
    auto place = static_cast<unsigned>(found - contacts.begin());
    const bool is_there = found != contacts.end();
    Outcome outcome = Outcome::taken;
    if (event.phase == ContactPhase::begin) {
        bool points = device.points;
        for (const Contact& other : contacts) points = points && !(other.device == &device && other.points);
        if (is_there) {  // its end was lost
            points = points || contacts[place].points;
            end(place, OccasionKind::contact_cancel);
            outcome = Outcome::contact_restarted;
        }
        const auto free = std::find_if(contacts.begin(), contacts.end(), [](const Contact& c) { return !c.device; });
        if (free == contacts.end()) return Outcome::refused_contacts;
        place = static_cast<unsigned>(free - contacts.begin());
        contacts[place] = {.device = &device, .id = event.contact, .time = to_.latest_.get(), .points = points};
    } else if (!is_there) {
        return Outcome::stray_contact;
    }
    Contact& contact = contacts[place];
    contact.position = {static_cast<std::uint64_t>(to_fixed(event.x)), static_cast<std::uint64_t>(to_fixed(event.y))};
    contact.pressure = std::clamp(event.value, 0.0, 1.0);
    if (event.phase == ContactPhase::begin) contact.begin = contact.position;
    if (contact.points && event.phase != ContactPhase::cancel) follow_with_pointer(device, event);
    switch (event.phase) {
        case ContactPhase::begin:
            write(place, OccasionKind::contact_begin);
            if (contact.points && !device.cell(controls::MouseLeft).is_down())
                buttons_.edge(SlotKind::press, device, controls::MouseLeft);
            break;
        case ContactPhase::move: write(place, OccasionKind::contact_move); break;
        case ContactPhase::end: end(place, OccasionKind::contact_end); break;
        case ContactPhase::cancel: end(place, OccasionKind::contact_cancel); break;
    }
    return outcome;
}

void ContactWriter::follow_with_pointer(Device& device, const Event& event) noexcept {
    motion_.follow_contact(to_, device, event);
    if (clicks_.has_any()) clicks_.follow_motion();
}

void ContactWriter::write(unsigned place, OccasionKind kind) const noexcept {
    const Contact& contact = contacts_[place];
    OccasionSlot occasion;
    occasion.begin = contact.begin;
    occasion.position = contact.position;
    occasion.measure = contact.pressure;
    occasion.begin_time = contact.time;
    occasion.contact = contact.id;
    occasions_.write(*contact.device, kind, to_.numbers_.first_contact + place, 0, 0, occasion);
}

void ContactWriter::end(unsigned place, OccasionKind kind) noexcept {
    Contact& contact = contacts_[place];
    write(place, kind);
    Device& device = *contact.device;
    contact.device = nullptr;
    if (contact.points && device.cell(controls::MouseLeft).is_down())
        buttons_.edge(kind == OccasionKind::contact_end ? SlotKind::release : SlotKind::cancel, device,
                      controls::MouseLeft);
}

void ContactWriter::rest(Device& device) noexcept {
    for (unsigned place = 0; place < to_.numbers_.contact_room; ++place)
        if (contacts_[place].device == &device) end(place, OccasionKind::contact_cancel);
}

}  // namespace detail

// ---- posting

Outcome Inlet::contact(DeviceId device, std::uint32_t contact, ContactPhase phase, double x, double y, double pressure,
                       Time when) noexcept {
    Event event = Event::of(when, EventType::contact, device);
    event.contact = contact;
    event.phase = phase;
    event.x = x;
    event.y = y;
    event.value = pressure;
    return core_of(*this).post_contact(event);
}

Outcome InletCore::post_contact(const Event& event) noexcept {
    const OneThread here{guard_};
    begin(event.time);
    if (ledger_) ledger_->note_other(stamp(), event);
    detail::Device* const device = find_device(event.device);
    if (!device || !device->listens) return finish(not_listening(device));
    return finish(contact_writer_.apply(*device, event));
}

}  // namespace cursorum
