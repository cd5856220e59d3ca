// An inlet as a sink of events.
#pragma once

#include <algorithm>
#include <chrono>
#include <utility>
#include <vector>

#include "cursorum/core/event.hpp"
#include "cursorum/core/inlet.hpp"

namespace cursorum {

/// The devices of one source in the inlet that it delivers into. Each keeps the source's own number there if no other
/// device of the timeline has it, or had it; else it gets a free one (Inlet::free_device()), and keeps that when it
/// comes back. The devices of a source that is opened anew, after its server died, come back likewise.
class SourceDevices {
public:
    /// The number in the inlet of a source's device. Its own for one that did not connect yet.
    DeviceId in_inlet(DeviceId own) const noexcept {
        const auto found =
            std::find_if(given_.begin(), given_.end(), [own](const auto& it) { return it.first == own; });
        return found == given_.end() ? own : found->second;
    }
    /// The reverse: for requests to a device, such as rumble.
    DeviceId of_source(DeviceId given) const noexcept {
        const auto found =
            std::find_if(given_.begin(), given_.end(), [given](const auto& it) { return it.second == given; });
        return found == given_.end() ? given : found->first;
    }
    /// Before its connect is posted. Allocates.
    DeviceId connecting(DeviceId own, const DeviceInfo& info, const Inlet& inlet) {
        const bool is_known =
            std::any_of(given_.begin(), given_.end(), [own](const auto& it) { return it.first == own; });
        if (!is_known) given_.emplace_back(own, inlet.free_device(own, info));
        return in_inlet(own);
    }
    /// Forgets a device whose connect the inlet refused for lack of room.
    void refuse(DeviceId own) {
        std::erase_if(given_, [own](const auto& it) { return it.first == own; });
        refused_.push_back(own);
    }
    /// Returns the devices refused since the last call.
    std::vector<DeviceId> take_refused() noexcept { return std::exchange(refused_, {}); }
    /// The source delivers into that inlet from now on. Returns whether it is another one than before.
    bool use(const Inlet& inlet) noexcept {
        if (inlet_ == &inlet) return false;
        inlet_ = &inlet;
        given_.clear();
        return true;
    }

private:
    const Inlet* inlet_ = nullptr;
    std::vector<std::pair<DeviceId, DeviceId>> given_;  // the source's own, and in the inlet
    std::vector<DeviceId> refused_;
};

/// Passes a source's events to an inlet. Made for one call. Threads: the inlet's producer.
class InletSink final : public EventSink {
public:
    /// Devices keep their numbers.
    explicit InletSink(Inlet& inlet) noexcept : inlet_{inlet} {}
    /// They have those of `devices`.
    InletSink(Inlet& inlet, SourceDevices& devices) noexcept : inlet_{inlet}, devices_{&devices} {}

    void take(const Event& event) override {
        if (!devices_ || event.device == DeviceId{}) return (void)inlet_.post(event);
        Event its = event;
        its.device = event.type == EventType::connect ? devices_->connecting(event.device, event.info, inlet_)
                                                      : devices_->in_inlet(event.device);
        if (inlet_.post(its) == Outcome::refused_devices && event.type == EventType::connect)
            devices_->refuse(event.device);
    }

private:
    Inlet& inlet_;
    SourceDevices* devices_ = nullptr;
};

/// What a source does when it delivers into an inlet: for the first time, it limits how far ahead stamps may lie to 10
/// ms; each time, it sets the inlet's complete_until(). `source.deliver(sink)` posts and returns the time up to which
/// that is complete; `devices` is the source's own memory.
template <typename Source>
Time deliver_into(Inlet& inlet, Source& source, SourceDevices& devices) {
    if (devices.use(inlet)) inlet.set_ahead_limit(std::chrono::milliseconds{10});
    InletSink sink{inlet, devices};
    const Time complete = source.deliver(sink);
    inlet.set_complete_until(complete);
    return complete;
}

}  // namespace cursorum
