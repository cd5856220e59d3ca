// What a frame says of axes, sticks, contacts, and devices that come and go.
#include <algorithm>
#include <cmath>
#include <limits>

#include "core/fixed_point.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/frame.hpp"

namespace cursorum {

using detail::AxisRecord;
using detail::FactKind;
using detail::FactSlot;

namespace {

double square(Vector2 v) noexcept { return v.x * v.x + v.y * v.y; }

}  // namespace

bool Frame::has_device(const detail::DeviceBits& devices, DeviceId id) const noexcept {
    const detail::Device* const device = timeline_->device_known_as(id);
    return device && detail::has_bit(devices, device->number);
}

DeviceId Frame::id_of(unsigned device) const noexcept {
    const detail::Device* const known = timeline_->device_numbered(device);
    return known ? DeviceId{static_cast<std::uint32_t>(known->known_as.look() - 1)} : DeviceId{};
}

bool Frame::stands_for(detail::DeviceFilter device, unsigned number) const noexcept {
    if (device == every_device || device == number) return true;
    if (device.set) return detail::has_bit(*device.set, number);
    if (device != persons && device != programs) return false;
    const detail::Device* const known = timeline_->device_numbered(number);
    const bool is_virtual = known && (known->flags.look() & detail::Device::virtual_flag) != 0;
    return is_virtual == (device == programs);
}

template <typename Visit>
void Frame::for_each_track(Axis axis, detail::DeviceFilter device, Visit&& visit) const {
    for (unsigned i = 0; i < timeline_->inlet_count(); ++i)
        timeline_->inlet(i).tracks_.for_each(axis, [&](unsigned track, unsigned number, DeviceId id) {
            if (stands_for(device, number)) visit(track, id);
        });
}

const AxisRecord* Frame::last_of_track(unsigned track) const noexcept {
    return desk_entries_->axis_record(desk_entries_->axis_last[track]);
}

// Returns the value at the frame's start.
double Frame::walk(Axis axis, detail::DeviceFilter device, void* to, void (*visit)(void*, Time, double)) const {
    if (axis.number >= axis_kinds) return 0;
    // The axis on each device, each at most once.
    std::array<double, device_capacity> values;
    std::array<DeviceId, device_capacity> ids;
    std::array<std::uint16_t, axis_capacity> place_of;  // of the tracks that are walked along
    unsigned count = 0;
    for_each_track(axis, device, [&](unsigned track, DeviceId id) {
        if (count == values.size()) return;
        place_of[track] = static_cast<std::uint16_t>(count);
        ids[count] = id;
        values[count++] = desk_->axis_values[track];
    });
    const auto merged = [&] {
        double greatest = 0;
        unsigned of = 0;
        for (unsigned i = 0; i < count; ++i) {
            const double magnitude = std::abs(values[i]), so_far = std::abs(greatest);
            if (i == 0 || magnitude > so_far || (magnitude == so_far && ids[i] < ids[of]))
                greatest = values[i], of = i;
        }
        return greatest;
    };
    const double before = merged();
    if (count == 0) return before;
    for (std::uint32_t i = 0; i < desk_entries_->axis_count; ++i) {
        const AxisRecord& record = desk_entries_->axes[i];
        if (record.axis() != axis.number || record.is_same() || !stands_for(device, record.device())) continue;
        values[place_of[record.track()]] = record.value;
        visit(to, Time{Duration{record.time}}, merged());
    }
    return before;
}

AxisReading Frame::axis_figures(Axis axis, detail::DeviceFilter device) const noexcept {
    AxisReading reading;
    reading.least = std::numeric_limits<double>::infinity();
    reading.greatest = -reading.least;
    const auto take = [](void* to, Time, double value) {
        AxisReading& figures = *static_cast<AxisReading*>(to);
        figures.now = value;
        figures.least = std::min(figures.least, value);
        figures.greatest = std::max(figures.greatest, value);
    };
    reading.before = walk(axis, device, &reading, take);
    if (reading.least > reading.greatest) reading.now = reading.before;
    reading.least = std::min(reading.least, reading.before);
    reading.greatest = std::max(reading.greatest, reading.before);
    return reading;
}

// Every device's stick as it goes through the frame.
void Frame::walk(Stick stick, detail::DeviceFilter device, void* to, void (*visit)(void*, Time, Vector2)) const {
    if (stick.number >= stick_kinds || desk_entries_->axis_count == 0) return;
    struct Own {
        DeviceId id;
        Vector2 value;
    };
    std::array<Own, device_capacity> sticks;  // one for each device
    std::array<std::uint16_t, axis_capacity> place_of;  // of their x axes' tracks
    unsigned count = 0;
    for_each_track(stick.x(), device, [&](unsigned x, DeviceId id) {
        if (count == sticks.size()) return;
        place_of[x] = static_cast<std::uint16_t>(count);
        sticks[count++] = {id, {desk_->axis_shaped[x], desk_->axis_shaped[x + 1]}};
    });
    const auto is_of_stick = [&](const AxisRecord& record) { return record.axis() / 2 == stick.number; };
    const AxisRecord* const records = desk_entries_->axes.data();
    for (std::uint32_t i = 0; i < desk_entries_->axis_count; ++i) {
        const AxisRecord& record = records[i];
        if (!is_of_stick(record) || !stands_for(device, record.device())) continue;
        const bool is_y = record.axis() % 2 != 0;
        Vector2& value = sticks[place_of[record.track() - is_y]].value;
        (is_y ? value.y : value.x) = record.shaped;
        const bool more = i + 1 < desk_entries_->axis_count && records[i + 1].time == record.time &&
                          records[i + 1].device() == record.device() && is_of_stick(records[i + 1]);
        if (more) continue;
        const Own* longest = &sticks[0];
        for (unsigned k = 1; k < count; ++k) {
            const double mine = square(sticks[k].value), best = square(longest->value);
            if (mine > best || (mine == best && sticks[k].id < longest->id)) longest = &sticks[k];
        }
        visit(to, Time{Duration{record.time}}, longest->value);
    }
}

StickReading Frame::stick_figures(Stick stick, detail::DeviceFilter device) const noexcept {
    StickReading reading;
    if (stick.number >= stick_kinds) return reading;
    // Of several as long, the one with the lowest id.
    DeviceId before_id{}, now_id{};
    const bool any_moved = desk_entries_->axis_count != 0;
    const auto take_longer = [&](Vector2 v, DeviceId id, DeviceId& of, Vector2& longest) {
        const double mine = square(v), best = square(longest);
        if (mine < best || mine == 0 || (mine == best && of < id)) return;
        longest = v;
        of = id;
    };
    for_each_track(stick.x(), device, [&](unsigned x, DeviceId id) {
        const Vector2 before{desk_->axis_shaped[x], desk_->axis_shaped[x + 1]};
        take_longer(before, id, before_id, reading.before);
        if (!any_moved) return;
        Vector2 now = before;
        if (const AxisRecord* const last = last_of_track(x)) now.x = last->shaped;
        if (const AxisRecord* const last = last_of_track(x + 1)) now.y = last->shaped;
        take_longer(now, id, now_id, reading.now);
    });
    if (!any_moved) reading.now = reading.before;
    return reading;
}

AxisReading Frame::pull_figures(Axis pull, detail::DeviceFilter device) const noexcept {
    AxisReading reading;
    if (!is_pull(pull)) return reading;
    for_each_track(pull, device, [&](unsigned track, DeviceId) {
        AxisReading own;
        own.before = own.now = own.least = own.greatest = desk_->axis_shaped[track];
        const AxisRecord* record = last_of_track(track);
        if (record) own.now = record->shaped;
        for (; record; record = desk_entries_->axis_record(record->link)) {
            own.least = std::min(own.least, record->shaped);
            own.greatest = std::max(own.greatest, record->shaped);
        }
        // A trigger's magnitude is its value: the greatest at each moment.
        reading.before = std::max(reading.before, own.before);
        reading.now = std::max(reading.now, own.now);
        reading.greatest = std::max(reading.greatest, own.greatest);
        reading.least = std::max(reading.least, own.least);
    });
    return reading;
}

// By device, then by name. `after`: one more than the key of the axis visited last, 0 at first.
bool Frame::next_axis(std::uint64_t& after, DeviceAxis& axis) const noexcept {
    std::uint64_t best = UINT64_MAX;
    for (unsigned i = 0; i < timeline_->inlet_count(); ++i)
        timeline_->inlet(i).tracks_.for_each([&](unsigned track, DeviceId id, Axis of) {
            const AxisRecord* const last = last_of_track(track);
            const double now = last ? last->value : desk_->axis_values[track];
            if (now == 0) return;
            const std::uint64_t key = std::uint64_t{static_cast<std::uint32_t>(id)} << 16 | name_rank(of);
            if (key < after || key >= best) return;
            best = key;
            axis = {id, of, now};
        });
    if (best == UINT64_MAX) return false;
    after = best + 1;
    return true;
}

// First those that were there at the start, by place, then those that began.
bool Frame::next_contact(std::uint32_t& index, ContactReading& contact) const noexcept {
    for (;; ++index) {
        const bool was_there = index < contact_capacity;
        if (!was_there && index - contact_capacity >= desk_entries_->fact_count) return false;
        const FactSlot& first = was_there ? desk_->contacts[index] : desk_entries_->facts[index - contact_capacity];
        if (was_there ? !first.is_contact() || !first.goes_on() : first.kind() != FactKind::contact_begin) continue;
        contact = {.device = id_of(first.device()),
                   .contact = static_cast<std::uint32_t>(first.contact),
                   .began = !was_there,
                   .down = true,
                   .since = Time{Duration{first.begin_time}},
                   .from = point_of(first.begin),
                   .before = point_of(first.position),
                   .position = point_of(first.position),
                   .pressure = first.measure};
        for (std::uint32_t i = was_there ? 0 : index - contact_capacity + 1; i < desk_entries_->fact_count; ++i) {
            const FactSlot& fact = desk_entries_->facts[i];
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

bool Frame::next_change(std::uint32_t& index, DeviceChange& change) const noexcept {
    for (; index < desk_entries_->fact_count; ++index) {
        const FactSlot& fact = desk_entries_->facts[index];
        if (!fact.is_change()) continue;
        change = {};
        change.time = Time{Duration{fact.time}};
        change.device = id_of(fact.device());
        change.connected = fact.kind() == FactKind::connect;
        describe(change);
        ++index;
        return true;
    }
    return false;
}

}  // namespace cursorum
