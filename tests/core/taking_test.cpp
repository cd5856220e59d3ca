// The parts of a frame other than buttons: motion, latency, whose input it was; peeking; several inlets by rows.

#include <gtest/gtest.h>

#include "core/random_events.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"
#include "support/script.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using test::all_of;
using test::edges_text;
using test::text;

Time at(std::int64_t ns) { return nanoseconds_since_zero(ns); }

// ---- several inlets

struct TwoInlets {
    TwoInlets() {
        timeline.inlet(0).connect(DeviceId{1}, {.name = "one"}, at(0));
        timeline.inlet(1).connect(DeviceId{2}, {.name = "two"}, at(0));
    }
    void post(unsigned device, Button button, bool down, std::int64_t time) {
        timeline.inlet(device - 1).button(DeviceId{device}, button, down, at(time));
    }
    Timeline timeline{{.inlets = 2, .desk_devices = false}};
    Sampler sampler{timeline, {.start = at(0)}};
};

TEST(Inlets, ADeviceBelongsToTheOneThatConnectsItFirst) {
    TwoInlets two;
    EXPECT_EQ(two.timeline.inlet(1).connect(DeviceId{1}, {}, at(1)), Outcome::stray_inlet);
    EXPECT_EQ(two.timeline.inlet(1).button(DeviceId{1}, KeyW, true, at(2)), Outcome::stray_device);
    EXPECT_EQ(two.timeline.inlet(0).disconnect(DeviceId{1}, at(3)), Outcome::disconnected);
    EXPECT_EQ(two.timeline.inlet(1).connect(DeviceId{1}, {}, at(4)), Outcome::stray_inlet);
    EXPECT_EQ(two.timeline.device_count(), 2U);
    EXPECT_EQ(two.timeline.find_device(DeviceId{2})->inlet, 1U);
}

TEST(Inlets, OneOverrunHealsThatOneAlone) {
    TwoInlets two;
    two.post(1, KeyW, true, 1);
    two.post(2, KeyS, true, 1);
    two.sampler.advance(at(2));
    for (int i = 0; i < 3000; ++i) {
        two.post(1, Space, true, 10 + 2 * i);
        two.post(1, Space, false, 11 + 2 * i);
    }
    two.post(1, KeyW, false, 9000);
    two.post(1, F1, true, 9001);
    two.post(2, KeyS, false, 9002);
    const Frame& frame = two.sampler.advance(at(9500));
    EXPECT_EQ(two.sampler.counters().overruns, 1U);
    EXPECT_EQ(two.sampler.counters().lost, 6002U);
    EXPECT_TRUE(frame[KeyW].ended());
    EXPECT_FALSE(frame[KeyW].released());
    EXPECT_TRUE(frame[F1].held());
    EXPECT_TRUE(frame[KeyS].released());
}

TEST(Inlets, TheTimelineIsCompleteUntilTheLeastOfThem) {
    Timeline timeline{{.inlets = 3}};
    const auto complete = [&](std::int64_t now) { return timeline.complete_until(at(now)); };
    EXPECT_EQ(complete(100'000'000), at(0));  // nobody has reported: it waits, but not for ever
    EXPECT_EQ(timeline.silent_count(), 1U);
    timeline.inlet(0).set_complete_until(at(100));
    timeline.inlet(1).set_complete_until(latest_time);  // who will never post delays nobody
    timeline.inlet(2).set_complete_until(at(60));
    timeline.inlet(2).set_complete_until(at(40));  // it never goes back
    EXPECT_EQ(complete(100'000'060), at(60));
    EXPECT_EQ(timeline.silent_count(), 1U);
    EXPECT_EQ(complete(100'000'061), at(61));
    EXPECT_EQ(complete(100'000'070), at(70));
    EXPECT_EQ(timeline.silent_count(), 3U);
    timeline.inlet(2).set_complete_until(latest_time);
    EXPECT_EQ(complete(100'000'070), at(100));
    EXPECT_EQ(Timeline{{.inlets = 2}}.complete_until(earliest_time), earliest_time);
}

TEST(Inlets, OptionsOutOfRangeAreBroughtIntoIt) {
    Timeline many{{.inlets = 1000, .devices = 1000, .history = 1, .motion_history = 1}};
    EXPECT_EQ(many.inlet_count(), inlet_capacity);
    unsigned connected = 0;
    for (unsigned i = 0; i < 20; ++i)
        connected += many.inlet(31).connect(DeviceId{100 + i}, {}, at(0)) == Outcome::connected;
    EXPECT_EQ(connected, 252U / 32);
    unsigned held = 0;
    for (std::uint16_t i = 0; i < 30; ++i)
        held += many.inlet(31).button(DeviceId{100}, Button{static_cast<std::uint16_t>(4 + i)}, true, at(1)) ==
                Outcome::press;
    EXPECT_EQ(held, hold_capacity / inlet_capacity);
    EXPECT_EQ(Timeline{{.inlets = 0}}.inlet_count(), 1U);
}

// ---- motion and wheel

TEST(Motion, AnOverrunLosesNoDistance) {
    Timeline timeline{{.motion_history = 64}};
    Sampler sampler{timeline, {.start = at(0)}};
    timeline.desk().wheel(0, 3, at(1));
    for (int i = 0; i < 1000; ++i) timeline.desk().motion(0.25, -1, at(2 + i));
    const Frame& frame = sampler.advance(at(5000));
    EXPECT_EQ(frame.pointer().motion(), (Distance{250, -1000}));
    EXPECT_EQ(frame.pointer().wheel(), (Distance{0, 3}));
    EXPECT_EQ(sampler.counters().overruns, 1U);
    EXPECT_EQ(sampler.counters().lost, 1001U - 64U);
    EXPECT_FALSE(sampler.advance(at(6000)).pointer().moved());
}

TEST(Motion, IsRoundedToTheNearestTiesToEven) {
    struct Row {
        double dx, expected;  // in 1/65536
    };
    const Row rows[] = {{0.5, 0},  {1.5, 2},   {2.5, 2},    {-0.5, 0},          {-1.5, -2},
                        {0.75, 1}, {-0.25, 0}, {1e-300, 0}, {131072.25, 131072}};
    for (const Row& row : rows) {
        Timeline timeline;
        Sampler sampler{timeline, {.start = at(0)}};
        timeline.desk().motion(row.dx / 65536, 0, at(1));
        EXPECT_EQ(sampler.advance(at(2)).pointer().motion().x * 65536, row.expected) << row.dx;
    }
}

TEST(Motion, ANewSamplerCountsFromItsStart) {
    Timeline timeline{{.motion_history = 64}};
    for (int i = 0; i < 200; ++i) timeline.desk().motion(1, 0, at(i));
    Sampler from_there{timeline, {.start = at(189)}}, from_before{timeline, {.start = at(0)}};
    EXPECT_EQ(from_there.advance(at(500)).pointer().motion().x, 10);
    EXPECT_EQ(from_before.advance(at(500)).pointer().motion().x, 63);  // as much as the history still has
}

// ---- latency

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
