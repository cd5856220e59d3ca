// Rest and range, learnt from samples.

#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "core/random_events.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/rest_finder.hpp"
#include "cursorum/core/shaping.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using test::Random;

TEST(RestFinder, FindsCentreDeadZoneAndRange) {
    RestFinder finder;
    const auto at = [](std::int64_t milliseconds) { return nanoseconds_since_zero(milliseconds * 1'000'000); };
    Random random{7};
    std::int64_t t = 0;
    const auto rest = [&](std::int64_t until) {
        for (; t < until; t += 10) {
            finder.add(at(t), PadStickLeftX, 0.0625 + static_cast<double>(random.below(65)) / 3200 - 0.01);
            finder.add(at(t), PadStickLeftY, -0.03125);
        }
    };
    rest(2000);
    for (const auto& [x, y] : {std::pair{-0.9, 0.0}, {0.0, -1.0}, {0.95, 0.0}, {0.0, 0.5}}) {
        finder.add(at(t), PadStickLeftX, x);
        finder.add(at(t), PadStickLeftY, y);
        t += 40;
        rest(t + 20);  // passing through the middle does not count as rest
    }
    finder.lost(at(t));
    finder.end(at(t + 60'000));
    const StickRest found = finder.stick(PadStickLeft);
    ASSERT_TRUE(found.found);
    EXPECT_NEAR(found.centre.x, 0.0625, 0.003);
    EXPECT_EQ(found.centre.y, -0.03125);
    EXPECT_NEAR(found.farthest, 0.01, 0.003);
    EXPECT_NEAR(static_cast<double>(found.rest_time.count()), 1.94e9, 2e7);
    EXPECT_EQ(found.shaping.x, (AxisRange{found.centre.x, -0.9, 0.95}));
    EXPECT_EQ(found.shaping.y, (AxisRange{found.centre.y, -1, 1})) << "0.5 is too little to believe";
    EXPECT_NEAR(found.shaping.response.dead_zone, 0.035, 0.006);
    EXPECT_EQ(shape(found.shaping, {0.07, -0.03}), Vector2{});
    EXPECT_FALSE(finder.stick(PadStickRight).found);
    EXPECT_EQ(finder.stick(PadStickRight).shaping, StickShaping{});
    EXPECT_FALSE(finder.trigger(PadPullLeft).found);
}

}  // namespace
