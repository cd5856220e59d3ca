// The tour in cursorum/cursorum.hpp, as it stands there.
#include <gtest/gtest.h>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/actions/profile_file.hpp"
#include "snippets/world.hpp"

#pragma GCC diagnostic ignored "-Wunused-but-set-variable"  // what the tour names is for its reader

namespace {

struct Tour : test::World {
    Tour() : World{{}, 60} {}

    void go() {
#include "header_tour.inc"
        is_up = !picture.frame()[Space].down();
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

TEST(HeaderTour, IsWhatItSays) {
    test::per_look = 1'000;
    Tour tour;
    tour.go();
    test::per_look = 0;
    EXPECT_EQ(tour.jumps, 1) << "once for each press";
    EXPECT_TRUE(tour.is_up) << "everything is released";
    EXPECT_EQ(tour.x, 0);
}

}  // namespace
