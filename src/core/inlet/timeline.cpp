// A timeline is its inlets: numbers of holds, devices, tracks and places are shared out among them here, so that a
// frame can index all of them together.
#include <algorithm>

#include "core/inlet/inlet_core.hpp"
#include "core/inlet/timeline_core.hpp"

namespace cursorum {

namespace {

unsigned inlets_for(const TimelineOptions& options) noexcept { return std::clamp(options.inlets, 1U, inlet_capacity); }
unsigned devices_for(const TimelineOptions& options) noexcept {
    return std::min(std::clamp(options.devices, 1U, 64U), device_capacity / inlets_for(options));
}

}  // namespace

TimelineCore::TimelineCore(const TimelineOptions& options)
    : directory_{std::size_t{inlets_for(options)} * devices_for(options)},
      devices_of_each_{devices_for(options)},
      silent_limit_{std::clamp<std::int64_t>(options.silent_limit.count(), 0, nanoseconds(latest_time))} {
    const unsigned count = inlets_for(options), holds = hold_capacity / count;
    inlets_.reserve(count);
    for (unsigned i = 0; i < count; ++i) {
        const InletCore::Numbers place{.inlet = static_cast<std::uint16_t>(i),
                                       .first_hold = static_cast<std::uint16_t>(i * holds),
                                       .hold_room = static_cast<std::uint16_t>(holds),
                                       .first_device = static_cast<std::uint8_t>(i * devices_of_each_),
                                       .device_room = static_cast<std::uint8_t>(devices_of_each_),
                                       .first_track = static_cast<std::uint16_t>(i * (axis_capacity / count)),
                                       .track_room = static_cast<std::uint16_t>(axis_capacity / count),
                                       .first_press = static_cast<std::uint8_t>(i * (press_capacity / count)),
                                       .press_room = static_cast<std::uint8_t>(press_capacity / count),
                                       .first_contact = static_cast<std::uint8_t>(i * (contact_capacity / count)),
                                       .contact_room = static_cast<std::uint8_t>(contact_capacity / count)};
        inlets_.push_back(std::make_unique<InletCore>(options, place, directory_));
        histories_.push_back(inlets_.back().get());
        for (unsigned k = 0; k < devices_of_each_; ++k)
            inlet_of_[place.first_device + k] = static_cast<std::uint8_t>(i);
    }
}

TimelineCore::~TimelineCore() = default;

Inlet& TimelineCore::public_inlet(unsigned number) const noexcept { return *inlets_[number]; }

Time TimelineCore::complete_until(Time now) const noexcept {
    Time least = latest_time;
    for (const auto* inlet : histories_) least = std::min(least, inlet->complete_until());
    const Time limit{Duration{nanoseconds(std::clamp(now, earliest_time, latest_time)) - silent_limit_}};
    if (least >= limit) return least;
    silent_.fetch_add(1, std::memory_order_relaxed);
    return std::max(limit, earliest_time);
}

const detail::Device* TimelineCore::device_known_as(DeviceId id) const noexcept {
    const detail::Device* const device = device_numbered(directory_.find(id));
    return device && device->is_known_as(id) ? device : nullptr;
}

DeviceStatus TimelineCore::status(const detail::Device& device) const noexcept {
    const detail::InletHistory& inlet = *histories_[inlet_of_[device.number]];
    DeviceStatus status;
    status.id = DeviceId{static_cast<std::uint32_t>(device.known_as.look() - 1)};
    const std::uint32_t flags = device.flags.look();
    status.kind = static_cast<DeviceKind>(flags & 0xFF);
    status.connected = (flags & detail::Device::connected_flag) != 0;
    status.marks_repeats = (flags & detail::Device::marks_repeats_flag) != 0;
    status.background = (flags & detail::Device::background_flag) != 0;
    status.is_virtual = (flags & detail::Device::virtual_flag) != 0;
    status.inlet = inlet.numbers_.inlet;
    status.name_bytes = device.name.read();
    const detail::DeviceSelf self = device.self.read();
    status.vendor = static_cast<std::uint16_t>(self.vendor);
    status.product = static_cast<std::uint16_t>(self.product);
    status.buttons = ButtonSet{self.buttons};
    status.axes = static_cast<std::uint32_t>(self.axes);
    status.shaping = device.shared_shaping.read();
    status.shaping_count = device.shaping_count.look();
    detail::InletHistory::HoldsCopy copy;
    const bool is_known = inlet.try_copy_holds(copy);
    for (unsigned i = 0; is_known && i < inlet.numbers_.hold_room; ++i)
        if (const detail::Slot& hold = copy.holds[i]; hold.is_held() && hold.device() == device.number)
            status.down.insert({hold.button()});
    return status;
}

// ---- the public class

Timeline::Timeline(const TimelineOptions& options) : core_{new TimelineCore{options}}, desk_{&core_->public_inlet(0)} {}
Timeline::~Timeline() { delete core_; }

unsigned Timeline::inlet_count() const noexcept { return core_->inlet_count(); }
Inlet& Timeline::inlet(unsigned number) noexcept { return core_->public_inlet(number); }
const Inlet& Timeline::inlet(unsigned number) const noexcept { return core_->public_inlet(number); }
Time Timeline::complete_until(Time now) const noexcept { return core_->complete_until(now); }
std::uint64_t Timeline::silent_count() const noexcept { return core_->silent_count(); }

std::size_t Timeline::device_count() const noexcept {
    std::size_t count = 0;
    for (unsigned number = 0; number < core_->device_room(); ++number)
        count += core_->device_numbered(number) != nullptr;
    return count;
}

DeviceStatus Timeline::device(std::size_t asked) const noexcept {
    for (unsigned number = 0; number < core_->device_room(); ++number)
        if (const auto* device = core_->device_numbered(number); device && asked-- == 0) return core_->status(*device);
    return {};
}

std::optional<DeviceStatus> Timeline::find_device(DeviceId id) const noexcept {
    const auto* device = core_->device_known_as(id);
    if (!device) return std::nullopt;
    return core_->status(*device);
}

}  // namespace cursorum
