// Several inlets, case by case.

#include <gtest/gtest.h>

#include "core/random_events.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"
#include "support/script.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using test::all_of;
using test::at;
using test::edges_text;
using test::text;

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

}  // namespace
