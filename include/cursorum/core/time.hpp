// Time: signed 64-bit nanoseconds on one monotonic clock.
#pragma once

#include <chrono>
#include <cstdint>

namespace cursorum {

/// A span of time in nanoseconds. Standard literals work: `400ms`, `2s`.
using Duration = std::chrono::duration<std::int64_t, std::nano>;

/// The clock that events are stamped with. It never jumps and has nothing to do with the time of day. On Linux it is
/// CLOCK_MONOTONIC, the clock that evdev and a local X server can be brought to.
struct Clock {
    using duration = Duration;
    using rep = duration::rep;
    using period = duration::period;
    using time_point = std::chrono::time_point<Clock, Duration>;
    static constexpr bool is_steady = true;

    /// The present. Any thread. Cost: the same as std::chrono::steady_clock (about 20 ns).
    static time_point now() noexcept {
        return time_point{std::chrono::duration_cast<Duration>(std::chrono::steady_clock::now().time_since_epoch())};
    }
};

/// An instant. Its zero is chosen by whoever posts events: a program that stamps with Clock::now() counts from the
/// machine's start, a recording from its own beginning. It must be the same everywhere within one timeline.
using Time = Clock::time_point;

/// Times farther than this from zero (146 years) are clamped when posted and refused by Sampler::advance, so that no
/// difference of two times can overflow.
inline constexpr Time latest_time{Duration{(std::int64_t{1} << 62) - 1}};
inline constexpr Time earliest_time{Duration{-((std::int64_t{1} << 62) - 1)}};

/// The instant `count` nanoseconds after (before, if negative) the clock's zero.
constexpr Time nanoseconds_since_zero(std::int64_t count) noexcept { return Time{Duration{count}}; }

/// The reverse of nanoseconds_since_zero.
constexpr std::int64_t nanoseconds(Time time) noexcept { return time.time_since_epoch().count(); }

/// A length of time in seconds, for printing and for plain arithmetic. Exact up to 2^53 ns (104 days).
constexpr double seconds(Duration span) noexcept { return static_cast<double>(span.count()) / 1e9; }

}  // namespace cursorum
