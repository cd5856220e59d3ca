// Notices that the program stood still.
#pragma once

#include <optional>

#include "cursorum/core/time.hpp"

namespace cursorum {

/// A debugger held the program, the machine slept, a modal box of the system swallowed the input: what was held then is
/// not to be believed. Look once a round, before the sources deliver, and tell the inlets:
///
///     if (auto since = watch.look()) desk.interrupt(*since);
///
/// Everything down is then cancelled as of the last round before; what is held still is adopted with the next state,
/// and what was let go meanwhile comes in as a stray release. The simulation's clock makes one long frame of the gap
/// (TickClock), or of nothing, if the machine slept.
///
/// A plain value. Threads: one.
class StandstillWatch {
public:
    /// Rounds that are longer than `longest` are a standstill. Choose it longer than the longest loading pause.
    explicit StandstillWatch(Duration longest = Duration{1'000'000'000}, Time now = Clock::now()) noexcept
        : longest_{longest}, last_{now} {}

    /// The time of the round before, if the program stood still since then. `asleep` is how long the machine has slept
    /// since it was started (time_asleep() on Linux): Clock stands still in sleep, so it cannot tell by itself. Any
    /// sleep of more than 0.1 s is a standstill.
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

    /// How often it stood still.
    unsigned count() const noexcept { return count_; }

private:
    Duration longest_, asleep_{};
    Time last_;
    bool looked_ = false;  // before the first look, how long the machine had slept was not known
    unsigned count_ = 0;
};

}  // namespace cursorum
