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

// A tick that covers `ticks` usual ones from the last cut on, or as much of them as the longest frame allows.
Tick TickClock::longer_tick(std::int64_t ticks) const noexcept {
    Tick tick{last_, last_, cut_at(tick_ + ticks), Tick::Gap::none,
              static_cast<double>(ticks) * static_cast<double>(rate_.per) / static_cast<double>(rate_.count)};
    const Wide game = Wide{ticks} * rate_.per * second / rate_.count;
    if (ticks == 1 || game <= longest_.count()) return tick;
    const Duration longest = std::max(longest_, step());
    const Wide span = Wide{longest.count()} * scale_.per / scale_.count;
    const std::int64_t begin =
        nanoseconds(tick.end) - static_cast<std::int64_t>(std::min<Wide>(span, (tick.end - tick.begin).count()));
    if (begin <= nanoseconds(last_)) return tick;
    tick.begin = Time{Duration{begin}};
    tick.gap = Tick::Gap::stalled;
    tick.step = seconds(longest);
    return tick;
}

std::optional<Tick> TickClock::next(Time complete) noexcept {
    complete = std::min(complete, latest_time);
    complete_ = std::max(complete_, complete);
    if (paused_) {
        const bool stepped = std::exchange(given_, 0) != 0;  // a step by hand is all that its round gives
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
    const std::int64_t due = due_by(complete);
    if (due <= tick_) {
        given_ = 0;
        return std::nullopt;
    }
    const std::int64_t room = std::int64_t{limit_} - given_;
    if (room <= 0) {  // `complete` ran on within the round
        given_ = 0;
        return std::nullopt;
    }
    // After a stall, the first of `limit_` covers what is over. One after a pause has the pause as its gap; a stall
    // behind it becomes the next one's.
    const std::int64_t skipped = has_pause_ ? 0 : std::max<std::int64_t>(0, due - tick_ - room);
    Tick tick = longer_tick(skipped + 1);
    if (std::exchange(has_pause_, false)) {
        tick.gap = Tick::Gap::paused;
        tick.gap_from = pause_from_;
    }
    share_at_pause_ = 0;
    dropped_ += static_cast<std::uint64_t>(skipped);
    tick_ += skipped + 1;
    ++given_;
    last_ = tick.end;
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
    // Within a round the game has not got beyond its last tick. A pause that no tick has followed yet goes on.
    if (!resumes_ && !has_pause_) {
        pause_from_ = given_ != 0 ? last_ : std::max(last_, complete_);
        share_at_pause_ = share_of_tick(pause_from_);
    }
    given_ = 0;
}

double TickClock::share_of_tick(Time complete) const noexcept {
    const auto length = static_cast<double>((cut_at(tick_ + 1) - last_).count());
    if (length <= 0) return 0;
    return std::clamp(static_cast<double>((complete - last_).count()) / length, 0.0, 1.0);
}

// The first tick after a pause begins anew, but the picture goes on from where it was.
double TickClock::blend(Time complete) const noexcept {
    if (paused_ || resumes_) return share_at_pause_;
    return share_at_pause_ + (1 - share_at_pause_) * share_of_tick(complete);
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
    if (std::exchange(has_pause_, false)) {
        // A stall behind a pause becomes the next tick's gap.
        tick.gap = Tick::Gap::paused;
        tick.gap_from = pause_from_;
        if (is_too_long) tick.end = tick.begin + Duration{static_cast<std::int64_t>(longest)};
    } else if (is_too_long) {
        tick.gap = Tick::Gap::stalled;
        tick.begin = tick.end - Duration{static_cast<std::int64_t>(longest)};
    }
    tick.step = is_too_long ? seconds(Duration{static_cast<std::int64_t>(longest_game)})
                            : seconds(tick.end - tick.begin) * scale_.count / scale_.per;
    last_ = tick.end;
    return tick;
}

void PictureClock::pause(bool paused) noexcept {
    if (paused == paused_) return;
    paused_ = paused;
    if (!paused)
        resumes_ = true;
    else if (!resumes_ && !has_pause_)  // a pause that no tick has followed yet goes on
        pause_from_ = std::max(last_, complete_);
}

Duration TickClock::step() const noexcept {
    return Duration{static_cast<std::int64_t>(Wide{rate_.per} * second / rate_.count)};
}

}  // namespace cursorum
