// Axes, sticks and triggers in frames, as values and as buttons.

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <string>
#include <vector>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/event.hpp"
#include "cursorum/core/latency.hpp"
#include "cursorum/core/sampler.hpp"
#include "cursorum/core/shaping.hpp"
#include "support/pads.hpp"
#include "support/script.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using test::at;
using test::edges_text;
using test::other;
using test::pad;
using test::Pads;
using test::ScriptRun;
using test::text;

TEST(Axes, ByRows) {
    test::check_rows(R"(
held from event to event : 5axs3:LX,0.25 6axs3:LX,-0.75 7axs3:LX,0.5 |10LX |20LX 25axs3:LX,0 |30LX |40LX,PL : 0 0.5 -0.75 0.5; 0.5 0.5 0.5 0.5; 0.5 0 0 0.5; 0 0 0 0 | 0 0 0 0
merged, the largest magnitude wins : 1axs4:LX,-0.5 2axs3:LX,0.25 |3LX : 0 -0.5 -0.5 0
ties go to the lower id : 1axs4:LX,-0.5 4axs3:LX,0.5 |5LX,LX@4 : 0 0.5 -0.5 0.5 | 0 -0.5 -0.5 0
at rest after focus loss : 1stk3:1,0 |2 3foc0 |5LX,PadStickLeftRight,stick : 1 0 0 1 | cancel 0001 2 1 | 0,0
after unplugging : 1stk3:1,0 |2 3dis3 |5LX,PadStickLeftRight,stick : 1 0 0 1 | cancel 0001 2 1 | 0,0
after an interruption : 1stk3:1,0 |2 3int |5LX,PadStickLeftRight,stick : 1 0 0 1 | cancel 0001 2 1 | 0,0
both axes of one time apply together : 1stk3:0.9,0 |10 15stk3:0.9,0.1 |20PadStickLeftRight,LX+,PadStickLeftDown |30PadStickLeftRight : hold 0000 19 10 | hold 0000 19 10 | idle 0000 0 0; hold 0000 29 10
released and back at one time, nothing happened : 1stk3:0.9,0 |10 15axs3:LX,0.2 15axs3:LX,0.9 15axs3:LY,0.1 |20PadStickLeftRight,LX+,PadStickLeftDown : hold 0000 19 10 | hold 0000 19 10 | idle 0000 0 0
alone to the right, together down : 1axs3:LX,0.6 1axs3:LY,0.9 |10PadStickLeftRight,PadStickLeftDown : idle 0000 0 0 | press 1000 9 9
undone at once, both are events : |0 4axs3:LX,1 4axs3:LX,0 |10PadStickLeftRight,latency : idle 0000 0 0 | 2 6 6 6
shaping is an event: adopt or cancel, and the value from its time on : 1stk3:0.55,0 |5stick,PadStickLeftRight 6shp3:0.5,0,0.6 |10stick,PadStickLeftRight,LX,latency 12shp3:0.1,0,0.5 |15stick,PadStickLeftRight : 0.5,0 | press 1000 4 4; 0.111111111111,0 | cancel 0001 5 1 | 0.55 0.55 0.55 0.55 | 1 4 4 4; 0.529411764706,0 | hold 0010 3 3
between two values of one time, what it cancels stays up below the threshold : 5axs3:LX,0.7 10axs3:LX,0.72 10shp3:0.6,0,0.5 10axs3:LX,0.75 |12PadStickLeftRight,edges : blip 1001 5 5 | -
only the threshold : 1axs3:PL,0.55 |5PL+ 6shp3:0.15,0,0.6 |10PL+ 11axs3:PL,0.58 |15PL+ 16axs3:PL,0.3 17axs3:PL,0.58 18axs3:PL,0.6 |20PL+ : press 1000 4 4; hold 0000 9 5; hold 0000 14 5; dip 1100 2 3
at rest it is zero, whatever the shaping; a first zero is not : 1shp3:0.1,0.5,0.6 |2stick 3stk3:0,0 |5stick,PadStickLeftLeft,LX 6foc0 |8stick 9shp3:0.1,0.3,0.6 10foc1 |11stick 12axs3:LX,0 |13stick : 0,0; -0.274509803922,0 | idle 0000 0 0 | 0 0 0 0; 0,0; 0,0; -0.153846153846,0
heard while unplugged, and kept : 2dis3 3shp3:0.1,0,0.6 4con3 5stk3:0.525,0 |8stick,PadStickLeftRight : 0.5,0 | idle 0000 0 0
late, it acts at the frame's start : 1stk3:0.55,0 |5 3shp3:0.5,0,0.6 |8stick,PadStickLeftRight,late : 0.111111111111,0 | cancel 0001 4 0 | late 1
beyond the usual ones, both sides are buttons : 1axs3:E1,-0.5 2axs3:EZ,1 |5E1,PadAxisExtra1,EZ+ 6axs3:E1,0.7 |10E1,PadAxisExtra1 11dis3 |12E1,PadAxisExtra26 : 0 -0.5 -0.5 0 | idle 0000 0 0 | press 1000 3 3; -0.5 0.7 -0.5 0.7 | press 1000 4 4; 0.7 0 0 0.7 | cancel 0001 9 1
devices come and go in order : 3dis3 4con3 |5changes : 3+ 4+ 5+ 6+ 3- 3+
late on the inlet, at another time than what it follows : 20axs3:LX,-1 10axs3:LX,1 |30PadStickLeftLeft : blip 1100 0 0
a late event waits for the axes before it : 5+3s 30axs3:PL,0.25 10-3s 40+3e |20edges,PL |35edges,PL |50edges : 5 3 PadSouth press | 0 0 0 0; 30 3 PadSouth release | 0 0.25 0 0.25; 40 3 PadEast press
)",
                     [](const std::string& script) {
                         return ScriptRun{{.start = Time{}}, {}}.run(script);
                     });
    Pads p;
    p.inlet.connect(DeviceId{5}, {.kind = DeviceKind::gamepad, .background = true}, at(0));
    p.inlet.axis(DeviceId{5}, PadPullLeft, 0.75, at(1));
    p.inlet.lose_focus(at(2));
    EXPECT_EQ(p.inlet.axis(pad, PadPullLeft, 1, at(3)), Outcome::ignored);
    EXPECT_EQ(p.cut(4).raw_axis(PadPullLeft).now, 0.75) << "background devices are exempt";
    EXPECT_EQ(p.sampler.frame().raw_axis(Axis{77}), (AxisReading{}));
    std::string all;
    p.sampler.frame().for_each_raw_axis([&](const DeviceAxis& a) {
        all += std::to_string(static_cast<std::uint32_t>(a.device)) + std::string{name_of(a.axis)} + " ";
    });
    EXPECT_EQ(all, "5PadPullLeft ");
}

TEST(Axes, AsButtonsHaveTwoThresholdsAndMissNothing) {
    Pads p;
    const Button pulled = axis_button(PadPullLeft);
    const auto run = [&](std::initializer_list<double> values, std::int64_t from) {
        for (const double value : values) p.inlet.axis(pad, PadPullLeft, value, at(from++));
        return text(p.cut((from / 10 + 1) * 10)[pulled].figures());
    };
    EXPECT_EQ(run({0.1, 0.3, 0.49}, 1), "idle 0000 0 0");
    EXPECT_EQ(run({0.5}, 12), "press 1000 8 8");
    EXPECT_EQ(run({0.45, 0.55, 0.41, 0.5}, 21), "hold 0000 18 10") << "hovering does not bounce";
    EXPECT_EQ(run({0.4}, 34), "release 0100 22 4");
    EXPECT_EQ(run({0.9, 0.0}, 41), "blip 1100 1 1") << "a crossing and back is a blip";
    DeviceShaping shaping;
    shaping.thresholds = {.press = 0.9, .release = 0.1};
    EXPECT_EQ(p.inlet.set_shaping(pad, shaping, at(50)), Outcome::taken);
    EXPECT_EQ(run({0.8}, 51), "idle 0000 0 0");
    EXPECT_EQ(run({0.95, 0.2}, 61), "press 1000 9 9");
    EXPECT_EQ(edges_text(p.sampler.frame()), "") << "edges() has the devices' own";
    EXPECT_EQ(*p.sampler.frame().all_edges().begin(), (Edge{at(61), pad, pulled, EdgeKind::press}));
    EXPECT_TRUE(p.sampler.frame().current().down.contains(pulled));
    EXPECT_EQ(p.inlet.button(pad, pulled, true, at(80)), Outcome::refused_control);
}

TEST(Axes, BeyondTheThresholdInAnAdoptedStateIsAnAdopt) {
    Pads p;
    AxisValues pushed;
    pushed.set(PadStickLeftY, 1);
    EXPECT_EQ(p.inlet.state(pad, {}, pushed, at(5)), Outcome::state_adopted) << "the first since the connect";
    EXPECT_EQ(text(p.cut(10)[PadStickLeftDown].figures()), "hold 0010 5 5");
    p.inlet.state(pad, {PadSouth}, pushed, at(15));
    EXPECT_EQ(text(p.cut(20)[PadSouth].figures()), "press 1000 5 5") << "the second is not adopted";
    pushed.set(PadStickLeftY, 0);
    p.inlet.state(pad, {PadSouth}, pushed, at(25), true);
    EXPECT_EQ(text(p.cut(30)[PadStickLeftDown].figures()), "cancel 0001 20 5") << "marked: a cancel";
    p.inlet.post(Event::interrupt(at(31)));
    pushed.set(PadStickLeftY, -1);
    p.inlet.state(pad, {}, at(32));  // buttons alone: the axes' adoption still waits
    p.inlet.state(pad, {}, pushed, at(33));
    EXPECT_EQ(text(p.cut(40)[PadStickLeftUp].figures()), "hold 0010 7 7");
}

TEST(Axes, DirectionsRepeatAsKeysDo) {
    Pads p;
    p.sampler.set_repeat(PadStickRightDown, {.delay = Duration{100}, .interval = Duration{10}, .cap = 0});
    p.inlet.stick(pad, PadStickRight, 0.1, 1, at(50));
    EXPECT_EQ(p.cut(100)[PadStickRightDown].steps(), 1U);
    EXPECT_EQ(p.cut(200)[PadStickRightDown].steps(), 6U);
    p.inlet.stick(pad, PadStickRight, 0, 0, at(215));
    EXPECT_EQ(p.cut(300)[PadStickRightDown].steps(), 1U);
}

TEST(Axes, AFrameKeepsItsShapedValuesWhenShapingChanges) {
    Pads p;
    p.inlet.stick(pad, PadStickLeft, 0.6, 0, at(5));
    const StickReading first = p.cut(10).stick(PadStickLeft);
    const Sampler::State saved = p.sampler.save();
    DeviceShaping narrow;
    narrow.sticks[PadStickLeft.number].response.dead_zone = 0.5;
    EXPECT_EQ(p.inlet.set_shaping(pad, narrow, at(15)), Outcome::taken);
    EXPECT_EQ(p.sampler.frame().stick(PadStickLeft), first) << "asked again";
    const StickReading second = p.cut(20).stick(PadStickLeft);
    EXPECT_EQ(second.before, first.now);
    EXPECT_LT(second.now.x, first.now.x);
    p.sampler.restore(saved);
    EXPECT_EQ(p.sampler.frame().stick(PadStickLeft).now, first.now) << "after a restore";
    EXPECT_EQ(p.cut(20).stick(PadStickLeft), second);
}

TEST(Axes, APauseVisitsOnlyAxesWhoseValuesChanged) {
    Pads p;
    p.inlet.stick(pad, PadStickLeft, 0.6, 0.2, at(5));
    p.cut(10);
    p.inlet.axis(pad, PadStickLeftX, 0.8, at(15));
    const Frame& frame =
        p.sampler.advance(Tick{.gap_from = at(10), .begin = at(20), .end = at(30), .gap = Tick::Gap::paused});
    unsigned visits = 0;
    frame.for_each_raw_value(PadStickLeftY, [&](Time, double) { ++visits; });
    EXPECT_EQ(visits, 0U) << "its shaped value changed, its raw value did not";
    EXPECT_EQ(frame.raw_axis(PadStickLeftX).now, 0.8);
}

double pushed_most = 0;
void note_push(Time, Vector2 stick) { pushed_most = std::max(pushed_most, stick.x); }

TEST(Axes, AnyCallableVisitsValues) {
    Pads p;
    p.inlet.stick(pad, PadStickLeft, 0.9, 0, at(5));
    p.inlet.stick(pad, PadStickLeft, 0, 0, at(6));
    const Frame& frame = p.cut(10);
    unsigned values = 0;
    const auto count = [&values](Time, double) { ++values; };
    frame.for_each_raw_value(PadStickLeftX, count);
    EXPECT_EQ(values, 2U) << "a constant lambda";
    frame.for_each_value(PadStickLeft, note_push);
    EXPECT_GT(pushed_most, 0.5) << "a function";
}

TEST(Axes, BadValuesAreRefusedOrLimited) {
    Pads p;
    const double inf = std::numeric_limits<double>::infinity(), nan = std::numeric_limits<double>::quiet_NaN();
    for (const double bad : {inf, -inf, nan})
        EXPECT_EQ(p.inlet.axis(pad, PadStickLeftX, bad, at(1)), Outcome::refused_value);
    EXPECT_EQ(p.inlet.axis(pad, Axis{axis_kinds}, 0.5, at(1)), Outcome::refused_control);
    EXPECT_EQ(p.inlet.stick(pad, Stick{stick_kinds}, 0.5, 0.5, at(1)), Outcome::refused_control)
        << "its axes are triggers";
    EXPECT_EQ(p.inlet.axis(DeviceId{99}, PadStickLeftX, 0.5, at(1)), Outcome::stray_device);
    EXPECT_EQ(p.inlet.counters().refused, 5U);
    EXPECT_EQ(p.cut(2).raw_axis(PadStickLeftX), (AxisReading{}));
    p.inlet.axis(pad, PadStickLeftX, 1e300, at(3));
    p.inlet.axis(pad, PadPullLeft, -0.5, at(3));
    EXPECT_EQ(p.inlet.counters().limited, 2U);
    EXPECT_EQ(p.cut(4).raw_axis(PadStickLeftX).now, 1);
    EXPECT_EQ(p.sampler.frame().raw_axis(PadPullLeft).now, 0);
    DeviceShaping bad;
    bad.sticks[0].response = {.dead_zone = 0.6, .outer_zone = 0.5};
    EXPECT_EQ(p.inlet.set_shaping(pad, bad, at(5)), Outcome::refused_value);
    EXPECT_EQ(p.inlet.set_shaping(DeviceId{99}, {}, at(5)), Outcome::stray_device);
}

TEST(Axes, AThousandConnectsAndMorePadsThanThereIsRoomFor) {
    Timeline timeline{{.devices = 64}};
    Sampler sampler{timeline, {.start = at(0)}};
    Inlet& inlet = timeline.desk();
    for (std::uint32_t i = 0; i < 1000; ++i) {
        const DeviceId id{100 + i % 200};
        inlet.connect(id, {.kind = DeviceKind::gamepad}, at(i));
        inlet.stick(id, PadStickLeft, 1, 1, at(i));
        inlet.axis(id, PadPullRight, 1, at(i));
        inlet.disconnect(id, at(i));
        if (i % 10 == 9) sampler.advance(at(i));
    }
    const Frame& frame = sampler.advance(at(2000));
    EXPECT_EQ(timeline.device_count(), 64U);
    EXPECT_GT(inlet.counters().refused, 0U);
    EXPECT_EQ(frame.raw_axis(PadStickLeftX).now, 0);
    EXPECT_TRUE(frame.current().down.empty());
    EXPECT_EQ(sampler.counters().lost, 0U);
}

// What does nothing but move axes has no slots among the edges. It is taken, late and lost as any other event.
TEST(Axes, EventsOfAxesAloneCountOnceEach) {
    Pads p;
    p.cut(0);
    const std::uint64_t taken = p.sampler.counters().taken, posted = p.inlet.counters().events;
    p.inlet.axis(pad, PadStickLeftX, 0.125, at(1));
    p.inlet.stick(pad, PadStickLeft, 0.25, 0.25, at(3));  // two values, one event
    p.inlet.axis(pad, PadStickLeftX, 0.25, at(4));        // the same value again
    p.inlet.axis(pad, PadStickLeftX, 1, at(5));           // and a button of it
    p.inlet.axis(other, PadPullRight, 0.25, at(6));
    p.inlet.button(pad, PadSouth, true, at(7));
    const Latency latency = p.cut(10).latency();
    EXPECT_EQ(latency.events, 6U);
    EXPECT_EQ(latency.least, Duration{3});
    EXPECT_EQ(latency.median, Duration{6});
    EXPECT_EQ(latency.greatest, Duration{9});
    EXPECT_EQ(p.sampler.counters().taken, taken + 6);
    p.inlet.axis(pad, PadPullLeft, 0.25, at(9));  // in order, but its frame is over
    p.inlet.axis(pad, PadPullLeft, 0.5, at(8));   // and late by the inlet's own time
    EXPECT_EQ(p.cut(20).raw_axis(PadPullLeft).now, 0.5);
    EXPECT_EQ(p.sampler.frame().latency().greatest, Duration{12});
    EXPECT_EQ(p.sampler.counters().late, 2U);
    EXPECT_EQ(p.sampler.counters().taken, taken + 8);
    EXPECT_EQ(p.inlet.counters().events, posted + 8);
    EXPECT_EQ(p.sampler.counters().lost, 0U);
}

TEST(Axes, WhatAnOverrunSamplerDidNotSeeIsLost) {
    Timeline timeline{{.axis_history = 64}};
    Inlet& inlet = timeline.desk();
    inlet.connect(pad, {.kind = DeviceKind::gamepad}, at(0));
    Sampler sampler{timeline, {.start = at(0)}};
    sampler.advance(at(0));
    const auto post = [&](int first, int count) {
        for (int i = first; i < first + count; ++i) inlet.axis(pad, PadStickLeftX, i / 4096.0, at(i));
    };
    post(1, 10);
    sampler.advance(at(5));  // five are left
    post(11, 200);
    sampler.advance(at(1000));
    SamplerCounters counters = sampler.counters();
    EXPECT_EQ(counters.overruns, 1U);
    EXPECT_EQ(counters.taken + counters.lost, 210U);
    EXPECT_EQ(counters.lost, 205U);
    EXPECT_EQ(sampler.frame().raw_axis(PadStickLeftX).now, 210 / 4096.0);
    const Sampler::State saved = sampler.save();
    post(1001, 20);
    sampler.advance(at(2000));
    sampler.restore(saved);
    sampler.advance(at(2000));
    counters = sampler.counters();
    EXPECT_EQ(counters.taken + counters.lost, 230U);
    EXPECT_EQ(counters.lost, 205U);
    // One that begins behind all that is left counts from there.
    Sampler late_comer{timeline, {.start = at(3)}};
    late_comer.advance(at(2000));
    EXPECT_EQ(late_comer.counters().taken + late_comer.counters().lost, 64U);
    EXPECT_EQ(late_comer.frame().raw_axis(PadStickLeftX).now, 1020 / 4096.0);
}

TEST(Axes, ANewSamplerStartsWithTheValuesOfItsTime) {
    Pads p;
    p.inlet.axis(pad, PadStickLeftX, 0.25, at(10));
    p.inlet.axis(pad, PadStickLeftX, 0.75, at(20));
    Sampler later{p.timeline, {.start = at(15)}};
    EXPECT_EQ(later.frame().raw_axis(PadStickLeftX).now, 0.25);
    EXPECT_EQ((Sampler{p.timeline, {.start = at(20)}}.frame().raw_axis(PadStickLeftX).now), 0.75) << "of its very start";
    EXPECT_EQ((Sampler{p.timeline, {.start = at(5)}}.frame().raw_axis(PadStickLeftX).now), 0) << "before all";
    EXPECT_EQ(later.advance(at(30)).raw_axis(PadStickLeftX), (AxisReading{0.25, 0.75, 0.25, 0.75, (0.25 * 4 + 0.75 * 8) / 12}));
    p.inlet.axis(pad, PadPullLeft, 0.25, at(30));
    p.inlet.button(pad, PadSouth, true, at(10));  // it cannot act before the axis posted before it
    EXPECT_EQ(edges_text(Sampler{p.timeline, {.start = at(20)}}.advance(at(35))), "30 3 PadSouth press");
    const Sampler::State saved = later.save();
    later.advance(at(40));
    later.restore(saved);
    EXPECT_EQ(later.frame().raw_axis(PadStickLeftX).before, 0.75);
}

// ---- polled states

TEST(Sticks, OfManyPadsTheLongestCounts) {
    Timeline timeline{{.inlets = 2, .devices = 64, .desk_devices = false}};
    Sampler sampler{timeline, {.start = at(0)}};
    for (std::uint32_t i = 0; i < 80; ++i) {
        Inlet& inlet = timeline.inlet(i / 40);
        ASSERT_EQ(inlet.connect(DeviceId{i + 1}, {.kind = DeviceKind::gamepad}, at(0)), Outcome::connected);
        inlet.stick(DeviceId{i + 1}, PadStickLeft, 0.30 + i * 0.001, 0, at(1));
    }
    const double most = sampler.advance(at(10)).stick(PadStickLeft).now.x;
    EXPECT_EQ(most, sampler.frame().on(DeviceId{80}).stick(PadStickLeft).now.x);
    timeline.inlet(1).stick(DeviceId{80}, PadStickLeft, 1, 0, at(20));
    timeline.inlet(1).stick(DeviceId{80}, PadStickLeft, 0, 0, at(30));
    const Frame& frame = sampler.advance(at(40));
    std::vector<double> seen;
    frame.for_each_value(PadStickLeft, [&](Time, Vector2 value) { seen.push_back(value.x); });
    const double second_most = frame.on(DeviceId{79}).stick(PadStickLeft).now.x;
    EXPECT_EQ(seen, (std::vector<double>{1, second_most}));
    EXPECT_EQ(frame.stick(PadStickLeft).now.x, second_most);
    EXPECT_EQ(frame.stick(PadStickLeft).before.x, most);
}

}  // namespace
