// The tour in cursorum/cursorum.hpp, as it stands there: what it sets up once, and then its frame at 10 to 1,000 frames
// per second.
#include <gtest/gtest.h>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/actions/profile_file.hpp"
#include "snippets/world.hpp"

#pragma GCC diagnostic ignored "-Wunused-but-set-variable"  // what the tour names is for its reader

namespace {

constexpr std::int64_t ms = 1'000'000;

struct Tour : test::World {
    Tour() : World{{}, 60} {}

    /// Afterwards focus comes back; D is held for a second, Space is tapped, and focus is lost with D down.
    void go(int frames_per_second) {
        test::per_look = 1;  // so that not everything happens at the instant at which the sampler starts
#include "header_tour_setup.inc"
        test::per_look = 0;
        const std::int64_t start = test::present;
        const auto at = [&](std::int64_t time) { return Time{Duration{start + time * ms}}; };
        desk.gain_focus({}, at(100));
        desk.button(KeyD, true, at(200));
        desk.button(Space, true, at(503));
        desk.button(Space, false, at(505));
        desk.button(KeyD, false, at(1200));
        desk.button(KeyD, true, at(1500));
        desk.lose_focus(at(1501));
        for (std::int64_t i = 1; i <= 2 * frames_per_second; ++i) {
            test::present = start + i * 1'000'000'000 / frames_per_second;
#include "header_tour_frame.inc"
        }
        is_up = !picture.frame()[KeyD].down() && !picture.frame()[Space].down();
    }
    void go_with_actions(const cursorum::Frame& frame) {
        using namespace cursorum;
        ProfileError error;
        const ButtonAction lock{};
        struct {
            void toggle_lock() {}
        } spreader;
#include "header_tour_of_actions.inc"
    }

    void jump() { ++jumps; }
    void open() {}
    double x = 0;
    cursorum::DirectionButtons keys;
    cursorum::WindowRect button{};
    int jumps = 0;
    bool is_up = false;
};

TEST(HeaderTour, IsWhatItSaysAtAnyFrameRate) {
    for (const int rate : {10, 24, 60, 144, 1000}) {
        Tour tour;
        tour.go(rate);
        EXPECT_EQ(tour.jumps, 2) << "once for each press, at " << rate;
        EXPECT_NEAR(tour.x, Tour::speed * 1.001, 1e-6) << "for exactly as long as it was down, at " << rate;
        EXPECT_TRUE(tour.is_up) << "nothing sticks, at " << rate;
    }
}

}  // namespace
