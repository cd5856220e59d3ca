// Ticks of a simulation from the flow of input time.
#pragma once

#include <cstdint>
#include <optional>

#include "cursorum/core/time.hpp"

namespace cursorum {

/// So many in a second, exactly: 60, or 60000 / 1001.
struct Rate {
    std::uint32_t count = 60;  ///< 1 and up
    std::uint32_t per = 1;     ///< seconds, 1 and up

    friend constexpr bool operator==(const Rate&, const Rate&) = default;
};

/// hertz(60); hertz(60000, 1001) for fractions.
constexpr Rate hertz(std::uint32_t count, std::uint32_t per = 1) noexcept {
    return {count == 0 ? 1 : count, per == 0 ? 1 : per};
}

/// The most ticks that one round of the program's loop may run.
struct TickLimit {
    std::uint32_t ticks = 5;  ///< 1 and up
};
constexpr TickLimit at_most(std::uint32_t ticks) noexcept { return {ticks == 0 ? 1 : ticks}; }

/// Tells when a fixed-step simulation has to cut its next frame:
///
///     while (auto cut = ticks.next(complete)) simulate(sampler.advance(*cut));
///
/// Cuts lie at start + floor(k * per / count) seconds, without drift. Every instant of input time falls in exactly one
/// tick, whatever happens:
/// after a stall at most `limit` ticks are given, of which the first is a longer frame that covers the rest;
/// while paused none is given but those asked for by step_by_hand(), and the first one after covers the pause;
/// a debugger's stop is a stall (see StandstillWatch for what to do with the input), the machine's sleep is none: the
/// clock stands still with it;
/// with a scale of 1/2, each tick covers twice the input time (slow motion: the step in game time stays the same).
/// A change of scale, rate or pause takes effect at the last cut.
///
/// A plain value: copy it to save it. Threads: one. Cost: a few divisions.
class TickClock {
public:
    /// The first tick starts at `start`.
    explicit TickClock(Rate rate, TickLimit limit = {}, Time start = Clock::now()) noexcept;

    /// The next cut if it is due by `complete`, the time up to which all input was posted (Source::deliver); nothing
    /// once all that is due was given, which also ends the round that the limit counts.
    std::optional<Time> next(Time complete) noexcept;

    /// How far `complete` is from the last cut to the next, 0 to 1, for blending two simulation states in a picture. As
    /// of the pause while paused.
    double blend(Time complete) const noexcept;

    /// Game time passes at count / per of input time. Zero in either counts as 1.
    void scale(std::uint32_t count, std::uint32_t per = 1) noexcept;
    /// While paused, next() gives nothing.
    void pause(bool paused) noexcept {
        paused_ = paused;
        by_hand_ = 0;
    }
    bool is_paused() const noexcept { return paused_; }
    /// While paused, the next round gives one tick all the same: it covers all input time since the last cut. For
    /// looking at a simulation step by step. More calls, more rounds; not paused, it does nothing.
    void step_by_hand() noexcept { by_hand_ += paused_; }
    /// Other ticks from the last cut on.
    void set_rate(Rate rate) noexcept;

    /// The length of a tick in game time, rounded down to whole nanoseconds; in seconds, exactly rounded.
    Duration step() const noexcept;
    double step_seconds() const noexcept { return static_cast<double>(rate_.per) / static_cast<double>(rate_.count); }

    Time last_cut() const noexcept { return last_; }
    /// Ticks that stalls and pauses have cost: they would have been due but went into a longer frame.
    std::uint64_t dropped() const noexcept { return dropped_; }

private:
    std::int64_t due_by(Time complete) const noexcept;
    Time cut_at(std::int64_t tick) const noexcept;
    void restart() noexcept;

    Rate rate_, scale_{1, 1};
    std::uint32_t limit_;
    std::uint32_t given_ = 0;  // in this round
    Time origin_, last_;
    std::int64_t tick_ = 0;  // cuts given since origin_
    std::uint64_t dropped_ = 0;
    std::uint32_t by_hand_ = 0;
    bool paused_ = false;
    bool was_paused_ = false;
};

}  // namespace cursorum
