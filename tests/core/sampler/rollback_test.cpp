// Going back and forth; and a whole game on posted input alone. (Two peers over a bad link: examples/quay_peers.cpp.)

#include <gtest/gtest.h>

#include <algorithm>
#include <vector>

#include "core/random_events.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"
#include "cursorum/core/tick_clock.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;

constexpr Duration tick{16'666'667};

/// The trolley runs while keys are held, and a press locks or unlocks the spreader.
struct Crane {
    std::int64_t trolley = 0;
    bool locked = false;
    std::uint64_t steps = 0;

    void tick(const Frame& frame) {
        trolley += frame[ArrowRight].down_span().count() - frame[ArrowLeft].down_span().count();
        for (std::uint32_t n = frame[Space].press_count(); n > 0; --n) locked = !locked;
        steps = steps * 31 + frame[ArrowDown].steps() + 7 * frame[Shift].press_count();
        for (const Edge edge : frame.edges()) steps = steps * 31 + static_cast<std::uint64_t>(nanoseconds(edge.time));
    }
    friend bool operator==(const Crane&, const Crane&) = default;
};

struct KeyEvent {
    Time time;
    Button button;
    bool down;
};

/// What an operator does in so many ticks.
std::vector<KeyEvent> play(std::uint64_t seed, int ticks) {
    constexpr Button keys[] = {ArrowRight, ArrowLeft, ArrowDown, Space, KeyH, ShiftLeft, ShiftRight};
    test::Random random{seed};
    std::vector<KeyEvent> events;
    bool down[std::size(keys)] = {};
    for (std::int64_t now = 0; now < ticks * tick.count();) {
        now += static_cast<std::int64_t>(random.below(60'000'000));
        const auto key = static_cast<unsigned>(random.below(std::size(keys)));
        events.push_back({Time{Duration{now}}, keys[key], down[key] = !down[key]});
    }
    return events;
}

TEST(Rollback, SixtyFramesBackAndForthTheStateIsTheSameToTheByte) {
    for (std::uint64_t seed = 1; seed <= 60; ++seed) {
        test::Random random{seed};
        Timeline timeline{{.inlets = 2, .devices = 5, .desk_devices = false}};
        test::RandomEvents first{seed, 1}, second{seed + 500, 11};
        for (int i = 0; i < 250; ++i) {
            timeline.inlet(0).post(first.next());
            timeline.inlet(1).post(second.next());
        }
        Sampler sampler{timeline, {.start = Time{}}};
        const auto cut = [](int number) { return Time{Duration{number * 9}}; };
        std::vector<Sampler::State> states{sampler.save()};
        std::vector<std::string> frames{""};
        for (int number = 1; number <= 60; ++number) {
            frames.push_back(test::all_of(sampler.advance(cut(number))));
            states.push_back(sampler.save());
            ASSERT_EQ(test::all_of(sampler.frame()), frames.back()) << "saving changes nothing, seed " << seed;
        }
        for (int round = 0; round < 20; ++round) {
            int number = static_cast<int>(random.below(61));
            sampler.restore(states[static_cast<std::size_t>(number)]);
            ASSERT_TRUE(sampler.frame().end() == cut(number) && sampler.frame().length() == Duration{0});
            while (number < 60) {
                const Frame& frame = sampler.advance(cut(++number));
                ASSERT_EQ(test::all_of(frame), frames[static_cast<std::size_t>(number)]) << "seed " << seed;
                const Sampler::State again = sampler.save();
                ASSERT_TRUE(std::ranges::equal(again.bytes(), states[static_cast<std::size_t>(number)].bytes()))
                    << "seed " << seed << ", frame " << number;
            }
        }
    }
}

TEST(Rollback, FartherBackThanTheHistoryItIsOverrunAndSaysSo) {
    Timeline timeline;
    Sampler sampler{timeline, {.start = Time{}}};
    EXPECT_FALSE(sampler.restore({})) << "it was never saved";
    const Sampler::State old = sampler.save();
    for (int i = 0; i < 3000; ++i) {
        timeline.desk().button(Space, true, Time{Duration{2 * i}});
        timeline.desk().button(Space, false, Time{Duration{2 * i + 1}});
        if (i % 100 == 0) sampler.advance(Time{Duration{2 * i}});
    }
    timeline.desk().button(KeyH, true, Time{Duration{7000}});
    EXPECT_TRUE(sampler.advance(Time{Duration{8000}})[KeyH].pressed());
    EXPECT_EQ(sampler.counters().overruns, 0U);
    sampler.restore(old);
    const Frame& frame = sampler.advance(Time{Duration{8000}});
    EXPECT_EQ(sampler.counters().overruns, 1U);
    EXPECT_FALSE(frame[KeyH].pressed());
    EXPECT_TRUE(frame[KeyH].down());
}

// A whole game, tested by a bot: nothing but posted input, at any picture rate, with the same result.
TEST(PostedInput, AWholeGameIsPlayedByABot) {
    std::vector<Crane> ends;
    for (const std::int64_t picture_rate : {24, 60, 144, 1000}) {
        Timeline timeline{{.desk_devices = false}};
        Inlet& desk = timeline.desk();
        desk.connect(DeviceId{1}, {.name = "bot", .is_virtual = true}, Time{});
        Sampler simulation{timeline, {.start = Time{}}}, picture{timeline, {.start = Time{}}};
        TickClock ticks{hertz(60), at_most(5), Time{}};
        Crane crane;
        std::uint64_t pictures = 0, presses_seen = 0;
        const std::vector<KeyEvent> script = play(77, 600);
        std::size_t next = 0;
        for (std::int64_t n = 1; n <= picture_rate * 10; ++n) {
            const Time now{Duration{n * 1'000'000'000 / picture_rate}};
            for (; next < script.size() && script[next].time <= now; ++next)
                desk.button(DeviceId{1}, script[next].button, script[next].down, script[next].time);
            while (const auto cut = ticks.next(now)) crane.tick(simulation.advance(*cut));
            const Frame& frame = picture.advance(now);
            presses_seen += frame[Space].press_count();
            EXPECT_FALSE(frame.has_input_from(Origin::person));
            ++pictures;
        }
        EXPECT_EQ(crane.locked, presses_seen % 2 != 0);
        EXPECT_EQ(ticks.dropped(), 0U);
        ends.push_back(crane);
    }
    for (const Crane& end : ends) EXPECT_TRUE(end == ends.front());
    EXPECT_NE(ends.front().trolley, 0);
}

}  // namespace
