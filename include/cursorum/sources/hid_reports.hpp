// USB HID boot-protocol reports into events.
#pragma once

#include <cstddef>
#include <cstdint>
#include <span>

#include "cursorum/core/event.hpp"

namespace cursorum {

/// What reports have been worth since the beginning.
struct HidCounters {
    std::uint64_t reports = 0;    ///< that were taken
    std::uint64_t rollovers = 0;  ///< in which the keyboard could not tell which keys are down; they change nothing
    std::uint64_t truncated = 0;  ///< shorter than the protocol says; refused
    std::uint64_t unknown = 0;    ///< usages that stand for no control
};

enum class HidResult : std::uint8_t { taken, rollover, truncated };

/// A keyboard's boot report (Device Class Definition for HID 1.11, appendix B.1): one byte of modifiers, one that is
/// reserved, and the usages of up to six keys that are down. It is a polled state: what it does not name is up. Usages
/// 1 to 3 (rollover, self-test failed, undefined) mean that the matrix cannot tell; such a report changes nothing.
///
/// Connect the device and give its true state, or an empty one, before the first report: the first state after a
/// connect is adopted (HidSource does). Threads: one. Costs a state event a report.
class HidKeyboard {
public:
    static constexpr std::size_t report_size = 8;
    explicit HidKeyboard(DeviceId device) noexcept : device_{device} {}

    HidResult take(std::span<const std::byte> report, Time when, EventTaker& taker);
    const HidCounters& counters() const noexcept { return counters_; }

private:
    DeviceId device_;
    HidCounters counters_;
};

/// A mouse's boot report (appendix B.2): three buttons, then motion right and down in counts, one signed byte each.
/// Bytes behind are the device's own and are passed over; the boot protocol knows no wheel.
class HidMouse {
public:
    static constexpr std::size_t report_size = 3;
    explicit HidMouse(DeviceId device) noexcept : device_{device} {}

    HidResult take(std::span<const std::byte> report, Time when, EventTaker& taker);
    const HidCounters& counters() const noexcept { return counters_; }

private:
    DeviceId device_;
    HidCounters counters_;
    std::uint8_t buttons_ = 0;  // in the last report
};

}  // namespace cursorum
