// Readings beyond the counts of one merged button: any of several, either side, one device, shares, steps.

#include <gtest/gtest.h>

#include "cursorum/core/controls.hpp"
#include "support/script.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using test::ScriptRun;
using test::text;

TEST(Reading, DownShareIsExact) {
    ScriptRun script;
    script.run("4+W 6-W |8");
    EXPECT_EQ(script.sampler.frame()[KeyW].down_share(), 0.25);
    script.run("|8");
    EXPECT_EQ(script.sampler.frame()[KeyW].down_share(), 0.0);
}

TEST(Reading, StepsArePressesAndRepeats) {
    ScriptRun script{{.start = Time{}, .repeat = {Duration{10}, Duration{5}, 0}}};
    script.run("0+W |20");
    EXPECT_EQ(script.sampler.frame()[KeyW].steps(), 4U);  // pressed, and at 10, 15 and 20
}

TEST(Reading, ReleasedAfterTellsOnlyOfReleases) {
    ScriptRun script;
    script.run("1+W 4-W 6+W 7foc0 |10");
    const ButtonReading w = script.sampler.frame()[KeyW];
    EXPECT_EQ(w.released_after(), Duration{3});
    EXPECT_EQ(w.held_for(), Duration{1});  // the cancelled one ended last
    EXPECT_TRUE(w.ended());
    script.run("11foc1 12+W 15int |20");
    EXPECT_EQ(script.sampler.frame()[KeyW].released_after(), Duration{0});
    EXPECT_FALSE(script.sampler.frame()[KeyW].released());
}

TEST(Reading, ANumberThatIsNoButtonIsIdle) {
    ScriptRun script;
    script.run("1+W |10");
    const Frame& frame = script.sampler.frame();
    for (const Button none : {Button{}, Button{button_capacity}, Button{65535}}) {
        EXPECT_EQ(frame[none].state(), ButtonState::idle);
        const ButtonReading reading = frame[none];
        EXPECT_FALSE(reading.down() || reading.was_down() || reading.pressed() || reading.released() ||
                     reading.ended());
        EXPECT_FALSE(frame.on(DeviceId{1})[none].pressed());
    }
}

struct AnyRow {
    const char* rule;
    const char* script;
    std::vector<std::string> frames;
};

const AnyRow any_rows[] = {
    {"one of them", "5+W |10 15-W |20", {"press 1000 5 5", "release 0100 10 5"}},
    {"the second changes nothing",
     "2+W |10 15+S 17-W |20 25-S |30",
     {"press 1000 8 8", "hold 0000 18 10", "release 0100 10 5"}},
    {"from one to the other without a gap", "2+W 5+S 5-W 8-S |10", {"blip 1100 6 6"}},
    {"with a gap", "2+W 4-W 6+S 8-S |10", {"blip 2200 2 4"}},
    {"a press while the others are only adopted", "2ado1:W 5+S |10", {"press 1011 5 8"}},
    {"a cancel of all", "2+W 3+S 5foc0 |10", {"blip 1001 3 3"}},
    {"system repeats add up", "1+W 2~W 3+S 4~S |10", {"press 1000 9 9 sys2"}},
};

TEST(Reading, AnyOfSeveralIsOneReading) {
    for (const AnyRow& row : any_rows) {
        ScriptRun script;
        std::string word, rest = row.script;
        std::vector<std::string> frames;
        for (std::size_t at; !rest.empty();) {
            at = rest.find('|');
            const std::size_t end = std::min(rest.find(' ', at), rest.size());
            script.run(rest.substr(0, end));
            frames.push_back(text(script.sampler.frame().any({KeyW, KeyS})));
            rest.erase(0, std::min(end + 1, rest.size()));
        }
        EXPECT_EQ(frames, row.frames) << row.rule;
    }
}

TEST(Reading, EitherSideIsOneButton) {
    ScriptRun script;
    script.run("1+< 4+> 6-< |10");
    const Frame& frame = script.sampler.frame();
    EXPECT_EQ(text(frame[Shift].figures()), "press 1000 9 9");
    EXPECT_EQ(text(frame[ShiftLeft].figures()), "blip 1100 5 5");
    EXPECT_EQ(text(frame.on(DeviceId{1})[Shift].figures()), "press 1000 9 9");
    EXPECT_EQ(text(frame.on(DeviceId{2})[Shift].figures()), "idle 0000 0 0");
    EXPECT_TRUE(frame.active().contains(Shift));
    EXPECT_EQ(test::edges_text(frame), "1 1 ShiftLeft press; 4 1 ShiftRight press; 6 1 ShiftLeft release");
    script.run("15-> |20");
    EXPECT_EQ(text(script.sampler.frame()[Shift].figures()), "release 0100 14 5");
    EXPECT_EQ(text(script.sampler.frame().on(DeviceId{1})[Shift].figures()), "release 0100 11 5");  // that key's own
}

TEST(Reading, OneDeviceAlone) {
    ScriptRun script;
    script.run("1+W 3+2W 6-W |10");
    const Frame& first = script.sampler.frame();
    EXPECT_EQ(text(first.on(DeviceId{1})[KeyW].figures()), "blip 1100 5 5");
    EXPECT_EQ(text(first.on(DeviceId{2})[KeyW].figures()), "press 1000 7 7");
    EXPECT_EQ(text(first.on(DeviceId{9})[KeyW].figures()), "idle 0000 0 0");
    EXPECT_TRUE(first.on(DeviceId{2})[KeyW].pressed());
    EXPECT_TRUE(first.on(DeviceId{1})[KeyW].released());
    script.run("|20");
    const Frame& second = script.sampler.frame();
    EXPECT_TRUE(second.on(DeviceId{2})[KeyW].held());
    EXPECT_TRUE(second.on(DeviceId{2})[KeyW].was_down());
    EXPECT_FALSE(second.on(DeviceId{1})[KeyW].down());
}

TEST(Reading, ManyEdgesInOneFrame) {
    // More than the few that are turned round on the stack.
    ScriptRun script;
    std::string taps;
    for (int i = 0; i < 50; ++i) taps += std::to_string(10 + i * 10) + "+W " + std::to_string(13 + i * 10) + "-W ";
    script.run(taps + "|600");
    EXPECT_EQ(script.sampler.frame()[KeyW].press_count(), 50U);
    EXPECT_EQ(script.sampler.frame()[KeyW].down_span(), Duration{150});
}

TEST(Repeat, ClosedFormAgreesWithCounting) {
    const Repeat repeat{Duration{7}, Duration{3}, 0};
    for (int until = 0; until < 40; ++until) {
        std::uint64_t counted = 0;
        for (int pulse = 5 + 7; pulse <= until; pulse += 3) ++counted;
        EXPECT_EQ(repeats_until(repeat, nanoseconds_since_zero(5), nanoseconds_since_zero(until)), counted) << until;
    }
}

}  // namespace
