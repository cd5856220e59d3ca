// The formulas of shaping, rest learnt from samples, and what converts places.

#include <gtest/gtest.h>

#include <cmath>
#include <limits>
#include <numbers>

#include "core/random_events.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/rest_finder.hpp"
#include "cursorum/core/shaping.hpp"
#include "cursorum/core/space.hpp"

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
        rest(t + 20);  // passing through the middle is no rest
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
    EXPECT_FALSE(finder.pull(PadPullLeft).found);
}

// ---- spaces

TEST(Spaces, LetterboxCornersByHand) {
    // 320 x 180 in a window of 800 x 600: 2.5 pixels a unit, 75 pixels above and below.
    const auto boxed = letterbox({800, 600}, {320, 180});
    struct Row {
        WindowPoint window;
        ViewportPoint viewport;
    };
    for (const Row& row :
         {Row{{0, 75}, {0, 0}}, Row{{800, 525}, {320, 180}}, Row{{400, 300}, {160, 90}}, Row{{0, 0}, {0, -30}}}) {
        EXPECT_NEAR(boxed(row.window).x, row.viewport.x, 1e-12);
        EXPECT_NEAR(boxed(row.window).y, row.viewport.y, 1e-12);
        EXPECT_NEAR(boxed.inverse()(row.viewport).x, row.window.x, 1e-12);
        EXPECT_NEAR(boxed.inverse()(row.viewport).y, row.window.y, 1e-12);
    }
    EXPECT_EQ(stretched({800, 600}, {320, 180})({400, 300}), (ViewportPoint{160, 90}));
    EXPECT_EQ(window_at({100, 50})({110, 70}), (WindowPoint{10, 20}));
    EXPECT_EQ(letterbox({0, 600}, {320, 180}), (Transform<WindowSpace, ViewportSpace>{}));
}

TEST(Spaces, CameraCornersByHand) {
    struct Row {
        Camera camera;
        ViewportPoint viewport;
        WorldPoint world;
    };
    const Camera plain{.centre = {10, 20}, .zoom = 2};
    Camera turned = plain, up = plain;
    turned.turned = std::numbers::pi / 2;
    up.y_up = true;
    for (const Row& row :
         {Row{plain, {160, 90}, {10, 20}}, Row{plain, {0, 0}, {-70, -25}}, Row{plain, {320, 180}, {90, 65}},
          Row{up, {0, 0}, {-70, 65}}, Row{turned, {160, 90}, {10, 20}}, Row{turned, {162, 90}, {10, 21}},
          Row{turned, {160, 92}, {9, 20}}}) {
        const auto seen = seen_by(row.camera, {320, 180});
        EXPECT_NEAR(seen(row.viewport).x, row.world.x, 1e-12);
        EXPECT_NEAR(seen(row.viewport).y, row.world.y, 1e-12);
    }
    const auto from_window = letterbox({800, 600}, {320, 180}).then(seen_by(plain, {320, 180}));
    EXPECT_NEAR(from_window({800, 525}).x, 90, 1e-12);
    EXPECT_NEAR(from_window.inverse()({90, 65}).y, 525, 1e-12);
    EXPECT_NEAR(from_window.of_motion({5, 0}).x, 1, 1e-12);
}

}  // namespace
