// Readings of clicks, drags, targets and contacts.
#include <algorithm>
#include <cmath>

#include "core/rules/fixed_point.hpp"
#include "core/sampler/frame_core.hpp"
#include "cursorum/core/controls.hpp"

namespace cursorum {

using detail::DeskEntries;
using detail::DeviceFilter;
using detail::FactKind;
using detail::FactSlot;

// ---- clicks

namespace {

Click click_of(const FactSlot& fact, DeviceId device) noexcept {
    return {.device = device,
            .button = {fact.button()},
            .pressed = Time{Duration{fact.begin_time}},
            .released = Time{Duration{fact.time}},
            .from = point_of(fact.begin),
            .to = point_of(fact.position),
            .farthest = std::sqrt(fact.measure),
            .count = fact.count(),
            .has_position = fact.is_placed()};
}

}  // namespace

ClickRange::Iterator::Iterator(const detail::FrameWindow& frame, const DeviceFilter& devices) noexcept
    : frame_{&frame}, devices_{devices} {
    skip();
}

bool ClickRange::Iterator::is_at_end() const noexcept { return index_ >= core_of(*frame_).desk_entries().fact_count; }

void ClickRange::Iterator::skip() noexcept {
    const FrameCore& frame = core_of(*frame_);
    for (; !is_at_end(); ++index_) {
        const FactSlot& fact = frame.desk_entries().facts[index_];
        if (fact.kind() == FactKind::release && !fact.is_dragging() &&
            fact.begin_time > frame.desk().no_clicks_before && frame.includes(devices_, fact.device()))
            return;
    }
}

ClickRange::Iterator& ClickRange::Iterator::operator++() noexcept {
    ++index_;
    skip();
    return *this;
}

Click ClickRange::Iterator::operator*() const noexcept {
    const FrameCore& frame = core_of(*frame_);
    const FactSlot& fact = frame.desk_entries().facts[index_];
    return click_of(fact, frame.id_of(fact.device()));
}

DragReading PointerReading::drag(Button button) const noexcept {
    DragReading reading;
    const FrameCore& frame = core_of(*frame_);
    const detail::DeskState& desk = frame.desk();
    const DeskEntries& entries = frame.desk_entries();
    const auto concerns = [&](const FactSlot& fact) {
        return fact.is_press() && fact.button() == button.number && fact.is_dragging() &&
               frame.includes(devices_, fact.device());
    };
    const auto take = [&](const FactSlot& fact) {
        const bool called_off = fact.begin_time <= desk.no_clicks_before;
        reading.active = fact.kind() == FactKind::drag && !called_off;
        reading.from = point_of(fact.begin);
        reading.to = point_of(fact.position);
        reading.pressed = Time{Duration{fact.begin_time}};
        return called_off;
    };
    for (const FactSlot& fact : desk.presses)
        if (concerns(fact) && fact.goes_on())
            reading.cancelled |= take(fact) && desk.no_clicks_before == frame.state().t0;
    for (std::uint32_t i = 0; i < entries.fact_count; ++i) {
        const FactSlot& fact = entries.facts[i];
        if (!concerns(fact) || take(fact)) continue;
        reading.began |= fact.kind() == FactKind::drag;
        reading.dropped |= fact.kind() == FactKind::release;
        reading.cancelled |= fact.kind() == FactKind::cancel;
    }
    if (reading.active && has_position() && !locked()) reading.to = position();
    return reading;
}

TargetReading PointerReading::target(const WindowRect& rect) const noexcept {
    return target(rect, controls::MouseLeft);
}

TargetReading PointerReading::target(const WindowRect& rect, Button button) const noexcept {
    TargetReading reading;
    const FrameCore& frame = core_of(*frame_);
    const detail::DeskState& desk = frame.desk();
    const DeskEntries& entries = frame.desk_entries();
    // The pointer is where any device put it, whichever device's clicks are asked for.
    const bool over = entries.placed && inside() && !locked() && rect.contains(point_of(entries.pointer));
    reading.hovered = over;
    // The last fact of each press in progress shows whether it goes on.
    std::array<bool, press_capacity> held{};
    const auto take = [&](const FactSlot& fact, bool is_new) {
        if (!fact.is_press() || fact.button() != button.number || fact.begin_time <= desk.no_clicks_before ||
            !fact.is_placed() || !frame.includes(devices_, fact.device()))
            return;
        const bool on_it = rect.contains(point_of(fact.begin));
        held[fact.place()] = on_it && fact.goes_on();
        if (!is_new || !on_it) return;
        reading.pressed |= fact.kind() == FactKind::press;
        if (fact.kind() != FactKind::release || !rect.contains(point_of(fact.position))) return;
        ++reading.clicks;
        reading.count = fact.is_dragging() ? 1 : fact.count();
    };
    for (const FactSlot& fact : desk.presses)
        if (fact.goes_on() && fact.what != 0) take(fact, false);
    for (std::uint32_t i = 0; i < entries.fact_count; ++i) take(entries.facts[i], true);
    for (const bool is_held : held) reading.armed |= is_held && over;
    return reading;
}

// ---- contacts

// First those that were there at the start, by place, then those that began.
bool Frame::next_contact(std::uint32_t& index, ContactReading& contact) const noexcept {
    const FrameCore& frame = core_of(*this);
    const detail::DeskState& desk = frame.desk();
    const detail::DeskEntries& entries = frame.desk_entries();
    for (;; ++index) {
        const bool was_there = index < contact_capacity;
        if (!was_there && index - contact_capacity >= entries.fact_count) return false;
        const FactSlot& first = was_there ? desk.contacts[index] : entries.facts[index - contact_capacity];
        if (was_there ? !first.is_contact() || !first.goes_on() : first.kind() != FactKind::contact_begin) continue;
        contact = {.device = frame.id_of(first.device()),
                   .contact = static_cast<std::uint32_t>(first.contact),
                   .began = !was_there,
                   .down = true,
                   .since = Time{Duration{first.begin_time}},
                   .from = point_of(first.begin),
                   .before = point_of(first.position),
                   .position = point_of(first.position),
                   .pressure = first.measure};
        for (std::uint32_t i = was_there ? 0 : index - contact_capacity + 1; i < entries.fact_count; ++i) {
            const FactSlot& fact = entries.facts[i];
            if (!fact.is_contact() || fact.place() != first.place()) continue;
            if (fact.kind() == FactKind::contact_begin) break;
            contact.position = point_of(fact.position);
            contact.pressure = fact.measure;
            contact.ended = fact.kind() == FactKind::contact_end;
            contact.cancelled = fact.kind() == FactKind::contact_cancel;
            contact.down = !contact.ended && !contact.cancelled;
            if (!contact.down) break;
        }
        ++index;
        return true;
    }
}

}  // namespace cursorum
