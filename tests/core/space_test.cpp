// From window to viewport and world, and back.

#include <gtest/gtest.h>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/space.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;

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
        const auto seen = camera_transform(row.camera, {320, 180});
        EXPECT_NEAR(seen(row.viewport).x, row.world.x, 1e-12);
        EXPECT_NEAR(seen(row.viewport).y, row.world.y, 1e-12);
    }
    const auto from_window = letterbox({800, 600}, {320, 180}).then(camera_transform(plain, {320, 180}));
    EXPECT_NEAR(from_window({800, 525}).x, 90, 1e-12);
    EXPECT_NEAR(from_window.inverse()({90, 65}).y, 525, 1e-12);
    EXPECT_NEAR(from_window.of_motion({5, 0}).x, 1, 1e-12);
}

}  // namespace
