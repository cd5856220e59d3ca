// Reading frames as actions allocates nothing: operator new is counted.

#include <gtest/gtest.h>

#include "core/random_events.hpp"
#include "cursorum/actions/action_reader.hpp"
#include "cursorum/core/sampler.hpp"
#include "support/count_allocations.hpp"

namespace {

using namespace cursorum;
using test::allocations;

TEST(Allocation, NoneWhileReadingActions) {
    Profile profile{.title = "", .modes = {{.name = "m"}, {.name = "cover", .covers = true}}};
    Action both{.name = "both"}, lift{.name = "lift", .kind = ActionKind::axis},
        way{.name = "way", .kind = ActionKind::vector};
    both.bindings = {{.buttons = {controls::Shift, controls::KeyW}}, {.buttons = {controls::Space}}};
    lift.bindings = {{.kind = Binding::Kind::pair, .buttons = {controls::KeyW, controls::KeyS}},
                     {.kind = Binding::Kind::axis, .axis = controls::PadPullLeft}};
    lift.rise = Duration{50};
    way.bindings = {{.kind = Binding::Kind::stick, .stick = controls::PadStickLeft}};
    profile.modes[0].actions = {both, lift, way};
    ASSERT_FALSE(profile.problem());
    ActionReader reader{profile};
    Timeline timeline{{.devices = 6, .desk_devices = false}};
    Sampler sampler{timeline, {.start = Time{}}};
    const DeviceId pad{9};
    timeline.desk().connect(pad, {.kind = DeviceKind::gamepad, .background = true}, Time{});
    test::RandomEvents events{11};
    double sum = 0;
    const unsigned long before = allocations;
    for (int i = 0; i < 20'000; ++i) {
        timeline.desk().post(events.next());
        if (i % 5 == 0)
            timeline.desk().axis(pad, controls::PadStickLeftX, (i % 64) / 64.0, nanoseconds_since_zero(events.now()));
        if (i % 4 != 0) continue;
        if (i % 96 == 0) reader.is_open(ModeHandle{0}) ? reader.close(ModeHandle{0}) : reader.open(ModeHandle{0});
        if (i % 480 == 0) reader.is_open(ModeHandle{1}) ? reader.close(ModeHandle{1}) : reader.open(ModeHandle{1});
        reader.read(sampler.advance(nanoseconds_since_zero(events.now())));
        sum += reader[ButtonAction{0}].figures().press_count() + reader[AxisAction{1}].integral +
               reader[VectorAction{2}].value.x;
        const ActionReader::State saved = reader.save();
        reader.restore(saved);
    }
    EXPECT_EQ(allocations, before);
    EXPECT_NE(sum, 0);
}

}  // namespace
