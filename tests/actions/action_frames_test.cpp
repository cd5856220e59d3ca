// Which frames a reader takes, and frames with a gap before them.

#include <gtest/gtest.h>

#include <string>

#include "actions/action_run.hpp"
#include "cursorum/core/controls.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using test::profile_of;
using test::text;

constexpr std::int64_t ms = 1'000'000;
Time at(std::int64_t milliseconds) { return nanoseconds_since_zero(milliseconds * ms); }

struct Played {
    explicit Played(const std::string& actions) : profile{profile_of("[mode.m.action]\n" + actions)}, reader{profile} {
        reader.open(ModeHandle{0});
        reader.read(sampler.advance(at(0)));
    }
    void tap(Button button, std::int64_t down, std::int64_t up) {
        timeline.desk().button(button, true, at(down));
        timeline.desk().button(button, false, at(up));
    }
    void read(std::int64_t cut) { reader.read(sampler.advance(at(cut))); }
    void read(Tick::Gap gap, std::int64_t from, std::int64_t begin, std::int64_t end) {
        reader.read(sampler.advance(Tick{at(from), at(begin), at(end), gap, 0}));
    }
    ActionReading lock() const { return reader[ButtonAction{0}]; }

    Timeline timeline;
    Sampler sampler{timeline, {.start = at(0)}};
    Profile profile;
    ActionReader reader;
};
const std::string lock = "lock = { kind = \"button\", bind = [\"Space\"] }\n";

TEST(ActionFrames, AreReadOnceEach) {
    Played p{lock + "lift = { kind = \"axis\", bind = [{ minus = \"KeyS\", plus = \"KeyW\" }] }\n"};
    p.timeline.desk().button(KeyW, true, at(10));
    p.tap(Space, 11, 12);
    const Frame& frame = p.sampler.advance(at(100));
    p.reader.read(frame);
    EXPECT_EQ(p.lock().press_count(), 1U);
    const AxisAction lift{1};
    EXPECT_DOUBLE_EQ(p.reader[lift].integral, 0.09);
    p.reader.read(frame);
    EXPECT_EQ(p.lock().press_count(), 0U);
    EXPECT_FALSE(p.lock().pressed());
    EXPECT_EQ(p.reader[lift].integral, 0);
    EXPECT_EQ(p.reader[lift].value, 1);
    EXPECT_EQ(p.reader.start(), at(100));
    EXPECT_EQ(p.reader.counters().repeated, 1U);
    p.reader.read(p.sampler.peek(at(200)));
    EXPECT_EQ(p.reader[lift].integral, 0);
    Sampler other{p.timeline, {.start = at(0)}};
    p.reader.read(other.advance(at(300)));
    EXPECT_FALSE(p.lock().pressed());
    EXPECT_EQ(p.reader.counters().refused, 2U);
    p.read(200);
    EXPECT_DOUBLE_EQ(p.reader[lift].integral, 0.1);
    EXPECT_EQ(p.reader.counters().left_out, 0U);
}

TEST(ActionFrames, LeftOutAreCountedAndHealed) {
    Played p{lock};
    p.timeline.desk().button(Space, true, at(15));
    p.sampler.advance(at(20));
    p.sampler.advance(at(25));
    p.read(30);
    EXPECT_EQ(text(p.lock().figures()), "hold 0010 5000000 5000000");
    EXPECT_EQ(p.reader.counters().left_out, 2U);
    // Going back with both is not a mistake; with the sampler alone it is.
    const auto sampler = p.sampler.save();
    const auto reader = p.reader.save();
    p.read(40);
    p.sampler.restore(sampler);
    p.reader.restore(reader);
    p.read(40);
    EXPECT_EQ(p.reader.counters().left_out, 2U);
    EXPECT_EQ(p.reader.counters().repeated, 0U);
    p.read(50);
    p.sampler.restore(sampler);
    p.read(40);
    EXPECT_EQ(p.reader.counters().left_out, 3U);
}

TEST(ActionFrames, WhoLetsGoOfWhatWasAdoptedHasNotReleasedIt) {
    Played p{lock};
    p.timeline.desk().lose_focus(at(1));
    p.timeline.desk().gain_focus(ButtonSet{Space}, at(2));
    p.read(10);
    p.timeline.desk().button(Space, false, at(11));
    p.read(20);
    EXPECT_TRUE(p.lock().ended() && p.lock().release_count() == 1);
    EXPECT_FALSE(p.lock().released());
    EXPECT_EQ(p.lock().released_after(), Duration{});
    p.tap(Space, 21, 25);
    p.read(30);
    EXPECT_TRUE(p.lock().released());
    EXPECT_EQ(p.lock().released_after(), Duration{4 * ms});
}

TEST(ActionFrames, AfterAPauseNothingOfItFires) {
    Played p{lock + "next = { kind = \"button\", bind = [\"KeyN\"] }\n"};
    p.timeline.desk().button(Space, true, at(5));
    p.read(10);
    p.timeline.desk().button(Space, false, at(100));
    p.tap(Space, 200, 210);
    p.timeline.desk().button(KeyN, true, at(300));
    p.read(Tick::Gap::paused, 20, 1000, 1010);
    EXPECT_EQ(text(p.lock().figures()), "cancel 0001 995000000 0");
    EXPECT_EQ(text(p.reader[ButtonAction{1}].figures()), "hold 0010 10000000 10000000");
}

// Each row: a gesture, taps before and within or behind a gap, and how often the action was pressed after it.
TEST(ActionFrames, GesturesGoByTheTimesAtWhichThingsHappened) {
    struct Row {
        const char* what;
        const char* gesture;
        std::int64_t first, second, third;  // taps of 20 ms
        Tick::Gap gap;                      // from 100 to 3000
        unsigned presses;
    };
    constexpr auto stalled = Tick::Gap::stalled, paused = Tick::Gap::paused;
    for (const Row& row : {
             Row{"two presses 2 s apart", "gesture = \"double_tap\"", 500, 2500, 0, stalled, 0},
             Row{"two presses 0.2 s apart", "gesture = \"double_tap\"", 500, 700, 0, stalled, 1},
             Row{"one before, one in the gap", "gesture = \"double_tap\"", 50, 200, 0, stalled, 1},
             Row{"one before, one behind a short pause", "gesture = \"double_tap\"", 60, 3005, 0, paused, 0},
             Row{"taps in a pause", "gesture = \"double_tap\"", 500, 700, 0, paused, 0},
             Row{"bounces", "debounce = \"50ms\"", 500, 530, 1000, stalled, 2},
             Row{"presses too near to each other", "min_interval = \"300ms\"", 500, 700, 1000, stalled, 2},
         }) {
        Played p{"lock = { kind = \"button\", bind = [\"Space\"], " + std::string{row.gesture} + " }\n"};
        unsigned before = 0;
        const auto play = [&](bool first) {
            for (const std::int64_t t : {row.first, row.second, row.third})
                if (t != 0 && (t < 100) == first) p.tap(Space, t, t + 20);
        };
        play(true);
        p.read(100);
        before = p.lock().press_count();
        play(false);
        p.read(row.gap, 100, 3000, 3100);
        EXPECT_EQ(before + p.lock().press_count(), row.presses) << row.what;
        for (const Edge edge : p.sampler.frame().edges()) EXPECT_GE(edge.time, at(3000)) << row.what;
    }
}

TEST(ActionFrames, AHeldButtonBecomesALongPressInAStallAndABufferedPressEndsWithAPause) {
    Played p{
        "lock = { kind = \"button\", bind = [\"Space\"], gesture = \"long_press\" }\n"
        "jump = { kind = \"button\", bind = [\"KeyJ\"], buffer = \"5s\" }\n"};
    p.timeline.desk().button(Space, true, at(50));
    p.tap(KeyJ, 60, 61);
    p.read(100);
    p.read(Tick::Gap::stalled, 100, 3000, 3100);
    EXPECT_EQ(text(p.lock().figures()), "press 1000 100000000 100000000") << "at the frame's start";
    EXPECT_EQ(p.lock().first_press(), at(3000));
    const auto saved = p.reader.save();
    EXPECT_TRUE(p.reader.consume_press(ButtonAction{1}));
    p.reader.restore(saved);
    p.read(Tick::Gap::paused, 3100, 3200, 3300);
    EXPECT_FALSE(p.reader.consume_press(ButtonAction{1}));
    EXPECT_TRUE(p.lock().ended());
}

TEST(ActionFrames, APauseForgetsTheFirstHalfOfADoubleTapAlsoIfNothingFollowsIt) {
    Played p{"lock = { kind = \"button\", bind = [\"Space\"], gesture = \"double_tap\" }\n"};
    p.tap(Space, 60, 80);
    p.read(100);
    p.read(Tick::Gap::paused, 100, 150, 160);
    p.tap(Space, 200, 220);
    p.read(400);
    EXPECT_EQ(p.lock().press_count(), 0U) << "140 ms apart, but for the pause";
}

TEST(ActionFrames, APressFromAGapIsBufferedFromTheFramesStart) {
    Played p{"lock = { kind = \"button\", bind = [\"Space\"], buffer = \"150ms\" }\n"};
    p.read(100);
    p.tap(Space, 200, 210);
    p.read(Tick::Gap::stalled, 100, 3000, 3100);
    EXPECT_TRUE(p.reader.consume_press(ButtonAction{0}));
}

TEST(ActionFrames, RampsAndIntegralsDoNotRunInAGap) {
    for (const auto gap : {Tick::Gap::paused, Tick::Gap::stalled}) {
        Played p{"lift = { kind = \"axis\", bind = [{ minus = \"KeyS\", plus = \"KeyW\" }], rise = \"1s\" }\n"};
        p.timeline.desk().button(KeyW, true, at(0));
        p.read(500);
        const AxisAction lift{0};
        EXPECT_DOUBLE_EQ(p.reader[lift].value, 0.5);
        p.read(gap, 500, 3000, 3100);
        EXPECT_NEAR(p.reader[lift].value, 0.6, 1e-9);
        EXPECT_NEAR(p.reader[lift].integral, 0.055, 1e-9);
    }
}

}  // namespace
