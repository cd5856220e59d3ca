#include "cursorum/core/tick_clock.hpp"

#include <gtest/gtest.h>

#include <optional>
#include <sstream>
#include <string>
#include <vector>

#include "core/random_events.hpp"

namespace {

using namespace cursorum;

Time at(std::int64_t ns) { return nanoseconds_since_zero(ns); }

std::vector<std::int64_t> round_of(TickClock& clock, std::int64_t complete) {
    std::vector<std::int64_t> cuts;
    while (const auto cut = clock.next(at(complete))) cuts.push_back(nanoseconds(cut->end));
    return cuts;
}
using Cuts = std::vector<std::int64_t>;

TEST(TickClock, CutsAtTheRateWithoutDrift) {
    TickClock clock{hertz(60), at_most(1000), Time{}};
    clock.set_longest(std::chrono::hours{1});
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
    clock.set_longest(std::chrono::hours{1});
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

std::string text(const std::optional<Tick>& tick) {
    if (!tick) return "none";
    std::ostringstream out;
    const auto ms = [](Time time) { return static_cast<double>(nanoseconds(time)) / 1e6; };
    constexpr const char* gaps[] = {"", " paused", " stalled"};
    if (tick->gap_from != tick->begin) out << ms(tick->gap_from) << "..";
    out << ms(tick->begin) << "-" << ms(tick->end) << gaps[static_cast<int>(tick->gap)] << " step " << tick->step * 1e3;
    return out.str();
}

// Milliseconds; each step is one call, and what it gives.
TEST(TickClock, ATickHasABeginningAndAGapBeforeIt) {
    struct Row {
        const char* name;
        const char* script;
        const char* expected;
    };
    const Row rows[] = {
        {"no gap", "n10 n20 n20", "0-10 step 10|10-20 step 10|none"},
        {"a stall within the limit", "n40 n40 n40 n40", "0-20 step 20|20-30 step 10|30-40 step 10|none"},
        {"the longest frame", "n3000 n3000 n3000 n3000",
         "0..2750-2980 stalled step 230|2980-2990 step 10|2990-3000 step 10|none"},
        {"the longest frame in slow motion", "s n3000 n3000 n3000",
         "0..2500-2960 stalled step 230|2960-2980 step 10|2980-3000 step 10"},
        {"a longest frame of less than a tick", "l n30 n60 n60 n60 n60",
         "0..20-30 stalled step 10|none|30..50-60 stalled step 10|none|none"},
        {"a pause between rounds", "n10 n17 p n500 r n600 n609 n610 n620",
         "0-10 step 10|none|none|none|none|17..600-610 paused step 10|610-620 step 10"},
        {"a pause in the middle of a round", "n28 p n28 r n600 n610",
         "0-10 step 10|none|none|10..600-610 paused step 10"},
        {"paused again before a tick", "n10 n10 p r n600 p r n700 n710",
         "0-10 step 10|none|none|none|10..700-710 paused step 10"},
        {"a stall behind a pause", "n10 n10 p r n600 n3000 n3000",
         "0-10 step 10|none|none|10..600-610 paused step 10|610..2760-2990 stalled step 230"},
        {"a pause of no length", "n10 n10 p r n10 n20", "0-10 step 10|none|none|10-20 step 10"},
        {"by hand", "n10 n10 p n50 h n53 n60 h h n62 n62 n70 r n90 n100",
         "0-10 step 10|none|none|10..43-53 stalled step 10|none|53-62 step 10|none|62-70 step 10|none|70..90-100 "
         "paused step "
         "10"},
    };
    for (const Row& row : rows) {
        SCOPED_TRACE(row.name);
        TickClock clock{hertz(100), at_most(3), Time{}};
        std::istringstream script{row.script};
        std::string shown;
        for (std::string word; script >> word;) {
            switch (word[0]) {
                case 'n':
                    shown += (shown.empty() ? "" : "|") + text(clock.next(at(std::stoll(word.substr(1)) * 1'000'000)));
                    break;
                case 'p': clock.pause(); break;
                case 'r': clock.resume(); break;
                case 'h': clock.step_by_hand(); break;
                case 's': clock.scale(1, 2); break;
                case 'l': clock.set_longest(Duration{1}); break;
                default: FAIL() << "unknown word " << word;
            }
        }
        EXPECT_EQ(shown, row.expected);
    }
}

TEST(TickClock, WhatCatchesUpAfterOneStallIsNeverLongerThanTheLongestFrame) {
    for (std::uint64_t seed = 1; seed <= 300; ++seed) {
        test::Random random{seed};
        const auto rate = static_cast<std::uint32_t>(1 + random.below(240));
        TickClock clock{hertz(rate), at_most(static_cast<std::uint32_t>(1 + random.below(20))), Time{}};
        const std::int64_t longest = 50'000'000 + static_cast<std::int64_t>(random.below(400'000'000));
        clock.set_longest(Duration{longest});
        const double most = std::max(static_cast<double>(longest) / 1e9, 1.0 / rate);
        std::int64_t now = 0;
        double of_all = 0, whole = 0;
        bool paused = false, has_pause = false;
        for (int i = 0; i < 200; ++i) {
            now += static_cast<std::int64_t>(random.below(random.one_in(10) ? 5'000'000'000 : 20'000'000));
            if (random.one_in(20)) clock.pause(paused = !paused);
            double of_round = 0, of_input = 0;
            unsigned given = 0;
            Time last = clock.last_cut();
            while (const auto tick = clock.next(at(now))) {
                ASSERT_GE(tick->begin, last) << "seed " << seed;
                ASSERT_NEAR(tick->step, seconds(tick->end - tick->begin), 2e-9) << "seed " << seed;
                of_round += tick->step;
                ASSERT_TRUE(given++ == 0 || tick->gap != Tick::Gap::stalled || has_pause) << "seed " << seed;
                has_pause = tick->gap == Tick::Gap::paused;
                of_input += seconds(tick->end - tick->begin);
                last = tick->end;
            }
            ASSERT_LE(of_round, most + 1e-7) << "seed " << seed << ", round " << i;
            of_all += of_round;
            whole += of_input;
        }
        EXPECT_NEAR(of_all, whole, 1e-6);
    }
}

// The world stops, time does not.
TEST(TickClock, StandsStillWithStepsOfZero) {
    TickClock moving{hertz(100), at_most(3), Time{}}, standing = moving;
    PictureClock picture{Time{}}, still_picture{Time{}};
    standing.stand_still(), still_picture.stand_still();
    for (std::int64_t now = 0; now < 2'000'000'000; now += now == 500'000'000 ? 900'000'000 : 7'000'000) {
        while (auto tick = moving.next(at(now))) {
            const auto still = standing.next(at(now));
            tick->step = 0;
            ASSERT_EQ(still, tick) << now;
        }
        ASSERT_FALSE(standing.next(at(now)));
        auto tick = picture.next(at(now));
        if (tick) tick->step = 0;
        ASSERT_EQ(still_picture.next(at(now)), tick) << now;
    }
    EXPECT_TRUE(standing.stands_still() && still_picture.stands_still());
    standing.stand_still(false), still_picture.stand_still(false);
    EXPECT_EQ(text(standing.next(at(2'010'000'000))), text(moving.next(at(2'010'000'000))));
    EXPECT_GT(still_picture.next(at(2'010'000'000)).value_or(Tick{}).step, 0);
}

TEST(TickClock, AStepByHandIsOnlyForAPausedClock) {
    TickClock clock{hertz(1000), at_most(5), Time{}};
    clock.step_by_hand();
    EXPECT_EQ(round_of(clock, 1'000'000), Cuts{1'000'000});
    clock.pause();
    EXPECT_TRUE(clock.is_paused());
    clock.step_by_hand();
    clock.resume();  // a step that was not taken is forgotten
    EXPECT_EQ(round_of(clock, 5'000'000), Cuts{});
    EXPECT_EQ(round_of(clock, 6'000'000), Cuts{6'000'000});
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
    round_of(clock, 1'500'000);
    clock.pause();  // the picture stands still, and goes on from there
    EXPECT_DOUBLE_EQ(clock.blend(at(1'900'000)), 0.5);
    clock.resume();
    round_of(clock, 9'000'000);
    EXPECT_DOUBLE_EQ(clock.blend(at(9'000'000)), 0.5);
    EXPECT_DOUBLE_EQ(clock.blend(at(9'500'000)), 0.75);
    round_of(clock, 10'000'000);
    EXPECT_DOUBLE_EQ(clock.blend(at(10'250'000)), 0.25);
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
            ASSERT_GE(clock.last_cut(), at(last));
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
