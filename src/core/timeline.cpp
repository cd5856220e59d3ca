#include "cursorum/core/timeline.hpp"

namespace cursorum {

DeviceStatus Timeline::device(std::size_t number) const noexcept {
    const Inlet::Device& device = desk_.devices_[number];
    return {.id = device.id,
            .info = {.kind = device.kind,
                     .name = desk_.device_name(static_cast<unsigned>(number)),
                     .marks_repeats = device.marks_repeats,
                     .background = device.background,
                     .is_virtual = device.is_virtual},
            .connected = device.connected,
            .down = device.down};
}

std::optional<DeviceStatus> Timeline::find_device(DeviceId id) const noexcept {
    for (std::size_t i = 0; i < desk_.devices_.size(); ++i)
        if (desk_.devices_[i].id == id) return device(i);
    return std::nullopt;
}

}  // namespace cursorum
