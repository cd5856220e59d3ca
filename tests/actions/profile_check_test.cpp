// Profiles with faults, each with its line and message.
#include <gtest/gtest.h>

#include "cursorum/actions/profile_file.hpp"

namespace {

using namespace cursorum;

const std::string head = "format = \"cursorum-profile\"\nversion = 1\n";

/// "LINE: found …" of each fault.
std::string faults_of(const std::vector<ProfileError>& faults) {
    std::string all;
    for (const ProfileError& fault : faults)
        all += (all.empty() ? "" : "\n") + std::to_string(fault.line) + ": " + fault.found;
    return all;
}

std::string checked(const std::string& text) { return faults_of(check_profile(head + text, "p.toml")); }

std::string button(const std::string& name, const std::string& bind, const std::string& rest = "") {
    return "[mode.m.action." + name + "]\nkind = \"button\"\nbind = [" + bind + "]\n" + rest;
}

struct Case {
    std::string text, faults;
};

TEST(ProfileCheck, FindsEveryErrorOfAFile) {
    const std::string a = "[mode.m.action.a]\n";
    for (const Case& c : {
             Case{"titel = \"x\"\n[mode.m]\ncover = true", "3: the member \"titel\"\n5: the member \"cover\""},
             {"title = 3\n" + button("a", "\"Space\""), "3: 3"},
             {"[mode.m]\ncovers = 1\n" + button("a", "\"Spcae\""), "4: 1\n7: the control \"Spcae\""},
             {button("a", "\"Spcae\", \"KeyW\", \"Keyw\""), "5: the control \"Spcae\"\n5: the control \"Keyw\""},
             {button("a", "\"Control+Nothing\""), "5: the control \"Nothing\""},
             {button("a", "\"Space\"") + button("b", "3"), "8: 3"},
             {button("a", "\"\""), "5: \"\""},
             {button("a", "\"KeyA+KeyB>KeyC\""), "5: \"KeyA+KeyB>KeyC\""},
             {button("a", "\"KeyA+KeyA\""), "5: \"KeyA+KeyA\""},
             {button("a", "\"KeyA+KeyB+KeyC+KeyD+KeyE\""), "5: a chord of 5"},
             {button("a", "\"PadStickLeftX\""), "5: the axis \"PadStickLeftX\""},
             {button("a", "{ lock = \"KeyA\" }"), "5: \"KeyA\""},
             {button("a", "{ lokc = \"CapsLock\" }"), "5: the member \"lokc\""},
             {button("a", "{ press = 0.5 }"), "5: none of the members \"lock\", \"button\", \"touch\", \"symbol\""},
             {button("a", "{ symbol = \"KeyZ\" }, { symbol = \"z\", with = \"KeyA+KeyB+KeyC+KeyD\" }"),
              "5: \"KeyZ\"\n5: \"KeyA+KeyB+KeyC+KeyD\""},
             {button("a", "{ symbol = \"\" }, { symbol = \"z\", with = 3 }, { symbol = \"eightbyt\" }"),
              "5: \"\"\n5: 3\n5: a symbol that is more than 7 bytes, has control characters, or is not UTF-8"},
             {button("a", "{ button = \"KeyW\", press = 0.5 }"), "5: \"KeyW\""},
             {button("a", "{ button = \"PadPullLeft\", press = 0 }"), "5: 0.000000"},
             {button("a", "{ button = \"PadPullLeft\", press = 0.3, release = 0.4 }"), "5: 0.400000"},
             {button("a", "{ touch = \"position\" }, { touch = \"contact\", press = 1 }"),
              "5: \"position\"\n5: the member \"press\""},
             {a + "kind = \"vector\"\nbind = [{ touch = \"contact\" }, { stick = \"PadStickLeft\", dead_zone = 1 }]\n",
              "5: \"contact\"\n5: 1.000000"},
             {button("a", "\"Space\"", "gesture = \"tapp\"\ntime = \"fast\"\n"), "6: \"tapp\""},
             {button("a", "\"Space\"", "gesture = \"tap\"\ntime = \"0\"\n"), "7: \"0\""},
             {button("a", "\"Space\"", "time = \"1s\"\n"), "6: a \"time\""},
             {button("a", "\"Space\"", "rise = \"1s\"\nopposite = \"last\"\n"),
              "6: the member \"rise\"\n7: the member \"opposite\""},
             {button("a", "\"Space\"", "min_interval = 3\nbuffer = \"x\"\ndebounce = \"-1ms\"\n"),
              "6: 3\n7: \"x\"\n8: \"-1ms\""},
             {button("a", "\"Space\"", "repeat = 3\n"), "6: 3"},
             {button("a", "\"Space\"", "repeat = { delay = \"0\", cap = -1 }\n"), "6: \"0\""},
             {button("a", "\"Space\"", "repeat = { dealy = \"1s\" }\n"), "6: the member \"dealy\""},
             {button("a", "\"Space\"", "opens = 3\ncloses = \"yes\"\n"), "6: 3\n7: \"yes\""},
             {button("a", "\"Space\"", "opens = \"lsit\"\n") + "[mode.list]\n",
              "3: action \"m.a\" opens an unknown mode: found \"lsit\"; expected the name of a mode; did you mean "
              "\"list\"?"},
             {a + "bind = []\n", "3: no \"kind\""},
             {a + "kind = \"buton\"\nbind = []\n", "4: \"buton\""},
             {a + "kind = \"button\"\n", "3: no \"bind\""},
             {a + "kind = \"button\"\nbind = \"Space\"\n", "5: \"Space\""},
             {a + "kind = \"axis\"\nbind = [\"KeyW\"]\n", "5: \"KeyW\""},
             {a + "kind = \"axis\"\nbind = [{ minus = \"KeyW\" }, { plus = \"KeyW\" }]\n",
              "5: no \"plus\"\n5: no \"minus\""},
             {a + "kind = \"axis\"\nbind = [{ minus = 3, plus = \"KeyW\" }]\n", "5: 3"},
             {a + "kind = \"axis\"\nbind = [{ axis = \"PadStickLeft\" }]\n", "5: \"PadStickLeft\""},
             {a + "kind = \"axis\"\nbind = [{ axis = \"PadPullLeft\", dead_zone = 1.5 }]\n", "5: 1.500000"},
             {a + "kind = \"axis\"\nbind = [{ axis = \"PadPullLeft\", scale = 1e9 }]\n", "5: 1000000000.000000"},
             {a + "kind = \"axis\"\nbind = [{ axis = \"PadPullLeft\", invert = 1 }]\n", "5: 1"},
             {a + "kind = \"axis\"\nbind = [{ motion = \"both\" }]\n", "5: \"both\""},
             {a + "kind = \"axis\"\nbind = [{ wheel = \"z\" }]\n", "5: \"z\""},
             {a + "kind = \"axis\"\nbind = []\nrise = \"fast\"\nfall = 3\n", "6: \"fast\"\n7: 3"},
             {a + "kind = \"axis\"\nbind = []\nopposite = \"cancel\"\n", "6: \"cancel\""},
             {a + "kind = \"vector\"\nbind = [{ stick = \"PadStickLeftX\" }]\n", "5: \"PadStickLeftX\""},
             {a + "kind = \"vector\"\nbind = [{ left = \"KeyA\", right = \"KeyD\" }]\n", "5: no \"up\""},
             {a + "kind = \"vector\"\nbind = [{ motion = \"x\" }]\n", "5: \"x\""},
             {a + "kind = \"vector\"\nbind = []\ndirections = 5\n", "6: 5"},
             {a + "kind = \"axis\"\nbind = []\ndirections = 4\n", "6: 4"},
             {a + "kind = \"vector\"\nbind = []\nrepeat = { cap = 1 }\n", "6: the member \"repeat\""},
             {"[shaping]\npress = 2\nPadStickLeft = { dead_zone = 0.1, dedzone = 1 }\nPadPullLeft = { directions = 4 "
              "}\nx = "
              "1\n[mode.m]\n",
              "4: 2.000000\n5: the member \"dedzone\"\n6: the member \"directions\"\n7: the member \"x\""},
             {"[shaping]\nPadStickLeft = { dead_zone = 0.6, outer_zone = 0.5 }\n[mode.m]\n",
              "3: a shaping that no device can have"},
             {"mode = 3", "3: 3"},
             {"[mode]\nm = 3", "4: 3"},
             {"[mode.m]\naction = 3", "4: 3"},
             {"[mode.m.action]\na = 3", "4: 3"},
             {"[mode.\"a.b\"]\n",
              "3: mode \"a.b\" has a name that is empty, or has a point, comma, quote, backslash or "
              "control character, or is not UTF-8"},
             {"[mode.m.action.\"a,b\"]\nkind = \"button\"\nbind = []\n",
              "3: the action \"m.a,b\" with a name that is empty, or has a point, comma, quote, backslash or control "
              "character, or is not UTF-8"},
         })
        EXPECT_EQ(checked(c.text), c.faults) << c.text;
    EXPECT_EQ(faults_of(check_profile("version = 1\n", "p.toml")), "1: no \"format\"");
    EXPECT_EQ(faults_of(check_profile("format = \"cursorum-profile\"\n", "p.toml")), "1: no \"version\"");
    EXPECT_EQ(checked("[mode.m\n").substr(0, 2), "3:");
}

TEST(ProfileCheck, FindsWhatIsHardlyMeant) {
    const std::string lock = button("lock", "\"Space\"");
    for (const Case& c : {
             Case{lock, ""},
             {lock + button("horn", "\"Space\""), "6: m.horn with Space, which m.lock binds, too"},
             {lock + button("horn", "\"Space\"", "gesture = \"tap\"\n"), ""},
             {lock + "[mode.n.action.horn]\nkind = \"button\"\nbind = [\"Space\"]\n", ""},
             {button("a", "\"Shift\"") + button("b", "\"ShiftLeft\""), "6: m.b with ShiftLeft, which m.a binds, too"},
             {button("a", "\"Control+KeyL\"") + button("b", "\"KeyL+Control\""),
              "6: m.b with KeyL+Control, which m.a binds, too"},
             {button("a", "\"Control>KeyL\"") + button("b", "\"KeyL>Control\""), ""},
             {button("a", "\"Control+KeyL\"") + button("b", "\"KeyL\""), ""},
             {button("a", "\"Control+KeyL\"") + button("crouch", "\"ControlLeft\""),
              "3: m.a with the chord Control+KeyL, of which Control alone is bound to m.crouch"},
             {button("a", ""), "3: m.a with no binding"},
             {"[mode.m.action.x]\nkind = \"axis\"\nbind = [{ axis = \"PadStickLeftX\" }]\n[mode.m.action.v]\nkind = "
              "\"vector\"\nbind = [{ stick = \"PadStickLeft\" }]\n",
              "6: m.v with PadStickLeft, which m.x binds, too"},
             {lock + "[mode.m.action.v]\nkind = \"axis\"\nbind = [{ minus = \"KeyF\", plus = \"Space\" }]\n",
              "6: m.v with Space, which m.lock binds, too"},
             {button("a", "\"WheelUp\", { lock = \"CapsLock\" }") + button("b", "{ lock = \"CapsLock\" }, \"WheelUp\""),
              "6: m.b with CapsLock on, which m.a binds, too\n6: m.b with WheelUp, which m.a binds, too"},
         })
        EXPECT_EQ(checked(c.text), c.faults) << c.text;
}

TEST(ProfileCheck, AnOverlayIsCheckedForWhatItBinds) {
    ProfileError error;
    const auto profile = read_profile(
        head + button("lock", "\"Space\"") + button("horn", "\"Space\"") + button("slow", "\"KeyS\""), "p.toml", error);
    ASSERT_TRUE(profile) << error.message();
    const auto of = [&](const std::string& text) {
        return faults_of(check_overlay(*profile, "format = \"cursorum-overlay\"\nversion = 1\n" + text, "o.toml"));
    };
    EXPECT_EQ(of("[mode.m.action.slow]\nbind = [\"KeyX\"]\n"), "") << "lock and horn are the shipped profile's";
    EXPECT_EQ(of("[mode.m.action.slow]\nbind = [\"Space\"]\n"), "3: m.slow with Space, which m.lock binds, too");
    EXPECT_EQ(of("[mode.m.action.solw]\nbind = [3]\n[mode.n]\n"), "3: the action \"solw\"\n5: the mode \"n\"");
    EXPECT_EQ(of("[mode.m.action.slow]\nkind = \"axis\"\n"), "4: a \"kind\"");
    Profile other = *profile;
    ASSERT_TRUE(
        apply_overlay(other,
                      "format = \"cursorum-overlay\"\nversion = 1\n[mode.m.action.lock]\nbind = [\"PadSouth\"]\n"
                      "[mode.m.action.horn]\nbind = [\"KeyH\"]\n",
                      "o.toml", error));
    EXPECT_EQ(faults_of(check_seats(other, "o.toml", *profile, "p.toml")),
              "0: KeyS of m.slow, which p.toml binds to m.slow");
}

// What no profile is has an end soon, and one message.
TEST(ProfileCheck, HugeFilesAreRefusedOnce) {
    std::string actions = head, modes = head, unknown = head;
    for (int i = 0; i < 20'000; ++i) {
        const std::string n = std::to_string(i);
        actions += "[mode.crane.action.a" + n + "]\nkind = \"button\"\nbind = [\"KeyW\"]\n";
        modes += "[mode.m" + n + ".action.a]\nkind = \"button\"\nbind = [\"KeyW\"]\n";
        unknown += "[mode.crane.action.a" + n + "]\nkid = \"button\"\n";
    }
    const auto of_actions = check_profile(actions, "p"), of_modes = check_profile(modes, "p");
    ASSERT_EQ(of_actions.size(), 1U);
    EXPECT_EQ(of_actions[0].message(),
              "p:1539: found more than 512 actions; expected at most 512 in all modes together");
    ASSERT_EQ(of_modes.size(), 1U);
    EXPECT_EQ(of_modes[0].message(), "p:195: found more than 64 modes; expected at most 64");
    EXPECT_LT(check_profile(unknown, "p").size(), 1100U);
    EXPECT_EQ(check_profile(std::string(5'000'000, ' '), "p").at(0).message(),
              "p: found a text of 5000000 bytes; expected at most 4194304");
}

}  // namespace
