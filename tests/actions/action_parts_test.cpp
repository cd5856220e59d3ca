// Readers that hear a part of the devices: seats, and what no claim on a device keeps.

#include <gtest/gtest.h>

#include <string>

#include "actions/action_run.hpp"
#include "core/random_events.hpp"
#include "cursorum/actions/seat_actions.hpp"
#include "cursorum/core/controls.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using test::profile_of;
using test::ScriptRun;

constexpr DeviceId first{1}, second{2}, third{3};

const char* const keys = R"(
[mode.m.action.go]
kind = "button"
bind = ["KeyW"]
[mode.m.action.either]
kind = "button"
bind = ["Shift"]
[mode.m.action.chord]
kind = "button"
bind = ["KeyA+KeyS"]
)";

/// Presses and releases on three keyboards, focus losses, polled states, cuts.
std::string random_script(test::Random& random, int length) {
    std::string script;
    int time = 1;
    for (int i = 0; i < length; ++i) {
        time += static_cast<int>(random.below(3));
        const std::string now = std::to_string(time);
        const char letter = "WAS<>"[random.below(5)];
        const char device = "123"[random.below(3)];
        switch (random.below(12)) {
            case 0: script += " " + now + "foc" + (random.one_in(2) ? "0" : "1"); break;
            case 1: script += " " + now + (random.one_in(2) ? "sta" : "ado") + device + ":" + letter; break;
            case 2: script += " " + now + (random.one_in(4) ? "dis" : "con") + device; break;
            case 3: script += " |" + std::to_string(time); break;
            default: script += " " + now + (random.one_in(2) ? '+' : '-') + device + letter;
        }
    }
    return script + " |" + std::to_string(time + 5);
}

TEST(Parts, ASeatsActionIsItsButton) {
    const Profile profile = profile_of(keys);
    for (std::uint64_t seed = 1; seed <= 300; ++seed) {
        test::Random random{seed};
        Seats seats{2};
        seats.give(first, 0, left_half());
        seats.give(first, 1, right_half());
        seats.give(second, 1);
        SeatActions actions{seats, profile};
        for (unsigned i = 0; i < 2; ++i) actions[i].open({0});
        ScriptRun run;
        run.show = [&](const Frame& frame) {
            seats.read(frame);
            actions.read(frame);
            for (unsigned i = 0; i < 2; ++i) {
                // But for how long it is held: a seat's reading knows of the holds in progress only.
                const ButtonFigures mine = actions[i][ButtonAction{0}].figures(), theirs = seats[i][KeyW];
                const auto shown = [](const ButtonFigures& f) {
                    const std::string all = test::text(f);
                    return all.substr(0, all.find(' ', all.find(' ') + 1)) + " " +
                           std::to_string(f.down_span().count());
                };
                EXPECT_EQ(shown(mine), shown(theirs)) << "seed " << seed << ", seat " << i;
                EXPECT_EQ(actions[i][ButtonAction{1}].down(), seats[i][Shift].down())
                    << "seed " << seed << ", seat " << i;
            }
            if (random.one_in(6)) seats.give(random.one_in(2) ? second : third, random.one_in(2));
            if (random.one_in(12)) seats.unassign(third);
            return std::string{};
        };
        const std::string script = random_script(random, 120);
        run.run(script);
        if (HasFailure()) FAIL() << script;
    }
}

// A reader that reads a seat, then all devices, then the seat again: what is down is adopted each time.
TEST(Parts, AReaderMayChangeFromASeatToAllDevicesAndBack) {
    const auto at = [](std::int64_t time) { return Time{Duration{time}}; };
    const Profile profile = profile_of(keys);
    Timeline timeline;
    Sampler sampler{timeline, {.start = at(1)}};
    Seats seats{1};
    seats.give(desk_keyboard, 0);
    ActionReader reader{profile};
    reader.open(*profile.find_mode("m"));
    const ButtonAction go = profile.find_button("go").value();
    timeline.desk().button(KeyW, true, at(2));
    std::int64_t time = 3;
    for (const bool by_seat : {true, false, true, false, true}) {
        seats.read(sampler.advance(at(++time)));
        by_seat ? reader.read(sampler.frame(), seats, 0) : reader.read(sampler.frame());
        EXPECT_TRUE(reader[go].down()) << time;
        EXPECT_EQ(reader[go].figures().press_count(), time == 4 ? 1U : 0U);
    }
    timeline.desk().button(KeyW, false, at(time + 1));
    seats.read(sampler.advance(at(time + 2)));
    reader.read(sampler.frame(), seats, 0);
    EXPECT_FALSE(reader[go].down());
}

TEST(Parts, TwoAtOneKeyboardEachWithBindingsOfTheirOwn) {
    Profile left = profile_of("[mode.m.action.go]\nkind = \"button\"\nbind = [\"KeyW\"]\n"), right = left;
    ProfileError error;
    ASSERT_TRUE(apply_overlay(
        right, "format = \"cursorum-overlay\"\nversion = 1\n[mode.m.action.go]\nbind = [\"KeyP\", \"KeyW\"]\n",
        "right.toml", error));
    const ButtonAction go = *left.find_button("go");
    Seats seats{2};
    seats.give(first, 0, left_half());
    seats.give(first, 1, right_half());
    const Profile both[] = {left, right};
    SeatActions actions{seats, both};
    for (unsigned i = 0; i < 2; ++i) actions[i].open({0});
    ScriptRun run;
    run.show = [&](const Frame& frame) {
        seats.read(frame);
        actions.read(frame);
        const auto who = actions.first_to_press(go);
        return test::text(actions[0][go].figures()) + ", " + test::text(actions[1][go].figures()) + ", " +
               (who ? std::to_string(*who) : "nobody") + (actions.any_down(go) ? " down" : "");
    };
    EXPECT_EQ(
        run.run("|1 5+W |10 12+P |20 22-W 23+W 24-P |30 31-W 33+P 34+W |40"),
        (std::vector<std::string>{"idle 0000 0 0, idle 0000 0 0, nobody", "press 1000 5 5, idle 0000 0 0, 0 down",
                                  "hold 0000 15 10, press 1000 8 8, 1 down", "dip 1100 7 9, release 0100 12 4, 0 down",
                                  "dip 1100 6 7, press 1000 7 7, 1 down"}));
}

struct Heard {
    Profile profile = profile_of(R"(
[mode.m.action.go]
kind = "button"
bind = ["KeyW"]
[mode.m.action.lift]
kind = "axis"
bind = [{ axis = "PadStickRightY", dead_zone = 0 }]
[mode.m.action.travel]
kind = "vector"
bind = [{ stick = "PadStickLeft" }]
[mode.m.action.look]
kind = "vector"
bind = [{ motion = "both" }]
[mode.m.action.zoom]
kind = "button"
bind = ["WheelUp"]
)");
    ActionReader reader{profile};
    ScriptRun run;
    Heard() {
        reader.open({0});
        run.show = [this](const Frame& frame) {
            reader.read(frame);
            return test::text(reader[*profile.find_button("go")].figures());
        };
    }
    ClaimId claim(DeviceId device) {
        Claim claim;
        claim.device = device;
        return reader.claim(claim).value();
    }
    std::string last(std::string_view script) { return run.run(script).back(); }
};

TEST(DeviceClaim, KeepsOneDeviceAndLeavesTheOthers) {
    Heard heard;
    EXPECT_EQ(heard.last("|0 3+W 4+2W |10"), "press 1000 7 7");
    const ClaimId claim = heard.claim(first);
    EXPECT_EQ(heard.last("|20"), "hold 0000 17 10") << "the other keyboard has it down still";
    EXPECT_EQ(heard.last("25-2W |30"), "release 0100 22 5");
    EXPECT_EQ(heard.last("35-W 36+W |40"), "idle 0000 0 0");
    EXPECT_TRUE(heard.reader.has_press(claim, KeyW)) << "pressed under the claim";
    EXPECT_EQ(heard.last("45+2W |50"), "press 1000 5 5");
    heard.reader.end_claim(claim);
    EXPECT_EQ(heard.last("54-2W |60"), "release 0100 9 4") << "the claim's press stays unheard";
    EXPECT_EQ(heard.last("65-W 66+W |70"), "press 1000 4 4");
    EXPECT_EQ(heard.last("75-W |80"), "release 0100 9 5");
}

TEST(DeviceClaim, CancelsAndAdoptsWhatWasDownBefore) {
    Heard heard;
    EXPECT_EQ(heard.last("|0 3+W |10"), "press 1000 7 7");
    const ClaimId claim = heard.claim(first);
    EXPECT_EQ(heard.last("|20"), "cancel 0001 7 0");
    EXPECT_FALSE(heard.reader.has_press(claim, KeyW));
    const ActionReader::State saved = heard.reader.save();
    heard.reader.end_claim(claim);
    EXPECT_EQ(heard.last("|30"), "hold 0010 10 10");
    ASSERT_TRUE(heard.reader.restore(saved));
    EXPECT_EQ(heard.last("|40"), "idle 0000 0 0") << "the claim is in force again";
}

TEST(DeviceClaim, AlsoOfSticksMiceAndWheels) {
    Heard heard;
    const AxisAction lift = *heard.profile.find_axis("lift");
    const VectorAction travel = *heard.profile.find_vector("travel"), look = *heard.profile.find_vector("look");
    const ButtonAction zoom = *heard.profile.find_button("zoom");
    Inlet& desk = heard.run.timeline.desk();
    const auto at = [](std::int64_t ns) { return nanoseconds_since_zero(ns); };
    heard.last("|0");
    heard.claim(first);
    desk.axis(first, PadStickRightY, 0.75, at(5));
    desk.axis(second, PadStickRightY, -0.5, at(6));
    desk.stick(first, PadStickLeft, 1, 0, at(6));
    desk.stick(second, PadStickLeft, 0, 1, at(7));
    desk.motion(first, 5, 5, at(7));
    desk.motion(second, 2, 1, at(8));
    desk.wheel(first, 0, 2, at(8));
    desk.wheel(second, 0, 1, at(9));
    heard.last("|10");
    EXPECT_EQ(heard.reader[lift].value, -0.5);
    EXPECT_EQ(heard.reader[lift].integral, -0.5 * 4e-9);
    EXPECT_EQ(heard.reader[travel].value, (Vector2{0, 1}));
    EXPECT_EQ(heard.reader[look].relative, (Vector2{2, 1}));
    EXPECT_EQ(heard.reader[zoom].press_count(), 1U);
    EXPECT_EQ(heard.run.sampler.frame().raw_axis(PadStickRightY).now, 0.75) << "the frame itself hears all";
}

}  // namespace
