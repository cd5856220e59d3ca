// Converts USB HID boot-protocol reports to events.
#pragma once

#include <cstddef>
#include <cstdint>
#include <span>

#include "cursorum/core/event.hpp"
#include "cursorum/core/export.hpp"

namespace cursorum {

/// Counters of reports.
struct HidCounters {
    std::uint64_t reports = 0;    ///< reports taken
    std::uint64_t rollovers = 0;  ///< reports without knowing which keys are down; they change nothing
    std::uint64_t truncated = 0;  ///< reports shorter than the protocol requires, which are refused
    std::uint64_t unknown = 0;    ///< usages without a control
};

enum class HidResult : std::uint8_t { taken, rollover, truncated };

/// A keyboard's boot report (Device Class Definition for HID 1.11, appendix B.1): one byte of modifiers, one that is
/// reserved, and the usages of up to six keys that are down. It is a polled state: all other keys are up. Usages
/// 1 to 3 (rollover, self-test failed, undefined) mean that the keys are unknown; such a report changes nothing.
///
/// Connect the device and give its true state, or an empty one, before the first report: the first state after a
/// connect is adopted (HidSource does). Threads: one. Cost: one state event for each report.
class CURSORUM_API HidKeyboard {
public:
    static constexpr std::size_t report_size = 8;
    explicit HidKeyboard(DeviceId device) noexcept : device_{device} {}

    HidResult take(std::span<const std::byte> report, Time when, EventSink& sink);
    const HidCounters& counters() const noexcept { return counters_; }

private:
    DeviceId device_;
    HidCounters counters_;
};

/// A mouse's boot report (appendix B.2): three buttons, then motion right and down in counts, one signed byte each.
/// Further bytes are specific to the device and are ignored; the boot protocol has no wheel.
class CURSORUM_API HidMouse {
public:
    static constexpr std::size_t report_size = 3;
    explicit HidMouse(DeviceId device) noexcept : device_{device} {}

    HidResult take(std::span<const std::byte> report, Time when, EventSink& sink);
    const HidCounters& counters() const noexcept { return counters_; }

private:
    DeviceId device_;
    HidCounters counters_;
    std::uint8_t buttons_ = 0;  // in the last report
};

}  // namespace cursorum
