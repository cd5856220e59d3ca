// Other bindings at run time, and actions that a bot does.

#include <gtest/gtest.h>

#include <array>
#include <cmath>

#include "actions/action_run.hpp"
#include "core/random_events.hpp"
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

/// Additional words: bind:MODE.ACTION=BINDINGS, as TOML without spaces; bot:ACTION=VALUE@TIME. A view is an action's
/// name.
void check(const char* table) {
    test::check_rows(table, [](const std::string& script) {
        ActionRun run{profile_of(quay), "go"};
        run.more = [&](std::string_view verb, const std::string& what) {
            const std::string name = what.substr(0, what.find('=')), rest = what.substr(what.find('=') + 1);
            if (verb == "bind") {
                Profile changed = run.profile;
                ProfileError error;
                const std::string mode = name.substr(0, name.find('.')), action = name.substr(name.find('.') + 1);
                EXPECT_TRUE(apply_overlay(changed,
                                          "format = \"cursorum-overlay\"\nversion = 1\n[mode." + mode + ".action." +
                                              action + "]\nbind = [" + rest + "]",
                                          "o", error))
                    << error.message();
                return run.reader.rebind(changed);
            }
            const Time time = at(std::stoll(rest.substr(rest.find('@') + 1)));
            if (const auto axis = run.profile.find_axis(name)) return run.reader.inject(*axis, std::stod(rest), time);
            return run.reader.inject(run.profile.find_button(name).value(), rest[0] == '1', time);
        };
        return run.run(script);
    });
}

// A direction is kept until the stick is clearly pushed in another one; but not across a rebinding.
TEST(Rebinding, BeginsWithoutADirection) {
    const auto travel = [](const char* binding) {
        return profile_of(std::string{"[mode.m.action.travel]\nkind = \"vector\"\ndirections = 8\nbind = ["} + binding +
                          "]\n");
    };
    ActionRun run{travel(R"({ left = "KeyA", right = "KeyD", up = "KeyW", down = "KeyS" })"), "travel"};
    run.run("1con5 open:m 2+D |10");
    ASSERT_TRUE(run.reader.rebind(travel(R"({ stick = "PadStickLeft" })")));
    run.run("12stk3:0.9,0.45 |20");
    const VectorActionReading is = run.reader[*run.profile.find_vector("travel")];
    EXPECT_GT(is.value.x, 0);
    EXPECT_EQ(is.value.x, is.value.y) << "27 degrees: nearer to the diagonal";
}

TEST(Rebinding, EndsWhatWasHeldAndCountsWhatComesAnew) {
    check(R"(
the old hold is cancelled, the new button counts once it was up : open:m 2+W |10 12+E |20 bind:m.go="KeyE" |30 32-W |40 42-E 44+E |50 52-E |60 62+W |70 : press 1000 8 8; hold 0000 18 10; cancel 0001 18 0; idle 0000 0 0; press 1000 6 6; release 0100 8 2; idle 0000 0 0
others go on, though their buttons have other places : open:m 2+S 3+W 4+D |10stop bind:m.go="KeyE","KeyQ","KeyR" |20stop,go,travel 22-S 23-D |30stop,travel : press 1000 8 8; hold 0000 18 10 | cancel 0001 7 0 | 1 10; release 0100 20 2 | 0.3 7.55
an axis falls : open:m 2+D |10travel bind:m.travel={minus="KeyD",plus="KeyA"} |15travel |30travel 31-D 40+D |42travel : 1 8; 0.5 3.75; 0 1.25; -1 -2
a key that is down does not come by opening either : open:m 2+E |10 bind:list.next="KeyE" |20next open:list |30next 31-E 32+E |40next : idle 0000 0 0; idle 0000 0 0; idle 0000 0 0; press 1000 8 8
each member of a chord has to come up : open:m 2+W |10 bind:m.stop="KeyW+KeyE" 12+E |20stop,go 22-E 23+E |30stop 32-W 33+W |40stop,go : press 1000 8 8; idle 0000 0 0 | hold 0000 18 10; idle 0000 0 0; press 1000 7 7 | release 0100 30 2
so does a button that another action holds; it is not adopted : open:m 2+W |10 bind:m.stop="KeyW" |20stop open:list |30stop close:list |40stop,go 42-W 43+W |50stop : press 1000 8 8; idle 0000 0 0; idle 0000 0 0; idle 0000 0 0 | hold 0010 10 10; press 1000 7 7
a stick has to come to its rest : 1axs3:LX,1 open:m |10travel bind:m.travel={axis="PadStickLeftX"} |20travel 22axs3:LX,0.5 |30travel 32axs3:LX,0.1 36axs3:LX,1 |40travel : 0 0; 0 0; 0 0; 1 4
a lock has to be turned off : 1cap1 open:m |10stop bind:m.stop={lock="CapsLock"} |20stop 22cap0 25cap1 |30stop : idle 0000 0 0; idle 0000 0 0; press 1000 5 5
)");
}

TEST(Rebinding, RefusesWhatCannotBeUsed) {
    ActionRun run{profile_of(quay), "go"};
    const auto last = [&](std::string_view script) { return run.run(script).back(); };
    Profile bad = run.profile, full = run.profile, other = run.profile;
    bad.modes[0].actions[0].bindings[0].buttons.clear();
    full.modes[0].actions.clear();
    for (unsigned i = 0; i < action_capacity - 1; ++i)
        full.modes[0].actions.push_back({.name = "new" + std::to_string(i)});
    other.modes[0].actions[1].bindings = run.profile.modes[0].actions[0].bindings;
    std::string why;
    EXPECT_FALSE(run.reader.rebind(bad, &why));
    EXPECT_EQ(why, "action \"m.go\" has a binding of 0 buttons");
    EXPECT_FALSE(run.reader.rebind(full, &why));
    EXPECT_EQ(why, "515 actions, with those that are gone; at most 512");
    EXPECT_EQ(last("open:m 2+W |10"), "press 1000 8 8") << "nothing changed";
    ActionReader::State before = run.reader.save();
    ASSERT_TRUE(run.reader.rebind(run.profile));
    EXPECT_TRUE(run.reader.restore(before)) << "not in force yet";
    EXPECT_EQ(last("|20"), "hold 0000 18 10") << "the same bindings again";
    EXPECT_FALSE(run.reader.restore(before)) << "of the old numbers";
    ASSERT_TRUE(run.reader.rebind(other));
    EXPECT_EQ(last("|22"), "hold 0000 20 2");
    before = run.reader.save();
    EXPECT_EQ(last("25-W |30"), "release 0100 23 3");
    EXPECT_TRUE(run.reader.restore(before)) << "what has to come up is part of what is saved";
}

// Actions and modes come, go and move, while keys are down: nothing sticks, nothing fires, handles stay good.
TEST(Rebinding, HandlesStayGoodByName) {
    const std::string go = "[mode.m.action.go]\nkind = \"button\"\nbind = [\"KeyW\"]\n",
                      stop = "[mode.m.action.stop]\nkind = \"button\"\nbind = [\"KeyS\"]\n",
                      added = "[mode.m.action.added]\nkind = \"button\"\nbind = [\"KeyQ\"]\n",
                      list =
                          "[mode.list]\ncovers = true\n[mode.list.action.next]\nkind = \"button\"\nbind = [\"KeyW\"]\n";
    const auto run_with = [&](const std::string& modes, const char* shown, const char* script) {
        ActionRun run{profile_of(go + stop + list), "go"};
        run.more = [&](std::string_view, const std::string&) { return run.reader.rebind(profile_of(modes)); };
        run.view = [&] {
            const auto now = run.reader.find_button(shown);
            return now ? test::text(run.reader[*now].figures()) : "none";
        };
        std::string all;
        for (const std::string& line : run.run(script)) all += (all.empty() ? "" : "; ") + line;
        return all;
    };
    const char* const held = "open:m 2+W 3+S |10 now:x |20 25-W 26-S 27+W |30";
    EXPECT_EQ(run_with(list + stop + go, "m.go", held), "press 1000 8 8; hold 0000 18 10; dip 1100 3 8") << "moved";
    EXPECT_EQ(run_with(list + added + stop + go, "stop", held), "press 1000 7 7; hold 0000 17 10; release 0100 23 6");
    EXPECT_EQ(run_with(go, "m.go", held), "press 1000 8 8; hold 0000 18 10; dip 1100 3 8");
    EXPECT_EQ(run_with(go, "stop", held), "press 1000 7 7; none; none") << "it is gone";
    EXPECT_EQ(run_with(go + added, "added", "open:m 2+Q |10 now:x |20 25-Q 26+Q |30"),
              "none; idle 0000 0 0; press 1000 4 4")
        << "what is down does not fire by being bound";
    EXPECT_EQ(run_with(go + "formerly = [\"x\"]\n" +
                           "[mode.m.action.halt]\nkind = \"button\"\nbind = [\"KeyS\"]\n"
                           "formerly = [\"stop\"]\n",
                       "halt", "open:m |10 now:x |20 25+S |30"),
              "none; idle 0000 0 0; press 1000 5 5");

    ActionRun run{profile_of(go + stop + list), "go"};
    const ButtonAction old_stop = run.profile.find_button("stop").value();
    run.run("open:m 3+S |10");
    ASSERT_TRUE(run.reader.rebind(profile_of(list + added + go)));
    EXPECT_EQ(run.reader.find_button("go"), run.profile.find_button("go")) << "its number is as it was";
    EXPECT_EQ(run.reader.find_mode("list"), run.profile.find_mode("list"));
    EXPECT_EQ(run.reader.find_button("added"), (ButtonAction{3, run.reader.numbering()})) << "behind all that is known";
    std::string why;
    EXPECT_FALSE(run.reader.find_button("addde", &why));
    EXPECT_EQ(why, "found \"addde\"; expected the name of a button action; did you mean \"added\"?");
    run.run("|20");
    EXPECT_EQ(test::text(run.reader[old_stop].figures()), "cancel 0001 7 0");
    EXPECT_FALSE(run.reader.inject(old_stop, true, at(25)));
    ASSERT_TRUE(run.reader.rebind(run.profile));
    run.run("22-S |30 32+S |40");
    EXPECT_EQ(test::text(run.reader[old_stop].figures()), "press 1000 8 8") << "and comes back under its number";
}

// Only names change, of an action and of the mode that it opens: nothing is cancelled.
TEST(Rebinding, RenamingEndsNothing) {
    const auto profile = [](const std::string& go, const std::string& list, const std::string& more) {
        return profile_of("[mode.m.action." + go + "]\nkind = \"button\"\nbind = [\"KeyW\"]\nopens = \"" + list +
                          "\"\n" + more + "[mode." + list + "]\n" + (more.empty() ? "" : "formerly = [\"list\"]\n"));
    };
    ActionRun run{profile("go", "list", ""), "go"};
    const ButtonAction go = *run.profile.find_button("go");
    EXPECT_EQ(run.run("open:m 2+W |10").back(), "press 1000 8 8");
    ASSERT_TRUE(run.reader.rebind(profile("walk", "roster", "formerly = [\"go\"]\n")));
    EXPECT_EQ(run.reader.name_of(go), "m.walk");
    EXPECT_EQ(run.run("|20").back(), "hold 0000 18 10");
    ASSERT_TRUE(run.reader.rebind(profile("walk", "other", "formerly = [\"go\"]\n")));
    EXPECT_EQ(run.run("|30").back(), "cancel 0001 18 0") << "it opens another mode now";
}

/// Some of six actions in two modes, in any order, each with one of several bindings; one opens the second mode.
Profile random_game(test::Random& random) {
    constexpr std::array keys{KeyA, KeyB, KeyC, KeyD, Shift, PadSouth};
    const auto key = [&] { return keys[random.below(keys.size())]; };
    Profile profile;
    profile.modes = {{.name = "m"}, {.name = "menu", .covers = random.one_in(2)}};
    if (random.one_in(3)) std::swap(profile.modes[0], profile.modes[1]);
    for (Mode& mode : profile.modes) {
        for (int i = 0; i < 6; ++i) {
            if (random.one_in(3)) continue;
            const bool is_axis = i == 5;
            Action action{.name = "a" + std::to_string(i), .kind = is_axis ? ActionKind::axis : ActionKind::button};
            if (is_axis) {
                action.bindings = {{.kind = Binding::Kind::pair, .buttons = {KeyA, KeyB}},
                                   {.kind = Binding::Kind::axis}};
                action.rise = action.fall = Duration{static_cast<std::int64_t>(random.below(30))};
            } else {
                action.bindings.push_back({.buttons = {key()}});
                if (random.one_in(3)) action.bindings.push_back({.buttons = {KeyA, KeyC}});
                action.gesture = static_cast<Gesture>(random.below(5));
                action.gesture_time = Duration{usual_time(action.gesture) == Duration{} ? 0 : 20};
                if (mode.name == "m" && random.one_in(4)) action.opens = "menu";
                if (mode.name == "menu" && random.one_in(4)) action.closes = true;
            }
            mode.actions.insert(
                mode.actions.begin() + static_cast<std::ptrdiff_t>(random.below(mode.actions.size() + 1)),
                std::move(action));
        }
    }
    return profile;
}

// Whatever is replaced by whatever, while keys are down: no more presses than the person made, and once all is up,
// nothing is down but toggles, and nothing moves.
TEST(Rebinding, NothingSticksAndNothingFires) {
    for (std::uint64_t seed = 1; seed <= 400; ++seed) {
        SCOPED_TRACE("seed " + std::to_string(seed));
        test::Random random{seed};
        Timeline timeline;
        constexpr DeviceId pad{9};
        timeline.desk().connect(pad, {.kind = DeviceKind::gamepad}, Time{});
        Sampler sampler{timeline, {.start = Time{}}};
        Profile profile = random_game(random);
        ASSERT_FALSE(profile.problem()) << *profile.problem();
        ActionReader reader{profile};
        const ModeHandle m = reader.find_mode("m").value(), menu = reader.find_mode("menu").value();
        reader.open(m);
        constexpr std::array keys{KeyA, KeyB, KeyC, KeyD, ShiftLeft};
        std::array<bool, keys.size()> down{};
        std::int64_t now = 0;
        const auto read = [&] { reader.read(sampler.advance(at(++now))); };
        for (int frame = 0; frame < 40; ++frame) {
            unsigned made = 0;
            for (std::uint64_t i = random.below(4); i > 0; --i) {
                const std::size_t k = random.below(keys.size());
                now += static_cast<std::int64_t>(random.below(12));
                timeline.desk().button(keys[k], down[k] = !down[k], at(now));
                made += down[k];
                if (random.one_in(3)) timeline.desk().axis(pad, PadStickLeftX, random.one_in(2) ? 0.8 : 0, at(now));
            }
            if (random.one_in(4)) {
                profile = random_game(random);
                std::string why;
                ASSERT_TRUE(reader.rebind(profile, &why)) << why;
            }
            if (random.one_in(6)) reader.is_open(menu) ? reader.close(menu) : reader.open(menu);
            read();
            for (std::uint16_t number = 0; number < 40; ++number)
                ASSERT_LE(reader[ButtonAction{number}].press_count(), made + 1) << "frame " << frame << ", " << number;
        }
        for (std::size_t k = 0; k < keys.size(); ++k)
            if (down[k]) timeline.desk().button(keys[k], false, at(now));
        timeline.desk().axis(pad, PadStickLeftX, 0, at(now));
        for (int i = 0; i < 3; ++i) now += 100, read();
        for (const Mode& mode : profile.modes)
            for (const Action& action : mode.actions) {
                const std::string name = mode.name + "." + action.name;
                SCOPED_TRACE(name);
                if (action.kind == ActionKind::axis) {
                    const AxisActionReading reading = reader[reader.find_axis(name).value()];
                    ASSERT_EQ(reading.value, 0);
                    ASSERT_EQ(reading.integral, 0);
                } else if (action.gesture != Gesture::toggle) {
                    ASSERT_FALSE(reader[reader.find_button(name).value()].down());
                }
            }
    }
}

// ---- a bot

TEST(Injected, IsOneMoreBinding) {
    check(R"(
a person's key adds nothing to it, and holds on : open:m |0 bot:go=1@5 bot:go=0@25 |10 12+W 14-W |20 22+W |30 34-W |40 : idle 0000 0 0; press 1000 5 5; hold 0000 15 10; hold 0000 25 10; release 0100 29 4
late, it comes at the frame's start : open:m |40 bot:go=1@3 bot:go=0@44 |50 : idle 0000 0 0; blip 1100 4 4
twice down is once; leaving its mode ends it : open:m |50 bot:go=0@51 bot:go=1@52 bot:go=1@53 |60 close:m |70 open:m |80 : idle 0000 0 0; press 1000 8 8; cancel 0001 8 0; idle 0000 0 0
covered : open:m open:list |0 bot:go=1@5 bot:travel=1@5 |10go,travel close:list |20 : idle 0000 0 0; idle 0000 0 0 | 0 0; idle 0000 0 0
axes move along their ramps, within their limits; of two as large the bot's comes first : open:m |0travel bot:travel=0.5@6 |10travel bot:travel=-7@14 |20travel 22+D |30travel bot:travel=0@30 |45travel : 0 0; 0.5 2; -1 2.25; -1 -10; 1 0
)");
}

TEST(Injected, RefusesNonsense) {
    ActionRun run{profile_of(quay), "go"};
    EXPECT_FALSE(run.reader.inject(ButtonAction{2}, true, at(5))) << "that is an axis";
    EXPECT_FALSE(run.reader.inject(ButtonAction{99}, true, at(5)));
    EXPECT_FALSE(run.reader.inject(*run.profile.find_axis("travel"), std::nan(""), at(5)));
    EXPECT_FALSE(run.reader.inject(VectorAction{2}, {}, at(5)));
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

// What a bot will do is dropped with its action, and goes back in time with the rest.
TEST(Injected, BelongsToTheProfileAndToTheSavedState) {
    ActionRun run{profile_of(quay), "go"};
    const ButtonAction go = *run.profile.find_button("go"), stop = *run.profile.find_button("stop");
    run.run("open:m |0");
    run.reader.inject(go, true, at(25));
    run.reader.inject(stop, true, at(27));
    Profile without = run.profile;
    without.modes[0].actions.erase(without.modes[0].actions.begin());
    const Sampler::State sampler = run.sampler().save();
    const ActionReader::State before = run.reader.save();
    const auto frames = run.run("|20stop |30go,stop");
    EXPECT_EQ(frames.back(), "press 1000 5 5 | press 1000 3 3");
    ASSERT_TRUE(run.sampler().restore(sampler) && run.reader.restore(before));
    EXPECT_EQ(run.run("|20stop |30go,stop"), frames) << "the bot, too, is as it was";
    ASSERT_TRUE(run.sampler().restore(sampler) && run.reader.restore(before));
    ASSERT_TRUE(run.reader.rebind(without));
    EXPECT_EQ(run.run("|20stop |30go,stop").back(), "idle 0000 0 0 | press 1000 3 3") << "what is gone is idle";
}

// Saved after rebind() and before the read() that makes it so, with keys down and others waiting.
TEST(Rebinding, AStateSavedInBetweenIsRestored) {
    for (const char* const before : {"5+W |10", "5+W 6+D |10", "5+S 6+A |10"}) {
        ActionRun run{profile_of(quay), "go"};
        run.run("open:m " + std::string{before});
        Profile changed = run.profile;
        changed.modes[0].actions[0].bindings = {{.buttons = {KeyE}}, {.buttons = {KeyS}}};
        changed.modes[0].actions.push_back({.name = "added", .bindings = {{.buttons = {KeyQ}}}});
        ASSERT_TRUE(run.reader.rebind(changed));
        const Sampler::State sampler = run.sampler().save();
        const ActionReader::State saved = run.reader.save();
        const char* const later = "12+E 13-W |20go,stop,travel 22-E 23+E 24-S |30go,stop,travel";
        const auto frames = run.run(later);
        const ButtonAction added = *run.reader.find_button("added");
        for (int i = 0; i < 3; ++i) {
            ASSERT_TRUE(run.sampler().restore(sampler));
            ASSERT_TRUE(run.reader.restore(saved)) << before;
            EXPECT_EQ(run.run("|20go,stop,travel |30go,stop,travel"), frames);
            EXPECT_EQ(run.reader.find_button("added"), added);
        }
        ASSERT_TRUE(run.reader.rebind(run.profile));
        EXPECT_TRUE(run.reader.restore(run.reader.save()));
        run.run("|40");
        EXPECT_FALSE(run.reader.restore(saved)) << "two profiles ago";
    }
}

}  // namespace
