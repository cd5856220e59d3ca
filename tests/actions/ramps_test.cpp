#include "actions/ramps.hpp"

#include <gtest/gtest.h>

#include <cmath>

#include "core/random_events.hpp"

namespace {

using namespace cursorum;
using test::Random;

constexpr std::int64_t second = 1'000'000'000;

// The way gone is the same however time is cut: at 10 to 1000 frames per second, and in uneven frames.
TEST(MotionToward, GoesTheSameWayAtAnyFrameRate) {
    for (std::uint64_t seed = 1; seed <= 200; ++seed) {
        SCOPED_TRACE("seed " + std::to_string(seed));
        Random choose{seed};
        struct Target {
            std::int64_t time;
            Vector2 value;
        };
        std::vector<Target> targets;
        for (std::int64_t time = 0; time < 4 * second; time += static_cast<std::int64_t>(choose.below(second / 2)))
            targets.push_back(
                {time, {static_cast<double>(choose.below(9)) / 4 - 1, static_cast<double>(choose.below(9)) / 4 - 1}});
        const Ramps ramps{Duration{static_cast<std::int64_t>(choose.below(second))},
                          Duration{static_cast<std::int64_t>(choose.below(second / 2))}};
        double least = 1e9, greatest = -1e9, least_x = 1e9, greatest_x = -1e9;
        for (const unsigned rate : {10U, 24U, 60U, 144U, 1000U, 0U}) {
            double value = 0, target = 0, way = 0;
            VectorMotion vector;
            Vector2 vector_way;
            auto next = targets.begin();
            std::int64_t at = 0;
            for (std::int64_t frame = 1; at < 4 * second; ++frame) {
                std::int64_t cut =
                    rate != 0 ? frame * second / rate : at + 1 + static_cast<std::int64_t>(choose.below(second / 20));
                cut = std::min(cut, 4 * second);
                const auto go_on = [&](std::int64_t until) {
                    way += move_toward(value, target, ramps, until - at);
                    const Vector2 part = move_on(vector, ramps, until - at);
                    vector_way = {vector_way.x + part.x, vector_way.y + part.y};
                    at = until;
                };
                for (; next != targets.end() && next->time <= cut; ++next) {
                    go_on(next->time);
                    target = next->value.x;
                    set_target(vector, next->value);
                }
                go_on(cut);
            }
            least = std::min(least, way), greatest = std::max(greatest, way);
            least_x = std::min(least_x, vector_way.x), greatest_x = std::max(greatest_x, vector_way.x);
        }
        EXPECT_LE(greatest - least, 1e-6);
        EXPECT_LE(greatest_x - least_x, 1e-6);
        EXPECT_NE(greatest, 0);
    }
}

// Against the same motion in steps of a nanosecond.
TEST(MotionToward, IsWhatSmallStepsAddUpTo) {
    Random choose{7};
    for (int round = 0; round < 200; ++round) {
        const double from = static_cast<double>(choose.below(9)) / 4 - 1,
                     to = static_cast<double>(choose.below(9)) / 4 - 1;
        const Ramps ramps{Duration{1 + static_cast<std::int64_t>(choose.below(60))},
                          Duration{1 + static_cast<std::int64_t>(choose.below(60))}};
        const auto span = static_cast<std::int64_t>(choose.below(200));
        double value = from, plain = from, plain_sum = 0;
        const double integral = move_toward(value, to, ramps, span) * 1e9;
        for (std::int64_t step = 0; step < span * 64; ++step) {
            const bool rises = plain == 0 || ((plain > 0) == (to > plain) && to != plain);
            const double most = 1.0 / 64 / static_cast<double>((rises ? ramps.rise : ramps.fall).count());
            const double before = plain;
            plain += std::clamp(to - plain, -most, most);
            if ((before > 0) != (plain > 0) && before != 0 && to != 0 && (before > 0) != (to > 0)) plain = 0;
            plain_sum += (before + plain) / 2 / 64;
        }
        EXPECT_NEAR(value, plain, 0.05) << from << " to " << to << " in " << span;
        EXPECT_NEAR(integral, plain_sum, 0.1) << from << " to " << to << " in " << span;
    }
}

}  // namespace
