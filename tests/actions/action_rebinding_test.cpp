// Other bindings at run time, and actions that a bot does.

#include <gtest/gtest.h>

#include "actions/action_run.hpp"
#include "cursorum/core/controls.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using test::ActionRun;
using test::profile_of;

Time at(std::int64_t ns) { return nanoseconds_since_zero(ns); }

const char* const quay = R"(
[mode.m.action.go]
kind = "button"
bind = ["KeyW"]
[mode.m.action.stop]
kind = "button"
bind = ["KeyS", "Control+KeyB"]
[mode.m.action.travel]
kind = "axis"
bind = [{ minus = "KeyA", plus = "KeyD" }]
fall = "10ns"
[mode.list]
covers = true
[mode.list.action.next]
kind = "button"
bind = ["KeyW"]
)";

struct Rebound : ActionRun {
    explicit Rebound(const char* told) : ActionRun{profile_of(quay), told} {}
    bool lay_over(const std::string& text) {
        Profile changed = profile;
        ProfileError error;
        EXPECT_TRUE(cursorum::lay_over(changed, "format = \"cursorum-overlay\"\nversion = 1\n" + text, "o", error))
            << error.message();
        return reader.rebind(changed);
    }
    std::string last(std::string_view script) { return run(script).back(); }
    std::string of(const char* action) const { return test::text(reader[*profile.find_button(action)].figures()); }
};

TEST(Rebinding, CancelsTheOldHoldAndTheNewOneCountsOnceItWasUp) {
    Rebound run{"go"};
    EXPECT_EQ(run.last("open:m 2+W |10"), "press 1000 8 8");
    run.run("12+E |20");
    ASSERT_TRUE(run.lay_over("[mode.m.action.go]\nbind = [\"KeyE\"]"));
    EXPECT_EQ(run.last("|30"), "cancel 0001 18 0") << "cancelled, and KeyE is still down from before";
    EXPECT_EQ(run.last("32-W |40"), "idle 0000 0 0");
    EXPECT_EQ(run.last("42-E 44+E |50"), "press 1000 6 6");
    EXPECT_EQ(run.last("52-E |60"), "release 0100 8 2");
    EXPECT_EQ(run.last("62+W |70"), "idle 0000 0 0");
}

TEST(Rebinding, LeavesTheOthersAlone) {
    Rebound run{"stop"};
    EXPECT_EQ(run.last("open:m 2+S 3+W 4+D |10"), "press 1000 8 8");
    ASSERT_TRUE(run.lay_over("[mode.m.action.go]\nbind = [\"KeyE\", \"KeyQ\", \"KeyR\"]"));
    EXPECT_EQ(run.last("|20"), "hold 0000 18 10");
    EXPECT_EQ(run.of("go"), "cancel 0001 7 0");
    EXPECT_EQ(run.reader[*run.profile.find_axis("travel")].value, 1) << "its buttons have other places now";
    EXPECT_EQ(run.last("22-S 23-D |30"), "release 0100 20 2");
    EXPECT_NEAR(run.reader[*run.profile.find_axis("travel")].value, 0.3, 1e-12);
}

TEST(Rebinding, OfAnAxisLetsItFall) {
    Rebound run{"travel"};
    EXPECT_EQ(run.last("open:m 2+D |10"), "1 8");
    ASSERT_TRUE(run.lay_over("[mode.m.action.travel]\nbind = [{ minus = \"KeyD\", plus = \"KeyA\" }]"));
    EXPECT_EQ(run.last("|15"), "0.5 3.75");
    EXPECT_EQ(run.last("|30"), "0 1.25");
    EXPECT_EQ(run.last("31-D 40+D |42"), "-1 -2");
}

TEST(Rebinding, AKeyThatIsDownDoesNotComeByOpeningEither) {
    Rebound run{"next"};
    run.run("open:m 2+E |10");
    ASSERT_TRUE(run.lay_over("[mode.list.action.next]\nbind = [\"KeyE\"]"));
    EXPECT_EQ(run.last("|20 open:list |30"), "idle 0000 0 0");
    EXPECT_EQ(run.last("31-E 32+E |40"), "press 1000 8 8");
}

TEST(Rebinding, EachMemberOfAChordHasToComeUp) {
    Rebound run{"stop"};
    run.run("open:m 2+W |10");  // W goes on as the other action's
    ASSERT_TRUE(run.lay_over("[mode.m.action.stop]\nbind = [\"KeyW+KeyE\"]"));
    EXPECT_EQ(run.last("12+E |20"), "idle 0000 0 0");
    EXPECT_EQ(run.of("go"), "hold 0000 18 10");
    EXPECT_EQ(run.last("22-E 23+E |30"), "idle 0000 0 0") << "W is still down from before";
    EXPECT_EQ(run.last("32-W 33+W |40"), "press 1000 7 7");
    EXPECT_EQ(run.of("go"), "release 0100 30 2") << "the chord took W";
}

TEST(Rebinding, AButtonThatAnotherActionHoldsHasToComeUpToo) {
    Rebound run{"stop"};
    run.run("open:m 2+W |10");
    ASSERT_TRUE(run.lay_over("[mode.m.action.stop]\nbind = [\"KeyW\"]"));
    EXPECT_EQ(run.last("|20"), "idle 0000 0 0");
    EXPECT_EQ(run.last("open:list |30 close:list |40"), "idle 0000 0 0") << "nor is it adopted";
    EXPECT_EQ(run.of("go"), "hold 0010 10 10");
    const ActionReader::State saved = run.reader.save();
    EXPECT_EQ(run.last("42-W 43+W |50"), "press 1000 7 7");
    ASSERT_TRUE(run.reader.restore(saved)) << "what has to come up is part of what is saved";
}

TEST(Rebinding, AStickHasToComeToItsRest) {
    Rebound run{"travel"};
    run.desk().connect(DeviceId{3}, {.kind = DeviceKind::gamepad}, at(0));
    run.desk().axis(DeviceId{3}, PadStickLeftX, 1, at(1));
    run.run("open:m |10");
    ASSERT_TRUE(run.lay_over("[mode.m.action.travel]\nbind = [{ axis = \"PadStickLeftX\" }]"));
    EXPECT_EQ(run.last("|20"), "0 0");
    run.desk().axis(DeviceId{3}, PadStickLeftX, 0.5, at(22));
    EXPECT_EQ(run.last("|30"), "0 0");
    run.desk().axis(DeviceId{3}, PadStickLeftX, 0.1, at(32));  // within the dead zone
    run.desk().axis(DeviceId{3}, PadStickLeftX, 1, at(36));
    EXPECT_EQ(run.last("|40"), "1 4");
}

TEST(Rebinding, ALockHasToBeTurnedOff) {
    Rebound run{"stop"};
    run.desk().locks({CapsLock}, at(1));
    run.run("open:m |10");
    ASSERT_TRUE(run.lay_over("[mode.m.action.stop]\nbind = [{ lock = \"CapsLock\" }]"));
    EXPECT_EQ(run.last("|20"), "idle 0000 0 0");
    run.desk().locks({}, at(22));
    run.desk().locks({CapsLock}, at(25));
    EXPECT_EQ(run.last("|30"), "press 1000 5 5");
}

TEST(Rebinding, RefusesAnotherGame) {
    Rebound run{"go"};
    Profile fewer = run.profile, renamed = run.profile, bad = run.profile;
    fewer.modes[0].actions.pop_back();
    renamed.modes[0].actions[0].name = "went";
    bad.modes[0].actions[0].bindings[0].buttons.clear();
    EXPECT_FALSE(run.reader.rebind(fewer));
    EXPECT_FALSE(run.reader.rebind(renamed));
    EXPECT_FALSE(run.reader.rebind(bad));
    EXPECT_EQ(run.last("open:m 2+W |10"), "press 1000 8 8") << "nothing changed";
    const ActionReader::State before = run.reader.save();
    ASSERT_TRUE(run.reader.rebind(run.profile));
    EXPECT_TRUE(run.reader.restore(before)) << "not in force yet";
    EXPECT_EQ(run.last("|20"), "hold 0000 18 10") << "the same bindings again";
    EXPECT_FALSE(run.reader.restore(before)) << "of the old numbers";
    EXPECT_EQ(run.last("25-W |30"), "release 0100 23 5");
}

// ---- a bot

TEST(Injected, IsOneMoreBinding) {
    Rebound run{"go"};
    const ButtonAction go = *run.profile.find_button("go");
    run.run("open:m |0");
    ASSERT_TRUE(run.reader.inject(go, true, at(5)) && run.reader.inject(go, false, at(25)));
    EXPECT_EQ(run.last("|10"), "press 1000 5 5");
    EXPECT_EQ(run.last("12+W 14-W |20"), "hold 0000 15 10") << "a person's key beside it adds nothing";
    EXPECT_EQ(run.last("22+W |30"), "hold 0000 25 10") << "the key holds on";
    EXPECT_EQ(run.last("34-W |40"), "release 0100 29 4");
    EXPECT_TRUE(run.reader.inject(go, true, at(3)) && run.reader.inject(go, false, at(44)));
    EXPECT_EQ(run.last("|50"), "blip 1100 4 4") << "late: at the frame's start";
    EXPECT_TRUE(run.reader.inject(go, false, at(51)) && run.reader.inject(go, true, at(52)));
    EXPECT_TRUE(run.reader.inject(go, true, at(53)));
    EXPECT_EQ(run.last("|60"), "press 1000 8 8") << "twice down is once";
    EXPECT_EQ(run.last("close:m |70"), "cancel 0001 8 0");
    EXPECT_EQ(run.last("open:m |80"), "idle 0000 0 0") << "leaving its mode ended it";
}

TEST(Injected, HeedsModesAndRefusesNonsense) {
    Rebound run{"go"};
    const ButtonAction go = *run.profile.find_button("go");
    const AxisAction travel = *run.profile.find_axis("travel");
    run.run("open:m open:list |0");
    EXPECT_TRUE(run.reader.inject(go, true, at(5)) && run.reader.inject(travel, 1, at(5)));
    EXPECT_EQ(run.last("|10"), "idle 0000 0 0") << "covered";
    EXPECT_EQ(run.reader[travel], (AxisActionReading{}));
    EXPECT_EQ(run.last("close:list |20"), "idle 0000 0 0");
    EXPECT_FALSE(run.reader.inject(ButtonAction{2}, true, at(5))) << "that is an axis";
    EXPECT_FALSE(run.reader.inject(ButtonAction{99}, true, at(5)));
    EXPECT_FALSE(run.reader.inject(travel, std::numeric_limits<double>::quiet_NaN(), at(5)));
    EXPECT_FALSE(run.reader.inject(VectorAction{2}, {}, at(5)));
}

TEST(Injected, AxesMoveAlongTheirRamps) {
    Rebound run{"travel"};
    const AxisAction travel = *run.profile.find_axis("travel");
    run.run("open:m |0");
    run.reader.inject(travel, 0.5, at(6));
    EXPECT_EQ(run.last("|10"), "0.5 2");
    run.reader.inject(travel, -7, at(14));
    EXPECT_EQ(run.last("|20"), "-1 2.25") << "limited; to zero it falls for 5 ns";
    EXPECT_EQ(run.last("22+D |30"), "-1 -10") << "of two as large the bot's comes first";
    run.reader.inject(travel, 0, at(30));
    EXPECT_EQ(run.last("|45"), "1 0");
}

TEST(Injected, IsTakenInTheOrderOfTime) {
    ActionRun run{profile_of("[mode.m.action.go]\nkind = \"button\"\ngesture = \"toggle\"\n"
                             "bind = [\"KeyW\", \"WheelUp\"]\n"),
                  "go"};
    const ButtonAction go = *run.profile.find_button("go");
    run.run("open:m |0");
    run.reader.inject(go, true, at(7));
    run.reader.inject(go, false, at(8));
    run.desk().wheel(DeviceId{2}, 0, 1, at(3));
    EXPECT_EQ(run.run("5+W 6-W |10").back(), "press 2100 3 5") << "on at 3, off at 5, on at 7";
}

}  // namespace
