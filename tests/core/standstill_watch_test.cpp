#include "cursorum/core/standstill_watch.hpp"

#include <gtest/gtest.h>

#include <vector>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"

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

TEST(StandstillWatch, WhatWasHeldAtABreakpointIsLetGoAsOfTheRoundBefore) {
    Timeline timeline;
    Sampler sampler{timeline, {.start = at(0)}};
    StandstillWatch watch{Duration{1'000'000'000}, at(0)};
    timeline.desk().button(controls::KeyW, true, at(4));
    EXPECT_FALSE(watch.look(at(16)));
    EXPECT_TRUE(sampler.advance(at(16))[controls::KeyW].pressed());
    // Thirty seconds in the debugger; the key was let go meanwhile.
    const auto since = watch.look(at(30'016));
    ASSERT_TRUE(since);
    timeline.desk().interrupt(unknown_state, *since);
    timeline.desk().button(controls::KeyW, false, at(12'000));
    const Frame& frame = sampler.advance(at(30'016));
    EXPECT_TRUE(frame[controls::KeyW].ended());
    EXPECT_FALSE(frame[controls::KeyW].released());
    EXPECT_EQ(frame[controls::KeyW].down_span(), Duration{0});
}

}  // namespace
