#include "cursorum/actions/profile.hpp"

#include <gtest/gtest.h>

#include "cursorum/actions/profile_file.hpp"
#include "cursorum/core/controls.hpp"

namespace {

using namespace cursorum;

constexpr const char* head = "format = \"cursorum-profile\"\nversion = 1\n";

Profile read(const std::string& text) {
    ProfileError error;
    const auto profile = read_profile(head + text, "quay.toml", error);
    EXPECT_TRUE(profile) << error.message();
    return profile.value_or(Profile{});
}

TEST(ProfileFile, SaysAllThatAProfileCan) {
    const Profile profile = read(R"(title = "Quay crane"
[mode.crane.action.lock]
kind = "button"
bind = ["Space", "Control+KeyL", "PadPullRight"]
repeat = { delay = "0.4s", interval = "60ms", cap = 3 }
[mode.crane.action.lift]
kind = "axis"
bind = [{ minus = "KeyS", plus = "KeyW" }, { axis = "PadStickRightY", invert = true, dead_zone = 0.2 }, { axis = "PadPullLeft" }]
opposite = "last"
rise = "250ms"
[mode.list]
covers = true
[mode.list.action.mark]
kind = "vector"
bind = [{ left = "KeyA", right = "KeyD", up = "KeyW", down = "KeyS", scale = 0.5 }, { stick = "PadStickRight", scale = 2 }]
)");
    using namespace cursorum::controls;
    using enum Binding::Kind;
    const Profile expected{
        .title = "Quay crane",
        .modes = {{.name = "crane",
                   .covers = false,
                   .actions = {{.name = "lock",
                                .kind = ActionKind::button,
                                .bindings = {{.kind = Binding::Kind::buttons, .buttons = {Space}},
                                             {.kind = Binding::Kind::buttons, .buttons = {Control, KeyL}},
                                             {.kind = Binding::Kind::buttons, .buttons = {axis_button(PadPullRight)}}},
                                .repeat = {.delay = Duration{400'000'000}, .interval = Duration{60'000'000}, .cap = 3}},
                               {.name = "lift",
                                .kind = ActionKind::axis,
                                .bindings = {{.kind = pair, .buttons = {KeyS, KeyW}},
                                             {.kind = Binding::Kind::axis,
                                              .axis = PadStickRightY,
                                              .dead_zone = 0.2,
                                              .scale = -1},
                                             {.kind = Binding::Kind::axis, .axis = PadPullLeft}},
                                .opposed = WhenOpposed::last,
                                .rise = Duration{250'000'000}}}},
                  {.name = "list",
                   .covers = true,
                   .actions = {{.name = "mark",
                                .kind = ActionKind::vector,
                                .bindings = {{.kind = cross, .buttons = {KeyA, KeyD, KeyW, KeyS}, .scale = 0.5},
                                             {.kind = stick, .stick = PadStickRight, .scale = 2}}}}}}};
    EXPECT_EQ(profile, expected);
}

TEST(ProfileFile, TellsWhatIsWrongAndWhere) {
    struct Case {
        std::string text;
        const char* message;
    };
    const Case cases[] = {
        {"titel = \"x\"",
         "quay.toml:3: found the member \"titel\"; expected one of format, version, title, mode, shaping; did you "
         "mean "},
        {"[mode.m.action.a]\nkind = \"button\"\nbind = [\"Spcae\"]",
         "quay.toml:5: found the control \"Spcae\"; expected the name of a button; did you mean Space?"},
        {"[mode.m.action.a]\nkind = \"button\"\nbind = [\"KeyW+Nothing+KeyE\", \"Space+\"]",
         "quay.toml:5: found the control \"Nothing\"; expected the name of a button; cursorum keys lists them all"},
        {"[mode.m.action.a]\nkind = \"buton\"\nbind = []",
         "quay.toml:4: found \"buton\"; expected one of \"button\", \"axis\", \"vector\"; did you mean button?"},
        {"[mode.m.action.a]\nbind = []",
         "quay.toml:3: found no \"kind\"; expected kind = \"button\", \"axis\" or \"vector\""},
        {"[mode.m.action.a]\nkind = \"axis\"",
         "quay.toml:3: found no \"bind\"; expected bind = [...], which may be empty"},
        {"[mode.m.action.a]\nkind = \"button\"\nbind = [\"PadStickLeftX\"]",
         "quay.toml:5: found the axis \"PadStickLeftX\"; expected the name of a button; a stick's directions have "
         "names"},
        {"[mode.m.action.a]\nkind = \"axis\"\nbind = [\"KeyW\"]",
         "quay.toml:5: found \"KeyW\"; expected { minus = ..., plus = ... }, { axis = ... }"},
        {"[mode.m.action.a]\nkind = \"axis\"\nbind = [{ minus = \"KeyW\" }]",
         "quay.toml:5: found no \"plus\"; expected { minus = ..., plus = ... }, { axis = ... }"},
        {"[mode.m.action.a]\nkind = \"axis\"\nbind = [{ axis = \"PadStickLeft\" }]",
         "quay.toml:5: found \"PadStickLeft\"; expected one of PadStickLeftX, PadStickLeftY, PadStickRightX, "
         "PadStickRightY, "
         "PadPullLeft, PadPullRight, PadAxisExtra1 to PadAxisExtra26; did you mean PadStickLeftX?"},
        {"[mode.m.action.a]\nkind = \"axis\"\nbind = [{ axis = \"PadPullLeft\", dead_zone = 1.5 }]",
         "quay.toml:5: found 1.500000; expected a number from 0.000000 to 0.990000"},
        {"[mode.m.action.a]\nkind = \"axis\"\nrise = \"fast\"\nbind = []",
         "quay.toml:5: found \"fast\"; expected a time; such as \"250ms\" or \"0.5s\""},
        {"[mode.m.action.a]\nkind = \"button\"\nrise = \"1s\"\nbind = []",
         "quay.toml:5: found the member \"rise\"; expected one of kind, bind, repeat"},
        {"[mode.m.action.a]\nkind = \"button\"\nbind = [\"KeyW+KeyW\"]",
         "quay.toml:5: found \"KeyW+KeyW\"; expected each button once"},
        {"[mode.m]\ncovers = 1", "quay.toml:4: found 1; expected true or false"},
        {"mode = 3", "quay.toml:3: found 3; expected a table"},
        {"mode = " + std::string(66, '[') + "é",
         "quay.toml:3: found arrays and tables nested too deeply; expected at most 64 levels"},
        {"title = \"\"\"\\ \n\"\"\"\nmode = \"\"\"a\n\\\u0453",
         "quay.toml:6: found \"\u0453\" after a backslash in a text of several lines"},
        {"[mode.m.action.a", "quay.toml:3: found "},
    };
    for (const Case& c : cases) {
        ProfileError error;
        EXPECT_FALSE(read_profile(std::string{head} + c.text, "quay.toml", error)) << c.text;
        EXPECT_EQ(error.message().substr(0, std::string{c.message}.size()), c.message);
    }
    ProfileError error;
    EXPECT_FALSE(read_profile("", "e.toml", error));
    EXPECT_EQ(error.message(), "e.toml:1: found no \"format\"; expected format = \"cursorum-profile\"");
    EXPECT_FALSE(read_profile("format = \"cursorum-profile\"\nversion = 2", "e.toml", error));
    EXPECT_EQ(error.message(), "e.toml:2: found 2; expected 1");
}

TEST(ProfileFile, AnOverlayChangesWhatItNames) {
    Profile profile =
        read("[mode.m.action.a]\nkind = \"axis\"\nrise = \"1s\"\nbind = [{ minus = \"KeyA\", plus = \"KeyD\" }]\n");
    const Profile shipped = profile;
    const std::string over = "format = \"cursorum-overlay\"\nversion = 1\n";
    ProfileError error;
    ASSERT_TRUE(apply_overlay(profile, over + "[mode.m.action.a]\nbind = [{ minus = \"KeyJ\", plus = \"KeyL\" }]",
                              "mine.toml", error))
        << error.message();
    EXPECT_EQ(profile.modes[0].actions[0].bindings[0].buttons, (std::vector{controls::KeyJ, controls::KeyL}));
    EXPECT_EQ(profile.modes[0].actions[0].rise, Duration{1'000'000'000});

    profile = shipped;
    EXPECT_FALSE(apply_overlay(profile, over + "[mode.m.action.aa]\nbind = []", "mine.toml", error));
    EXPECT_EQ(error.message(),
              "mine.toml:3: found the action \"aa\"; expected an action that the profile's mode has; did you mean a?");
    EXPECT_FALSE(apply_overlay(profile, over + "[mode.n.action.a]\nbind = []", "mine.toml", error));
    EXPECT_FALSE(apply_overlay(profile, over + "[mode.m.action.a]\nkind = \"button\"", "mine.toml", error));
    EXPECT_FALSE(apply_overlay(profile, head, "mine.toml", error));
    EXPECT_EQ(profile, shipped);
}

TEST(Profile, FindsActionsByNameAndSaysWhyNot) {
    const Profile profile = read(R"(
[mode.crane.action.lock]
kind = "button"
bind = []
[mode.crane.action.lift]
kind = "axis"
bind = []
[mode.list.action.lock]
kind = "button"
bind = []
[mode.list.action.mark]
kind = "button"
bind = []
)");
    EXPECT_EQ(profile.find_button("crane.lock"), (ButtonAction{0, profile.numbering()}));
    EXPECT_EQ(profile.find_axis("lift"), (AxisAction{1, profile.numbering()}));
    EXPECT_EQ(profile.find_button("list.lock"), (ButtonAction{2, profile.numbering()}));
    EXPECT_EQ(profile.find_mode("list"), (ModeHandle{1, profile.numbering()}));
    struct Case {
        const char* name;
        const char* why;
    };
    for (const Case& c : {
             Case{"lock", "found \"lock\", which several modes have; expected one of crane.lock, list.lock"},
             Case{"makr", "found \"makr\"; expected the name of a button action; did you mean \"mark\"?"},
             Case{"crane.lokc",
                  "found \"crane.lokc\"; expected the name of a button action; did you mean \"crane.lock\"?"},
             Case{"lift", "found \"lift\", whose kind is axis; expected a button action"},
             Case{"horn", "found \"horn\"; expected the name of a button action; there are lock, lock, mark"},
         }) {
        std::string why;
        EXPECT_FALSE(profile.find_button(c.name, &why));
        EXPECT_EQ(why, c.why);
        EXPECT_FALSE(profile.find_button(c.name));
    }
    ActionNames names{profile};
    EXPECT_EQ(names.button("crane.lock"), (ButtonAction{0, profile.numbering()}));
    EXPECT_EQ(names.problem(), "");
    EXPECT_EQ(names.button("makr"), ButtonAction{});
    EXPECT_EQ(names.button("makr"), ButtonAction{});
    EXPECT_EQ(names.axis("lock"), AxisAction{});
    EXPECT_EQ(names.vector("lift"), VectorAction{});
    EXPECT_EQ(names.mode("carne"), ModeHandle{});
    EXPECT_EQ(names.unknown_count(), 4U) << "the same name twice is one problem";
    EXPECT_EQ(names.problem(),
              "found \"makr\"; expected the name of a button action; did you mean \"mark\"?\n"
              "found \"lock\", whose kind is button; expected an axis action\n"
              "found \"lift\", whose kind is axis; expected a vector action\n"
              "found \"carne\"; expected the name of a mode; did you mean \"crane\"?");
}

TEST(Profile, TellsWhatNoReaderCouldUse) {
    const auto problem_of = [](Action action) {
        return Profile{.title = "", .modes = {{.name = "m", .covers = false, .actions = {std::move(action)}}}}
            .problem();
    };
    EXPECT_FALSE(problem_of({.name = "a"}));
    EXPECT_TRUE(problem_of({.name = ""}));
    for (const char* name : {"a.b", "a,b", "a\"b", "a\\b", "a\nb"}) EXPECT_TRUE(problem_of({.name = name})) << name;
    EXPECT_FALSE(problem_of({.name = "eine Ladung löschen"}));
    EXPECT_TRUE(problem_of({.name = "a", .bindings = {{.buttons = {}}}}));
    EXPECT_TRUE(problem_of({.name = "a", .bindings = {{.buttons = {Button{439}}}}}));
    EXPECT_TRUE(problem_of({.name = "a", .bindings = {{.kind = Binding::Kind::stick}}}));
    EXPECT_TRUE(
        problem_of({.name = "a", .kind = ActionKind::axis, .bindings = {{.kind = Binding::Kind::axis, .axis = {99}}}}));
    EXPECT_TRUE(problem_of({.name = "a", .repeat = {.delay = Duration{0}}}));
    EXPECT_TRUE(problem_of({.name = "a", .rise = Duration{-1}}));
    Profile many;
    many.modes.resize(mode_capacity + 1);
    EXPECT_TRUE(many.problem());
    Profile crowded{.title = "", .modes = {{.name = "m"}}};
    for (unsigned i = 0; i <= action_capacity; ++i)
        crowded.modes[0].actions.push_back({.name = "a" + std::to_string(i)});
    EXPECT_EQ(crowded.problem(), "513 actions; at most 512");
}

}  // namespace
