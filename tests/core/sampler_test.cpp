// Several samplers, saving and restoring, overrun, late starts, repeat settings.

#include "cursorum/core/sampler.hpp"

#include <gtest/gtest.h>

#include <cstring>
#include <vector>

#include "core/random_events.hpp"
#include "cursorum/core/controls.hpp"
#include "support/script.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using test::ScriptRun;
using test::text;

Time at(std::int64_t ns) { return nanoseconds_since_zero(ns); }

/// All that a frame says of the buttons of random streams.
std::string all_of(const Frame& frame) {
    std::string all = test::edges_text(frame) + '\n';
    for (const Button button : test::random_buttons) all += text(frame[button].figures()) + '\n';
    return all + text(frame[Shift].figures());
}

TEST(Sampler, EachSeesEveryPressOnce) {
    Timeline timeline;
    Sampler ticks{timeline, {.start = Time{}}}, pictures{timeline, {.start = Time{}}};
    unsigned in_ticks = 0, in_pictures = 0;
    for (std::int64_t t = 0; t < 6000; t += 10) {
        if (t % 70 == 0) timeline.desk().button(Space, true, at(t + 1));
        if (t % 70 == 40) timeline.desk().button(Space, false, at(t + 1));
        if (t % 20 == 10) in_ticks += ticks.advance(at(t + 9))[Space].press_count();
        if (t % 170 == 160) in_pictures += pictures.advance(at(t + 9))[Space].press_count();
    }
    in_ticks += ticks.advance(at(6000))[Space].press_count();
    in_pictures += pictures.advance(at(6000))[Space].press_count();
    EXPECT_EQ(in_ticks, 86U);
    EXPECT_EQ(in_pictures, 86U);
}

TEST(Sampler, ItsStateIsPlainBytes) {
    static_assert(std::is_trivially_copyable_v<Sampler::State>);
    static_assert(sizeof(Sampler::State) <= 32 * 1024);
}

TEST(Sampler, RestoredItGivesTheSameFramesAgain) {
    for (std::uint64_t seed = 1; seed <= 200; ++seed) {
        test::RandomEvents events{seed};
        Timeline timeline{{.devices = 5, .desk_devices = false}};
        Sampler sampler{timeline, {.start = Time{}, .repeat = {Duration{9}, Duration{4}, 0}}};
        for (int i = 0; i < 200; ++i) timeline.desk().post(events.next());
        const std::int64_t end = events.now() + 50;
        for (std::int64_t t = 0; t < end / 3; t += 7) sampler.advance(at(t));
        const std::string frame_before = all_of(sampler.frame());
        const Sampler::State saved = sampler.save();
        EXPECT_EQ(all_of(sampler.frame()), frame_before) << "saving changes nothing, seed " << seed;
        std::vector<std::string> first, again;
        const std::int64_t from = nanoseconds(sampler.frame().end());
        for (std::int64_t t = from; t < end; t += 13) first.push_back(all_of(sampler.advance(at(t))));
        Sampler::State copied;
        std::memcpy(&copied, &saved, sizeof saved);
        sampler.restore(copied);
        EXPECT_EQ(sampler.frame().end(), at(from));
        EXPECT_EQ(sampler.frame().length(), Duration{0});
        for (std::int64_t t = from; t < end; t += 13) again.push_back(all_of(sampler.advance(at(t))));
        ASSERT_EQ(first, again) << "seed " << seed;
    }
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

TEST(Sampler, AfterRandomStallsLevelsAndCountsAreRight) {
    // Random streams on several inlets with small histories; one sampler stalls again and again.
    for (std::uint64_t seed = 1; seed <= 24; ++seed) {
        test::Random random{seed};
        const auto inlets = static_cast<unsigned>(1 + seed % 3);
        Timeline timeline{{.inlets = inlets, .devices = 5, .motion_history = 64, .desk_devices = false}};
        std::vector<test::RandomEvents> events;
        for (unsigned i = 0; i < inlets; ++i) events.emplace_back(seed + 100 * i, 1 + i * test::most_devices);
        Sampler stalling{timeline, {.start = Time{}}}, often{timeline, {.start = Time{}}};
        std::int64_t now = 0;
        for (int round = 0; round < 6; ++round) {
            const int count = static_cast<int>(500 + random.below(6000 * inlets));
            for (int i = 0; i < count; ++i) {
                const auto inlet = static_cast<unsigned>(random.below(inlets));
                timeline.inlet(inlet).post(events[inlet].next());
                now = std::max(now, events[inlet].now());
                if (i % 50 == 0) often.advance(at(now + 40));
            }
            const Time cut = at(now + 40);
            const Frame& a = stalling.advance(cut);
            const Frame& b = often.advance(cut);
            ASSERT_EQ(a.current().down, b.current().down) << "seed " << seed;
            for (const Button button : test::random_buttons)
                for (unsigned device = 1; device <= test::most_devices * inlets; ++device)
                    ASSERT_EQ(a.on(DeviceId{device})[button].down(), b.on(DeviceId{device})[button].down())
                        << "seed " << seed;
            std::uint64_t posted = 0;
            for (unsigned i = 0; i < inlets; ++i) posted += timeline.inlet(i).counters().events;
            ASSERT_EQ(stalling.counters().taken + stalling.counters().lost, posted) << "seed " << seed;
            ASSERT_EQ(often.counters().taken, posted) << "seed " << seed;
        }
        ASSERT_GT(stalling.counters().overruns, 0U);
    }
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

TEST(Sampler, GatheringMakesALongFrameOfMoreThanTheHistory) {
    Timeline timeline;
    Sampler sampler{timeline, {.start = Time{}, .growing = true}};
    for (int i = 0; i < 20'000; ++i) {
        timeline.desk().button(Space, true, at(2 * i));
        timeline.desk().button(Space, false, at(2 * i + 1));
        if (i % 1000 == 999) sampler.gather(at(100'000));
    }
    const Frame& frame = sampler.advance(at(100'000));
    EXPECT_EQ(frame[Space].press_count(), 20'000U);
    EXPECT_EQ(frame[Space].down_span(), Duration{20'000});
    EXPECT_EQ(sampler.counters().lost, 0U);
}

TEST(Sampler, GatheringWithoutLeaveToGrowDoesNothing) {
    Timeline timeline;
    Sampler sampler{timeline, {.start = Time{}}};
    for (int i = 0; i < 20'000; ++i) {
        timeline.desk().button(Space, i % 2 == 0, at(i));
        if (i % 1000 == 999) sampler.gather(at(100'000));
    }
    sampler.advance(at(100'000));
    EXPECT_GT(sampler.counters().lost, 0U);
    EXPECT_FALSE(sampler.frame()[Space].down());
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
