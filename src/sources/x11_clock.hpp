// The server's 32-bit milliseconds on our clock: they wrap around after 49 days, and have another beginning than ours.
// Precise to a millisecond.
#pragma once

#include <cstdint>

#include "cursorum/core/time.hpp"

namespace cursorum {

/// A local server stamps with CLOCK_MONOTONIC in milliseconds, rounded down, in 32 bits that wrap after 49.7 days. The
/// present shows which turn an event belongs to.
class X11Clock {
public:
    X11Clock() noexcept = default;
    /// `server` is what the server's clock showed at about `now`. Up to a second of difference is the same clock.
    X11Clock(std::uint32_t server, Time now) noexcept;

    /// The instant of a stamp that is at most 24 days from `now`.
    Time convert(std::uint32_t server, Time now) const noexcept;
    /// The instant before which every stamp was given that the server had given by `now`: stamps are rounded down, so
    /// the present millisecond may still get one.
    Time complete(Time now) const noexcept;

private:
    std::int64_t offset_ = 0;  // ours less theirs, in milliseconds
};

}  // namespace cursorum
