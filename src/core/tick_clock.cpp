// A clock of fixed ticks in exact arithmetic: a tick's end is computed from its number, never summed. Scale, pause,
// stalls and standing still only change which number comes next and how long a tick is.
#include "cursorum/core/tick_clock.hpp"

#include <algorithm>
#include <numeric>
#include <utility>

namespace cursorum {
namespace {

// A tick's length in input time is period / divisor nanoseconds: per / count seconds of game time, over the scale.
// __int128 is in every compiler this project supports; products stay below 2^62 * 2^64.
__extension__ using Wide = __int128;

constexpr Wide second = 1'000'000'000;

}  // namespace

TickClock::TickClock(Rate rate, TickLimit limit, Time start) noexcept
    : rate_{hertz(rate.count, rate.per)},
      limit_{limit.ticks == 0 ? 1 : limit.ticks},
      origin_{std::clamp(start, earliest_time, latest_time)},
      last_{origin_},
      complete_{origin_} {}

// The last tick that ends by `complete`.
std::int64_t TickClock::due_by(Time complete) const noexcept {
    // The greatest k with floor(k * period / divisor) <= elapsed, that is k * period < (elapsed + 1) * divisor.
    const Wide elapsed = nanoseconds(complete) - nanoseconds(origin_);
    if (elapsed < 0) return 0;
    const Wide period = Wide{rate_.per} * scale_.per * second, divisor = Wide{rate_.count} * scale_.count;
    const Wide ticks = ((elapsed + 1) * divisor - 1) / period;
    return static_cast<std::int64_t>(std::min<Wide>(ticks, INT64_MAX - 1));
}

Time TickClock::cut_at(std::int64_t tick) const noexcept {
    const Wide period = Wide{rate_.per} * scale_.per * second, divisor = Wide{rate_.count} * scale_.count;
    // Whole turns first: tick * period may not fit in 128 bits at the far end of time.
    const Wide whole = tick / divisor, rest = tick % divisor;
    const Wide offset = whole * period + rest * period / divisor;
    const Wide time = std::min<Wide>(nanoseconds(origin_) + offset, nanoseconds(latest_time));
    return Time{Duration{static_cast<std::int64_t>(time)}};
}

// The length of that many usual ticks in game time, rounded up to whole nanoseconds.
std::int64_t TickClock::span_of(std::int64_t ticks) const noexcept {
    const Wide span = (Wide{ticks} * rate_.per * second + rate_.count - 1) / rate_.count;
    return static_cast<std::int64_t>(std::min<Wide>(span, nanoseconds(latest_time)));
}

// Returns the next tick of a round in which `due` usual ticks are due. Time beyond the longest frame is not played: it
// becomes the gap before this tick. Returns nothing if the round has no time left.
std::optional<Tick> TickClock::tick_of_round(std::int64_t due) noexcept {
    if (given_ == 0) left_ = std::max<std::int64_t>(longest_.count(), span_of(1));
    const std::int64_t room = std::int64_t{limit_} - given_;  // above 0
    const bool is_stalled = span_of(due) > left_;
    // The number of ticks that the round still gives: this one covers the remainder. A tick whose gap is a pause cannot
    // have another gap; the next tick has it.
    std::int64_t ticks = std::min(due, room);
    if (is_stalled)
        ticks = std::min<std::int64_t>(
            static_cast<std::int64_t>(Wide{left_} * rate_.count / (Wide{rate_.per} * second)), ticks);
    if (has_pause_) ticks = due;
    if (ticks <= 0) return std::nullopt;
    const std::int64_t covered = due - (ticks - 1);
    Tick tick{last_, last_, cut_at(tick_ + covered), Tick::Gap::none,
              static_cast<double>(covered) * static_cast<double>(rate_.per) / static_cast<double>(rate_.count)};
    if (is_stalled && !has_pause_) {
        const std::int64_t length = left_ - span_of(ticks - 1);
        const Wide of_input = Wide{length} * scale_.per / scale_.count;
        const Wide begin = std::max<Wide>(nanoseconds(tick.end) - of_input, nanoseconds(last_));
        tick.begin = Time{Duration{static_cast<std::int64_t>(begin)}};
        if (tick.begin != last_) tick.gap = Tick::Gap::stalled;
        tick.step = seconds(Duration{length});
        left_ = span_of(ticks - 1) + ticks;  // a nanosecond for each, since they are rounded one by one
    } else {
        left_ -= std::min(left_, span_of(covered));
    }
    dropped_ += static_cast<std::uint64_t>(covered - 1);
    tick_ += covered;
    return tick;
}

std::optional<Tick> TickClock::next(Time complete) noexcept {
    complete = std::min(complete, latest_time);
    complete_ = std::max(complete_, complete);
    if (paused_) {
        const bool stepped = std::exchange(given_, 0) != 0;  // a round with a manual step gives no other tick
        if (by_hand_ == 0 || stepped || complete <= last_) return std::nullopt;
        --by_hand_;
        given_ = 1;
        restart();
        Tick tick{last_, std::max(last_, complete - (cut_at(1) - last_)), complete, Tick::Gap::none, step_seconds()};
        if (tick.begin != last_) tick.gap = Tick::Gap::stalled;
        if (std::exchange(has_pause_, false)) {
            tick.gap = Tick::Gap::paused;
            tick.gap_from = pause_from_;
        }
        if (stands_still_) tick.step = 0;
        last_ = pause_from_ = complete;
        share_at_pause_ = 0;
        restart();
        return tick;
    }
    if (std::exchange(resumes_, false)) {
        last_ = std::max(complete, pause_from_);
        has_pause_ = last_ > pause_from_;
        restart();
        given_ = 0;
        return std::nullopt;
    }
    const std::int64_t due = due_by(complete) - tick_;
    // No tick is due, or `complete` advanced within the round.
    std::optional<Tick> tick;
    if (due > 0 && given_ < limit_) tick = tick_of_round(due);
    if (!tick) {
        given_ = 0;
        return std::nullopt;
    }
    if (std::exchange(has_pause_, false)) {
        tick->gap = Tick::Gap::paused;
        tick->gap_from = pause_from_;
    }
    if (stands_still_) tick->step = 0;
    share_at_pause_ = 0;
    ++given_;
    last_ = tick->end;
    return tick;
}

void TickClock::pause(bool paused) noexcept {
    if (paused == paused_) return;
    paused_ = paused;
    by_hand_ = 0;
    if (!paused) {
        resumes_ = true;
        return;
    }
    // Within a round, the game has not advanced beyond its last tick. A pause that no tick has followed yet continues.
    if (!resumes_ && !has_pause_) {
        pause_from_ = given_ != 0 ? last_ : std::max(last_, complete_);
        share_at_pause_ = tick_fraction(pause_from_);
    }
    given_ = 0;
}

double TickClock::tick_fraction(Time complete) const noexcept {
    const auto length = static_cast<double>((cut_at(tick_ + 1) - last_).count());
    if (length <= 0) return 0;
    return std::clamp(static_cast<double>((complete - last_).count()) / length, 0.0, 1.0);
}

// The first tick after a pause starts a new sequence, but the picture continues from where it was.
double TickClock::blend(Time complete) const noexcept {
    if (paused_ || resumes_) return share_at_pause_;
    return share_at_pause_ + (1 - share_at_pause_) * tick_fraction(complete);
}

void TickClock::scale(std::uint32_t count, std::uint32_t per) noexcept {
    restart();
    const Rate asked = hertz(count, per);
    const std::uint32_t common = std::gcd(asked.count, asked.per);
    scale_ = {asked.count / common, asked.per / common};
}

void TickClock::set_rate(Rate rate) noexcept {
    restart();
    rate_ = hertz(rate.count, rate.per);
}

void TickClock::restart() noexcept {
    origin_ = last_;
    tick_ = 0;
}

// ---- one tick for each picture

PictureClock::PictureClock(Time start) noexcept
    : last_{std::clamp(start, earliest_time, latest_time)}, complete_{last_} {}

std::optional<Tick> PictureClock::next(Time complete) noexcept {
    complete = std::min(complete, latest_time);
    complete_ = std::max(complete_, complete);
    if (paused_) return std::nullopt;
    if (std::exchange(resumes_, false)) {
        last_ = std::max(complete, pause_from_);
        has_pause_ = last_ > pause_from_;
        return std::nullopt;
    }
    if (complete <= last_) return std::nullopt;
    Tick tick{last_, last_, complete, Tick::Gap::none, 0};
    const Wide longest_game = std::max<std::int64_t>(1, longest_.count());
    const Wide longest = std::max<Wide>(1, longest_game * scale_.per / scale_.count);
    const bool is_too_long = (tick.end - tick.begin).count() > longest;
    const bool follows_pause = std::exchange(has_pause_, false);
    if (follows_pause) {
        // A tick has one gap: a stall directly after a pause is left to the next tick.
        tick.gap = Tick::Gap::paused;
        tick.gap_from = pause_from_;
        if (is_too_long) tick.end = tick.begin;
    } else if (is_too_long) {
        tick.gap = Tick::Gap::stalled;
        tick.begin = tick.end - Duration{static_cast<std::int64_t>(longest)};
    }
    tick.step = is_too_long && !follows_pause ? seconds(Duration{static_cast<std::int64_t>(longest_game)})
                                              : seconds(tick.end - tick.begin) * scale_.count / scale_.per;
    if (stands_still_) tick.step = 0;
    last_ = tick.end;
    return tick;
}

void PictureClock::pause(bool paused) noexcept {
    if (paused == paused_) return;
    paused_ = paused;
    if (!paused)
        resumes_ = true;
    else if (!resumes_ && !has_pause_)  // a pause that no tick has followed yet continues
        pause_from_ = std::max(last_, complete_);
}

Duration TickClock::step() const noexcept {
    return Duration{static_cast<std::int64_t>(Wide{rate_.per} * second / rate_.count)};
}

}  // namespace cursorum
