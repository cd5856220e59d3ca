// Ticks of a simulation from the flow of input time.
#pragma once

#include <cstdint>
#include <optional>

#include "cursorum/core/export.hpp"
#include "cursorum/core/tick.hpp"
#include "cursorum/core/time.hpp"

namespace cursorum {

/// An exact rate: events per second, such as 60 or 60000/1001.
struct Rate {
    std::uint32_t count = 60;  ///< 1 and up
    std::uint32_t per = 1;     ///< seconds, 1 and up

    friend constexpr bool operator==(const Rate&, const Rate&) = default;
};

/// hertz(60); hertz(60000, 1001) for fractions.
constexpr Rate hertz(std::uint32_t count, std::uint32_t per = 1) noexcept {
    return {count == 0 ? 1 : count, per == 0 ? 1 : per};
}

/// Maximum number of ticks per iteration of the game loop.
struct TickLimit {
    std::uint32_t ticks = 5;  ///< 1 and up
};
constexpr TickLimit at_most(std::uint32_t ticks) noexcept { return {ticks == 0 ? 1 : ticks}; }

/// Decides when a fixed-step simulation runs its next tick:
///
///     while (auto tick = ticks.next(complete)) simulate(sampler.advance(*tick), tick->step);
///
/// Ticks end at start + floor(k * per / count) seconds, without drift, and follow each other without a gap, except:
/// - After a stall at most `limit` ticks are given, the first of which is longer and covers the rest. All of them
///   together are never longer than the longest frame (250 ms of game time unless set, and at least one tick): the
///   remainder becomes the first one's gap, so that a breakpoint does not become one giant step.
/// - While the clock stands still, ticks go on, and their `step` is 0: the world stops, and a menu that reads the same
///   frames lives on.
/// - While paused, no tick is given but those that step_by_hand() asks for. After resuming, the first call of next()
///   begins anew at its `complete`; the pause is the next tick's gap.
/// - With a scale of 1/2, each tick covers twice the input time (slow motion); `step` stays the same.
/// A debugger's stop is a stall; the machine's sleep is none, because the clock stands still with it. A change of scale
/// or rate takes effect at the last cut.
///
/// A plain value: copy it to save it. Threads: one. Cost: a few divisions.
class CURSORUM_API TickClock {
public:
    /// The first tick begins at `start`.
    explicit TickClock(Rate rate, TickLimit limit = {}, Time start = Clock::now()) noexcept;

    /// The next tick if it ends by `complete`, the time up to which all input has been posted: the time *after* the
    /// program pumped its events. Returns nothing once all ticks that are due were given, which also ends the round
    /// that the limit counts.
    std::optional<Tick> next(Time complete) noexcept;

    /// How far `complete` is from the last cut to the next, 0 to 1, for blending two simulation states in a picture.
    /// While paused, the value as of the pause.
    double blend(Time complete) const noexcept;

    /// Game time passes at count / per of input time. A zero counts as 1.
    void scale(std::uint32_t count, std::uint32_t per = 1) noexcept;
    /// The world stops, or goes on: ticks have a `step` of 0 from now on. For a game whose menu is made of actions,
    /// pass what its action reader says (ActionReader::pauses()), after each read:
    ///
    ///     ticks.stand_still(actions.pauses());
    void stand_still(bool stands = true) noexcept { stands_still_ = stands; }
    bool stands_still() const noexcept { return stands_still_; }
    /// For games that read frames without actions: while paused, next() gives nothing, and what comes in is skipped, so
    /// that a menu must read another sampler's frames. The pause begins where the game has got to: at the last cut if
    /// called between two ticks of a round, else at the `complete` of the last round.
    void pause(bool paused = true) noexcept;
    void resume() noexcept { pause(false); }
    bool is_paused() const noexcept { return paused_; }
    /// While paused, the next round gives one tick all the same: it ends at `complete`, and what happened since the
    /// last cut takes effect at its beginning. For looking at a simulation step by step. More calls, more rounds;
    /// ignored while the clock is not paused.
    void step_by_hand() noexcept { by_hand_ += paused_; }
    /// Ticks of another rate from the last cut on.
    void set_rate(Rate rate) noexcept;
    /// The longest frame, in game time; 250 ms at first. All ticks that catch up after a stall share it. Never shorter
    /// than one tick, whatever is set.
    void set_longest(Duration longest) noexcept { longest_ = longest; }

    /// The length of a usual tick in game time, rounded down to whole nanoseconds; in seconds, correctly rounded.
    Duration step() const noexcept;
    double step_seconds() const noexcept { return static_cast<double>(rate_.per) / static_cast<double>(rate_.count); }

    Time last_cut() const noexcept { return last_; }
    /// Ticks that stalls have cost: they would have been due but became part of a longer frame or of its gap.
    std::uint64_t dropped() const noexcept { return dropped_; }

private:
    std::int64_t due_by(Time complete) const noexcept;
    Time cut_at(std::int64_t tick) const noexcept;
    void restart() noexcept;
    std::int64_t span_of(std::int64_t ticks) const noexcept;
    std::optional<Tick> tick_of_round(std::int64_t due) noexcept;
    double tick_fraction(Time complete) const noexcept;

    Rate rate_, scale_{1, 1};
    std::uint32_t limit_;
    std::uint32_t given_ = 0;  // in this round
    std::int64_t left_ = 0;    // of the longest frame, for the rest of this round: game time in nanoseconds
    Duration longest_{250'000'000};
    Time origin_, last_, complete_;
    std::int64_t tick_ = 0;  // cuts given since origin_
    std::uint64_t dropped_ = 0;
    std::uint32_t by_hand_ = 0;
    bool paused_ = false, stands_still_ = false;
    bool resumes_ = false;       // the next call of next() is the first one after a pause
    bool has_pause_ = false;     // which no tick has had as its gap yet; then
    Time pause_from_{};          // where it began, and
    double share_at_pause_ = 0;  // how far that was from the last cut to the next
};

/// For games without a fixed step: one tick for each picture, of whatever length that took, by the same rules.
///
///     if (auto tick = pictures.next(complete)) game.update(sampler.advance(*tick), tick->step);
///
/// - No tick is longer than the longest frame (250 ms of game time unless set), the first one included: what a stall or
///   a load takes beyond that is the tick's gap. What was pressed in it counts, its time does not.
/// - While the clock stands still, `step` is 0.
/// - While paused, no tick is given. After resuming, the first call of next() begins anew at its `complete`; the pause
///   is the next tick's gap, and what was pressed in it is skipped. (If a stall follows at once, that tick is empty,
///   and the stall is left to the one after it.)
/// - With a scale of 1/2, each tick's `step` is half the input time that it covers (slow motion).
/// A plain value: copy it to save it. Threads: one.
class CURSORUM_API PictureClock {
public:
    /// The first tick begins at `start`.
    explicit PictureClock(Time start = Clock::now()) noexcept;

    /// The tick up to `complete`, the time up to which all input has been posted. Nothing while paused, in the first
    /// round after a pause, and if no time has passed.
    std::optional<Tick> next(Time complete) noexcept;

    /// Game time passes at count / per of input time, from the last cut on. A zero counts as 1.
    void scale(std::uint32_t count, std::uint32_t per = 1) noexcept { scale_ = hertz(count, per); }
    /// As of a TickClock.
    void stand_still(bool stands = true) noexcept { stands_still_ = stands; }
    bool stands_still() const noexcept { return stands_still_; }
    void pause(bool paused = true) noexcept;
    void resume() noexcept { pause(false); }
    bool is_paused() const noexcept { return paused_; }
    /// The longest frame, in game time; 250 ms at first. What is not above zero counts as one nanosecond.
    void set_longest(Duration longest) noexcept { longest_ = longest; }

    Time last_cut() const noexcept { return last_; }

private:
    Rate scale_{1, 1};
    Duration longest_{250'000'000};
    Time last_, complete_, pause_from_{};
    bool paused_ = false, resumes_ = false, has_pause_ = false, stands_still_ = false;
};

}  // namespace cursorum
