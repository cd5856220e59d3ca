// How old a frame's events are, whose input they were, and peeking.

#include <gtest/gtest.h>

#include "core/random_events.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/latency.hpp"
#include "cursorum/core/sampler.hpp"
#include "support/script.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using test::all_of;
using test::at;
using test::edges_text;
using test::text;

TEST(Latency, IsFromTheStampsToTheCut) {
    Timeline timeline;
    Sampler sampler{timeline, {.start = at(0)}};
    EXPECT_EQ(sampler.advance(at(10)).latency().events, 0U);
    timeline.desk().button(KeyW, true, at(12));
    timeline.desk().motion(1, 1, at(15));
    timeline.desk().button(KeyW, false, at(19));
    Latency latency = sampler.advance(at(20)).latency();
    EXPECT_EQ(latency.events, 3U);
    EXPECT_EQ(latency.least, Duration{1});
    EXPECT_EQ(latency.median, Duration{5});
    EXPECT_EQ(latency.greatest, Duration{8});
    timeline.desk().button(KeyW, true, at(11));  // late: older than the frame
    timeline.desk().motion(1, 1, at(14));        // late too
    latency = sampler.advance(at(30)).latency();
    EXPECT_EQ(latency.events, 2U);
    EXPECT_EQ(latency.least, Duration{16});
    EXPECT_EQ(latency.greatest, Duration{19});
    EXPECT_EQ(sampler.frame().latency().median, latency.median) << "asking twice changes nothing";
    EXPECT_EQ(sampler.counters().late, 2U);
}

// ---- whose input it is

TEST(Origin, AProgramsInputIsToldFromAPersons) {
    Timeline timeline;
    Sampler sampler{timeline, {.start = at(0)}};
    Inlet& desk = timeline.desk();
    desk.connect(DeviceId{9}, {.name = "attract mode", .is_virtual = true}, at(1));
    desk.button(DeviceId{9}, KeyW, true, at(2));
    desk.motion(DeviceId{9}, 1, 1, at(3));
    const Frame& frame = sampler.advance(at(10));
    EXPECT_TRUE(frame[KeyW].pressed());
    EXPECT_FALSE(frame.on(Origin::person)[KeyW].pressed());
    EXPECT_TRUE(frame.on(Origin::program)[KeyW].pressed());
    EXPECT_FALSE(frame.has_input_from(Origin::person));
    EXPECT_TRUE(frame.has_input_from(Origin::program));

    desk.button(KeyW, true, at(12));  // the person's own keyboard
    sampler.advance(at(20));
    EXPECT_FALSE(frame[KeyW].pressed()) << "merged, it was down";
    EXPECT_EQ(text(frame.on(Origin::person)[KeyW].figures()), "press 1000 8 8");
    EXPECT_EQ(text(frame.on(Origin::program)[KeyW].figures()), "hold 0000 18 10");
    EXPECT_TRUE(frame.has_input_from(Origin::person));
    EXPECT_FALSE(frame.has_input_from(Origin::program));

    desk.lose_focus(at(25));
    sampler.advance(at(30));
    EXPECT_TRUE(frame.on(Origin::person)[KeyW].ended());
    EXPECT_FALSE(frame.has_input_from(Origin::person)) << "a cancel is nobody's";
    desk.gain_focus(unknown_state, at(35));
    desk.motion(0.5, 0, at(36));
    EXPECT_TRUE(sampler.advance(at(40)).has_input_from(Origin::person));
}

TEST(Origin, IsWhatTheDeviceSaidWhenItPressed) {
    Timeline timeline;
    Sampler sampler{timeline, {.start = at(0)}};
    Inlet& desk = timeline.desk();
    desk.connect(DeviceId{9}, {.is_virtual = true}, at(1));
    desk.button(DeviceId{9}, KeyW, true, at(2));
    desk.disconnect(DeviceId{9}, at(3));
    desk.connect(DeviceId{9}, {.is_virtual = false}, at(4));
    desk.button(DeviceId{9}, KeyS, true, at(5));
    const Frame& frame = sampler.advance(at(10));
    EXPECT_TRUE(frame.on(Origin::program)[KeyW].pressed());
    EXPECT_FALSE(frame.on(Origin::person)[KeyW].pressed());
    EXPECT_TRUE(frame.on(Origin::person)[KeyS].pressed());
    EXPECT_FALSE(frame.on(Origin::program)[KeyS].pressed());
}

// ---- peeking

TEST(Peek, TellsWhatAdvanceWouldAndTakesNothing) {
    for (std::uint64_t seed = 1; seed <= 200; ++seed) {
        test::RandomEvents events{seed};
        test::Random random{seed};
        Timeline timeline{{.devices = 5, .desk_devices = false}};
        Sampler sampler{timeline, {.start = at(0)}}, undisturbed{timeline, {.start = at(0)}};
        for (int i = 0; i < 120; ++i) {
            timeline.desk().post(events.next());
            if (!random.one_in(3)) continue;
            const Time cut = std::max(at(events.now() - 5), sampler.frame().end());
            const std::string before = all_of(sampler.frame());
            const std::string peeked = all_of(sampler.peek(cut));
            sampler.peek(at(events.now() + 100));
            ASSERT_EQ(all_of(sampler.frame()), before) << seed;
            ASSERT_EQ(all_of(sampler.advance(cut)), peeked) << seed;
            ASSERT_EQ(all_of(undisturbed.advance(cut)), peeked) << seed;
        }
        ASSERT_EQ(sampler.counters().taken, undisturbed.counters().taken);
        ASSERT_EQ(sampler.counters().late, undisturbed.counters().late);
    }
}

TEST(Peek, BackwardsItIsEmptyAndCountsNothing) {
    Timeline timeline;
    Sampler sampler{timeline, {.start = at(0)}};
    timeline.desk().button(KeyW, true, at(5));
    sampler.advance(at(10));
    EXPECT_EQ(sampler.peek(at(3)).length(), Duration{0});
    EXPECT_TRUE(sampler.peek(at(3))[KeyW].down());
    EXPECT_EQ(sampler.counters().went_back, 0U);
}

}  // namespace
