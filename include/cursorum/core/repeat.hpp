// Repeat: pulses while a button is held, made by Cursorum instead of the system.
#pragma once

#include <cstdint>

#include "cursorum/core/time.hpp"

namespace cursorum {

/// Pulses come at press + delay + k * interval, k = 0, 1, 2 …, strictly before the hold's end. They are worked out from
/// the press's own time, so they do not depend on the frame rate. Adopted holds do not repeat.
struct Repeat {
    Duration delay{400'000'000};    ///< from the press to the first pulse; greater than zero
    Duration interval{50'000'000};  ///< from pulse to pulse; greater than zero
    std::uint32_t cap = 2;          ///< maximum number of pulses of a button in one frame; 0: no maximum

    friend constexpr bool operator==(const Repeat&, const Repeat&) = default;
    constexpr bool is_valid() const noexcept { return delay.count() > 0 && interval.count() > 0; }
};

/// How many pulses a hold that was pressed at `press` has given up to `until`, that instant included.
constexpr std::uint64_t repeats_until(const Repeat& repeat, Time press, Time until) noexcept {
    const Duration held = until - press;
    if (held < repeat.delay) return 0;
    return static_cast<std::uint64_t>((held - repeat.delay) / repeat.interval) + 1;
}

}  // namespace cursorum
