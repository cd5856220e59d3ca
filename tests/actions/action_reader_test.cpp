#include "cursorum/actions/action_reader.hpp"

#include <gtest/gtest.h>

#include "actions/action_run.hpp"
#include "cursorum/core/controls.hpp"

namespace {

using namespace cursorum;
using test::ActionRun;
using test::profile_of;

/// See check_rows(); what is expected is the action at each cut.
void check(const std::string& modes, const char* action, const char* table) {
    test::check_rows(table, [&](const std::string& script) {
        return ActionRun{profile_of(modes), action}.run(script);
    });
}

#define ACTION(name, kind, rest) "[mode.m.action." name "]\nkind = \"" kind "\"\n" rest "\n"

// "state; counts of presses, releases, adopts, cancels; held for; down within the frame"
TEST(ButtonAction, IsTheOrOfItsBindings) {
    constexpr const char* go = ACTION("go", "button", "bind = [\"KeyW\", \"KeyS\"]");
    check(go, "go", R"(
one binding : open:m |10 13+W |20 25-W |30 : idle 0000 0 0; press 1000 7 7; release 0100 12 5
the second adds nothing : open:m |10 13+W 15+S |20 25-W |30 34-S |40 : idle 0000 0 0; press 1000 7 7; hold 0000 17 10; release 0100 21 4
from one to the other without a gap : open:m |10 13+W 15+S 16-W |20 : idle 0000 0 0; press 1000 7 7
a tap within a frame : open:m |10 13+W 15-W |20 : idle 0000 0 0; blip 1100 2 2
up and down again : open:m 5+W |10 12-W 15+S |20 : press 1000 5 5; dip 1100 5 7
focus loss cancels : open:m 5+W |10 12foc0 |20 : press 1000 5 5; cancel 0001 7 2
found down is adopted : open:m 5foc0 6foc1 7sta1:W |10 : hold 0010 3 3
a press while another only adopted counts : open:m 5foc0 6foc1 7sta1:W |10 13+S |20 : hold 0010 3 3; dip 1001 7 10
two devices are one button : open:m 3+W 5+2W |10 12-W |20 24-2W |30 : press 1000 7 7; hold 0000 17 10; release 0100 21 4
)");
    check(ACTION("go", "button", "bind = []"), "go", R"(
an action without bindings : open:m 3+W |10 : idle 0000 0 0
)");
}

TEST(ButtonAction, RepeatsAsItIsSetToAndNotAsItsKey) {
    constexpr const char* step =
        ACTION("step", "button", "bind = [\"KeyW\"]\nrepeat = { delay = \"20ns\", interval = \"4ns\", cap = 0 }");
    check(step, "step", R"(
pulses at 25, 29, 33, ... : open:m 5+W |10 |26 |40 41-W |50 : press 1000 5 5; hold 0000 21 16 rep1; hold 0000 35 14 rep3; release 0100 36 1
an adopted hold does not : 5+W |10 open:m |40 : idle 0000 0 0; hold 0010 30 30
)");
}

TEST(ButtonAction, OnReleaseComesWithTheEndOfAPress) {
    constexpr const char* go = ACTION("go", "button", "bind = [\"KeyW\", \"KeyS\"]\ngesture = \"release\"");
    check(go, "go", R"(
however long : open:m 2+W |10 |900 905-W |910 : idle 0000 0 0; idle 0000 0 0; blip 1100 0 0
of the last binding that is up : open:m 2+W 3+S 4-W |10 12-S |20 : idle 0000 0 0; blip 1100 0 0
not on focus loss : open:m 2+W |10 12foc0 |20 : idle 0000 0 0; idle 0000 0 0
nor of what was found down : 2+W |5 open:m |10 12-W |20 : idle 0000 0 0; idle 0000 0 0; idle 0000 0 0
)");
}

TEST(ButtonAction, ContactNoiseIsNoEdge) {
    constexpr const char* go = ACTION("go", "button", "bind = [\"KeyW\"]\ndebounce = \"5ns\"");
    constexpr const char* tap = ACTION("go", "button", "bind = [\"KeyW\"]\ndebounce = \"5ns\"\ngesture = \"toggle\"");
    check(go, "go", R"(
a contact that bounces on closing : open:m 2+W 3-W 4+W 5-W 6+W |20 30-W |40 : press 1000 18 18; release 0100 28 10
and on opening : open:m 2+W |20 30-W 31+W 32-W |40 : press 1000 18 18; release 0100 28 10
a tap shorter than that ends when it is over : open:m 2+W 4-W |20 : blip 1100 5 5
over a cut : open:m 2+W 4-W |6 |20 : press 1000 4 4; release 0100 5 1
at its very end an edge counts : open:m 2+W 7-W |20 : blip 1100 5 5
also if the next one undoes it at once : open:m 2+W 7-W 7+W |20 : press 2100 8 13
down, up and down again within it is one press : open:m 2+W 4-W 6+W |20 : press 1000 18 18
the level at its end counts before what happens then : open:m 2+W 4-W 7+W |20 : press 2100 8 13
a press soon after the release waits : open:m 2+W 10-W 12+W |20 : press 2100 5 13
focus loss ends it at once : open:m 2+W 4foc0 |20 : blip 1001 2 2
closing its mode, too : open:m 2+W 4-W |5 close:m |20 : press 1000 3 3; cancel 0001 3 0
what was found down counts at once : 2+W |5 open:m |6 7-W |20 : idle 0000 0 0; hold 0010 1 1; release 0100 2 1
)");
    check(tap, "go", R"(
before the gesture : open:m 2+W 3-W 4+W |20 30-W 40+W |50 : press 1000 18 18; release 0100 38 20
)");
}

TEST(ButtonAction, SystemRepeatsOfItsBindingsAreCounted) {
    constexpr const char* go = ACTION("go", "button", "bind = [\"KeyW\"]");
    ActionRun run{profile_of(go), "go"};
    run.run("open:m 2+W |5 6~W 7~W |10");
    EXPECT_EQ(run.reader[*run.profile.find_button("go")].system_repeat_count(), 2U);
    run.run("|20");
    EXPECT_EQ(run.reader[*run.profile.find_button("go")].system_repeat_count(), 0U);
}

TEST(ButtonAction, APressWaitsToBeTaken) {
    ActionRun run{profile_of(ACTION("jump", "button", "bind = [\"KeyW\"]\nbuffer = \"10ns\"")
                                 ACTION("go", "button", "bind = [\"KeyW\"]")),
                  "jump"};
    const ButtonAction jump = *run.profile.find_button("jump"), go = *run.profile.find_button("go");
    run.run("open:m 5+W 6-W |10");
    EXPECT_TRUE(run.reader.consume_press(jump));
    EXPECT_FALSE(run.reader.consume_press(jump)) << "once";
    EXPECT_TRUE(run.reader.consume_press(go) && run.reader.consume_press(go)) << "one without buffer is as pressed()";
    run.run("15+W |20 |25");
    EXPECT_FALSE(run.reader[jump].pressed());
    const ActionReader::State saved = run.reader.save();
    EXPECT_TRUE(run.reader.consume_press(jump)) << "five before the frame's start";
    EXPECT_FALSE(run.reader.consume_press(go));
    run.reader.restore(saved);
    EXPECT_TRUE(run.reader.consume_press(jump)) << "with the state";
    run.run("30-W 35+W |40 |46");
    EXPECT_TRUE(run.reader.consume_press(jump)) << "35 + 10 is not before 40";
    run.run("50-W 51+W |55 |62 |70");
    EXPECT_FALSE(run.reader.consume_press(jump)) << "51 + 10 is before 62";
    run.run("71-W 72+W |75 close:m |76 open:m |77");
    EXPECT_FALSE(run.reader.consume_press(jump)) << "it ends with its mode";
}

TEST(Gesture, IsMadeOfItsBindingsPresses) {
    const auto of = [](const char* rest) {
        return std::string{"[mode.m.action.go]\nkind = \"button\"\nbind = [\"KeyW\", \"KeyS\"]\n"} + rest;
    };
    const std::string tap = of("gesture = \"tap\"\ntime = \"5ns\""),
                      lasting = of("gesture = \"long_press\"\ntime = \"5ns\""),
                      twice = of("gesture = \"double_tap\"\ntime = \"5ns\""), toggle = of("gesture = \"toggle\""),
                      min_interval = of("min_interval = \"5ns\"");
    check(tap, "go", R"(
a tap : open:m 2+W 7-W |10 : blip 1100 0 0
a nanosecond too long : open:m 2+W 8-W |10 : idle 0000 0 0
over a cut : open:m 2+W |4 7-W |10 : idle 0000 0 0; blip 1100 0 0
a cancel is not a tap : open:m 2+W 4foc0 |10 : idle 0000 0 0
)");
    check(lasting, "go", R"(
a long press : open:m 2+W |6 |10 13-W |20 : idle 0000 0 0; press 1000 3 3; release 0100 6 3
all in one frame : open:m 2+W 9-W |10 : blip 1100 2 2
at its very end it is one : open:m 2+W 7-W |10 : blip 1100 0 0
before that it is none : open:m 2+W 6-W |10 : idle 0000 0 0
from one binding to the other it goes on : open:m 2+W 4+S 5-W |10 : press 1000 3 3
adopted is not pressed : 2+W |5 open:m |20 : idle 0000 0 0; idle 0000 0 0
)");
    check(twice, "go", R"(
a double tap : open:m 2+W 4-W 6+W |10 12-W |20 : press 1000 4 4; release 0100 6 2
too slow : open:m 2+W 4-W 8+W 9-W |10 : idle 0000 0 0
the second of the slow ones may be a first : open:m 2+W 4-W 8+W 9-W |10 12+W |20 : idle 0000 0 0; press 1000 8 8
the third does not count as a second : open:m 1+W 2-W 3+W 4-W 5+W 6-W |10 : blip 1100 1 1
focus loss forgets the first : open:m 2+W 3foc0 4foc1 4sta1: 5+W 6-W |10 : idle 0000 0 0
closing its mode forgets the first : open:m 2+W 3-W |3 close:m |4 open:m 5+W |10 : idle 0000 0 0; idle 0000 0 0; idle 0000 0 0
)");
    check(toggle, "go", R"(
a toggle : open:m 2+W 4-W |10 |20 22+W 24-W |30 : press 1000 8 8; hold 0000 18 10; release 0100 20 2
focus loss leaves it on : open:m 2+W 4foc0 |10 : press 1000 8 8
it is not turned by what is adopted : 2+W |5 open:m |20 : idle 0000 0 0; idle 0000 0 0
closing its mode cancels it : open:m 2+W 4-W |10 close:m |20 open:m |30 : press 1000 8 8; cancel 0001 8 0; idle 0000 0 0
)");
    check(min_interval, "go", R"(
far enough apart : open:m 2+W 4-W 7+W 8-W |10 : blip 2200 1 3
too near : open:m 2+W 4-W 6+W |10 12-W |20 : blip 1100 2 2; idle 0000 0 0
what was dropped counts for nothing : open:m 2+W 4-W 6+W 7-W 8+W |10 : press 2100 2 4
across a pause : open:m 2+W 3-W |4 6+W 7-W |4!5!10 : blip 1100 1 1; idle 0000 0 0
)");
}

TEST(Chord, GoesDownWithItsLastMember) {
    constexpr const char* save = ACTION("save", "button", "bind = [\"ControlLeft+KeyS\"]");
    check(save, "save", R"(
in order : open:m 3+^ 5+S |10 : press 1000 5 5
the other way round : open:m 3+S 5+^ |10 : press 1000 5 5
one alone is nothing : open:m 3+S |10 : idle 0000 0 0
up with the first of them : open:m 3+^ 5+S 8-^ |10 12-S |20 : blip 1100 3 3; idle 0000 0 0
again with the modifier held : open:m 3+^ 5+S 6-S 8+S |10 : press 2100 2 3
)");
    check(ACTION("save", "button", "bind = [\"Shift+KeyS\"]"), "save", R"(
of either side : open:m 3+> 5+S |10 : press 1000 5 5
)");
}

TEST(Chord, MayHaveToGoDownInItsOrder) {
    constexpr const char* go = ACTION("go", "button", "bind = [\"KeyW>KeyS\"]");
    constexpr const char* either =
        ACTION("go", "button", "bind = [\"KeyW>KeyS\"]") ACTION("back", "button", "bind = [\"KeyS>KeyW\"]");
    check(go, "go", R"(
in its order : open:m 2+W 4+S |10 12-W |20 : press 1000 6 6; release 0100 8 2
in the other one : open:m 2+S 4+W |10 : idle 0000 0 0
its last member again : open:m 2+S 4+W 6-S 8+S |10 : press 1000 2 2
at one time, as they came : open:m 2+W 2+S |10 : press 1000 8 8
over frames : open:m 2+W |10 12+S |20 : idle 0000 0 0; press 1000 8 8
)");
    check(either, "back", R"(
each order its own action : open:m 2+W 4+S |10 11-W 12+W |20 : idle 0000 0 0; press 1000 8 8
)");
    check(go, "go", R"(
pressed before the mode opened, in the other order : 2+S 4+W |5 open:m |10 : idle 0000 0 0; idle 0000 0 0
the order of what was adopted is not known : open:m 5foc0 6foc1 7sta1:WS |10 : hold 0010 3 3
)");
}

TEST(Wheel, EachStepIsAPress) {
    ActionRun run{profile_of(ACTION("zoom_in", "button", "bind = [\"WheelUp\", \"KeyW\"]")
                                 ACTION("next", "button", "bind = [\"WheelDown\"]")
                                     ACTION("fine", "button", "bind = [\"KeyS+WheelUp\"]")),
                  "zoom_in"};
    const auto shown = [&](const char* action) {
        return test::text(run.reader[*run.profile.find_button(action)].figures());
    };
    const auto wheel = [&](double dy, std::int64_t time) {
        run.desk().wheel(DeviceId{2}, 0, dy, nanoseconds_since_zero(time));
    };
    run.run("open:m |0");
    wheel(3, 5);
    wheel(-1, 6);
    EXPECT_EQ(run.run("|10").back(), "blip 3300 0 0");
    EXPECT_EQ(shown("next"), "blip 1100 0 0");
    EXPECT_EQ(shown("fine"), "idle 0000 0 0");
    wheel(0.5, 12);
    EXPECT_EQ(run.run("|20").back(), "idle 0000 0 0") << "half a step";
    wheel(0.5, 22);
    EXPECT_EQ(run.run("|30").back(), "blip 1100 0 0");
    wheel(1, 32);
    run.run("34+S");
    wheel(2, 36);
    run.run("38-S");
    wheel(1, 39);
    EXPECT_EQ(run.run("|40").back(), "blip 2200 0 0") << "the chord takes its steps from the plainer binding";
    EXPECT_EQ(shown("fine"), "blip 2200 0 0");
    run.run("41+W");
    wheel(1, 45);
    EXPECT_EQ(run.run("|50").back(), "press 1000 9 9") << "held by a key, a step is not an edge of the OR";
}

TEST(Wheel, GoesToTheUppermostModeAndMayBeClaimed) {
    ActionRun run{profile_of("[mode.top.action.next]\nkind = \"button\"\nbind = [\"WheelDown\"]\n" ACTION(
                      "zoom", "axis", "bind = [{ wheel = \"y\", scale = 0.5 }]")),
                  "zoom"};
    const auto turn = [&](std::int64_t time) { run.desk().wheel(DeviceId{2}, 0, -2, nanoseconds_since_zero(time)); };
    const auto shown = [&] {
        return test::text(run.reader[*run.profile.find_button("next")].figures()) + " " +
               std::to_string(run.reader[*run.profile.find_axis("zoom")].relative);
    };
    run.run("open:m |0");
    turn(5);
    run.run("|10");
    EXPECT_EQ(shown(), "idle 0000 0 0 -1.000000");
    run.run("open:top |11");
    turn(15);
    run.run("|20");
    EXPECT_EQ(shown(), "blip 2200 0 0 0.000000");
    const ClaimId claim = run.reader.claim({.wheel = true}).value();
    run.run("|21");
    turn(25);
    run.run("|30");
    EXPECT_EQ(shown(), "idle 0000 0 0 0.000000");
    run.reader.end_claim(claim);
    run.run("close:top |31");
    turn(35);
    run.run("|40");
    EXPECT_EQ(shown(), "idle 0000 0 0 -1.000000");
}

TEST(Locks, AreTheTrueStateAndNotTheKey) {
    ActionRun run{profile_of("[mode.top]\ncovers = true\n" ACTION("caps", "button",
                                                                  "bind = [{ lock = \"CapsLock\" }, \"KeyW\"]")),
                  "caps"};
    Inlet& desk = run.desk();
    const auto locks = [&](const ButtonSet& on, std::int64_t time) { desk.locks(on, nanoseconds_since_zero(time)); };
    run.run("|0");
    locks({controls::CapsLock}, 3);
    EXPECT_EQ(run.run("|10").back(), "idle 0000 0 0") << "its mode is not open";
    EXPECT_EQ(run.run("open:m |20").back(), "hold 0010 10 10") << "on already: adopted";
    locks({controls::NumLock}, 23);
    EXPECT_EQ(run.run("|30").back(), "release 0100 13 3");
    EXPECT_EQ(run.sampler().frame().locks(), ButtonSet{controls::NumLock});
    EXPECT_EQ(run.sampler().frame().previous_locks(), ButtonSet{controls::CapsLock});
    locks({controls::CapsLock, controls::KeyA}, 34);
    run.run("35+W");
    locks({}, 38);
    EXPECT_EQ(run.run("|40").back(), "press 1000 6 6") << "the key holds on";
    EXPECT_EQ(run.run("41-W |50").back(), "release 0100 7 1");
    const Sampler::State saved = run.sampler().save();
    const ActionReader::State reader = run.reader.save();
    locks({controls::CapsLock}, 52);
    EXPECT_EQ(run.run("|60").back(), "press 1000 8 8");
    run.sampler().restore(saved);
    run.reader.restore(reader);
    EXPECT_EQ(run.run("|60").back(), "press 1000 8 8");
    EXPECT_EQ(run.run("open:top |70").back(), "cancel 0001 8 0") << "covered";
    EXPECT_EQ(run.run("close:top |80").back(), "hold 0010 10 10");
}

TEST(Relative, IsADistanceInItsOwnUnit) {
    ActionRun run{profile_of(ACTION("turn", "axis",
                                    "bind = [{ motion = \"x\", scale = 0.25 }, { minus = \"KeyA\", plus = \"KeyD\" }]")
                                 ACTION("look", "vector", "bind = [{ motion = \"both\", invert = true }]")
                                     ACTION("aim", "axis", "bind = [{ motion = \"y\", raw = true }]")),
                  "turn"};
    const auto turn = [&] { return run.reader[*run.profile.find_axis("turn")]; };
    const auto look = [&] { return run.reader[*run.profile.find_vector("look")]; };
    run.run("open:m |0");
    Inlet& desk = run.desk();
    desk.motion(DeviceId{2}, 8, -2, nanoseconds_since_zero(3));
    desk.motion(DeviceId{2}, 100, 1, nanoseconds_since_zero(6));
    run.run("5+D |10");
    EXPECT_EQ(turn().relative, 27) << "more than 1: it has no limit";
    EXPECT_EQ(turn().value, 1) << "the key's, and no motion in it";
    EXPECT_EQ(look().relative, (Vector2{-108, 1}));
    EXPECT_EQ(look().value, Vector2{});
    EXPECT_EQ(run.reader[*run.profile.find_axis("aim")].relative, 0) << "no source reported raw counts";
    run.run("|20");
    EXPECT_EQ(turn().relative, 0);
    run.run("close:m |21");
    desk.motion(DeviceId{2}, 8, -2, nanoseconds_since_zero(25));
    run.run("|30");
    EXPECT_EQ(turn(), (AxisActionReading{}));
}

TEST(Chord, TakesItsLastKeyFromThePlainerBinding) {
    constexpr const char* both = ACTION("save", "button", "bind = [\"ControlLeft+KeyS\"]") ACTION(
        "back", "button", "bind = [\"KeyS\"]") ACTION("all", "button", "bind = [\"ControlLeft+ShiftLeft+KeyS\"]");
    check(both, "back", R"(
the plain one hears nothing : open:m 3+^ 5+S |10 : idle 0000 0 0
not even when the modifier comes up : open:m 3+^ 5+S 7-^ |10 12-S |20 : idle 0000 0 0; idle 0000 0 0
the next press is its own : open:m 3+^ 5+S 7-^ 8-S 9+S |10 : press 1000 1 1
what is down already stays : open:m 3+S 5+^ |10 : press 1000 7 7
)");
    check(both, "save", R"(
the longest gets it : open:m 3+^ 4+< 5+S |10 : idle 0000 0 0
)");
    check(both, "all", R"(
the longest itself : open:m 3+^ 4+< 5+S |10 : press 1000 5 5
)");
}

TEST(AxisAction, TakesOppositesAsItSays) {
    const auto lift = [](const std::string& opposite) {
        return std::string{ACTION("lift", "axis", "bind = [{ minus = \"KeyS\", plus = \"KeyW\" }]")} + opposite;
    };
    // "value, integral in nanoseconds"
    check(lift("opposite = \"neutral\"\n"), "lift", R"(
cancel : open:m 2+S 5+W |10 12-S |20 24-W |30 : 0 -3; 1 8; 0 4
a tap counts for as long as it lasted : open:m 3+W 5-W |10 : 0 2
cut finely : open:m 3+W |4 |5 |6 7-W |8 : 1 1; 1 1; 1 1; 0 1
)");
    check(lift("opposite = \"last\"\n"), "lift", R"(
last : open:m 2+S 5+W |10 12-S |20 24-W |30 : 1 2; 1 10; 0 4
)");
    check(lift("opposite = \"first\"\n"), "lift", R"(
first : open:m 2+S 5+W |10 12-S |20 24-W |30 : -1 -8; 1 6; 0 4
)");
}

TEST(AxisAction, MovesAlongItsRamps) {
    constexpr const char* lift =
        ACTION("lift", "axis", "bind = [{ minus = \"KeyS\", plus = \"KeyW\" }]\nrise = \"20ns\"\nfall = \"10ns\"");
    check(lift, "lift", R"(
rises : open:m 0+W |10 |20 |30 : 0.5 2.5; 1 7.5; 1 10
all in one frame : open:m 0+W |30 : 1 20
falls : open:m 0+W 20-W |25 |35 : 0.5 13.75; 0 1.25
turns back half way up : open:m 0+W 10-W |20 : 0 3.75
through zero it falls, then rises : open:m 0+W 20-W 20+S |30 |50 : 0 15; -1 -10
closing stops it at once : open:m 0+W |20 close:m |30 : 1 10; 0 0
)");
}

TEST(VectorAction, IsNeverLongerThanOne) {
    constexpr const char* travel =
        ACTION("travel", "vector", "bind = [{ left = \"KeyA\", right = \"KeyD\", up = \"KeyW\", down = \"KeyS\" }]");
    constexpr const char* ramped = ACTION("travel", "vector",
                                          "bind = [{ left = \"KeyA\", right = \"KeyD\", up = \"KeyW\", down = \"KeyS\" "
                                          "}]\nrise = \"20ns\"\nfall = \"10ns\"");
    check(travel, "travel", R"(
right and down are positive : open:m 0+D |10 10-D 10+W |20 : 1,0 10,0; 0,-1 0,-10
a diagonal : open:m 0+D 0+S |10 : 0.707107,0.707107 7.07107,7.07107
opposites cancel in one direction : open:m 0+A 0+D 0+S |10 : 0,1 0,10
)");
    check(ramped, "travel", R"(
a straight line : open:m 0+D 20-D 20+S |30 |60 : 0.646447,0.353553 18.2322,1.76777; 0,1 5.9099,24.0901
back to rest : open:m 0+D 20-D |25 |40 : 0.5,0 13.75,0; 0,0 1.25,0
)");
}

TEST(Thresholds, ATriggerIsTwoButtons) {
    constexpr const char* trigger =
        ACTION("half", "button",
               "bind = [{ button = \"PadPullRight\", press = 0.25 }]") ACTION("full", "button",
                                                                              "bind = [{ button = \"PadPullRight\", "
                                                                              "press = 0.75, release = 0.5 }, "
                                                                              "\"KeyW\"]") "[mode.top]\ncovers = "
                                                                                           "true\n";
    check(trigger, "full", R"(
at its thresholds, at the events' times : open:m |10 12axs3:PR,0.74 13axs3:PR,0.75 16axs3:PR,0.6 |20 24axs3:PR,0.5 |30 : idle 0000 0 0; press 1000 7 7; release 0100 11 4
each event counts : open:m 2axs3:PR,1 5axs3:PR,0 |10 12axs3:PR,1 14axs3:PR,0.5 16axs3:PR,1 |20 : blip 1100 3 3; press 2100 4 6
with a key it is one action : open:m 2+W 4axs3:PR,1 6-W |10 : press 1000 8 8
beyond it when its mode opens : 2axs3:PR,1 |10 open:m |20 24axs3:PR,0 |30 : idle 0000 0 0; hold 0010 10 10; release 0100 14 4
between the thresholds then, it is up : 2axs3:PR,0.6 |10 open:m |20 24axs3:PR,0.8 |30 : idle 0000 0 0; idle 0000 0 0; press 1000 6 6
covered, it is cancelled; uncovered, adopted : open:m 2axs3:PR,1 |10 open:top |20 close:top |30 : press 1000 8 8; cancel 0001 8 0; hold 0010 10 10
claimed, likewise : open:m 2axs3:PR,1 |10 claim:* |20 end:* |30 : press 1000 8 8; cancel 0001 8 0; hold 0010 10 10
of two devices the one farther : open:m 2axs3:PR,1 4axs1:PR,0.8 6axs3:PR,0 |10 12axs1:PR,0 |20 : press 1000 8 8; release 0100 10 2
other shaping makes no press : open:m 2axs3:LX,0.5 3axs3:PR,0.5 |10 : idle 0000 0 0
focus loss cancels : open:m 2axs1:PR,1 |10 14foc0 |20 26foc1 27axs1:PR,1 |30 : press 1000 8 8; cancel 0001 12 4; press 1000 3 3
pulled before a pause, it counts, and is adopted after it, as a button; pulled in it, it is adopted : open:m |10 12axs3:PR,1 |20!50!60 64axs3:PR,0 |70 74axs3:PR,1 |80 90axs3:PR,0 91axs3:PR,1 |80!100!110 : idle 0000 0 0; press 1011 10 10; release 0100 14 4; press 1000 6 6; hold 0011 10 10
pulled in a pause, it is adopted : open:m |10 32axs3:PR,1 |20!50!60 : idle 0000 0 0; hold 0010 10 10
)");
    check(trigger, "half", R"(
release a little below : open:m 2axs3:PR,0.25 5axs3:PR,0.21 6axs3:PR,0.2 |10 : blip 1100 4 4
)");
    check(ACTION("go", "button", "bind = [{ button = \"PadStickLeftLeft\", press = 0.9 }]"), "go", R"(
one side of a stick, shaped : open:m 2stk3:-0.8,0 4stk3:-0.95,0 |10 : press 1000 6 6
the other is not : open:m 2stk3:1,0 |10 : idle 0000 0 0
)");
}

TEST(Touch, IsAVectorAndButtons) {
    ActionRun run{profile_of(ACTION("touched", "button", "bind = [{ touch = \"contact\" }]")
                                 ACTION("pressed", "button", "bind = [{ touch = \"pressure\", press = 0.6 }]")
                                     ACTION("travel", "vector", "bind = [{ touch = \"position\", dead_zone = 0.2 }]")),
                  "touched"};
    const DeviceId pad{7}, screen{8};
    run.desk().connect(pad, {.kind = DeviceKind::gamepad}, Time{});
    run.desk().connect(screen, {.kind = DeviceKind::touch}, Time{});
    const auto touch = [&](unsigned finger, ContactPhase phase, double x, double pressure, std::int64_t time,
                           DeviceId on = DeviceId{7}) {
        run.desk().contact(on, finger, phase, x, 0, pressure, Time{Duration{time}});
    };
    const auto at = [&](const char* script) {
        const std::string touched = run.run(script).back();
        return touched + " | " + run.shown("pressed") + " | " + run.shown("travel");
    };
    using enum ContactPhase;
    run.run("open:m |0");
    touch(1, begin, 0, 1, 1, screen);
    touch(1, begin, 0.5, 0.2, 2);
    touch(2, begin, -1, 1, 4);  // the second finger has no say
    touch(1, move, 1, 0.7, 6);
    EXPECT_EQ(at("|10"), "press 1000 8 8 | press 1000 4 4 | 1,0 5.5,0");
    touch(1, end, 1, 0, 13);  // until the first one is gone
    EXPECT_EQ(at("|20"), "hold 0000 18 10 | hold 0000 14 10 | -1,0 -4,0");
    EXPECT_EQ(at("25foc0 |30"), "cancel 0001 23 5 | cancel 0001 19 5 | 0,0 -5,0");
    run.run("31foc1");
    touch(3, begin, 0.1, 0.5, 32);
    const ClaimId claim = run.reader.claim({.axes = true}).value();
    EXPECT_EQ(at("|40"), "idle 0000 0 0 | idle 0000 0 0 | 0,0 0,0");
    run.reader.end_claim(claim);
    EXPECT_EQ(at("|50"), "hold 0010 10 10 | idle 0000 0 0 | 0,0 0,0");
    touch(3, end, 0.1, 0.5, 55);
    EXPECT_EQ(at("|60"), "release 0100 15 5 | idle 0000 0 0 | 0,0 0,0");
}

TEST(Axes, AStickBindingHasADeadZoneOfItsOwn) {
    check(ACTION("travel", "vector", "bind = [{ stick = \"PadStickLeft\", dead_zone = 0.5 }]"), "travel", R"(
radial, after the device's shaping : open:m 0shp3:0,0,0.6 2stk3:0.5,0 4stk3:0.45,0.6 |10 : 0.347368,0.463158 2.18947,2.77895
)");
}

#undef ACTION

constexpr const char* two_modes = R"(
[mode.crane.action.walk]
kind = "button"
bind = ["KeyW"]
[mode.crane.action.use]
kind = "button"
bind = ["KeyE"]
[mode.menu.action.take]
kind = "button"
bind = ["KeyE"]
[mode.list]
covers = true
[mode.list.action.next]
kind = "button"
bind = ["KeyW"]
)";

// What stays where it is costs nothing, and its integral is that of each frame all the same.
TEST(Axes, ThatStayWhereTheyAreAreExact) {
    ActionRun run{
        profile_of("[mode.m.action.go]\nkind = \"axis\"\nbind = [{ minus = \"KeyA\", plus = \"KeyD\" }, { motion = "
                   "\"x\" }]\nrise = \"4ns\"\n"),
        "go"};
    EXPECT_EQ(run.run("open:m 2+D |10 |20 |30 |35 |40 |40 |50 |60"),
              (std::vector<std::string>{"1 6", "1 10", "1 10", "1 5", "1 5", "1 0", "1 10", "1 10"}));
    const ActionReader::State saved = run.reader.save();
    run.reader.read(run.sampler().frame());
    EXPECT_EQ(run.shown(), "1 0") << "a frame that was read already is empty";
    EXPECT_EQ(run.run("|70"), (std::vector<std::string>{"1 10"}));
    EXPECT_EQ(run.run("72mov2:3,0 |80"), (std::vector<std::string>{"1 10"}));
    EXPECT_EQ(run.reader[AxisAction{0}].relative, 3);
    EXPECT_EQ(run.reader[AxisAction{0}].before, 1);
    EXPECT_EQ(run.run("|90"), (std::vector<std::string>{"1 10"}));
    EXPECT_EQ(run.reader[AxisAction{0}].relative, 0);
    EXPECT_TRUE(run.reader.restore(saved));
    EXPECT_EQ(run.shown(), "1 0");
    EXPECT_EQ(run.run("close:m |100 |110 open:m |120"), (std::vector<std::string>{"0 0", "0 0", "1 8"}));
    EXPECT_EQ(run.reader[AxisAction{0}].before, 0);
}

TEST(Vectors, PointInFourOrEightDirections) {
    const auto with = [](const char* directions) {
        return "[mode.m.action.go]\nkind = \"vector\"\nbind = [{ left = \"KeyA\", right = \"KeyD\", up = \"KeyW\", "
               "down = "
               "\"KeyS\" }, { stick = \"PadStickLeft\" }]\n" +
               std::string{directions};
    };
    check(with("directions = 4"), "go", R"(
the newest of two counts : open:m 2+D |5 |10 12+W |20 22-W |30 : 1,0 3,0; 1,0 5,0; 0,-1 2,-8; 1,0 8,-2
from the other side, too : open:m 2+W 5+D |10 12-D |20 : 1,0 5,-3; 0,-1 2,-8
opposite ones cancel each other : open:m 2+W 4+A 6+D |10 : 0,-1 -2,-6
a stick stays in its direction : open:m 1stk3:1,0.2 |5 6stk3:1,0.9 |10 11stk3:0.5,1 |15 : 1,0 4,0; 1,0 5,0; 0,1 1,4
)");
    check(with("directions = 8"), "go", R"(
both keys are a diagonal : open:m 2+D 4+W |10 : 0.707107,-0.707107 6.24264,-4.24264
)");
    ActionRun run{profile_of(with("")), "go"};
    run.run("open:m |1");
    const auto facing = [&] { return run.reader[VectorAction{0}].facing; };
    EXPECT_EQ(facing(), Vector2{});
    run.run("2+D 3+S 5-S |10");
    EXPECT_EQ(facing(), (Vector2{1, 0}));
    run.run("12-D |20 |30");
    EXPECT_EQ(facing(), (Vector2{1, 0})) << "where it pointed last";
    EXPECT_EQ(run.reader[VectorAction{0}].facing_angle(), 0);
    const ActionReader::State saved = run.reader.save();
    run.run("32+S |40");
    EXPECT_EQ(facing(), (Vector2{0, 1}));
    EXPECT_NEAR(run.reader[VectorAction{0}].facing_angle(), 1.5707963, 1e-6) << "down is a quarter turn";
    EXPECT_TRUE(run.reader.restore(saved));
    EXPECT_EQ(facing(), (Vector2{1, 0}));
    run.run("close:m |50");
    EXPECT_EQ(facing(), Vector2{});
}

TEST(Modes, NothingFiresOnEnteringAndNothingSticksOnLeaving) {
    check(two_modes, "walk", R"(
closed, it sees nothing : 3+W |10 : idle 0000 0 0
opening adopts : 3+W |10 open:crane |20 : idle 0000 0 0; hold 0010 10 10
closing cancels : open:crane 3+W |10 close:crane |20 25-W |30 : press 1000 7 7; cancel 0001 7 0; idle 0000 0 0
covering cancels : open:crane 3+W |10 open:list |20 : press 1000 7 7; cancel 0001 7 0
)");
    check(two_modes, "next", R"(
what covers adopts, and does not fire : open:crane 3+W |10 open:list |20 : idle 0000 0 0; hold 0010 10 10
)");
    check(two_modes, "walk", R"(
walking goes on afterwards : open:crane 3+W |10 open:list |20 close:list |30 : press 1000 7 7; cancel 0001 7 0; hold 0010 10 10
)");
    check(two_modes, "use", R"(
a press below a cover is not heard : open:crane |10 open:list |20 23+E 25-E |30 : idle 0000 0 0; idle 0000 0 0; idle 0000 0 0
)");
}

TEST(Modes, TheUppermostTakesThePress) {
    check(two_modes, "take", R"(
above : open:crane open:menu 3+E |10 : press 1000 7 7
)");
    check(two_modes, "use", R"(
not below : open:crane open:menu 3+E |10 : idle 0000 0 0
)");
    check(two_modes, "walk", R"(
what it has no binding for goes on : open:crane 3+W |10 open:menu |20 : press 1000 7 7; hold 0000 17 10
)");
    check(two_modes, "use", R"(
a press stays with who took it : open:crane 3+E |10 open:menu |20 25-E |30 : press 1000 7 7; hold 0000 17 10; release 0100 22 5
)");
    check(two_modes, "take", R"(
and is not the menu's : open:crane 3+E |10 open:menu |20 25-E |30 : idle 0000 0 0; idle 0000 0 0; idle 0000 0 0
)");
    check(two_modes, "use", R"(
the order of opening counts : open:menu open:crane 3+E |10 : press 1000 7 7
)");
}

TEST(Claims, KeepControlsFromAllModes) {
    check(two_modes, "walk", R"(
a press goes to the claim : open:crane claim:W |10 13+W |20 : idle 0000 0 0; idle 0000 0 0
)");
    check(two_modes, "use", R"(
others do not : open:crane claim:W |10 13+E |20 : idle 0000 0 0; press 1000 7 7
)");
    check(two_modes, "walk", R"(
what is held is cancelled, and adopted afterwards : open:crane 3+W |10 claim:W |20 end:W |30 : press 1000 7 7; cancel 0001 7 0; hold 0010 10 10
its press stays its own until it is up : open:crane claim:* |10 13+W |20 end:* |30 33-W 35+W |40 : idle 0000 0 0; idle 0000 0 0; idle 0000 0 0; press 1000 5 5
)");
    ActionRun run{profile_of(two_modes), "use"};
    run.run("open:crane 3+E |10 claim:* |20 23+W |30");
    const ClaimId field = run.claims.at("*");
    EXPECT_FALSE(run.reader.has_press(field, controls::KeyE)) << "what opened the text field types nothing into it";
    EXPECT_TRUE(run.reader.has_press(field, controls::KeyW));
}

TEST(Axes, TheLargestOfSeveralBindingsWins) {
    ActionRun run{profile_of(R"(
[mode.m.action.lift]
kind = "axis"
bind = [{ minus = "KeyS", plus = "KeyW", scale = 0.5 }, { axis = "PadStickRightY", invert = true, dead_zone = 0.2 }]
)"),
                  "lift"};
    const DeviceId pad{7};
    const auto say = [&](double value, std::int64_t time) {
        EXPECT_EQ(run.desk().axis(pad, controls::PadStickRightY, value, Time{Duration{time}}), Outcome::taken);
    };
    ASSERT_EQ(run.desk().connect(pad, {.kind = DeviceKind::gamepad}, Time{}), Outcome::connected);
    EXPECT_EQ(run.run("open:m 2+W |10"), (std::vector<std::string>{"0.5 4"}));
    say(-0.6, 12);  // beyond the dead zone: 0.5, no larger
    say(-1, 14);
    say(0.1, 18);  // within it
    EXPECT_EQ(run.run("|20"), (std::vector<std::string>{"0.5 7"}));
    say(0.8, 22);
    EXPECT_EQ(run.run("25-W |30"), (std::vector<std::string>{"-0.75 -5"}));
    EXPECT_EQ(run.run("close:m |40 open:m |50"), (std::vector<std::string>{"0 0", "-0.75 -7.5"}));
    EXPECT_EQ(run.run("claim:* |60 end:* |70"), (std::vector<std::string>{"0 0", "-0.75 -7.5"}));
}

TEST(Axes, AStickIsAVector) {
    ActionRun run{profile_of(R"(
[mode.m.action.travel]
kind = "vector"
bind = [{ left = "KeyA", right = "KeyD", up = "KeyW", down = "KeyS", scale = 0.5 }, { stick = "PadStickLeft" }]
)"),
                  "travel"};
    const DeviceId pad{7};
    ASSERT_EQ(run.desk().connect(pad, {.kind = DeviceKind::gamepad}, Time{}), Outcome::connected);
    const auto push = [&](double x, double y, std::int64_t time) {
        run.desk().axis(pad, controls::PadStickLeftX, x, Time{Duration{time}});
        run.desk().axis(pad, controls::PadStickLeftY, y, Time{Duration{time}});
    };
    push(1, 0, 4);
    EXPECT_EQ(run.run("open:m |10"), (std::vector<std::string>{"1,0 6,0"}));
    push(0.6, 0.8, 12);    // both at once: never (0.6, 0)
    push(0.05, 0.05, 18);  // within the dead zone
    EXPECT_EQ(run.run("|20"), (std::vector<std::string>{"0,0 5.6,4.8"}));
    run.run("22+D");
    push(0, -1, 26);
    EXPECT_EQ(run.run("|30"), (std::vector<std::string>{"0,-1 2,-4"}));
    EXPECT_EQ(run.run("32dis7 |40"), (std::vector<std::string>{"0.5,0 4,-2"}));
}

TEST(ActionReader, IsSavedAndRestoredWithItsSampler) {
    ActionRun run{profile_of(R"(
[mode.m.action.lift]
kind = "axis"
rise = "50ns"
bind = [{ minus = "KeyS", plus = "KeyW" }]
[mode.m.action.lock]
kind = "button"
bind = ["KeyW"]
)"),
                  "lock"};
    EXPECT_EQ(run.run("open:m 3+W |10"), (std::vector<std::string>{"press 1000 7 7"}));
    const Sampler::State events = run.sampler().save();
    const ActionReader::State actions = run.reader.save();
    const auto lift = run.profile.find_axis("lift").value();
    run.run("15-W 18+W |20");
    const std::string first = run.shown();
    const AxisActionReading lifted = run.reader[lift];
    for (int time = 0; time < 3; ++time) {
        run.sampler().restore(events);
        run.reader.restore(actions);
        EXPECT_EQ(run.shown(), "hold 0000 7 0");
        EXPECT_EQ(run.run("|20"), std::vector<std::string>{first});
        EXPECT_EQ(run.reader[lift], lifted);
    }
}

// The same keys in every mode, so that the uppermost one has them; Escape opens the next one.
TEST(ActionReader, HasRoomFor512ActionsIn64Modes) {
    constexpr std::uint16_t each = action_capacity / mode_capacity;
    Profile profile;
    for (unsigned mode = 0; mode < mode_capacity; ++mode) {
        profile.modes.push_back({.name = "m" + std::to_string(mode)});
        for (unsigned i = 0; i < each; ++i)
            profile.modes.back().actions.push_back(
                {.name = "a" + std::to_string(i), .bindings = {{.buttons = {controls::KeyW}}}});
        Action& escape = profile.modes.back().actions.front();
        escape.bindings = {{.buttons = {controls::Escape}}};
        if (mode + 1 < mode_capacity) escape.opens = "m" + std::to_string(mode + 1);
    }
    ASSERT_EQ(profile.problem(), std::nullopt);
    Timeline timeline;
    Sampler sampler{timeline, {.start = Time{}}};
    ActionReader reader{profile};
    ASSERT_TRUE(reader.open({0}));
    std::int64_t now = 0;
    const auto turn = [&](Button button, bool down) { timeline.desk().button(button, down, Time{Duration{++now}}); };
    for (std::uint8_t mode = 1; mode < mode_capacity; ++mode) {
        for (const Button key : {controls::Escape, controls::KeyW}) turn(key, true), turn(key, false);
        reader.read(sampler.advance(Time{Duration{++now}}));
        ASSERT_TRUE(reader.is_visible({mode}));
        EXPECT_EQ(reader.owner_of(controls::KeyW), (ButtonOwner{ButtonOwner::Kind::mode, {mode, reader.numbering()}}));
        for (std::uint16_t i = 0; i < action_capacity; ++i) {
            const bool is_escape = i == (mode - 1) * each, is_other = i / each == mode && i % each != 0;
            ASSERT_EQ(reader[ButtonAction{i}].pressed(), is_escape || is_other) << i << " in mode " << int{mode};
        }
    }
    const auto claim = reader.claim({.everything = true});
    turn(controls::KeyW, true);
    reader.read(sampler.advance(Time{Duration{++now}}));
    EXPECT_TRUE(claim && reader.has_press(*claim, controls::KeyW));
    EXPECT_FALSE(reader[ButtonAction{action_capacity - 1}].down());
}

TEST(ActionReader, HealsWhatItDidNotRead) {
    const Profile profile = profile_of(two_modes);
    Timeline timeline;
    Sampler sampler{timeline, {.start = Time{}}};
    ActionReader reader{profile};
    ASSERT_TRUE(reader.open(*profile.find_mode("crane")));
    const ButtonAction walk = *profile.find_button("walk");
    const auto at = [](std::int64_t ns) { return Time{Duration{ns}}; };
    reader.read(sampler.advance(at(10)));
    timeline.desk().button(controls::KeyW, true, at(12));
    sampler.advance(at(20));  // not read
    reader.read(sampler.advance(at(30)));
    EXPECT_EQ(reader[walk].figures().adopt_count(), 1U);
    EXPECT_FALSE(reader[walk].pressed());
    timeline.desk().button(controls::KeyW, false, at(32));
    sampler.advance(at(40));
    reader.read(sampler.advance(at(50)));
    EXPECT_TRUE(reader[walk].ended());
    EXPECT_FALSE(reader[walk].released());
}

TEST(ActionReader, RefusesWhatThereIsNot) {
    const Profile profile = profile_of(two_modes);
    ActionReader reader{profile};
    EXPECT_FALSE(reader.open(ModeHandle{9}));
    EXPECT_TRUE(reader.open(ModeHandle{1}));
    EXPECT_FALSE(reader.open(ModeHandle{1}));
    EXPECT_FALSE(reader.close(ModeHandle{0}));
    EXPECT_EQ(reader[ButtonAction{99}].state(), ButtonState::idle);
    EXPECT_FALSE(reader[ButtonAction{65535}].pressed());
    EXPECT_EQ(reader[AxisAction{65535}], AxisActionReading{});
    EXPECT_EQ(reader[VectorAction{65535}], VectorActionReading{});
    for (unsigned i = 0; i < claim_capacity; ++i) EXPECT_TRUE(reader.claim({.everything = true}));
    EXPECT_FALSE(reader.claim({.everything = true}));
    reader.end_claim(ClaimId{200});
}

}  // namespace
