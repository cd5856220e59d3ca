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

/// One axis of one device.
struct Frame::AxisTrack {
    unsigned device = 0;
    unsigned axis = axis_kinds;  // none: not in use
    double before = 0, now = 0;
};

Frame::AxisTrack Frame::track_at(unsigned track) const noexcept {
    const AxisRecord* const last = desk_entries_->axis_record(desk_entries_->axis_last[track]);
    const bool known = track < desk_->tracks;
    if (!last && !known) return {};
    const unsigned owner = last ? last->owner() : desk_->axis_owners[track];
    const double before = known ? desk_->axis_values[track] : 0;
    return {owner & 0xFF, owner >> 8, before, last ? last->value : before};
}

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

// Returns the value at the frame's start.
double Frame::walk(Axis axis, detail::DeviceFilter device, void* to, void (*visit)(void*, Time, double)) const {
    // The axis on each device: numbers below 253, each at most once.
    std::array<double, 256> values;
    std::array<std::uint8_t, 256> devices;
    std::array<std::uint16_t, axis_capacity> place_of;
    unsigned count = 0;
    for (unsigned track = 0; track < desk_entries_->tracks; ++track) {
        place_of[track] = 0xFFFF;
        const AxisTrack found = track_at(track);
        if (found.axis != axis.number || !stands_for(device, found.device) || count == values.size()) continue;
        place_of[track] = static_cast<std::uint16_t>(count);
        devices[count] = static_cast<std::uint8_t>(found.device);
        values[count++] = found.before;
    }
    const auto merged = [&] {
        double greatest = 0;
        unsigned of = 0;
        for (unsigned i = 0; i < count; ++i) {
            const double magnitude = std::abs(values[i]), so_far = std::abs(greatest);
            if (i == 0 || magnitude > so_far || (magnitude == so_far && id_of(devices[i]) < id_of(devices[of])))
                greatest = values[i], of = i;
        }
        return greatest;
    };
    const double before = merged();
    if (count == 0) return before;
    for (std::uint32_t i = 0; i < desk_entries_->axis_count; ++i) {
        const AxisRecord& record = desk_entries_->axes[i];
        if (place_of[record.track()] == 0xFFFF) continue;
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
        AxisReading& told = *static_cast<AxisReading*>(to);
        told.now = value;
        told.least = std::min(told.least, value);
        told.greatest = std::max(told.greatest, value);
    };
    reading.before = walk(axis, device, &reading, take);
    if (reading.least > reading.greatest) reading.now = reading.before;
    reading.least = std::min(reading.least, reading.before);
    reading.greatest = std::max(reading.greatest, reading.before);
    return reading;
}

// Every device's stick as it goes through the frame.
void Frame::walk(Stick stick, detail::DeviceFilter device_asked, void* to, void (*visit)(void*, Time, Vector2)) const {
    struct Own {
        unsigned device;
        Vector2 raw, shaped;
    };
    std::array<Own, 256> sticks;  // one for each device: numbers below 253
    unsigned count = 0;
    const auto place = [&](unsigned device) {
        for (unsigned i = 0; i < count; ++i)
            if (sticks[i].device == device) return i;
        if (count < sticks.size()) sticks[count++] = {device, {}, {}};
        return count - 1;
    };
    const auto shaped = [&](Own& own) {
        const detail::Device* const known = timeline_->device_numbered(own.device);
        own.shaped = known ? shape(known->shaping.read().sticks[stick.number], own.raw) : Vector2{};
    };
    if (stick.number >= stick_kinds) return;
    for (unsigned track = 0; track < desk_entries_->tracks; ++track) {
        const AxisTrack found = track_at(track);
        if (found.axis / 2 != stick.number || !stands_for(device_asked, found.device)) continue;
        Own& own = sticks[place(found.device)];
        (found.axis % 2 == 0 ? own.raw.x : own.raw.y) = found.before;
    }
    for (unsigned i = 0; i < count; ++i) shaped(sticks[i]);
    const AxisRecord* const records = desk_entries_->axes.data();
    for (std::uint32_t i = 0; i < desk_entries_->axis_count; ++i) {
        const AxisRecord& record = records[i];
        const unsigned axis = record.owner() >> 8U, device = record.owner() & 0xFFU;
        if (axis / 2 != stick.number || !stands_for(device_asked, device)) continue;
        Own& own = sticks[place(device)];
        (axis % 2 == 0 ? own.raw.x : own.raw.y) = record.value;
        const bool more = i + 1 < desk_entries_->axis_count && records[i + 1].time == record.time &&
                          (records[i + 1].owner() & 0xFFU) == device && records[i + 1].owner() >> 9U == stick.number;
        if (more) continue;
        shaped(own);
        const Own* longest = &sticks[0];
        const auto square = [](const Own& o) { return o.shaped.x * o.shaped.x + o.shaped.y * o.shaped.y; };
        for (unsigned k = 1; k < count; ++k) {
            const double mine = square(sticks[k]), best = square(*longest);
            if (mine > best || (mine == best && id_of(sticks[k].device) < id_of(longest->device))) longest = &sticks[k];
        }
        visit(to, Time{Duration{record.time}}, longest->shaped);
    }
}

StickReading Frame::stick_figures(Stick stick, detail::DeviceFilter device) const noexcept {
    StickReading reading;
    if (stick.number >= stick_kinds) return reading;
    double before_square = -1, now_square = -1;
    DeviceId before_id{}, now_id{};
    const unsigned tracks = desk_entries_->tracks;
    const auto is_of_stick = [&](const AxisTrack& t) { return t.axis / 2 == stick.number; };
    for (unsigned track = 0; track < tracks; ++track) {
        const AxisTrack first = track_at(track);
        if (!is_of_stick(first) || !stands_for(device, first.device)) continue;
        Vector2 before, now;
        bool is_first = true;
        for (unsigned i = 0; i < tracks; ++i) {
            const AxisTrack other = track_at(i);
            if (!is_of_stick(other) || other.device != first.device) continue;
            is_first = is_first && i >= track;
            (other.axis % 2 == 0 ? before.x : before.y) = other.before;
            (other.axis % 2 == 0 ? now.x : now.y) = other.now;
        }
        const detail::Device* const known = timeline_->device_numbered(first.device);
        if (!is_first || !known) continue;
        const StickShaping shaping = known->shaping.read().sticks[stick.number];
        before = shape(shaping, before);
        now = shape(shaping, now);
        const auto longer = [&](Vector2 v, double& square, DeviceId& id, Vector2& best) {
            const double own = v.x * v.x + v.y * v.y;
            if (own < square || (own == square && id < id_of(first.device))) return;
            square = own;
            id = id_of(first.device);
            best = v;
        };
        longer(before, before_square, before_id, reading.before);
        longer(now, now_square, now_id, reading.now);
    }
    return reading;
}

AxisReading Frame::pull_figures(Axis pull, detail::DeviceFilter device) const noexcept {
    AxisReading reading;
    if (!is_pull(pull)) return reading;
    for (unsigned track = 0; track < desk_entries_->tracks; ++track) {
        const AxisTrack found = track_at(track);
        const detail::Device* const known = timeline_->device_numbered(found.device);
        if (found.axis != pull.number || !stands_for(device, found.device) || !known) continue;
        const PullShaping shaping = known->shaping.read().pulls[pull.number - 2 * stick_kinds];
        AxisReading own;
        own.before = own.least = own.greatest = shape(shaping, found.before);
        own.now = shape(shaping, found.now);
        for (const AxisRecord* record = desk_entries_->axis_record(desk_entries_->axis_last[track]); record;
             record = desk_entries_->axis_record(record->link)) {
            own.least = std::min(own.least, shape(shaping, record->value));
            own.greatest = std::max(own.greatest, shape(shaping, record->value));
        }
        // A trigger's magnitude is its value: the greatest at each moment.
        reading.before = std::max(reading.before, own.before);
        reading.now = std::max(reading.now, own.now);
        reading.greatest = std::max(reading.greatest, own.greatest);
        reading.least = std::max(reading.least, own.least);
    }
    return reading;
}

// By device, then by name. `after`: one more than the key of the axis told last, 0 at first.
bool Frame::next_axis(std::uint64_t& after, DeviceAxis& axis) const noexcept {
    std::uint64_t best = UINT64_MAX;
    for (unsigned track = 0; track < desk_entries_->tracks; ++track) {
        const AxisTrack found = track_at(track);
        if (found.axis >= axis_kinds || found.now == 0) continue;
        const Axis of{static_cast<std::uint8_t>(found.axis)};
        const DeviceId id = id_of(found.device);
        const std::uint64_t key = std::uint64_t{static_cast<std::uint32_t>(id)} << 16 | name_rank(of);
        if (key < after || key >= best) continue;
        best = key;
        axis = {id, of, found.now};
    }
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
