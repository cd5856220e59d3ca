// The formulas of shaping.

#include <gtest/gtest.h>

#include <cmath>
#include <limits>
#include <numbers>

#include "core/random_events.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/shaping.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using test::Random;

double length(Vector2 v) { return std::hypot(v.x, v.y); }

TEST(Shaping, HandComputedValues) {
    StickShaping radial{.response = {.dead_zone = 0.2, .outer_zone = 0.2}};
    StickShaping axial = radial;
    axial.zone = StickShaping::Zone::axial;
    StickShaping off_centre = radial;
    off_centre.x = {.centre = 0.1, .least = -0.8, .greatest = 1};
    StickShaping cubic{.response = {.dead_zone = 0, .outer_zone = 0, .curve = 1}};
    StickShaping half_cubic = cubic;
    half_cubic.response.curve = 0.5;
    struct Row {
        const char* what;
        const StickShaping* shaping;
        Vector2 raw, shaped;
    };
    const Row rows[] = {
        {"rest", &radial, {0, 0}, {0, 0}},
        {"the border of the dead zone", &radial, {0.2, 0}, {0, 0}},
        {"half way", &radial, {0, -0.5}, {0, -0.5}},
        {"the border of the outer zone", &radial, {-0.8, 0}, {-1, 0}},
        {"the end", &radial, {1, 0}, {1, 0}},
        {"a square gate's corner is no longer than 1",
         &radial,
         {1, 1},
         {std::numbers::sqrt2 / 2, std::numbers::sqrt2 / 2}},
        {"a diagonal is not cut", &radial, {0.3, 0.4}, {0.3, 0.4}},
        {"axial cuts it", &axial, {0.15, 0.5}, {0, 0.5}},
        {"the centre is not zero", &off_centre, {0.1, 0}, {0, 0}},
        {"to the right 0.9 is all", &off_centre, {0.55, 0}, {0.5, 0}},
        {"to the left too", &off_centre, {-0.35, 0}, {-0.5, 0}},
        {"cubic", &cubic, {0.5, 0}, {0.125, 0}},
        {"between straight and cubic", &half_cubic, {0, 0.5}, {0, 0.3125}},
        {"what is no number is rest", &radial, {std::nan(""), 0}, {0, 0}},
        {"far beyond", &radial, {1e300, 0}, {1, 0}},
    };
    for (const Row& row : rows) {
        const Vector2 v = shape(*row.shaping, row.raw);
        EXPECT_NEAR(v.x, row.shaped.x, 1e-15) << row.what;
        EXPECT_NEAR(v.y, row.shaped.y, 1e-15) << row.what;
    }
    const PullShaping pull{.range = {.centre = 0.1, .least = 0, .greatest = 0.9}, .response = {.dead_zone = 0.25}};
    EXPECT_EQ(shape(pull, 0.1), 0);
    EXPECT_EQ(shape(pull, -1), 0);
    EXPECT_NEAR(shape(pull, 0.6), 0.5, 1e-15);
    EXPECT_EQ(shape(pull, 0.95), 1);
    EXPECT_EQ(shape(pull, std::nan("")), 0);
}

TEST(Shaping, IsContinuousNeverLongerThanOneAndKeepsItsDirection) {
    for (std::uint64_t seed = 1; seed <= 10'000; ++seed) {
        Random random{seed};
        const auto share = [&] { return static_cast<double>(random.below(1U << 20)) / (1U << 20); };
        StickShaping s{.response = {.dead_zone = share() * 0.5, .outer_zone = share() * 0.4, .curve = share()},
                       .zone = random.one_in(2) ? StickShaping::Zone::axial : StickShaping::Zone::radial};
        s.x.centre = share() * 0.2 - 0.1;
        ASSERT_TRUE((DeviceShaping{.sticks = {s, s}, .pulls = {}, .thresholds = {}}.is_valid())) << seed;
        const Vector2 raw{share() * 2.2 - 1.1, share() * 2.2 - 1.1};
        const Vector2 v = shape(s, raw), near = shape(s, {raw.x + 1e-9, raw.y - 1e-9});
        ASSERT_LE(v.x * v.x + v.y * v.y, 1) << seed;
        // The steepest slope there is: of the curve, over what the zones leave.
        const double slope = 4 * (1 + 2 * s.response.curve) / (1 - s.response.dead_zone - s.response.outer_zone);
        ASSERT_LT(length({near.x - v.x, near.y - v.y}), 1e-9 * slope * 4) << seed;
        if (s.zone == StickShaping::Zone::radial && length(v) > 0) {
            const double nx = (raw.x - s.x.centre) / (raw.x > s.x.centre ? 1 - s.x.centre : 1 + s.x.centre);
            ASSERT_NEAR(v.x * raw.y, v.y * nx, 1e-12) << seed;
        }
    }
}

TEST(Shaping, DirectionsHaveHysteresis) {
    const ButtonThresholds thresholds;
    const auto bit = [](Direction d) { return static_cast<std::uint8_t>(1U << static_cast<unsigned>(d)); };
    const std::uint8_t up = bit(Direction::up), right = bit(Direction::right), left = bit(Direction::left);
    const auto turned = [&](double degrees, std::uint8_t before, StickDirections count, double reach = 0.9) {
        const double angle = degrees * std::numbers::pi / 180;  // from the right, counter-clockwise
        return directions_of({std::cos(angle) * reach, -std::sin(angle) * reach}, before, count, thresholds);
    };
    struct Row {
        double degrees;
        std::uint8_t before, four, eight;
        double reach = 0.9;
    };
    const std::uint8_t right_up = right | up;
    for (const Row& row :
         {Row{0, 0, right, right}, Row{44, 0, right, right_up}, Row{46, 0, up, right_up},
          Row{52, right, right, right_up}, Row{53, right, up, right_up}, Row{38, up, up, right_up},
          Row{37, up, right, right_up}, Row{22, 0, right, right}, Row{23, 0, right, right_up},
          Row{29, right, right, right}, Row{31, right, right, right_up}, Row{16, right_up, right, right_up},
          Row{14, right_up, right, right}, Row{180, right, left, left}, Row{0, 0, 0, 0, 0.49},
          Row{0, 0, right, right, 0.5}, Row{0, right, right, right, 0.41}, Row{0, right, 0, 0, 0.39}}) {
        EXPECT_EQ(turned(row.degrees, row.before, StickDirections::four, row.reach), row.four) << row.degrees;
        EXPECT_EQ(turned(row.degrees, row.before, StickDirections::eight, row.reach), row.eight) << row.degrees;
    }
}

}  // namespace
