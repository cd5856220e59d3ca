// Modes that actions open and close, at the moment of their presses.
#include <gtest/gtest.h>

#include <cmath>
#include <cstdlib>

#include "actions/action_run.hpp"
#include "core/random_events.hpp"
#include "cursorum/actions/seat_actions.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/tick_clock.hpp"

namespace {

using namespace cursorum;
using test::ActionRun;
using test::profile_of;
using test::Random;

constexpr const char* with_menu = R"(
[mode.crane.action.pause]
kind = "button"
bind = ["KeyE", "WheelUp", { lock = "CapsLock" }]
opens = "menu"
[mode.crane.action.hatch]
kind = "button"
bind = ["KeyH"]
gesture = "long_press"
time = "5ns"
opens = "menu"
[mode.crane.action.lock]
kind = "button"
bind = ["KeyP", "KeyL"]
[mode.crane.action.travel]
kind = "vector"
bind = [{ left = "KeyA", right = "KeyD", up = "KeyW", down = "KeyS" }, { stick = "PadStickLeft" }, { motion = "both" }]
[mode.crane.action.lift]
kind = "axis"
bind = [{ minus = "KeyF", plus = "KeyR" }]
rise = "10ns"
fall = "10ns"
[mode.menu]
covers = true
[mode.menu.action.choose]
kind = "button"
bind = ["KeyP"]
[mode.menu.action.back]
kind = "button"
bind = ["KeyE"]
closes = true
[mode.menu.action.swap]
kind = "button"
bind = ["KeyT"]
closes = true
opens = "list"
[mode.menu.action.scroll]
kind = "vector"
bind = [{ stick = "PadStickLeft" }, { motion = "both" }]
[mode.list.action.next]
kind = "button"
bind = ["KeyT", "KeyP"]
)";

/// See check_rows(); what is expected is the action at each cut.
void check(const char* action, const char* table) {
    test::check_rows(table, [&](const std::string& script) {
        return ActionRun{profile_of(with_menu), action}.run(script);
    });
}

TEST(ModesOfActions, TurnAtTheMomentOfThePress) {
    check("choose", R"(
Escape and Space within one frame : open:crane 2+E 4+P |100 : press 1000 96 96
and with a tap of each : open:crane 2+E 3-E 4+P 5-P |100 : blip 1100 1 1
before the Escape it is the game's : open:crane 2+P 3-P 4+E |100 : idle 0000 0 0
what is down then is adopted : open:crane 2+P 4+E |100 : hold 0010 96 96
and the press after the menu is closed is not the menu's : open:crane 2+E 3-E 4+E 5+P |100 : idle 0000 0 0
a step of the wheel opens it : open:crane 2whl2:0,1 4+P |100 : press 1000 96 96
a lock : open:crane 2cap1 4+P |100 : press 1000 96 96
a long press, once it is one : open:crane 2+H 8+P |100 : press 1000 92 92
not before : open:crane 2+H 6+P |100 : hold 0010 93 93
over a cut : open:crane 2+H |5 8+P |100 : idle 0000 0 0; press 1000 92 92
what becomes due at the time of a press comes first : open:crane 2+H 7+P |100 : press 1000 93 93
)");
    check("lock", R"(
the game does not hear it : open:crane 2+E 4+P |100 : idle 0000 0 0
what it holds is cancelled then : open:crane 2+L 4+E |100 : blip 1001 2 2
before it is the game's : open:crane 2+P 3-P 4+E |100 : blip 1100 1 1
after the menu is closed again, too : open:crane 2+E 3-E 4+E 5+P |100 : press 1000 95 95
)");
    check("pause", R"(
the press that opens ends there : open:crane 2+E |100 102-E |200 : blip 1001 0 0; idle 0000 0 0
the press that closes does not open again : open:crane 2+E 3-E 4+E |100 : press 1011 96 96
)");
    check("back", R"(
nor does the one that opens close : open:crane 2+E |100 : hold 0010 98 98
)");
    check("next", R"(
both at once first closes, then opens : open:crane 2+E 4+T 6+P |100 : press 1011 94 96
and the key that did it fires nothing : open:crane 2+E 4+T |100 : hold 0010 96 96
)");
}

TEST(ModesOfActions, AxesAndMotionChangeHandsThen) {
    check("travel", R"(
a key of its pair : open:crane 0+D 4+E |10 14-E 15+E |20 : 0,0 4,0; 1,0 5,0
)");
    check("lift", R"(
a ramp stops, and starts anew : open:crane 0+R 5+E 6-E |10 15+E |20 : 0 1.25; 0.5 1.25
)");
    constexpr DeviceId pad{7};
    const auto stick = [&](ActionRun& run, double x, std::int64_t time) {
        EXPECT_EQ(run.desk().stick(pad, controls::PadStickLeft, x, 0, Time{Duration{time}}), Outcome::taken);
    };
    const auto run_sticks = [&](ActionRun& run) {
        DeviceShaping plain;
        plain.sticks[0].response = {};
        EXPECT_EQ(run.desk().connect(pad, {.kind = DeviceKind::gamepad}, Time{}), Outcome::connected);
        EXPECT_EQ(run.desk().set_shaping(pad, plain, Time{}), Outcome::taken);
        stick(run, 0.5, 2);
        run.run("open:crane 4+E");
        stick(run, 0.25, 6);
        run.run("7mov2:3,0 8-E");
        return run.run("10+E |12");
    };
    ActionRun crane{profile_of(with_menu), "travel"}, menu{profile_of(with_menu), "scroll"};
    EXPECT_EQ(run_sticks(crane), (std::vector<std::string>{"0.25,0 1.5,0"})) << "0.5 for 2 ns, then 0.25 for 2";
    EXPECT_EQ(run_sticks(menu), (std::vector<std::string>{"0,0 2,0"})) << "0.5 for 2 ns, then 0.25 for 4";
    const auto moved = [](const ActionRun& run, const char* name) {
        return run.reader[*run.profile.find_vector(name)].relative.x;
    };
    EXPECT_EQ(moved(crane, "travel"), 0);
    EXPECT_EQ(moved(menu, "scroll"), 3);
}

// What is posted before the event that turned the mode is the earlier mode's, what is posted after it the later one's.
TEST(ModesOfActions, MotionOfTheSameInstantGoesByTheOrderOfPosts) {
    for (const auto& [script, of_crane, of_menu] : {
             std::tuple{"2mov2:3,0 2+E", 3, 0},
             {"2+E 2mov2:3,0", 0, 3},
             {"2mov2:1,0 2+E 2mov2:4,0", 1, 4},
             {"2+E 2mov2:1,0 2-E 2+E 2mov2:2,0 2-E 2+E 2mov2:4,0", 2, 5},
             {"2mov2:1,0 2whl2:0,1 2mov2:4,0", 1, 4},
             {"2mov2:1,0 2cap1 2mov2:4,0", 5, 0},              // a lock comes after all motion of its time
             {"2+H |3 7mov2:3,0", 0, 3},                       // what becomes due comes before it
             {"2mov2:1,0 |10 2mov2:2,0 2+E 2mov2:4,0", 2, 4},  // late: all at the frame's start
         }) {
        ActionRun run{profile_of(with_menu), "lock"};
        run.run("open:crane 1-Q |1 " + std::string{script} + " |20");
        EXPECT_EQ(run.reader[*run.profile.find_vector("travel")].relative.x, of_crane) << script;
        EXPECT_EQ(run.reader[*run.profile.find_vector("scroll")].relative.x, of_menu) << script;
    }
    // Edges come before the wheel, though it was posted before the last of them: what it turned comes last.
    ActionRun several{profile_of(R"(
[mode.a.action.go]
kind = "button"
bind = ["KeyA"]
opens = "b"
[mode.b.action.go]
kind = "button"
bind = ["KeyB"]
opens = "c"
[mode.c.action.go]
kind = "button"
bind = ["WheelUp"]
opens = "d"
[mode.c.action.travel]
kind = "vector"
bind = [{ motion = "both" }]
[mode.b.action.travel]
kind = "vector"
bind = [{ motion = "both" }]
[mode.d.action.travel]
kind = "vector"
bind = [{ motion = "both" }]
)"),
                      "a.go"};
    several.run("open:a |1 2+A 2whl2:0,1 2mov2:4,0 2+B |20");
    for (const auto& [name, moved] : {std::pair{"b.travel", 0}, {"c.travel", 0}, {"d.travel", 4}})
        EXPECT_EQ(several.reader[*several.profile.find_vector(name)].relative.x, moved) << name;
    // Of several inlets, the one with the lower number comes first, as of edges.
    for (const bool moves_first : {false, true}) {
        Timeline timeline{{.inlets = 2, .desk_devices = false}};
        Inlet *const first = &timeline.inlet(0), *const second = &timeline.inlet(1);
        ActionReader reader{profile_of(with_menu)};
        reader.open(*reader.find_mode("crane"));
        Sampler sampler{timeline, {.start = Time{}}};
        Inlet &mouse = moves_first ? *first : *second, &keyboard = moves_first ? *second : *first;
        mouse.connect(DeviceId{1}, {.kind = DeviceKind::mouse}, Time{});
        keyboard.connect(DeviceId{2}, {.kind = DeviceKind::keyboard}, Time{});
        mouse.motion(DeviceId{1}, 3, 0, Time{Duration{5}});
        keyboard.button(DeviceId{2}, controls::KeyE, true, Time{Duration{5}});
        for (Inlet* inlet : {first, second}) inlet->set_complete_until(Time{Duration{9}});
        reader.read(sampler.advance(Time{Duration{9}}));
        EXPECT_EQ(reader[*reader.find_vector("travel")].relative.x, moves_first ? 3 : 0);
        EXPECT_EQ(reader[*reader.find_vector("scroll")].relative.x, moves_first ? 0 : 3);
    }
}

// A key and its either-side name are one press.
TEST(ModesOfActions, AKeyTurnsThemWithItsEitherSideName) {
    constexpr const char* modes = R"(
[mode.crane.action.pause]
kind = "button"
bind = ["Control"]
opens = "menu"
[mode.menu.action.choose]
kind = "button"
bind = ["ControlLeft"]
)";
    test::check_rows(R"(
it is not pressed in the mode that it opens : open:crane 2+^ |10 : hold 0010 8 8
nor if another keyboard held it down unseen : 1con6 2foc0 3foc1 open:crane 4ado6:^ |5 7+^ |10 : idle 0000 0 0; hold 0010 3 3
)",
                     [&](const std::string& script) {
                         return ActionRun{profile_of(modes), "choose"}.run(script);
                     });
}

// Timers that are due at once are due in the profile's order.
TEST(ModesOfActions, TimersOfOneTimeGoInTheProfilesOrder) {
    ActionRun run{profile_of(R"(
[mode.m.action.first]
kind = "button"
bind = ["KeyW"]
gesture = "long_press"
time = "5ns"
[mode.m.action.second]
kind = "button"
bind = ["KeyW"]
gesture = "long_press"
time = "5ns"
)"),
                  "first"};
    run.run("open:m 2+W |20");
    std::vector<unsigned> order;
    run.reader.for_each_edge([&](const ActionEdge& edge) { order.push_back(edge.action.number); });
    EXPECT_EQ(order, (std::vector<unsigned>{0, 1}));
}

TEST(ModesOfActions, AreKnownAndSaved) {
    ActionRun run{profile_of(with_menu), "choose"};
    run.run("open:crane 2+E |10");
    const ModeHandle menu = run.profile.find_mode("menu").value();
    EXPECT_TRUE(run.reader.is_open(menu));
    EXPECT_TRUE(run.reader.is_visible(menu));
    EXPECT_EQ(run.reader.owner_of(controls::KeyL), (ButtonOwner{ButtonOwner::Kind::covered, menu}));
    EXPECT_EQ(run.reader.owner_of(controls::KeyQ), ButtonOwner{});
    ASSERT_EQ(run.reader.mode_change_count(), 1U);
    EXPECT_EQ(run.reader.mode_change(0),
              (ModeChange{Time{Duration{2}}, run.profile.find_button("pause").value(), menu, true}));
    const Sampler::State sampler = run.sampler().save();
    const ActionReader::State actions = run.reader.save();
    const auto later = run.run("12-E 14+E 16+P |20");
    EXPECT_TRUE(run.sampler().restore(sampler) && run.reader.restore(actions));
    EXPECT_TRUE(run.reader.is_open(menu));
    EXPECT_EQ(run.run("|20"), later);
    EXPECT_FALSE(run.reader.is_open(menu)) << "the same events again";
}

// What all frames together say of every action, however they were cut.
std::vector<double> totals(const std::vector<std::string>& events, const std::vector<bool>& cut_after) {
    ActionRun run{profile_of(with_menu), "lock"};
    std::vector<double> sums;
    run.reader.open(run.profile.find_mode("crane").value());
    for (std::size_t i = 0; i < events.size(); ++i) {
        run.run(events[i]);
        if (!cut_after[i]) continue;
        run.run("|" + std::to_string(10 * (i + 1)));
        std::size_t at = 0;
        const auto add = [&](double value) {
            sums.resize(std::max(sums.size(), at + 1));
            sums[at++] += value;
        };
        std::uint16_t number = 0;
        for (const Mode& mode : run.profile.modes)
            for (const Action& action : mode.actions) {
                const ButtonFigures f = run.reader[ButtonAction{number}].figures();
                const AxisActionReading axis = run.reader[AxisAction{number}];
                const VectorActionReading vector = run.reader[VectorAction{number++}];
                if (action.kind == ActionKind::button)
                    for (const double n :
                         {double(f.press_count()), double(f.release_count()), double(f.adopt_count()),
                          double(f.cancel_count()), double(f.down_span().count()), double(f.system_repeat_count())})
                        add(n);
                if (action.kind == ActionKind::axis) add(axis.integral * 1e9), add(axis.relative);
                if (action.kind == ActionKind::vector)
                    for (const double n : {vector.integral.x * 1e9, vector.integral.y * 1e9, vector.relative.x}) add(n);
            }
    }
    return sums;
}

TEST(ModesOfActions, AreTheSameHoweverTimeIsCut) {
    const char* const given = std::getenv("CURSORUM_TEST_SEED");
    const std::uint64_t first = given ? std::strtoull(given, nullptr, 10) : 1, last = given ? first : 300;
    for (std::uint64_t seed = first; seed <= last; ++seed) {
        SCOPED_TRACE("seed " + std::to_string(seed) + "; replay: CURSORUM_TEST_SEED=" + std::to_string(seed));
        Random random{seed};
        std::vector<std::string> events;
        std::map<char, bool> down;
        for (int i = 0; i < 40; ++i) {
            std::string event = std::to_string(10 * i + 1 + static_cast<int>(random.below(9)));
            switch (random.below(9)) {
                case 8: event += std::string{"~"} + "EPTLDAHRF"[random.below(9)]; break;
                case 0: event += "mov2:" + std::to_string(random.below(9)) + ",1"; break;
                case 1: event += "stk3:0." + std::to_string(random.below(9)) + ",0"; break;
                case 2: event += random.one_in(2) ? "whl2:0,1" : "whl2:0,-0.25"; break;
                default: {
                    const char key = "EEPTTLDAHRF"[random.below(11)];
                    event += (down[key] = !down[key]) ? '+' : '-';
                    event += key;
                }
            }
            events.push_back(event);
        }
        std::vector<bool> every(events.size(), true), some(events.size()), one(events.size());
        for (std::size_t i = 0; i < some.size(); ++i) some[i] = random.one_in(4);
        some.back() = one.back() = true;
        const std::vector<double> expected = totals(events, every);
        for (const auto& cuts : {some, one}) {
            const std::vector<double> sums = totals(events, cuts);
            ASSERT_EQ(sums.size(), expected.size());
            for (std::size_t i = 0; i < sums.size(); ++i) ASSERT_NEAR(sums[i], expected[i], 1e-6) << "figure " << i;
        }
    }
}

// The one loop that documents recommend for a menu: Escape opens it, Escape closes it, and the world stands still in
// between, whatever the picture rate, with keys held and with a stop.
TEST(PausingModes, AMenuOpensClosesAndStopsTheWorld) {
    const Profile profile = profile_of(R"(
[mode.crane.action.lock]
kind = "button"
bind = ["Space"]
[mode.crane.action.travel]
kind = "vector"
bind = [{ left = "KeyA", right = "KeyD", up = "KeyW", down = "KeyS" }]
[mode.crane.action.pause]
kind = "button"
bind = ["Escape"]
opens = "menu"
[mode.menu]
pauses = true
[mode.menu.action.back]
kind = "button"
bind = ["Escape"]
closes = true
[mode.menu.action.choose]
kind = "button"
bind = ["Space"]
)");
    EXPECT_TRUE(profile.modes[1].pauses && profile.modes[1].is_covering());
    const auto lock = profile.find_button("lock").value(), choose = profile.find_button("choose").value();
    const auto travel = profile.find_vector("travel").value();
    const ModeHandle crane = profile.find_mode("crane").value(), menu = profile.find_mode("menu").value();
    for (const int rate : {10, 30, 60, 144, 1000}) {
        SCOPED_TRACE(std::to_string(rate) + " pictures per second");
        const auto at_ms = [](double ms) { return Time{Duration{static_cast<std::int64_t>(ms * 1e6)}}; };
        Timeline timeline{{.down = {controls::KeyD}, .start = Time{}}};
        Sampler sampler{timeline, {.start = Time{}}};
        TickClock ticks{hertz(60), at_most(5), Time{}};
        ActionReader actions{profile};
        actions.open(crane);
        struct {
            double ms;
            Button key;
        } const taps[] = {{501, controls::Escape},  {504, controls::Space},  {1207, controls::Space},
                          {1503, controls::Escape}, {1506, controls::Space}, {6507, controls::Escape},
                          {6510, controls::Escape}};
        std::size_t tapped = 0;
        unsigned locks = 0, chosen = 0, opened = 0, closed = 0;
        double x = 0, world = 0;
        for (double now = 0; now<7000; now += now> 2000 && now < 3000 ? 3000 : 1000.0 / rate) {
            for (; tapped < std::size(taps) && taps[tapped].ms <= now; ++tapped) {
                timeline.desk().button(taps[tapped].key, true, at_ms(taps[tapped].ms));
                timeline.desk().button(taps[tapped].key, false, at_ms(taps[tapped].ms + 1));
            }
            while (const auto tick = ticks.next(at_ms(now))) {
                const bool was_open = actions.is_open(menu);
                actions.read(sampler.advance(*tick));
                locks += actions[lock].press_count(), chosen += actions[choose].press_count();
                x += 2 * tick->step * actions[travel].mean.x;
                world += tick->step;
                opened += !was_open && actions.is_open(menu), closed += was_open && !actions.is_open(menu);
                ticks.stand_still(actions.pauses());
                EXPECT_EQ(actions.pauses(), actions.is_open(menu));
            }
        }
        EXPECT_EQ(locks, 1U) << "after the menu was left";
        EXPECT_EQ(chosen, 2U) << "in the same frame as Escape, too";
        EXPECT_EQ(opened, 1U);
        EXPECT_EQ(closed, 1U) << "open and closed again within a frame is neither";
        // A second at the menu, and of the stop of 3 s a quarter of a second counts.
        EXPECT_NEAR(x, 2 * world, 0.1) << "D was held all the time";
        EXPECT_NEAR(world, 7 - 1 - 2.75, 0.12);
    }
}

TEST(PausingModes, OfAnySeat) {
    const Profile profile = profile_of("[mode.menu]\npauses = true\n");
    Seats seats{2};
    SeatActions actions{seats, profile};
    EXPECT_FALSE(actions.pauses());
    actions[1].open(ModeHandle{0});
    EXPECT_TRUE(actions.pauses()) << "from the next frame on";
    actions[1].close(ModeHandle{0});
    EXPECT_FALSE(actions.pauses());
}

}  // namespace
