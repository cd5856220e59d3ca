#include "snippets/world.hpp"

#include <algorithm>
#include <chrono>
#include <cmath>

// The clock of this program: in place of the standard library's, so that a minute of a game takes no time.
namespace std::chrono {
inline namespace _V2 {
steady_clock::time_point steady_clock::now() noexcept { return time_point{duration{test::present += test::per_look}}; }
}  // namespace _V2
}  // namespace std::chrono

namespace test {

std::int64_t present = 5'000'000'000, per_look = 0;

namespace {
std::int64_t nanoseconds_of(double ms) { return std::llround(ms * 1e6); }
}  // namespace

Deed down(double at, Button key) { return {.kind = Deed::Kind::key, .at = nanoseconds_of(at), .key = key, .on = true}; }
Deed up(double at, Button key) { return {.kind = Deed::Kind::key, .at = nanoseconds_of(at), .key = key}; }
Deed focus(double at, bool has) { return {.kind = Deed::Kind::focus, .at = nanoseconds_of(at), .on = has}; }
Deed place(double at, double x, double y) {
    return {.kind = Deed::Kind::place, .at = nanoseconds_of(at), .x = x, .y = y};
}
Deed stick(double at, double x, double y) {
    return {.kind = Deed::Kind::stick, .at = nanoseconds_of(at), .x = x, .y = y};
}
Deed stop(double at, double length) {
    return {.kind = Deed::Kind::stop, .at = nanoseconds_of(at), .length = nanoseconds_of(length)};
}

// ---- the engine

World::World(const Script& script, int frames_per_second) : script_{script}, frames_per_second_{frames_per_second} {
    present = begin;
    for (; next_ < script_.size() && script_[next_].at < 0; ++next_)
        if (script_[next_].kind == Deed::Kind::key) keys_.set(script_[next_].key, script_[next_].on);
    for (const Deed& deed : script_) end_ = std::max(end_, deed.at + deed.length);
}

void World::pump(Window&) {
    std::int64_t until = since_ + ++frame_ * 1'000'000'000 / frames_per_second_;
    for (; next_ < script_.size() && script_[next_].at <= until; ++next_) {
        const Deed& deed = script_[next_];
        present = std::max(present, begin + deed.at);
        if (deed.kind != Deed::Kind::stop) {
            happen(deed);
            continue;
        }
        since_ = until = deed.at + deed.length;
        frame_ = 0;
        present = begin + until;
        constexpr std::int64_t longest_frame = 250'000'000;
        if (until - last_ > longest_frame) gaps_.push_back({last_, until - longest_frame});
    }
    present = begin + until;
    last_ = until;
    running = until < end_ + 1'000'000'000;  // until all has come to rest
}

void World::happen(const Deed& deed) {
    switch (deed.kind) {
        case Deed::Kind::key:
            keys_.set(deed.key, deed.on);
            if (has_focus_ && when_key) when_key(deed.key, deed.on);
            break;
        case Deed::Kind::focus:
            has_focus_ = deed.on;
            if (when_focus) when_focus(deed.on);
            break;
        case Deed::Kind::place:
            if (when_place) when_place(deed.x, deed.y);
            break;
        case Deed::Kind::stick:
            if (when_stick) when_stick(deed.x, deed.y);
            break;
        case Deed::Kind::stop: break;
    }
}

// ---- the person

Result expected(const Script& script, const Controls& controls, const std::vector<World::Gap>& gaps) {
    Result result;
    ButtonSet held, made;  // `made`: by a press for the game
    bool has_focus = true, is_paused = false;
    Vector2 pushed{};
    std::int64_t now = 0, stopped_until = 0;
    const auto counted = [&](std::int64_t from, std::int64_t to) {
        std::int64_t length = std::max<std::int64_t>(to - from, 0);
        for (const World::Gap& gap : gaps)
            length -= std::max<std::int64_t>(std::min(to, gap.to) - std::max(from, gap.from), 0);
        return static_cast<double>(length) / 1e9;
    };
    const auto live_until = [&](std::int64_t until) {
        const auto has = [&](Button key) { return has_focus && key && held.contains(key) ? 1.0 : 0.0; };
        Vector2 way{has(controls.right) - has(controls.left), has(controls.down) - has(controls.up)};
        if (way == Vector2{} && controls.has_stick && has_focus) way = pushed;
        const double length = std::hypot(way.x, way.y);
        if (length > 1) way = {way.x / length, way.y / length};
        if (!is_paused) {
            result.x += World::speed * way.x * counted(now, until);
            result.y += World::speed * way.y * counted(now, until);
        }
        now = std::max(now, until);
    };
    for (const Deed& deed : script) {
        // What comes while the program stands still is there when it goes on.
        live_until(std::max({deed.at, stopped_until, std::int64_t{0}}));
        switch (deed.kind) {
            case Deed::Kind::key: {
                held.set(deed.key, deed.on);
                if (!has_focus || deed.at < 0) break;
                if (deed.on && deed.key == controls.pause) is_paused = !is_paused;
                if (deed.on && deed.key == controls.fire && !is_paused) ++result.fired;
                if (!deed.on && deed.key == controls.open && made.contains(deed.key)) ++result.opened;
                made.set(deed.key, deed.on);
                break;
            }
            case Deed::Kind::focus:
                has_focus = deed.on;
                made = {};
                break;
            case Deed::Kind::stick: pushed = {deed.x, deed.y}; break;
            case Deed::Kind::stop: stopped_until = deed.at + deed.length; break;
            case Deed::Kind::place: break;
        }
    }
    live_until(now + 1'000'000'000);
    return result;
}

}  // namespace test
