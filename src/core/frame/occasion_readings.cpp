// What a frame says of clicks, drags, targets and contacts: each is an occasion with its place, which is followed from
// the frame's start through what was taken.
#include <algorithm>
#include <cmath>
#include <cstdint>
#include <utility>

#include "core/frame/frame_core.hpp"
#include "core/rules/fixed_point.hpp"
#include "cursorum/core/controls.hpp"

namespace cursorum {

using detail::DeviceFilter;
using detail::OccasionKind;
using detail::OccasionSlot;
using detail::OtherEntries;

// ---- clicks

namespace {

Click click_of(const OccasionSlot& occasion, DeviceId device) noexcept {
    return {.device = device,
            .button = {occasion.button()},
            .pressed = Time{Duration{occasion.begin_time}},
            .released = Time{Duration{occasion.time}},
            .from = point_of(occasion.begin),
            .to = point_of(occasion.position),
            .farthest = std::sqrt(occasion.measure),
            .count = occasion.count(),
            .has_position = occasion.is_placed()};
}

}  // namespace

ClickRange::Iterator::Iterator(const detail::FrameWindow& frame, const DeviceFilter& devices) noexcept
    : frame_{&frame}, devices_{devices} {
    skip();
}

bool ClickRange::Iterator::is_at_end() const noexcept {
    return index_ >= core_of(*frame_).other_entries().occasion_count;
}

void ClickRange::Iterator::skip() noexcept {
    const FrameCore& frame = core_of(*frame_);
    for (; !is_at_end(); ++index_) {
        const OccasionSlot& occasion = frame.other_entries().occasions[index_];
        if (occasion.kind() == OccasionKind::release && !occasion.is_dragging() &&
            occasion.begin_time > frame.others().no_clicks_before && frame.includes(devices_, occasion.device()))
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
    const OccasionSlot& occasion = frame.other_entries().occasions[index_];
    return click_of(occasion, frame.id_of(occasion.device()));
}

DragReading PointerReading::drag(Button button) const noexcept {
    DragReading reading;
    const FrameCore& frame = core_of(*frame_);
    const detail::OtherState& desk = frame.others();
    const OtherEntries& entries = frame.other_entries();
    const auto concerns = [&](const OccasionSlot& occasion) {
        return occasion.is_press() && occasion.button() == button.number && occasion.is_dragging() &&
               frame.includes(devices_, occasion.device());
    };
    const auto take = [&](const OccasionSlot& occasion) {
        const bool called_off = occasion.begin_time <= desk.no_clicks_before;
        reading.active = occasion.kind() == OccasionKind::drag && !called_off;
        reading.from = point_of(occasion.begin);
        reading.to = point_of(occasion.position);
        reading.pressed = Time{Duration{occasion.begin_time}};
        return called_off;
    };
    for (const OccasionSlot& occasion : desk.presses)
        if (concerns(occasion) && occasion.goes_on())
            reading.cancelled |= take(occasion) && desk.no_clicks_before == frame.state().t0;
    for (std::uint32_t i = 0; i < entries.occasion_count; ++i) {
        const OccasionSlot& occasion = entries.occasions[i];
        if (!concerns(occasion) || take(occasion)) continue;
        reading.began |= occasion.kind() == OccasionKind::drag;
        reading.dropped |= occasion.kind() == OccasionKind::release;
        reading.cancelled |= occasion.kind() == OccasionKind::cancel;
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
    const detail::OtherState& desk = frame.others();
    const OtherEntries& entries = frame.other_entries();
    // The pointer's position is shared, whichever device's clicks are asked for.
    if (!entries.placed) [[unlikely]]
        frame.note_unplaced();
    const bool over = entries.placed && inside() && !locked() && rect.contains(point_of(entries.pointer));
    reading.hovered = over;
    // The last occasion of each press in progress tells whether it continues.
    std::array<bool, press_capacity> held{};
    const auto take = [&](const OccasionSlot& occasion, bool is_new) {
        if (!occasion.is_press() || occasion.button() != button.number ||
            occasion.begin_time <= desk.no_clicks_before || !occasion.is_placed() ||
            !frame.includes(devices_, occasion.device()))
            return;
        const bool on_it = rect.contains(point_of(occasion.begin));
        held[occasion.place()] = on_it && occasion.goes_on();
        if (!is_new || !on_it) return;
        reading.pressed |= occasion.kind() == OccasionKind::press;
        if (occasion.kind() != OccasionKind::release || !rect.contains(point_of(occasion.position))) return;
        ++reading.clicks;
        reading.count = occasion.is_dragging() ? 1 : occasion.count();
    };
    for (const OccasionSlot& occasion : desk.presses)
        if (occasion.goes_on() && occasion.what != 0) take(occasion, false);
    for (std::uint32_t i = 0; i < entries.occasion_count; ++i) take(entries.occasions[i], true);
    for (const bool is_held : held) reading.armed |= is_held && over;
    return reading;
}

// ---- contacts

FrameCore::Touch FrameCore::walk_touch(DeviceFilter filter, void* to,
                                       void (*visit)(void*, const Cause&, const Touch&)) const {
    std::array<const OccasionSlot*, contact_capacity> contacts{};
    const auto is_of_pad = [&](const OccasionSlot& occasion) {
        const detail::Device* const device = timeline->device_numbered(occasion.device());
        return occasion.is_contact() && device && device->shared_kind() == DeviceKind::gamepad &&
               includes(filter, occasion.device());
    };
    const auto oldest = [&]() -> Touch {
        const OccasionSlot* first = nullptr;
        for (const OccasionSlot* contact : contacts)
            if (contact && (!first || contact->begin_time < first->begin_time)) first = contact;
        if (!first) return {};
        const WindowPoint position = point_of(first->position);
        return {{position.x, position.y}, first->measure, true};
    };
    for (std::size_t i = 0; i < contacts.size(); ++i)
        if (const OccasionSlot& it = others_->contacts[i]; is_of_pad(it) && it.goes_on()) contacts[i] = &it;
    const Touch before = oldest();
    // Sorted by time, since the lists of several inlets are concatenated.
    std::int64_t until = INT64_MIN;
    for (bool more = true; std::exchange(more, false);) {
        std::int64_t next = INT64_MAX;
        for (std::uint32_t i = 0; i < other_entries_->occasion_count; ++i)
            if (const OccasionSlot& it = other_entries_->occasions[i]; it.time > until && is_of_pad(it))
                next = std::min(next, it.time), more = true;
        for (std::uint32_t i = 0; more && i < other_entries_->occasion_count; ++i) {
            const OccasionSlot& it = other_entries_->occasions[i];
            if (it.time != next || !is_of_pad(it) || it.place() >= contacts.size()) continue;
            contacts[it.place()] = it.goes_on() ? &it : nullptr;
            visit(to, {next, it.kind() == OccasionKind::contact_cancel, part_of_occasion(i)}, oldest());
        }
        until = next;
    }
    return before;
}

// First the contacts that existed at the start, by index, then those that began.
bool Frame::next_contact(std::uint32_t& index, ContactReading& contact) const noexcept {
    const FrameCore& frame = core_of(*this);
    const detail::OtherState& desk = frame.others();
    const detail::OtherEntries& entries = frame.other_entries();
    for (;; ++index) {
        const bool was_there = index < contact_capacity;
        if (!was_there && index - contact_capacity >= entries.occasion_count) return false;
        const OccasionSlot& first = was_there ? desk.contacts[index] : entries.occasions[index - contact_capacity];
        if (was_there ? !first.is_contact() || !first.goes_on() : first.kind() != OccasionKind::contact_begin) continue;
        contact = {.device = frame.id_of(first.device()),
                   .contact = static_cast<std::uint32_t>(first.contact),
                   .began = !was_there,
                   .down = true,
                   .since = Time{Duration{first.begin_time}},
                   .from = point_of(first.begin),
                   .before = point_of(first.position),
                   .position = point_of(first.position),
                   .pressure = first.measure};
        for (std::uint32_t i = was_there ? 0 : index - contact_capacity + 1; i < entries.occasion_count; ++i) {
            const OccasionSlot& occasion = entries.occasions[i];
            if (!occasion.is_contact() || occasion.place() != first.place()) continue;
            if (occasion.kind() == OccasionKind::contact_begin) break;
            contact.position = point_of(occasion.position);
            contact.pressure = occasion.measure;
            contact.ended = occasion.kind() == OccasionKind::contact_end;
            contact.cancelled = occasion.kind() == OccasionKind::contact_cancel;
            contact.down = !contact.ended && !contact.cancelled;
            if (!contact.down) break;
        }
        ++index;
        return true;
    }
}

}  // namespace cursorum
