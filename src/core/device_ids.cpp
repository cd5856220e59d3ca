// Gives a pad that comes back the id that it had: by its model and serial number, else by its model, else as any pad
// that is away; of several, the one that has been away for the longest time.
#include "cursorum/core/device_ids.hpp"

#include <algorithm>

namespace cursorum {
namespace {

/// 64-bit FNV-1a.
std::uint64_t hash(std::string_view text, std::uint64_t start = 0xCBF29CE484222325U) noexcept {
    for (const char c : text) start = (start ^ static_cast<unsigned char>(c)) * 0x100000001B3U;
    return start;
}

}  // namespace

DeviceIds::DeviceIds(DeviceId first, std::size_t room) noexcept
    : first_{static_cast<std::uint32_t>(first)}, room_{std::min(room, capacity)} {}

std::optional<DeviceId> DeviceIds::connect(const DeviceInfo& info, std::string_view serial, Time when) noexcept {
    const std::uint64_t model = hash(info.name, std::uint64_t{info.vendor} << 16 | info.product);
    const std::uint64_t own = hash(serial);
    std::size_t best = room_;
    int best_likeness = 0;
    for (std::size_t i = 0; i < room_; ++i) {
        const Slot& slot = slots_[i];
        int likeness = 0;
        if (!slot.is_used)
            likeness = 1;
        else if (slot.is_there || slot.kind != info.kind)
            continue;
        else if (slot.model == model)
            likeness = slot.serial == own ? 4 : 3;
        else if (info.kind == DeviceKind::gamepad)
            likeness = 2;
        else
            continue;
        const bool waits_longer = likeness > 1 && likeness == best_likeness && slot.since < slots_[best].since;
        if (likeness > best_likeness || waits_longer) best = i, best_likeness = likeness;
    }
    if (best == room_) return std::nullopt;
    slots_[best] = {true, true, info.kind, model, own, when};
    return DeviceId{first_ + static_cast<std::uint32_t>(best)};
}

void DeviceIds::disconnect(DeviceId device, Time when) noexcept {
    const std::size_t slot = static_cast<std::uint32_t>(device) - first_;
    if (slot >= room_ || !slots_[slot].is_there) return;
    slots_[slot].is_there = false;
    slots_[slot].since = when;
}

void DeviceIds::forget(DeviceId device) noexcept {
    const std::size_t slot = static_cast<std::uint32_t>(device) - first_;
    if (slot < room_) slots_[slot] = {};
}

}  // namespace cursorum
