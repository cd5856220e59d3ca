#include "cursorum/core/standstill_watch.hpp"

#include <gtest/gtest.h>

#include <vector>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"
#include "cursorum/core/tick_clock.hpp"

namespace {

using namespace cursorum;

Time at(std::int64_t ms) { return nanoseconds_since_zero(ms * 1'000'000); }

TEST(StandstillWatch, TellsLongRoundsAndSleep) {
    struct Row {
        std::int64_t now, asleep, since;  // milliseconds; since -1: it went on
    };
    const Row rows[] = {{10, 5'000, -1},        {1'010, 5'000, -1},  {2'011, 5'000, 1'010}, {2'020, 5'050, -1},
                        {2'030, 65'050, 2'020}, {2'025, 65'050, -1}, {2'040, 65'050, -1},   {9'000, 65'050, 2'040}};
    StandstillWatch watch{Duration{1'000'000'000}, at(0)};
    for (const Row& row : rows) {
        const auto since = watch.look(at(row.now), Duration{row.asleep * 1'000'000});
        EXPECT_EQ(since.has_value(), row.since >= 0) << row.now;
        if (since) {
            EXPECT_EQ(*since, at(row.since)) << row.now;
        }
    }
    EXPECT_EQ(watch.count(), 3U);
}

// Thirty seconds at a breakpoint, with a key held: what happens to it there, and what comes of it.
TEST(StandstillWatch, WhatIsHeldStillGoesOnAndWhatIsUpIsLetGo) {
    struct Row {
        const char* what;
        bool is_held, comes_late;  // its release, by an event after all
        bool goes_on;
        unsigned released, cancelled;
    };
    for (const Row& row : {Row{"held all the time", true, false, true, 0, 1},
                           Row{"let go, and nobody saw it", false, false, false, 0, 1},
                           Row{"let go, with an event", false, true, false, 1, 0}}) {
        SCOPED_TRACE(row.what);
        Timeline timeline{{.start = at(0)}};
        Sampler sampler{timeline, {.start = at(0)}};
        StandstillWatch watch{Duration{1'000'000'000}, at(0)};
        TickClock ticks{hertz(100), at_most(5), at(0)};
        Inlet& desk = timeline.desk();
        unsigned presses = 0, releases = 0, cancels = 0;
        double way = 0;
        const auto round = [&](std::int64_t now, bool is_held) {
            if (watch.look(at(now))) desk.interrupt(is_held ? ButtonSet{controls::KeyW} : ButtonSet{}, at(now));
            while (const auto tick = ticks.next(at(now))) {
                const ButtonFigures f = sampler.advance(*tick)[controls::KeyW].figures();
                presses += f.press_count(), releases += f.release_count(), cancels += f.cancel_count();
                way += f.down_share() * tick->step;
            }
        };
        desk.button(controls::KeyW, true, at(10));
        round(110, true);
        if (row.comes_late) desk.button(controls::KeyW, false, at(12'000));
        round(30'110, row.is_held);
        // The system goes on to repeat what is held: not as a press.
        if (row.is_held) desk.button(controls::KeyW, true, at(30'150));
        round(30'200, row.is_held);
        EXPECT_EQ(presses, 1U);
        EXPECT_EQ(releases, row.released);
        EXPECT_EQ(cancels, row.cancelled);
        EXPECT_EQ(sampler.frame()[controls::KeyW].down(), row.goes_on);
        EXPECT_LE(way, 0.1 + 0.25 + 0.09 + 1e-9);
        EXPECT_EQ(watch.count(), 1U);
    }
}

}  // namespace
