#include "cursorum/core/tick_clock.hpp"

#include <gtest/gtest.h>

#include <vector>

#include "core/random_events.hpp"

namespace {

using namespace cursorum;

Time at(std::int64_t ns) { return nanoseconds_since_zero(ns); }

std::vector<std::int64_t> round_of(TickClock& clock, std::int64_t complete) {
    std::vector<std::int64_t> cuts;
    while (const auto cut = clock.next(at(complete))) cuts.push_back(nanoseconds(*cut));
    return cuts;
}
using Cuts = std::vector<std::int64_t>;

TEST(TickClock, CutsAtTheRateWithoutDrift) {
    TickClock clock{hertz(60), at_most(1000), Time{}};
    const Cuts cuts = round_of(clock, 10'000'000'000);
    ASSERT_EQ(cuts.size(), 600U);
    for (std::size_t k = 0; k < cuts.size(); ++k)
        EXPECT_EQ(cuts[k], static_cast<std::int64_t>((k + 1) * 1'000'000'000 / 60)) << k;
    EXPECT_EQ(clock.step(), Duration{16'666'666});
    EXPECT_DOUBLE_EQ(clock.step_seconds(), 1.0 / 60);
}

TEST(TickClock, GivesATickWhenItIsDueAndNotBefore) {
    TickClock clock{hertz(100), at_most(5), at(1000)};
    EXPECT_EQ(round_of(clock, 10'000'999), Cuts{});
    EXPECT_EQ(round_of(clock, 10'001'000), Cuts{10'001'000});
    EXPECT_EQ(round_of(clock, 10'001'000), Cuts{});
    EXPECT_EQ(clock.last_cut(), at(10'001'000));
}

TEST(TickClock, FractionsAreExact) {
    TickClock clock{hertz(60000, 1001), at_most(100'000), Time{}};
    const Cuts cuts = round_of(clock, 1001'000'000'000);
    EXPECT_EQ(cuts.size(), 60'000U);
    EXPECT_EQ(cuts.back(), 1001'000'000'000);
}

TEST(TickClock, AStallMakesALongerFrameAndNoBurst) {
    TickClock clock{hertz(1000), at_most(3), Time{}};
    EXPECT_EQ(round_of(clock, 2'000'000), (Cuts{1'000'000, 2'000'000}));
    EXPECT_EQ(round_of(clock, 100'500'000), (Cuts{98'000'000, 99'000'000, 100'000'000}));
    EXPECT_EQ(clock.dropped(), 95U);
    EXPECT_EQ(round_of(clock, 101'000'000), Cuts{101'000'000});
}

TEST(TickClock, PausedItGivesNothingAndThenOneFrameForThePause) {
    TickClock clock{hertz(1000), at_most(5), Time{}};
    EXPECT_EQ(round_of(clock, 1'000'000), Cuts{1'000'000});
    clock.pause(true);
    EXPECT_TRUE(clock.is_paused());
    EXPECT_EQ(round_of(clock, 50'000'000), Cuts{});
    clock.pause(false);
    EXPECT_EQ(round_of(clock, 50'200'000), Cuts{50'000'000});
    EXPECT_EQ(round_of(clock, 51'000'000), Cuts{51'000'000});
}

TEST(TickClock, PausedItGoesOnStepByStepByHand) {
    TickClock clock{hertz(1000), at_most(5), Time{}};
    clock.step_by_hand();  // not paused: nothing
    EXPECT_EQ(round_of(clock, 1'000'000), Cuts{1'000'000});
    clock.pause(true);
    EXPECT_EQ(round_of(clock, 4'000'000), Cuts{});
    clock.step_by_hand();
    EXPECT_EQ(round_of(clock, 5'300'000), Cuts{5'300'000});
    EXPECT_EQ(round_of(clock, 6'000'000), Cuts{});
    clock.step_by_hand();
    clock.step_by_hand();
    EXPECT_EQ(round_of(clock, 5'300'000), Cuts{});  // no time has passed
    EXPECT_EQ(round_of(clock, 7'000'000), Cuts{7'000'000});
    EXPECT_EQ(round_of(clock, 7'000'001), Cuts{7'000'001});
    EXPECT_EQ(round_of(clock, 8'000'000), Cuts{});
    clock.step_by_hand();
    clock.pause(false);  // a step that was not taken is forgotten
    EXPECT_EQ(round_of(clock, 9'500'001), Cuts{9'000'001});
    EXPECT_EQ(round_of(clock, 10'000'001), Cuts{10'000'001});
}

TEST(TickClock, ScaleStretchesTicksOverInputTime) {
    TickClock clock{hertz(1000), at_most(100), Time{}};
    EXPECT_EQ(round_of(clock, 2'000'000), (Cuts{1'000'000, 2'000'000}));
    clock.scale(1, 2);
    EXPECT_EQ(round_of(clock, 6'000'000), (Cuts{4'000'000, 6'000'000}));
    EXPECT_EQ(clock.step(), Duration{1'000'000});
    clock.scale(2);
    EXPECT_EQ(round_of(clock, 7'000'000), (Cuts{6'500'000, 7'000'000}));
    clock.set_rate(hertz(500));
    EXPECT_EQ(round_of(clock, 8'000'000), Cuts{8'000'000});
}

TEST(TickClock, BlendsBetweenCuts) {
    TickClock clock{hertz(1000), at_most(5), Time{}};
    round_of(clock, 1'000'000);
    EXPECT_DOUBLE_EQ(clock.blend(at(1'250'000)), 0.25);
    EXPECT_DOUBLE_EQ(clock.blend(at(500'000)), 0.0);
    EXPECT_DOUBLE_EQ(clock.blend(at(9'000'000)), 1.0);
}

TEST(TickClock, EveryInstantFallsInExactlyOneTick) {
    // Cuts only go up, and after each round nothing that is due is left, whatever is changed in between.
    for (std::uint64_t seed = 1; seed <= 300; ++seed) {
        test::Random random{seed};
        TickClock clock{hertz(static_cast<std::uint32_t>(1 + random.below(240))),
                        at_most(static_cast<std::uint32_t>(1 + random.below(4))), Time{}};
        std::int64_t now = 0, last = 0;
        for (int i = 0; i < 200; ++i) {
            now += static_cast<std::int64_t>(random.below(random.one_in(20) ? 2'000'000'000 : 30'000'000));
            if (random.one_in(10)) clock.pause(!clock.is_paused());
            if (random.one_in(4)) clock.step_by_hand();
            if (random.one_in(10)) clock.scale(1 + static_cast<std::uint32_t>(random.below(3)), 2);
            if (random.one_in(15)) clock.set_rate(hertz(static_cast<std::uint32_t>(1 + random.below(240))));
            for (const std::int64_t cut : round_of(clock, now)) {
                ASSERT_GT(cut, last) << "seed " << seed;
                ASSERT_LE(cut, now) << "seed " << seed;
                last = cut;
            }
            ASSERT_EQ(clock.last_cut(), at(last));
        }
    }
}

TEST(TickClock, FarEndsOfTimeDoNoHarm) {
    TickClock clock{hertz(1'000'000'000), at_most(2), earliest_time};
    EXPECT_EQ(round_of(clock, nanoseconds(latest_time)).size(), 2U);
    EXPECT_EQ(clock.last_cut(), latest_time);
    TickClock zero{Rate{0, 0}, TickLimit{0}, Time{}};
    EXPECT_EQ(round_of(zero, 1'000'000'000), Cuts{1'000'000'000});
    EXPECT_EQ(round_of(zero, -5), Cuts{});
}

}  // namespace
