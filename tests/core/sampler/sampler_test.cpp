// Several samplers, saving and restoring, overrun, late starts, repeat settings.

#include "cursorum/core/sampler.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <array>
#include <cstring>
#include <vector>

#include "core/random_events.hpp"
#include "cursorum/core/controls.hpp"
#include "support/script.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using test::all_of;
using test::ScriptRun;
using test::text;

Time at(std::int64_t ns) { return nanoseconds_since_zero(ns); }

// However time is cut, the sums are the same.
TEST(Sampler, EachSeesEverythingOnce) {
    for (std::uint64_t seed = 1; seed <= 500; ++seed) {
        test::RandomEvents events{seed};
        test::Random random{seed};
        Timeline timeline{{.devices = 5, .desk_devices = false}};
        for (int i = 0; i < 120; ++i) timeline.desk().post(events.next());
        std::vector<std::array<std::int64_t, 7>> whole, sums;
        for (const std::uint64_t longest : {1'000'000U, 1U, 3U, 10U, 50U}) {
            Sampler sampler{timeline, {.start = Time{}, .repeat = {Duration{11}, Duration{3}, 0}}};
            sums.assign(std::size(test::random_buttons), {});
            for (std::int64_t cut = 0; cut < events.now() + 100;) {
                cut = std::min(events.now() + 100, cut + 1 + static_cast<std::int64_t>(random.below(longest)));
                const Frame& frame = sampler.advance(at(cut));
                for (std::size_t i = 0; i < sums.size(); ++i) {
                    const ButtonFigures f = frame[test::random_buttons[i]].figures();
                    const std::int64_t more[] = {f.down_span().count(),  f.press_count(),
                                                 f.release_count(),      f.adopt_count(),
                                                 f.cancel_count(),       std::int64_t(f.repeat_count()),
                                                 f.system_repeat_count()};
                    for (std::size_t k = 0; k < std::size(more); ++k) sums[i][k] += more[k];
                }
            }
            if (whole.empty()) whole = sums;
            ASSERT_EQ(sums, whole) << "seed " << seed << ", frames up to " << longest;
        }
    }
}

TEST(Sampler, ItsStateIsPlainBytes) {
    static_assert(std::is_trivially_copyable_v<Sampler::State>);
    static_assert(sizeof(Sampler::State) <= 37 * 1024);
}

TEST(Sampler, OverrunItTakesThePresentLevelsAndGoesOn) {
    Timeline timeline{{.history = 4096}};
    Inlet& desk = timeline.desk();
    Sampler slow{timeline, {.start = Time{}}}, quick{timeline, {.start = Time{}}};
    desk.button(KeyW, true, at(1));
    desk.button(KeyS, true, at(2));
    slow.advance(at(3));
    const std::uint64_t posted_before = desk.counters().events;
    desk.button(KeyW, false, at(4));
    desk.button(KeyD, true, at(5));
    std::int64_t t = 5;
    unsigned presses = 0;
    for (int i = 0; i < 3000; ++i) {
        desk.button(Space, true, at(++t));
        desk.button(Space, false, at(++t));
        if (i % 100 == 0) presses += quick.advance(at(t))[Space].press_count();
    }
    presses += quick.advance(at(t))[Space].press_count();
    EXPECT_EQ(presses, 3000U);  // another's slowness is nothing to it
    EXPECT_EQ(quick.counters().lost, 0U);

    const Frame& healed = slow.advance(at(t + 10));
    EXPECT_EQ(slow.counters().overruns, 1U);
    EXPECT_EQ(slow.counters().lost, desk.counters().events - posted_before);
    EXPECT_EQ(test::edges_text(healed), std::to_string(t) + " 1 KeyW cancel; " + std::to_string(t) + " 1 KeyD adopt");
    EXPECT_EQ(text(healed[KeyW].figures()), "cancel 0001 " + std::to_string(t - 1) + " " + std::to_string(t - 3));
    EXPECT_EQ(text(healed[KeyD].figures()), "hold 0010 10 10");
    EXPECT_TRUE(healed[KeyS].held());

    // It merges by what it knows: KeyD was only adopted, so a press on another device starts anew.
    desk.connect(DeviceId{3}, {.name = "other"}, at(t + 11));
    desk.button(DeviceId{3}, KeyD, true, at(t + 12));
    EXPECT_TRUE(slow.advance(at(t + 20))[KeyD].pressed());
    EXPECT_FALSE(quick.advance(at(t + 20))[KeyD].pressed());
    desk.button(KeyD, false, at(t + 21));
    desk.button(DeviceId{3}, KeyD, false, at(t + 22));
    desk.button(KeyS, false, at(t + 23));
    EXPECT_TRUE(slow.advance(at(t + 30))[KeyD].released());
    quick.advance(at(t + 30));
    desk.button(KeyD, true, at(t + 31));
    EXPECT_EQ(text(slow.advance(at(t + 40))[KeyD].figures()), text(quick.advance(at(t + 40))[KeyD].figures()));
    EXPECT_TRUE(slow.advance(at(t + 50)).current().down.contains(KeyD));
}

TEST(Sampler, ANewOneStartsWithWhatIsDownAndNoEdge) {
    ScriptRun script;
    script.run("5+W 8ado2:S |10");
    Sampler late{script.timeline, {.start = at(20)}};
    EXPECT_TRUE(late.frame()[KeyW].down());
    const Frame& frame = late.advance(at(30));
    EXPECT_EQ(test::edges_text(frame), "");
    EXPECT_EQ(text(frame[KeyW].figures()), "hold 0000 25 10");
    EXPECT_TRUE(frame[KeyS].held());
    EXPECT_EQ(text(frame.on(DeviceId{2})[KeyS].figures()), "hold 0000 22 10");
}

TEST(Sampler, ANewOneMayStartInTheMidstOfTheHistory) {
    // It is the same as one that was there from the beginning, from its start on.
    for (std::uint64_t seed = 1; seed <= 200; ++seed) {
        test::RandomEvents events{seed};
        Timeline timeline{{.devices = 5, .desk_devices = false}};
        Sampler first{timeline, {.start = Time{}}};
        for (int i = 0; i < 150; ++i) timeline.desk().post(events.next());
        const Time start = at(events.now() / 2), end = at(events.now() + 50);
        first.advance(start);
        Sampler second{timeline, {.start = start}};
        ASSERT_EQ(second.frame().current().down, first.frame().current().down) << "seed " << seed;
        const Frame &a = first.advance(end), &b = second.advance(end);
        ASSERT_EQ(test::edges_text(a), test::edges_text(b)) << "seed " << seed;
        for (const Button button : test::random_buttons)
            ASSERT_EQ(a[button].press_count(), b[button].press_count()) << "seed " << seed << name_of(button);
    }
}

TEST(Sampler, StartsWithWhatThePastTellsEvenIfItsBeginningsAreGone) {
    Timeline timeline;
    timeline.desk().button(KeyW, true, at(1));
    for (int i = 0; i < 3000; ++i) {
        timeline.desk().button(Space, true, at(10 + 2 * i));
        timeline.desk().button(Space, false, at(11 + 2 * i));
    }
    timeline.desk().button(KeyW, false, at(9000));
    Sampler sampler{timeline, {.start = at(8000)}};
    EXPECT_TRUE(sampler.frame()[KeyW].down());
    const Frame& frame = sampler.advance(at(10'000));
    EXPECT_EQ(frame[KeyW].release_count(), 1U);
    EXPECT_FALSE(frame[KeyW].released());  // the history no longer knows who pressed it
    EXPECT_EQ(frame[KeyW].down_span(), Duration{1000});
    EXPECT_EQ(frame[KeyW].held_for(), Duration{1000});  // nor when
}

TEST(Sampler, RepeatIsPerSamplerAndPerControl) {
    Timeline timeline;
    Sampler one{timeline, {.start = Time{}, .repeat = {Duration{100}, Duration{10}, 0}}};
    Sampler two{timeline, {.start = Time{}, .repeat = {Duration{50}, Duration{50}, 0}}};
    EXPECT_TRUE(one.set_repeat(KeyS, {Duration{20}, Duration{20}, 1}));
    timeline.desk().button(KeyW, true, at(0));
    timeline.desk().button(KeyS, true, at(0));
    const Frame& a = one.advance(at(150));
    EXPECT_EQ(a[KeyW].repeat_count(), 6U);
    EXPECT_EQ(a[KeyS].repeat_count(), 1U);
    EXPECT_EQ(two.advance(at(150))[KeyS].repeat_count(), 3U);
}

TEST(Sampler, RepeatSettingsHaveLimits) {
    Timeline timeline;
    Sampler sampler{timeline, {.start = Time{}}};
    EXPECT_FALSE(sampler.set_repeat({Duration{0}, Duration{1}, 0}));
    EXPECT_FALSE(sampler.set_repeat(KeyW, {Duration{1}, Duration{-1}, 0}));
    EXPECT_FALSE(sampler.set_repeat(Button{}, Repeat{}));
    for (std::uint16_t i = 0; i < 15; ++i)
        EXPECT_TRUE(sampler.set_repeat(Button{static_cast<std::uint16_t>(4 + i)}, {Duration{1 + i}, Duration{1}, 0}));
    EXPECT_FALSE(sampler.set_repeat(KeyZ, {Duration{77}, Duration{1}, 0}));
    EXPECT_TRUE(sampler.set_repeat(KeyZ, {Duration{3}, Duration{1}, 0}));        // one in use
    EXPECT_TRUE(sampler.set_repeat(Button{4}, {Duration{88}, Duration{1}, 0}));  // its own place
}

TEST(Sampler, GatheringMakesALongFrameOfMoreThanTheHistoryIfItMayGrow) {
    for (const bool growing : {true, false}) {
        Timeline timeline;
        Sampler sampler{timeline, {.start = Time{}, .growing = growing}};
        for (int i = 0; i < 20'000; ++i) {
            timeline.desk().button(Space, true, at(2 * i));
            timeline.desk().button(Space, false, at(2 * i + 1));
            if (i % 1000 == 999) sampler.gather(at(100'000));
        }
        const Frame& frame = sampler.advance(at(100'000));
        EXPECT_EQ(frame[Space].press_count() == 20'000U, growing);
        EXPECT_EQ(frame[Space].down_span() == Duration{20'000}, growing);
        EXPECT_EQ(sampler.counters().lost == 0U, growing);
        EXPECT_FALSE(frame[Space].down());
    }
}

TEST(Sampler, CutsOutOfRangeAreRefused) {
    Timeline timeline;
    Sampler sampler{timeline, {.start = Time{}}};
    timeline.desk().button(KeyW, true, at(5));
    sampler.advance(at(10));
    EXPECT_FALSE(sampler.advance(Time::max())[KeyW].pressed());
    EXPECT_FALSE(sampler.advance(Time::min())[KeyW].pressed());
    EXPECT_EQ(sampler.counters().went_back, 2U);
    EXPECT_EQ(sampler.frame().end(), at(10));
}

TEST(Sampler, WhatIsHeldBackByAStampFarAheadIsCounted) {
    Timeline timeline{{.inlets = 2}};
    Sampler sampler{timeline, {.start = at(0)}};
    constexpr std::int64_t second = 1'000'000'000;
    timeline.inlet(1).connect(DeviceId{9}, {}, at(1));
    timeline.desk().button(KeyW, true, at(second + 100));
    timeline.desk().button(KeyW, false, at(10));
    sampler.advance(at(100));  // a second, but not more
    EXPECT_EQ(sampler.counters().held_back, 0U);
    timeline.desk().motion(1, 0, at(3 * second));
    sampler.advance(at(second + 200));
    EXPECT_EQ(sampler.counters().held_back, 1U);
    timeline.inlet(1).button(DeviceId{9}, KeyS, true, at(9 * second));
    sampler.advance(at(4 * second));
    EXPECT_EQ(sampler.counters().held_back, 2U);
    sampler.advance(at(9 * second));
    EXPECT_EQ(sampler.counters().held_back, 2U);
}

// A hold's number goes to another button, or to the same one of another device, while the sampler is away: it must not
// take the one for the other.
TEST(Sampler, HealsHoldsWhoseNumberWasGivenAway) {
    for (const bool other_device : {false, true}) {
        Timeline timeline{{.inlets = 32, .devices = 3}};  // 16 holds each
        Inlet& desk = timeline.desk();
        desk.connect(DeviceId{9}, {}, at(0));
        Sampler sampler{timeline, {.start = at(0)}};
        desk.button(KeyA, true, at(1));
        ASSERT_TRUE(sampler.advance(at(2))[KeyA].pressed());
        desk.button(KeyA, false, at(3));
        for (std::uint16_t i = 0; i < 15; ++i) {
            const Button other{static_cast<std::uint16_t>(KeyC.number + i)};
            desk.button(other, true, at(4));
            desk.button(other, false, at(4));
        }
        if (other_device)
            desk.button(DeviceId{9}, KeyA, true, at(5));
        else
            desk.button(KeyB, true, at(5));
        for (int i = 0; i < 3000; ++i) desk.button(KeyC, true, at(6)), desk.button(KeyC, false, at(6));
        const Frame& frame = sampler.advance(at(10));
        EXPECT_EQ(sampler.counters().overruns, 1U);
        EXPECT_FALSE(frame.on(DeviceId{1})[KeyA].down());
        EXPECT_EQ(frame.on(DeviceId{9})[KeyA].down(), other_device);
        EXPECT_EQ(frame[KeyB].down(), !other_device);
        EXPECT_TRUE(frame.on(DeviceId{1})[KeyA].ended());
        if (other_device) desk.button(DeviceId{9}, KeyA, false, at(11));
        if (!other_device) desk.button(KeyB, false, at(11));
        sampler.advance(at(20));
        EXPECT_EQ(sampler.frame().current().down, ButtonSet{}) << "nothing sticks";
    }
}

TEST(Sampler, OfSeveralHoldsTheEarliestBeginningCounts) {
    Timeline timeline;
    Inlet& desk = timeline.desk();
    desk.connect(DeviceId{9}, {}, at(0));
    Sampler sampler{timeline, {.start = at(0)}};
    desk.button(KeyW, true, at(10));
    desk.button(DeviceId{9}, KeyW, true, at(20));
    desk.button(ShiftRight, true, at(30));
    desk.button(ShiftLeft, true, at(40));
    desk.button(ArrowUp, true, at(50));
    sampler.advance(at(60));
    const Frame& frame = sampler.advance(at(100));
    EXPECT_EQ(frame.any({ArrowUp, KeyW}).held_for(), Duration{90});
    EXPECT_EQ(frame.any({ArrowUp, ShiftLeft, ShiftRight}).held_for(), Duration{70});
    EXPECT_EQ(frame.on(Origin::person)[KeyW].held_for(), Duration{90});
    EXPECT_EQ(frame.on(DeviceId{9})[KeyW].held_for(), Duration{80});
    EXPECT_EQ(frame.on(DeviceId{1})[Shift].held_for(), Duration{70});
    EXPECT_EQ(frame.on(Origin::person)[Shift].held_for(), Duration{70});
}

}  // namespace
