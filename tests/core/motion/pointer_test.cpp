// The pointer: positions, motion, samples, wheel steps, clicks, drags, targets.

#include <gtest/gtest.h>

#include <cmath>
#include <limits>
#include <string>
#include <vector>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"
#include "support/script.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;

constexpr DeviceId mouse{2};
constexpr std::int64_t ms = 1'000'000;
Time at(std::int64_t milliseconds) { return nanoseconds_since_zero(milliseconds * ms); }

struct Desk : test::ScriptRun {
    explicit Desk(const PointerSettings& settings = {}) : ScriptRun{{.start = Time{}}, {.pointer = settings}} {
        unit = ms;
    }
    Inlet& inlet = timeline.desk();
    std::string view(const char* names) { return test::views_text(sampler, names); }
    /// Runs to its only cut with views.
    std::string one(std::string_view script) { return run(script).at(0); }
};

/// Times are milliseconds.
void check(const char* table, const PointerSettings& settings = {}) {
    test::check_rows(table, [&](const std::string& script) { return Desk{settings}.run(script); });
}

TEST(Pointer, MotionAndPositionDoNotCorrectEachOther) {
    check(R"(
motion alone leaves the position : 1mov2:3,4 |9motion,at : 3,4 | nowhere
the first position is not motion : 1pos2:10,20 |9motion,at : 0,0 | 10,20
then the difference is : 1pos2:10,20 2pos2:13,18 |9motion,at : 3,-2 | 13,18
where both are reported, both are taken as they are : 1mvp2:100,0,10,20 |9motion,at : 100,0 | 10,20
a warp is not motion : 1pos2:10,20 3wrp2:500,400 |9motion,at : 0,0 | 500,400
nor is the first after a focus gain : 1pos2:10,20 2foc0 3foc1 4pos2:90,90 |9motion,at : 0,0 | 90,90
nor after a connect : 1pos2:10,20 2dis2 3con2 4pos2:90,90 |9motion,at : 0,0 | 90,90
without focus nothing moves : 1pos2:10,20 2foc0 3mvp2:1,1,90,90 |9motion,at : 0,0 | 10,20
raw counts are kept apart : 1pos2:10,20 3raw2:3,4,13,24,7,8 |9motion,at,raw : 3,4 | 13,24 | 7,8
whole pixels are exact : 1pos2:16777217,-8388609 |9motion,at : 0,0 | 16777217,-8388609
to and fro is motion too : 1mov2:5,0 2mov2:-5,0 |3motion,moved |4moved : 0,0 | moved; still
inside and outside : 1pos2:110,110 |1inside,target 2out2 |2inside,target 3ins2 |3inside : in>in | h--; in>out | ---; out>in
locked, it has no position : 1pos2:9,9 3lck2 4mov2:40,0 5pos2:3,3 |5locked,motion,at : off>on | 40,0 | 9,9
where it comes out is not motion : 1pos2:9,9 3lck2 5pos2:3,3 6fre2 7pos2:80,80 |7motion,at,locked : 0,0 | 80,80 | off>off
a mouse that is gone locks nothing : 1lck2 |2locked 3dis2 |4locked : off>on; on>off
each mouse has its own motion : 1mov2:1,2 2mov6:10,20 |5motion,motion@2,motion@6 : 11,22 | 1,2 | 10,20
and its own wheel : 3whl6:0,1 |5wheel@6,wheel@2,moved@4 : 0,1 | 0,0 | still
another mouse's place is not its own : 6pos2:50,60 7mov6:1,0 |8at@2,at@6 : 50,60 | nowhere
wheel steps add up : 0whl2:-0.25,0.25 1whl2:-0.25,0.25 2whl2:-0.25,0.25 |10steps 20whl2:-0.25,0.25 |20steps : 0,0; -1,1
)");
}

TEST(Pointer, HasThePositionAtBothCutsAndEverySampleInOrder) {
    Desk desk;
    desk.run("1pos2:1,1 |10");
    std::vector<MotionSample> samples;
    for (int i = 1; i <= 133; ++i) samples.push_back({nanoseconds_since_zero(10 * ms + i * 125'000), 0.5, -0.25});
    EXPECT_EQ(desk.inlet.motions(mouse, samples), Outcome::taken);
    EXPECT_EQ(desk.one("27pos2:7,9 |27was,at,motion"), "1,1 | 7,9 | 72.5,-25.25");
    unsigned count = 0;
    for (const PointerSample& sample : desk.sampler.frame().pointer().samples()) {
        if (++count > 133) break;
        EXPECT_EQ(sample.time, samples[count - 1].time);
        EXPECT_EQ(sample.motion, (Distance{0.5, -0.25}));
    }
    EXPECT_EQ(count, 134U);
    EXPECT_EQ(desk.one("|28moved,at"), "still | 7,9");
}

// ---- clicks

TEST(Clicks, HappenOnRelease) {
    check(R"(
across frames : 1pos2:10,20 2+l |5clicks 6pos2:13,24 7pos2:11,20 |10clicks 12-l |15clicks |20clicks : -; -; Left 10,20>11,20 far 5; -
several within a frame : 1pos2:0,0 2+l 3-l 4+l 5-l 8+2r 9-2r |20clicks : Left 0,0>0,0 far 0 & Left 0,0>0,0 far 0 x2 & Right 0,0>0,0 far 0
another button between starts anew : 1+l 2-l 3+r 4-r 5+l 6-l |9clicks : Left far 0 & Right far 0 & Left far 0
at 400 milliseconds : 2+l 50-l 450+l 460-l |999clicks : Left far 0 & Left far 0 x2
and at 401 : 2+l 50-l 451+l 460-l |999clicks : Left far 0 & Left far 0
at 4 pixels : 1pos2:0,0 2+l 50-l 55pos2:4,0 60+l 70-l |999clicks : Left 0,0>0,0 far 0 & Left 4,0>4,0 far 0 x2
and a little beyond : 1pos2:0,0 2+l 50-l 55pos2:3,3 60+l 70-l |999clicks : Left 0,0>0,0 far 0 & Left 3,3>3,3 far 0
without a position by motion : 1+l 2mov2:3,4 3-l |5clicks : Left far 5
leaving, where it does not cancel : 2+l 5out2 6-l |9clicks : Left far 0
a drag is none, and the next counts anew : 1pos2:9,9 1+l 2pos2:30,9 3pos2:9,9 4-l |5clicks 6+l 7-l |8clicks 9+l 9-l |9clicks : -; Left 9,9>9,9 far 0; Left 9,9>9,9 far 0 x2
a click, a drag and a click are two single ones : 1pos2:9,9 2+l 3-l 4+l 5pos2:30,9 6pos2:9,9 7-l 8+l 9-l |10clicks : Left 9,9>9,9 far 0 & Left 9,9>9,9 far 0
after focus came back nothing is known : 1pos2:110,110 3foc0 4foc1 5+l 6-l |9target,clicks : h-- | Left far 0
)");
}

TEST(Clicks, AreCalledOff) {
    const std::string before = "1pos2:10,10 2+l 3pos2:30,10 |4drag ",
                      after = " |8drag 9-l |10clicks,drag 20+l 30-l |40clicks";
    const std::string expected = "10,10>30,10; cancelled; - | -; Left ";
    for (const char* between : {"5foc0 6foc1 6sta2:l", "5int 6sta2:l", "5dis2 6con2 6sta2:l", "5out2 6ins2"}) {
        Desk desk{{.cancel_on_leave = true}};
        std::string all;
        for (const std::string& line : desk.run(before + between + after)) all += (all.empty() ? "" : "; ") + line;
        EXPECT_EQ(all.substr(0, 6), "began ") << between;
        EXPECT_EQ(all.substr(6, expected.size()), expected) << between;
        EXPECT_FALSE(desk.sampler.frame()[MouseLeft].down()) << between;
    }
    Desk desk;
    desk.run(before);
    desk.sampler.cancel_presses();
    EXPECT_EQ(desk.run(after), (std::vector<std::string>{"cancelled", "- | -", "Left 30,10>30,10 far 0"}));
}

// ---- drags and targets

TEST(Drags, BeginSixPixelsFromThePress) {
    check(R"(
not before : 1pos2:10,10 2+l 3pos2:15.9,10 |4drag 5-l |6drag : -; -
coming back does not end it : 1pos2:10,10 2+l 3pos2:16,10 |4drag 7pos2:10,12 |8drag : began 10,10>16,10; 10,10>10,12
it is dropped, and that is not a click : 1pos2:10,10 2+l 3pos2:16,10 9-l |10drag,clicks |11drag : began dropped | -; -
)");
}

TEST(Targets, SlidingOffDisarmsAndBackArmsAgain) {
    check(R"(
its upper left corner is in it, its right border is not : 1pos2:100,100 |2target 3pos2:150,110 |4target : h--; ---
pressed, off, on, released : 7pos2:120,110 7+l |8target 9pos2:9,9 |10target 11pos2:120,111 |12target 13-l |14target |16target : hap; ---; ha-; h--c; h--
let go outside : 1pos2:120,110 17+l 18pos2:9,9 19-l |20target : --p
pressed elsewhere : 1pos2:9,9 21+l 22pos2:120,110 |23target 24-l |25target : h--; h--
a double click : 1pos2:101,101 2+l 3-l 4+l 5-l |9target : h-pccx2
a drag there and back clicks it, once : 1pos2:101,101 2+l 3pos2:140,101 4pos2:101,101 5-l |9target,clicks : h-pc | -
the buttons of one mouse, the place of another : 1pos2:120,110 9+6l |12target,target@6,target@2 : hap | hap | h--
and its click : 1pos2:120,110 9+6l 13pos2:122,110 19-6l |30target@6,target@2,clicks : h-pc | h-- | Left 120,110>122,110 far 2
and its drag : 1pos2:120,110 9+6l 13pos2:140,110 |14drag : began 120,110>140,110
)");
    EXPECT_EQ(Desk{}.sampler.frame().pointer().target({0, 0, 10, 10}, MouseRight).clicks, 0U);
}

TEST(Pointer, BadNumbersAreRefusedAndCounted) {
    const double inf = std::numeric_limits<double>::infinity(), nan = std::numeric_limits<double>::quiet_NaN();
    Desk desk;
    desk.run("1pos2:1,1");
    std::uint64_t refused = 0;
    for (const double bad : {inf, -inf, nan, 1e300, -1e300, 2147483649.0}) {
        EXPECT_EQ(desk.inlet.motion(bad, 0, at(2)), Outcome::refused_value);
        EXPECT_EQ(desk.inlet.moved_to(WindowPoint{0, bad}, at(2)), Outcome::refused_value);
        EXPECT_EQ(desk.inlet.wheel(0, bad, at(2)), Outcome::refused_value);
        refused += 3;
    }
    EXPECT_EQ(desk.inlet.counters().refused, refused);
    EXPECT_EQ(desk.inlet.motion(2147483648.0, -2147483648.0, at(2)), Outcome::taken);
    EXPECT_EQ(desk.one("|5motion,at"), "2147483648,-2147483648 | 1,1");
}

TEST(Pointer, SurvivesSaveAndRestore) {
    Desk desk;
    desk.run("1pos2:10,10 2+l 3pos2:12,10 |4");
    const Sampler::State saved = desk.sampler.save();
    const std::string expected = "Left 10,10>13,10 far 3 | 1,0";
    EXPECT_EQ(desk.one("5pos2:13,10 6-l |8clicks,motion"), expected);
    desk.sampler.restore(saved);
    EXPECT_EQ(desk.view("at"), "12,10");
    EXPECT_EQ(desk.one("|8clicks,motion"), expected);
    Sampler later{desk.timeline, {.start = at(4)}};
    EXPECT_EQ(test::views_text(later, "at"), "12,10") << "a new sampler, too";
    later.advance(at(8));
    EXPECT_EQ(test::views_text(later, "clicks,motion"), expected);
}

TEST(Pointer, ReportsWhatTheCursorIsLike) {
    Timeline timeline;
    Sampler sampler{timeline, {.start = test::at(0)}};
    Inlet& desk = timeline.desk();
    constexpr CursorState hidden{CursorHold::kept, true}, locked{CursorHold::locked};
    desk.cursor(desk_mouse, hidden, test::at(1));
    EXPECT_EQ(sampler.advance(test::at(2)).pointer().cursor(), hidden);
    const Sampler::State saved = sampler.save();
    desk.cursor(desk_mouse, locked, test::at(3));
    EXPECT_EQ(sampler.advance(test::at(4)).pointer().previous_cursor(), hidden);
    EXPECT_EQ(sampler.frame().pointer().cursor(), locked);
    EXPECT_TRUE(sampler.frame().pointer().locked());
    EXPECT_EQ((Sampler{timeline, {.start = test::at(2)}}.frame().pointer().cursor()), hidden);
    desk.pointer_inside(desk_mouse, false, test::at(5));
    EXPECT_EQ(sampler.advance(test::at(5)).pointer().cursor(), locked) << "each is reported by itself";
    desk.disconnect(desk_mouse, test::at(6));
    EXPECT_EQ(sampler.advance(test::at(7)).pointer().cursor(), CursorState{}) << "a mouse that is gone holds nothing";
    ASSERT_TRUE(sampler.restore(saved));
    EXPECT_EQ(sampler.frame().pointer().cursor(), hidden);
}

}  // namespace
