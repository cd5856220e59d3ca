// What tests of recent input share: a profile with something of everything, and frames and actions as text.
#pragma once

#include <gtest/gtest.h>

#include <sstream>
#include <string>
#include <vector>

#include "actions/action_run.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/recording/replay.hpp"
#include "cursorum/why/replayed_calls.hpp"

namespace test {

inline constexpr std::int64_t ms = 1'000'000;
inline constexpr DeviceId keyboard{1}, other_keyboard{2}, mouse{3}, pad{4};

/// Something of everything that a reader remembers from frame to frame.
inline const std::string everything = R"(
[mode.crane.action.lock]
kind = "button"
bind = ["Space", { button = "PadPullRight", press = 0.75, release = 0.5 }]
buffer = "20ms"
[mode.crane.action.horn]
kind = "button"
bind = ["KeyH", { lock = "CapsLock" }]
gesture = "long_press"
time = "30ms"
[mode.crane.action.tap]
kind = "button"
bind = ["KeyT", "PadPullLeft"]
gesture = "tap"
time = "25ms"
buffer = "5ms"
[mode.crane.action.twice]
kind = "button"
bind = ["KeyT", "PadStickRightLeft"]
gesture = "double_tap"
time = "20ms"
[mode.crane.action.slow]
kind = "button"
bind = ["Shift", { touch = "pressure", press = 0.5 }]
gesture = "toggle"
[mode.crane.action.worn]
kind = "button"
bind = ["KeyB", "WheelDown"]
debounce = "15ms"
[mode.crane.action.seldom]
kind = "button"
bind = ["Control+KeyL", "KeyA>KeyB"]
min_interval = "40ms"
[mode.crane.action.pause]
kind = "button"
bind = ["Escape", "PadStickLeftUp"]
opens = "menu"
[mode.crane.action.hoist]
kind = "axis"
bind = [{ minus = "KeyS", plus = "KeyW" }, { axis = "PadStickRightY" }, { wheel = "y" }]
opposite = "last"
rise = "70ms"
fall = "40ms"
[mode.crane.action.travel]
kind = "vector"
bind = [{ left = "KeyA", right = "KeyD", up = "KeyW", down = "KeyS" }, { stick = "PadStickLeft" }, { motion = "both" }]
directions = 8
rise = "30ms"
[mode.crane.action.look]
kind = "vector"
bind = [{ touch = "position", dead_zone = 0.1 }]
[mode.menu]
covers = true
[mode.menu.action.back]
kind = "button"
bind = ["Escape"]
closes = true
[mode.menu.action.choose]
kind = "button"
bind = ["Space", "WheelUp"]
gesture = "release"
[mode.menu.action.scroll]
kind = "vector"
bind = [{ motion = "both" }, { stick = "PadStickLeft" }]
)";

inline constexpr Button keys[] = {controls::Space,       controls::KeyH,        controls::KeyT, controls::ShiftLeft,
                                  controls::ShiftRight,  controls::KeyB,        controls::KeyL, controls::KeyA,
                                  controls::KeyD,        controls::KeyW,        controls::KeyS, controls::Escape,
                                  controls::ControlLeft, controls::ControlRight};

/// What the frame and the reader show, without times that depend on when the clock began.
inline std::string shown(const Frame& frame, const ActionReader& reader, const Profile& profile) {
    std::ostringstream text;
    text.precision(17);
    for (const Button key : keys) text << name_of(key) << ' ' << test::text(frame[key].figures()) << '\n';
    for (const Button key :
         {controls::Shift, axis_button(controls::PadPullLeft), axis_button(controls::PadPullRight),
          controls::PadStickLeftUp, controls::PadStickRightLeft, axis_button(controls::PadStickLeftX)})
        text << name_of(key) << ' ' << test::text(frame[key].figures()) << '\n';
    text << "motion " << frame.pointer().motion().x << ' ' << frame.pointer().motion().y << " wheel "
         << frame.pointer().wheel_steps().y << '\n';
    std::uint16_t number = 0;
    for (const Mode& mode : profile.modes)
        for (const Action& action : mode.actions) {
            text << action.name << ' ';
            if (action.kind == ActionKind::button) {
                text << test::text(reader[ButtonAction{number}].figures());
            } else {
                const VectorActionReading v = reader[VectorAction{number}];
                text << v.value.x << ' ' << v.value.y << ' ' << v.before.x << ' ' << v.integral.x << ' ' << v.integral.y
                     << ' ' << v.relative.x << ' ' << v.relative.y << ' ' << v.facing.x;
            }
            text << '\n';
            ++number;
        }
    text << reader.mode_change_count() << " turns";
    return text.str();
}

inline std::vector<std::string> replayed(const std::string& recording, const Profile& profile) {
    std::istringstream in{recording};
    std::vector<std::string> frames;
    ReplayedCalls calls;
    ActionReader reader{profile};
    Replay replay{in, "r", {.on_line = [&](const RecordingLine& line, Outcome) { calls.note(line); }}};
    while (const Frame* frame = replay.next()) {
        calls.read(reader, *frame);
        if (replay.frame_number() != 0) frames.push_back(shown(*frame, reader, profile));
    }
    EXPECT_FALSE(replay.error()) << replay.error()->message();
    return frames;
}

}  // namespace test
