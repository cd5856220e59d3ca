// Detects that the program stood still.
#pragma once

#include <optional>

#include "cursorum/core/time.hpp"

namespace cursorum {

/// Detects that a debugger stopped the program, the machine slept, or a modal dialogue of the system took the input:
/// after that, keys may be up whose releases nobody saw. Look once in each iteration of the loop, after the events were
/// pumped, and tell the inlet which keys are down in truth:
///
///     if (watch.look(Clock::now(), time_asleep())) desk.interrupt(my_keys_down());
///
/// Everything that is down is then cancelled, and what is held still is adopted: nothing fires again, and nothing sticks.
/// An engine that cannot ask which keys are down leaves this out, as does one whose system keeps events for a program
/// that stands still, as X servers do. TickClock turns the gap into one long frame; the machine's sleep makes none,
/// because the clock stands still.
///
/// A plain value. Threads: one.
class StandstillWatch {
public:
    /// An iteration that takes longer than `longest` is a standstill. Choose it longer than the longest loading pause.
    explicit StandstillWatch(Duration longest = Duration{1'000'000'000}, Time now = Clock::now()) noexcept
        : longest_{longest}, last_{now} {}

    /// Returns the time of the previous iteration if the program stood still since then. `asleep` is how long the
    /// machine has slept since it was started (time_asleep() on Linux), because Clock stands still in sleep. Any sleep
    /// of more than 0.1 s is a standstill.
    std::optional<Time> look(Time now = Clock::now(), Duration asleep = {}) noexcept {
        const Time before = last_;
        const bool slept = asleep - asleep_ > Duration{100'000'000};
        const bool stood = now - before > longest_ || (slept && looked_);
        last_ = now > before ? now : before;
        asleep_ = asleep;
        looked_ = true;
        if (!stood) return std::nullopt;
        ++count_;
        return before;
    }

    /// How often the program stood still.
    unsigned count() const noexcept { return count_; }

private:
    Duration longest_, asleep_{};
    Time last_;
    bool looked_ = false;  // before the first look, how long the machine had slept was not known
    unsigned count_ = 0;
};

}  // namespace cursorum
