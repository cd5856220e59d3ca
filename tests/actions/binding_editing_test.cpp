// What a binding screen is made of: capture, conflicts, bindings as text, overlays as files.
#include <gtest/gtest.h>
#include <sys/resource.h>
#include <unistd.h>

#include <csignal>
#include <filesystem>
#include <fstream>
#include <sstream>

#include "actions/action_run.hpp"
#include "core/random_events.hpp"
#include "cursorum/actions/binding_capture.hpp"
#include "cursorum/actions/binding_editor.hpp"
#include "cursorum/actions/binding_text.hpp"
#include "cursorum/core/controls.hpp"

namespace {

using namespace cursorum;
using test::profile_of;
using test::ScriptRun;

/// What a capture that begins at the first cut has at each cut: "..." while it waits, then the binding, or how it
/// ended.
std::vector<std::string> capture(const CaptureOptions& options, const std::string& script) {
    ScriptRun run;
    BindingCapture capture{options};
    run.on_cut = [&](const Frame& frame) { capture.read(frame); };
    run.show = [&](const Frame&) -> std::string {
        switch (capture.state()) {
            case BindingCapture::State::waiting: return "...";
            case BindingCapture::State::stopped: return "stopped";
            case BindingCapture::State::timed_out: return "timed out";
            case BindingCapture::State::captured: break;
        }
        return binding_text(options.kind, capture.binding().value());
    };
    return run.run(script);
}

void check(const CaptureOptions& options, const char* rows) {
    test::check_rows(rows, [&](const std::string& script) { return capture(options, script); });
}

TEST(Capture, TakesTheNextControlThatIsMoved) {
    const ButtonSet ignored{controls::KeyQ};
    check({.ignored = ignored, .stop = controls::KeyX, .limit = Duration{50}}, R"(
a key : |10 12+W |20 : ...; KeyW
a tap within a frame : |10 12+W 13-W |20 : ...; KeyW
the first of two : |10 12+W 13+S |20 : ...; KeyW
what started it does not count : 5+E |10 15-E |20 22+W |30 : ...; ...; KeyW
but does when it is pressed again : 5+E |10 15-E 16+E |20 : ...; KeyE
nor does its repeat by the system : 5+2E |10 12~2E 14~2E |20 : ...; ...
what is found down does not : |10 12foc0 13foc1 14sta1:W |20 : ...; ...
what is ignored does not : |10 12+Q 14+W |20 : ...; KeyW
the side of a key is kept : |10 12+< |20 : ...; ShiftLeft
a step of the wheel : |10 12whl2:0,-1 |20 : ...; WheelDown
no part of a step : |10 12whl2:0,0.5 |20 : ...; ...
a stick's direction : |10 12stk3:0.9,0 |20 : ...; PadStickLeftRight
a resting stick is none : |10 12stk3:0.1,0.05 |20 : ...; ...
one that was pushed all the time is none : 5stk3:0.9,0 |10 12stk3:0.95,0 |20 : ...; ...
a trigger : |10 12axs3:PR,0.8 |20 : ...; PadPullRight
stopped : |10 12+X 13+W |20 : ...; stopped
the time is up : |10 |50 |60 65+W |70 : ...; ...; timed out; timed out
in the last frame it counts : |10 55+W |60 : ...; KeyW
)");
    check({.wheel = false, .device = DeviceId{2}}, R"(
one device alone : |10 12+W 13+2S |20 : ...; KeyS
no wheel : |10 12whl2:0,1 |20 : ...; ...
)");
}

TEST(Capture, OfADeviceOrOfPersons) {
    check({.kind = ActionKind::axis, .device = DeviceId{3}}, R"(
within a frame : |10 12axs3:RX,0.7 14axs3:RX,0 |20 : ...; { axis = "PadStickRightX", dead_zone = 0.15 }
not another device's : |10 12axs4:RX,0.7 |20 : ...; ...
)");
    Timeline timeline{{.devices = 4, .desk_devices = false}};
    constexpr DeviceId bot{1}, person{2};
    for (const DeviceId id : {bot, person})
        timeline.desk().connect(id, {.kind = DeviceKind::keyboard, .is_virtual = id == bot}, Time{});
    Sampler sampler{timeline, {.start = Time{}}};
    BindingCapture capture;
    const auto press = [&](DeviceId device, Button button, std::int64_t time) {
        timeline.desk().button(device, button, true, Time{Duration{time}});
        return capture.read(sampler.advance(Time{Duration{time + 1}}));
    };
    EXPECT_EQ(capture.read(sampler.advance(Time{Duration{1}})), BindingCapture::State::waiting);
    EXPECT_EQ(press(bot, controls::KeyB, 5), BindingCapture::State::waiting)
        << "what a bot presses is no person's wish";
    EXPECT_EQ(press(person, controls::KeyP, 9), BindingCapture::State::captured);
}

TEST(Capture, OfChordsIsKnownWhenOneIsReleased) {
    check({.chords = true}, R"(
in the order of their presses : |10 12+^ 14+L |20 22-L |30 : ...; ...; ControlLeft+KeyL
a single one : |10 12+W 13-W |20 : ...; KeyW
at most four : |10 12+A 13+B 14+C 15+D |20 : ...; KeyA+KeyB+KeyC+KeyD
focus loss begins anew : |10 12+A 13foc0 |20 22foc1 23+B 24-B |30 : ...; ...; KeyB
)");
}

TEST(Capture, OfAxesAndSticksTakesTheOneThatMovesFar) {
    check({.kind = ActionKind::axis}, R"(
pushed to the positive side : |10 12axs3:RX,0.7 |20 : ...; { axis = "PadStickRightX", dead_zone = 0.15 }
the other way round is inverted : |10 12axs3:LY,-0.7 |20 : ...; { axis = "PadStickLeftY", dead_zone = 0.15, scale = -1 }
within a frame : |10 12axs3:RX,0.7 14axs3:RX,0 |20 : ...; { axis = "PadStickRightX", dead_zone = 0.15 }
drift is none : 5axs3:LX,0.3 |10 12axs3:LX,0.35 14axs3:RX,-0.4 |20 : ...; ...
measured from where it was : 5axs3:LX,-0.3 |10 12axs3:LX,0.3 |20 : ...; { axis = "PadStickLeftX", dead_zone = 0.15 }
keys are none : |10 12+W |20 : ...; ...
a trigger : |10 12axs3:PL,0.6 |20 : ...; { axis = "PadPullLeft", dead_zone = 0 }
)");
    check({.kind = ActionKind::vector}, R"(
a stick : |10 12stk3:0.5,0.5 |20 : ...; { stick = "PadStickLeft" }
not a little of it : |10 12stk3:0.3,0.3 |20 : ...; ...
)");
}

const std::string three = R"(
[mode.m.action.lock]
kind = "button"
bind = ["Space", "PadSouth"]
[mode.m.action.horn]
kind = "button"
bind = ["KeyH"]
[mode.m.action.hop]
kind = "button"
bind = ["KeyJ"]
gesture = "tap"
[mode.m.action.lift]
kind = "axis"
bind = [{ minus = "KeyF", plus = "KeyR" }]
[mode.n.action.other]
kind = "button"
bind = ["KeyH"]
)";
constexpr std::uint16_t lock = 0, horn = 1, hop = 2, lift = 3;

std::string bindings_of(const BindingEditor& editor, std::uint16_t action) {
    std::string all;
    const Action& of = *editor.profile().action_numbered(action);
    for (const Binding& binding : of.bindings) all += (all.empty() ? "" : ", ") + binding_text(of.kind, binding);
    return all;
}

Binding button(Button button) { return {.buttons = {button}}; }

TEST(BindingEditor, SettlesConflicts) {
    const Profile shipped = profile_of(three);
    BindingEditor editor{shipped};
    const Binding key_h = button(controls::KeyH);
    EXPECT_EQ(editor.conflicts_of(lock, key_h), (std::vector<BindingConflict>{{horn, 0, "KeyH"}}))
        << "another mode's is none";
    EXPECT_EQ(editor.conflicts_of(hop, key_h).size(), 0U) << "nor is another gesture's";
    EXPECT_EQ(editor.conflicts_of(horn, button(controls::KeyF)), (std::vector<BindingConflict>{{lift, 0, "KeyF"}}));
    std::string why;
    EXPECT_FALSE(editor.bind(lock, 0, key_h, Settle::refuse, &why));
    EXPECT_EQ(why, "horn has KeyH");
    EXPECT_TRUE(editor.bind(lock, 0, key_h, Settle::swap));
    EXPECT_EQ(bindings_of(editor, lock) + "; " + bindings_of(editor, horn), "KeyH, PadSouth; Space");
    EXPECT_TRUE(editor.undo());
    EXPECT_EQ(editor.profile(), shipped);
    EXPECT_TRUE(editor.bind(lock, 2, key_h, Settle::take));
    EXPECT_EQ(bindings_of(editor, lock) + "; " + bindings_of(editor, horn), "Space, PadSouth, KeyH; ");
    EXPECT_TRUE(editor.bind(horn, 0, key_h, Settle::keep_both));
    EXPECT_EQ(bindings_of(editor, lock) + "; " + bindings_of(editor, horn), "Space, PadSouth, KeyH; KeyH");
    EXPECT_TRUE(editor.unbind(lock, 0));
    EXPECT_TRUE(editor.reset(lock));
    EXPECT_EQ(bindings_of(editor, lock), "Space, PadSouth");
    EXPECT_FALSE(editor.reset(lock)) << "it is already";
    EXPECT_FALSE(editor.bind(lock, 4, key_h, Settle::take, &why));
    EXPECT_EQ(why, "found binding 4; expected 0 to 2");
    EXPECT_FALSE(editor.bind(99, 0, key_h, Settle::take, &why));
    EXPECT_FALSE(editor.bind(lift, 0, key_h, Settle::take, &why));
    EXPECT_EQ(why, "action \"m.lift\" has a binding that does not fit its kind");
    EXPECT_TRUE(editor.unbind(horn, 0));
    EXPECT_TRUE(editor.reset_all());
    while (editor.undo()) {
    }
    EXPECT_EQ(editor.profile(), shipped);
    EXPECT_EQ(editor.overlay(), "format = \"cursorum-overlay\"\nversion = 1\n");
}

TEST(BindingEditor, SuitsOneHandAndOtherSticks) {
    BindingEditor editor{profile_of(R"(
[mode.m.action.look]
kind = "vector"
bind = [{ stick = "PadStickRight" }, { motion = "both" }, { left = "KeyA", right = "KeyD", up = "KeyW", down = "KeyS" }]
[mode.m.action.lift]
kind = "axis"
bind = [{ axis = "PadStickLeftY" }, { minus = "KeyF", plus = "KeyR" }]
[mode.m.action.next]
kind = "button"
bind = ["PadStickLeftDown", "PadThumbRight"]
[mode.m.action.fast]
kind = "button"
bind = ["ControlRight+KeyP"]
[mode.m.action.slow]
kind = "button"
bind = ["Shift"]
[mode.m.action.fire]
kind = "button"
bind = ["MouseLeft"]
gesture = "tap"
)")};
    EXPECT_TRUE(editor.invert(0, false, true));
    EXPECT_EQ(bindings_of(editor, 0),
              "{ stick = \"PadStickRight\", invert = \"y\" }, { motion = \"both\", invert = \"y\" }, "
              "{ left = \"KeyA\", right = \"KeyD\", up = \"KeyW\", down = \"KeyS\" }");
    EXPECT_TRUE(editor.invert(0, false, true));
    EXPECT_TRUE(editor.invert(1, true, false));
    EXPECT_TRUE(editor.swap_sticks());
    EXPECT_EQ(bindings_of(editor, 0).substr(0, 28), "{ stick = \"PadStickLeft\" }, ");
    EXPECT_EQ(bindings_of(editor, 1).substr(0, 66),
              "{ axis = \"PadStickRightY\", dead_zone = 0.15, scale = -1 }, { minus");
    EXPECT_EQ(bindings_of(editor, 2), "PadStickRightDown, PadThumbLeft");
    EXPECT_TRUE(editor.hold_or_toggle(4));
    EXPECT_EQ(editor.profile().action_numbered(4)->gesture, Gesture::toggle);
    EXPECT_TRUE(editor.hold_or_toggle(4));
    EXPECT_FALSE(editor.hold_or_toggle(5)) << "a tap is neither";
    EXPECT_EQ(editor.out_of_reach(Hand::left), (std::vector<std::uint16_t>{3, 5}));
    EXPECT_EQ(editor.out_of_reach(Hand::right), (std::vector<std::uint16_t>{})) << "each has a way on the right";
    EXPECT_EQ(editor.out_of_reach(Hand::left, Hand::left), (std::vector<std::uint16_t>{3}));
    Profile read = editor.profile();
    BindingEditor again{profile_of("[mode.m.action.a]\nkind = \"button\"\nbind = []\n")};
    EXPECT_EQ(again.out_of_reach(Hand::left), std::vector<std::uint16_t>{0});
    EXPECT_FALSE(again.invert(0, true, true) || again.swap_sticks()) << "nothing to change";
}

TEST(BindingText, GoesBothWays) {
    for (const auto& [kind, text] : {
             std::pair{ActionKind::button, "Space"},
             {ActionKind::button, "Control+KeyL"},
             {ActionKind::button, "ControlLeft>KeyL"},
             {ActionKind::button, "Control+WheelUp"},
             {ActionKind::button, "{ lock = \"CapsLock\" }"},
             {ActionKind::button, "{ button = \"PadPullRight\", press = 0.75, release = 0.5 }"},
             {ActionKind::button, "{ touch = \"contact\" }"},
             {ActionKind::button, "{ symbol = \"z\" }"},
             {ActionKind::button, "{ symbol = \"\u00f6\", with = \"Control+Shift\" }"},
             {ActionKind::button, "{ symbol = '\"' }"},
             {ActionKind::button, "{ symbol = \"'\" }"},
             {ActionKind::button, "{ touch = \"pressure\", press = 0.75, release = 0.5 }"},
             {ActionKind::vector, "{ touch = \"position\", dead_zone = 0.1, invert = \"y\" }"},
             {ActionKind::vector, "{ stick = \"PadStickLeft\", dead_zone = 0.25 }"},
             {ActionKind::axis, "{ minus = \"KeyF\", plus = \"KeyR\", scale = 0.5 }"},
             {ActionKind::axis, "{ axis = \"PadStickRightY\", dead_zone = 0.2, scale = -1 }"},
             {ActionKind::axis, "{ motion = \"y\", raw = true, scale = 0.0625 }"},
             {ActionKind::axis, "{ wheel = \"x\" }"},
             {ActionKind::vector, "{ left = \"KeyA\", right = \"KeyD\", up = \"KeyW\", down = \"KeyS\" }"},
             {ActionKind::vector, "{ stick = \"PadStickLeft\", scale = -2 }"},
             {ActionKind::vector, "{ motion = \"both\", invert = \"y\" }"},
             {ActionKind::vector, "{ wheel = \"both\", scale = 3, invert = \"both\" }"},
             {ActionKind::vector, "{ stick = \"PadStickRight\", invert = \"x\" }"},
         }) {
        std::string why;
        const auto binding = parse_binding(kind, text, &why);
        ASSERT_TRUE(binding) << text << ": " << why;
        EXPECT_EQ(binding_text(kind, *binding), text);
    }
    for (const auto& [kind, text, expected] : {
             std::tuple{ActionKind::button, "Spcae",
                        "found the control \"Spcae\"; expected the name of a button; did you mean Space?"},
             {ActionKind::button, "{ stick = \"PadStickLeft\" }", "found the member \"stick\"; expected one of lock"},
             {ActionKind::axis, "Space", "found \"Space\"; expected { minus = ..., plus = ... }"},
             {ActionKind::button, "a\nb", "found "},
             {ActionKind::axis, "{ minus = ", "found "},
             {ActionKind::axis, "{ axis = \"PadPullLeft\" }\nx = 3", "found "},
         }) {
        std::string why;
        EXPECT_FALSE(parse_binding(kind, text, &why)) << text;
        EXPECT_TRUE(why.starts_with(expected)) << why;
    }
}

TEST(BindingText, ASymbolFollowsTheLayout) {
    const std::string undo =
        "[mode.m.action.undo]\nkind = \"button\"\nbind = [{ symbol = \"z\", with = \"Control\" }]\n";
    const Profile profile =
        profile_of(undo + "[mode.m.action.open]\nkind = \"button\"\nbind = [{ symbol = \"\u00f6\" }]\n");
    KeyLayout german;
    german.set(controls::KeyY, "z");
    german.set(controls::KeyZ, "y");
    german.set(controls::Semicolon, "\u00f6");
    const Profile there = with_layout(profile, german), back = with_layout(there, KeyLayout{});
    const auto keys = [](const Profile& of, std::uint16_t action) {
        return of.action(ButtonAction{action})->bindings[0].buttons;
    };
    EXPECT_EQ(keys(profile, 0), (std::vector{controls::Control, controls::KeyZ}));
    EXPECT_EQ(keys(there, 0), (std::vector{controls::Control, controls::KeyY}));
    EXPECT_EQ(keys(back, 0), (std::vector{controls::Control, controls::KeyZ}));
    EXPECT_EQ(keys(there, 1), std::vector{controls::Semicolon});
    EXPECT_EQ(keys(back, 1), std::vector{controls::Semicolon}) << "it stays where no key has the symbol";
    EXPECT_EQ(profile.problem(), std::nullopt);
    test::ActionRun run{profile, "open"};
    EXPECT_EQ(run.run("open:m |10").back(), "idle 0000 0 0") << "on no key";
    const auto press = [&](Button key, std::int64_t time) { run.desk().button(key, true, Time{Duration{time}}); };
    ASSERT_TRUE(run.reader.rebind(there));
    run.run("|20");
    press(controls::Semicolon, 25);
    EXPECT_EQ(run.run("|30").back(), "press 1000 5 5");
    const auto printed = [&](std::string_view name) { return std::string{german.symbol_of(find_button(name))}; };
    EXPECT_EQ(binding_label(there.action(ButtonAction{0})->bindings[0], printed), "Control+z");
    EXPECT_EQ(binding_label(profile.action(ButtonAction{1})->bindings[0], {}), "\u00f6");
}

TEST(BindingText, IsShownWithLabelsOfTheDeviceInUse) {
    const Profile profile = profile_of(R"(
[mode.m.action.lock]
kind = "button"
bind = ["MouseLeft", "Control+KeyL", "PadSouth"]
[mode.m.action.look]
kind = "vector"
bind = [{ motion = "both" }, { stick = "PadStickRight" }]
)");
    const auto label = [](std::string_view name) -> std::string {
        return name == "Control" ? "Strg" : name == "PadSouth" ? "(lower)" : "";
    };
    const auto shown = [&](std::size_t action, DeviceKind kind) {
        const Binding* const binding = binding_for(profile.modes[0].actions[action], kind);
        return binding ? binding_label(*binding, label) : "none";
    };
    EXPECT_EQ(shown(0, DeviceKind::keyboard), "Strg+KeyL");
    EXPECT_EQ(shown(0, DeviceKind::mouse), "Strg+KeyL");
    EXPECT_EQ(shown(0, DeviceKind::gamepad), "(lower)");
    EXPECT_EQ(shown(0, DeviceKind::touch), "none");
    EXPECT_EQ(shown(1, DeviceKind::keyboard), "MouseMotion");
    EXPECT_EQ(shown(1, DeviceKind::gamepad), "PadStickRight");
    EXPECT_EQ(binding_label({.kind = Binding::Kind::pair, .buttons = {controls::KeyF, controls::KeyR}}, {}),
              "KeyF, KeyR");
}

TEST(Overlay, IsWhatDiffersAndReadsAsTheSame) {
    for (std::uint64_t seed = 1; seed <= 300; ++seed) {
        SCOPED_TRACE("seed " + std::to_string(seed));
        test::Random random{seed};
        const Profile shipped = profile_of(three);
        Profile changed = shipped;
        for (int i = 0; i < 4; ++i) {
            Mode& mode = changed.modes[random.below(2)];
            Action& action = mode.actions[random.below(mode.actions.size())];
            const auto ms = [&] { return Duration{static_cast<std::int64_t>(1 + random.below(900)) * 1'000'000}; };
            switch (random.below(8)) {
                case 7:
                    changed.shaping.emplace().sticks[1].response.dead_zone =
                        0.01 * static_cast<double>(random.below(50));
                    changed.shaping->sticks[0].directions = StickDirections::eight;
                    break;
                case 0: mode.covers = !mode.covers; break;
                case 1: action.bindings.clear(); break;
                case 2:
                    if (action.kind == ActionKind::button) action.bindings.push_back(button(controls::KeyQ));
                    break;
                case 3:
                    if (action.kind != ActionKind::button) action.rise = ms(), action.opposed = WhenOpposed::last;
                    break;
                case 4:
                    if (action.kind != ActionKind::button) break;
                    action.gesture = static_cast<Gesture>(random.below(6));
                    action.gesture_time = usual_time(action.gesture);
                    if (action.gesture_time != Duration{} && random.one_in(2)) action.gesture_time = ms();
                    break;
                case 5:
                    if (action.kind == ActionKind::button)
                        action.repeat = {ms(), Duration{1'000'001}, static_cast<std::uint32_t>(random.below(9))};
                    break;
                default:
                    if (action.kind == ActionKind::button)
                        action.debounce = ms(), action.opens = random.one_in(2) ? "n" : "", action.closes = true;
            }
        }
        Profile read = shipped;
        ProfileError error;
        const std::string text = overlay_text(shipped, changed);
        ASSERT_TRUE(lay_over(read, text, "o.toml", error)) << error.message() << '\n' << text;
        ASSERT_EQ(read, changed) << text;
    }
}

TEST(Overlay, StaysGoodWhenTheShippedProfileChanges) {
    const std::string overlay = R"(format = "cursorum-overlay"
version = 1
[mode.m.action.lock_box]
bind = ["KeyB"]
[mode.m.action.gone]
bind = ["KeyG"]
[mode.m.action.lift]
bind = ["KeyL"]
[mode.old.action.other]
bind = ["KeyO"]
)";
    Profile profile = profile_of(R"(
[mode.m.action.lock]
kind = "button"
bind = ["Space"]
formerly = ["lock_box"]
[mode.m.action.added]
kind = "button"
bind = ["KeyN"]
[mode.m.action.lift]
kind = "axis"
bind = [{ minus = "KeyF", plus = "KeyR" }]
)");
    const Profile before = profile;
    ProfileError error;
    EXPECT_FALSE(lay_over(profile, overlay, "o.toml", error));
    EXPECT_EQ(profile, before);
    std::vector<ProfileError> dropped;
    ASSERT_TRUE(lay_over(profile, overlay, "o.toml", error, dropped)) << error.message();
    EXPECT_EQ(profile.modes[0].actions[0].bindings, std::vector{button(controls::KeyB)});
    EXPECT_EQ(profile.modes[0].actions[2], before.modes[0].actions[2]) << "what does not fit changes nothing";
    std::string said;
    for (const ProfileError& it : dropped) said += it.file + ":" + std::to_string(it.line) + " " + it.found + "\n";
    EXPECT_EQ(said, "o.toml:5 the action \"gone\"\no.toml:8 \"KeyL\"\no.toml:9 the mode \"old\"\n");
    EXPECT_FALSE(lay_over(profile, "format = 3", "o.toml", error, dropped)) << "no overlay at all";
}

std::string text_of(const std::filesystem::path& path) {
    std::ifstream file{path};
    std::ostringstream text;
    text << file.rdbuf();
    return text.str();
}

// A disk that is full after some bytes stands for a power cut: the file is whole, the old one or the new one.
TEST(Overlay, AFileIsWrittenWholeOrNotAtAll) {
    const std::filesystem::path folder =
        std::filesystem::temp_directory_path() / ("overlay" + std::to_string(getpid()));
    std::filesystem::create_directory(folder);
    const std::string path = (folder / "player.toml").string(), old(5000, 'o'), next(9000, 'n');
    std::string why;
    ASSERT_TRUE(write_file_whole(path, old, why)) << why;
    rlimit before{};
    ASSERT_EQ(getrlimit(RLIMIT_FSIZE, &before), 0);
    const auto ignored = std::signal(SIGXFSZ, SIG_IGN);
    for (const rlim_t room : {0, 1, 4096, 8999}) {
        rlimit small = before;
        small.rlim_cur = room;
        ASSERT_EQ(setrlimit(RLIMIT_FSIZE, &small), 0);
        const bool written = write_file_whole(path, next, why);
        ASSERT_EQ(setrlimit(RLIMIT_FSIZE, &before), 0);
        EXPECT_FALSE(written);
        EXPECT_EQ(why, path + ".new: File too large");
        EXPECT_TRUE(text_of(path) == old);
        EXPECT_FALSE(std::filesystem::exists(path + ".new")) << "nothing is left over";
    }
    std::signal(SIGXFSZ, ignored);
    std::ofstream{path + ".new"} << "half of it";  // what a power cut leaves
    EXPECT_TRUE(text_of(path) == old);
    EXPECT_TRUE(write_file_whole(path, next, why)) << why;
    EXPECT_TRUE(text_of(path) == next);
    EXPECT_FALSE(write_file_whole((folder / "no" / "x.toml").string(), next, why));
    EXPECT_NE(why.find("No such file"), std::string::npos) << why;
    std::filesystem::remove_all(folder);
}

}  // namespace
