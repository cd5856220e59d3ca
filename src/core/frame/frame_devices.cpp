// What a frame says of devices: which are connected, which changed, the part of each, and who used one. Numbers of
// devices are turned into ids here.
#include "core/frame/frame_core.hpp"

namespace cursorum {

using detail::DeviceFilter;

namespace {

ButtonSet locks_of(unsigned bits) noexcept {
    ButtonSet on;
    for (unsigned i = 0; i < detail::lock_keys.size(); ++i) on.set(detail::lock_keys[i], (bits >> i & 1) != 0);
    return on;
}

}  // namespace

bool FrameCore::has_device(const detail::DeviceBits& devices, DeviceId id) const noexcept {
    const detail::Device* const device = timeline->device_known_as(id);
    return device && detail::has_bit(devices, device->number);
}

DeviceId FrameCore::id_of(unsigned device) const noexcept {
    const detail::Device* const known = timeline->device_numbered(device);
    return known ? DeviceId{static_cast<std::uint32_t>(known->known_as.look() - 1)} : DeviceId{};
}

bool FrameCore::is_among(detail::DeviceFilter filter, unsigned number) const noexcept {
    using Kind = detail::DeviceFilter::Kind;
    switch (filter.kind) {
        case Kind::every: return true;
        case Kind::one: return filter.number == number;
        case Kind::none: return false;
        case Kind::set: return detail::has_bit(*filter.devices, number);
        case Kind::persons:
        case Kind::programs: break;
    }
    const detail::Device* const known = timeline->device_numbered(number);
    const bool is_virtual = known && (known->flags.look() & detail::Device::virtual_flag) != 0;
    return is_virtual == (filter.kind == Kind::programs);
}

bool Frame::is_connected(DeviceId device) const noexcept {
    const FrameCore& frame = core_of(*this);
    return frame.has_device(frame.other_entries().connected, device);
}

bool Frame::was_connected(DeviceId device) const noexcept {
    const FrameCore& frame = core_of(*this);
    return frame.has_device(frame.others().connected, device);
}

unsigned Frame::count_of(DeviceKind kind) const noexcept {
    const FrameCore& frame = core_of(*this);
    unsigned count = 0;
    for (unsigned number = 0; number < frame.timeline->device_room(); ++number)
        if (detail::has_bit(frame.other_entries().connected, number))
            if (const detail::Device* device = frame.timeline->device_numbered(number))
                count += device->shared_kind() == kind;
    return count;
}

std::optional<DeviceId> Frame::device(DeviceKind kind, unsigned place) const noexcept {
    const FrameCore& frame = core_of(*this);
    for (unsigned number = 0; number < frame.timeline->device_room(); ++number) {
        const detail::Device* const device = frame.timeline->device_numbered(number);
        if (!device || device->shared_kind() != kind || place-- != 0) continue;
        if (!detail::has_bit(frame.other_entries().connected, number)) return std::nullopt;
        return frame.id_of(number);
    }
    return std::nullopt;
}

bool Frame::next_change(std::uint32_t& index, DeviceChange& change) const noexcept {
    const FrameCore& frame = core_of(*this);
    for (; index < frame.other_entries().occasion_count; ++index) {
        const detail::OccasionSlot& occasion = frame.other_entries().occasions[index];
        if (!occasion.is_change()) continue;
        change = {};
        change.time = Time{Duration{occasion.time}};
        change.device = frame.id_of(occasion.device());
        change.connected = occasion.kind() == detail::OccasionKind::connect;
        ++index;
        const detail::Device* const changed = frame.timeline->device_numbered(occasion.device());
        if (!changed) return true;
        change.kind = changed->shared_kind();
        change.name_bytes = changed->name.read();
        for (unsigned number = 0; number < occasion.device(); ++number) {
            const detail::Device* const device = frame.timeline->device_numbered(number);
            change.place += device && device->shared_kind() == change.kind;
        }
        return true;
    }
    return false;
}

ButtonSet Frame::locks() const noexcept { return locks_of(core_of(*this).other_entries().locks); }
ButtonSet Frame::previous_locks() const noexcept { return locks_of(core_of(*this).others().locks); }

DeviceSnapshot FrameCore::snapshot_of(DeviceFilter device, bool at_end) const noexcept {
    DeviceSnapshot snapshot;
    snapshot.time = Time{Duration{at_end ? state_->t1 : state_->t0}};
    if (device.kind != DeviceFilter::Kind::one) return snapshot;
    active().for_each([&](Button button) {
        if (button.number >= first_either_side) return;
        const ButtonFigures figures = device_figures(button, device);
        if (at_end ? figures.down() : figures.was_down()) snapshot.down.insert(button);
    });
    for (std::uint8_t i = 0; i < axis_kinds; ++i)
        for_each_track(Axis{i}, device, [&](unsigned track, DeviceId) {
            const detail::AxisRecord* const latest = at_end ? last_of_track(track) : nullptr;
            const double raw = latest ? latest->value : others_->axis_values[track];
            const double shaped = latest ? latest->shaped : others_->axis_shaped[track];
            if (raw != 0) snapshot.raw_axes.set(Axis{i}, raw);
            if (i < 2 * stick_kinds)
                (i % 2 == 0 ? snapshot.sticks[i / 2].x : snapshot.sticks[i / 2].y) = shaped;
            else if (is_pull(Axis{i}))
                snapshot.pulls[i % 2] = shaped;
        });
    return snapshot;
}

DeviceSnapshot DeviceFrame::previous() const noexcept { return core_of(*frame_).snapshot_of(devices_, false); }
DeviceSnapshot DeviceFrame::current() const noexcept { return core_of(*frame_).snapshot_of(devices_, true); }

}  // namespace cursorum
