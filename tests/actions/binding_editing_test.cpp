// Capturing bindings, and showing them as text.
#include <gtest/gtest.h>

#include "actions/action_run.hpp"
#include "core/random_events.hpp"
#include "cursorum/actions/binding_capture.hpp"
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
             {ActionKind::button, "{ symbol = \"\\\"\" }"},
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

}  // namespace
