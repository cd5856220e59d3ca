// examples/quay_window, played without its window at 10 to 1,000 pictures per second.

#include <gtest/gtest.h>

#include <algorithm>
#include <initializer_list>
#include <string>

#include "cursorum/actions/profile_file.hpp"
#include "game.hpp"
#include "snippets/world.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using test::down;
using test::focus;
using test::place;
using test::Script;
using test::stop;
using test::up;

constexpr int rates[] = {10, 30, 60, 144, 1000};

PlayerProfile shipped() {
    ProfileError error;
    const auto profile = load_profile(CURSORUM_SOURCE_DIR "/examples/quay_window/quay_window.toml", error);
    EXPECT_TRUE(profile) << error.message();
    return PlayerProfile{profile.value_or(Profile{})};
}

/// The window's loop, with an engine's own callbacks in place of a source.
struct Play : test::World {
    Play(const Script& script, int frames_per_second) : World{script, frames_per_second} {
        game.set_layout(Layout{1280, 800});
        when_key = [this](Button key, bool is_down) {
            timeline.desk().button(key, is_down);
            const std::string_view name = name_of(key);
            if (is_down && name.starts_with("Key"))
                timeline.desk().typed(std::string(1, static_cast<char>(name.back() - 'A' + 'a')));
        };
        when_focus = [this](bool has) {
            has ? timeline.desk().gain_focus(my_keys_down()) : timeline.desk().lose_focus();
            if (!has) game.pause();
        };
        when_place = [this](double x, double y) { timeline.desk().moved_to(WindowPoint{x, y}); };
        while (running) {
            pump(my_window);
            if (const auto tick = pictures.next(Clock::now())) {
                game.update(sampler.advance(*tick), tick->step);
                pictures.stand_still(game.actions.pauses());
                horns += game.actions[horn].press_count();
                locks = game.quay.moved;
            }
        }
    }
    Timeline timeline{{.down = my_keys_down()}};
    Sampler sampler{timeline};
    PictureClock pictures;
    Game game{shipped()};
    const ButtonAction horn = game.player.profile().find_button("horn").value();
    unsigned horns = 0, locks = 0;
};

void tap(Script& script, double& at, std::initializer_list<Button> keys) {
    for (const Button key : keys) script.push_back(down(at, key)), script.push_back(up(at + 5, key)), at += 9;
}

/// The way of an axis with that rise and a fall of 120 ms, for a key held that long: what is under the slopes.
double way_of(double seconds, double rise = 0.2) {
    const double highest = std::min(seconds / rise, 1.0), risen = highest * rise, fallen = highest * 0.12;
    return 3 * highest * (risen / 2 + (seconds - risen) + fallen / 2);
}

TEST(QuayWindow, MovesTheSameAtEveryRate) {
    for (const int rate : rates) {
        SCOPED_TRACE(rate);
        // A key that was held at the start moves from the first frame on.
        Play play{{down(-5, KeyD), up(103, KeyD), down(1007, KeyA), up(1611, KeyA), down(2000, KeyS), up(2111, KeyS)},
                  rate};
        EXPECT_NEAR(play.game.quay.cranes[0].trolley, 5 + way_of(0.103) - way_of(0.604), 1e-9);
        EXPECT_NEAR(play.game.quay.cranes[0].height, 6 - way_of(0.111), 1e-9);
        EXPECT_EQ(play.horns, 0U);
    }
}

TEST(QuayWindow, AStopMovesItNoFurtherThanTheClockAllows) {
    for (const int rate : rates) {
        SCOPED_TRACE(rate);
        Play play{{down(1000, KeyA), stop(1050, 3000), up(4200, KeyA)}, rate};
        ASSERT_EQ(play.gaps().size(), 1U);
        const double left_out = static_cast<double>(play.gaps()[0].to - play.gaps()[0].from) / 1e9;
        EXPECT_NEAR(play.game.quay.cranes[0].trolley, 5 - way_of(3.2 - left_out), 1e-6);
    }
}

TEST(QuayWindow, TakesABoxAndPutsItDown) {
    for (const int rate : rates) {
        SCOPED_TRACE(rate);
        // Down onto the second column from the right, where a box stands; up, to the right, and down again.
        Script script{down(100, KeyA),  up(500, KeyA),     down(600, KeyS), up(3000, KeyS),   down(3100, Space),
                      up(3110, Space),  down(3300, KeyW),  up(5000, KeyW),  down(5200, KeyD), up(6000, KeyD),
                      down(6200, KeyS), down(8200, Space), up(8210, Space), up(9000, KeyS)};
        Play play{script, rate};
        EXPECT_EQ(play.locks, 1U) << "the press before the landing waits for it, or comes after it";
        EXPECT_FALSE(play.game.quay.cranes[0].held);
    }
}

TEST(QuayWindow, TypesALabelAndNoHorn) {
    for (const int rate : rates) {
        SCOPED_TRACE(rate);
        Script script{place(100, 1000, 300), down(200, MouseLeft), up(210, MouseLeft)};  // a box of the plan
        double at = 500;
        tap(script, at, {KeyT, KeyH, KeyO, KeyX, Backspace, KeyI, KeyS, KeyT, Enter, KeyH});
        script.push_back(focus(at += 200, false));
        tap(script, at, {KeyH});
        script.push_back(focus(at += 200, true));
        tap(script, at += 100, {Escape});
        tap(script, at += 300, {KeyH});
        Play play{script, rate};
        ASSERT_TRUE(play.game.selected);
        const Box& box = play.game.quay.stacks[play.game.selected->column][play.game.selected->level];
        EXPECT_EQ(box.label.substr(box.label.size() - 5), "hoist") << box.label;
        EXPECT_EQ(play.horns, 2U);
        EXPECT_FALSE(play.game.actions.pauses());
    }
}

TEST(QuayWindow, TheMenuClosesAndBindsWhatWasChosen) {
    for (const int rate : rates) {
        SCOPED_TRACE(rate);
        Script script;
        double at = 500;
        tap(script, at, {Escape});
        script.push_back(down(at += 10, KeyD));  // nothing moves while it is open
        for (int i = 0; i < 5; ++i) tap(script, at += 100, {ArrowDown});
        tap(script, at += 300, {Enter});
        tap(script, at += 300, {KeyH});  // for "lock", although "horn" has it
        script.push_back(up(at += 300, KeyD));
        tap(script, at += 100, {Escape});
        tap(script, at += 300, {KeyH});
        Play play{script, rate};
        EXPECT_FALSE(play.game.actions.pauses());
        EXPECT_NEAR(play.game.quay.cranes[0].trolley, 5, 0.35) << "but for what it coasted";
        EXPECT_EQ(play.game.player.profile().action("crane.lock")->bindings[0].buttons[0], KeyH);
        EXPECT_EQ(play.horns, 0U) << "the key is another action's now";
        EXPECT_FALSE(play.game.wants_to_quit);
    }
}

// The menu is opened, gone through and chosen from, and a label typed, all within one picture.
TEST(QuayWindow, TakesManyKeysInOnePicture) {
    for (const int rate : rates) {
        SCOPED_TRACE(rate);
        Script script{place(100, 1000, 300), down(200, MouseLeft), up(210, MouseLeft)};  // a box of the plan
        double at = 503;
        const auto quick = [&](std::initializer_list<Button> keys) {
            for (const Button key : keys) script.push_back(down(at += 0.5, key)), script.push_back(up(at += 0.5, key));
        };
        quick({KeyT, KeyX, Backspace, KeyH, KeyA, KeyL, Enter});
        at += 500;
        quick({Escape, ArrowDown, ArrowDown, ArrowDown, ArrowDown, ArrowDown, Enter});
        at += 500;
        quick({KeyL});
        at += 500;
        quick({ArrowUp, ArrowUp, ArrowUp, ArrowUp, ArrowUp, ArrowUp, Enter});
        Play play{script, rate};
        ASSERT_TRUE(play.game.selected);
        const Box& box = play.game.quay.stacks[play.game.selected->column][play.game.selected->level];
        EXPECT_EQ(box.label.substr(box.label.size() - 3), "hal");
        EXPECT_EQ(play.game.player.profile().action("crane.lock")->bindings[0].buttons[0], KeyL);
        EXPECT_TRUE(play.game.wants_to_quit);
        EXPECT_EQ(play.horns, 0U);
    }
}

TEST(QuayWindow, DragsABoxToAnotherStackOrBack) {
    const Layout layout{1280, 800};
    const auto middle = [&](std::size_t column, std::size_t level) {
        const WindowRect cell = layout.cell(column, level, 1, 0, 0);
        return WindowPoint{cell.x + cell.width / 2, cell.y + cell.height / 2};
    };
    for (const int rate : rates) {
        SCOPED_TRACE(rate);
        const WindowPoint from = middle(0, 2), to = middle(6, 0);
        Play play{{place(100, from.x, from.y), down(300, MouseLeft), place(500, 1000, 200), place(700, to.x, to.y),
                   up(900, MouseLeft), place(1200, to.x, to.y), down(1300, MouseLeft), place(1500, 900, 200),
                   focus(1700, false), focus(2000, true), up(2100, MouseLeft)},
                  rate};
        EXPECT_EQ(play.game.quay.stacks[6].size(), 1U) << "dropped there, and not taken away when the focus went";
        EXPECT_EQ(play.game.quay.stacks[0].size(), 2U);
        EXPECT_FALSE(play.game.dragged);
    }
}

// The ramp and the buffer of the lock, while one plays; they are in the player's file.
TEST(QuayWindow, SettingsActAtOnce) {
    for (const int rate : rates) {
        SCOPED_TRACE(rate);
        Script script;
        double at = 500;
        tap(script, at, {Escape});
        for (int i = 0; i < 3; ++i) tap(script, at += 100, {ArrowDown});
        for (int i = 0; i < 2; ++i) tap(script, at += 100, {ArrowRight});
        tap(script, at += 100, {ArrowDown});
        tap(script, at += 100, {ArrowLeft});
        tap(script, at += 200, {Escape});
        script.push_back(down(at += 200, KeyA)), script.push_back(up(at += 500, KeyA));
        Play play{script, rate};
        EXPECT_NEAR(play.game.quay.cranes[0].trolley, 5 - way_of(0.5, 0.3), 1e-9);
        EXPECT_EQ(play.game.player.profile().action("crane.lock")->buffer, std::chrono::milliseconds{150});
        const std::string file = play.game.player.overlay();
        EXPECT_NE(file.find("300ms"), std::string::npos) << file;
        EXPECT_NE(file.find("150ms"), std::string::npos) << file;
    }
}

// A pad for each; one goes, and its operator gets half of the keyboard until it is back.
TEST(QuayWindow, TwoOperatorsShareTheKeyboardWhileAPadIsAway) {
    constexpr DeviceId first{11}, second{12};
    for (const int rate : rates) {
        SCOPED_TRACE(rate);
        Timeline timeline{{.start = Time{}}};
        Inlet& desk = timeline.desk();
        Sampler sampler{timeline, {.start = Time{Duration{1}}}};
        Game game{shipped()};
        std::int64_t frame = 0;
        const auto at = [](double ms) { return Time{Duration{static_cast<std::int64_t>(ms * 1e6)}}; };
        const auto play_until = [&](double ms) {
            for (; static_cast<double>(frame + 1) * 1000 / rate <= ms; ++frame) {
                const double step = game.actions.pauses() ? 0 : 1.0 / rate;
                game.update(sampler.advance(at(static_cast<double>(frame + 1) * 1000 / rate)), step);
            }
        };
        const auto key = [&](double ms, Button button, bool is_down) {
            play_until(ms);
            desk.button(button, is_down, at(ms));
        };
        const DeviceInfo pad{.kind = DeviceKind::gamepad};
        desk.connect(first, pad, at(5));
        desk.connect(second, pad, at(6));
        play_until(200);
        desk.axis(second, PadStickLeftX, 1, at(203));
        play_until(1203);
        desk.axis(second, PadStickLeftX, 0, at(1203));
        play_until(1800);
        EXPECT_NEAR(game.quay.cranes[1].trolley, 1 + way_of(1), 1e-9);
        desk.disconnect(second, at(1801));
        play_until(2100);
        EXPECT_TRUE(game.actions.pauses());
        key(2103, Escape, true), key(2107, Escape, false);
        key(2401, KeyJ, true), key(2403, KeyA, true), key(2901, KeyJ, false), key(3003, KeyA, false);
        play_until(3600);
        EXPECT_FALSE(game.actions.pauses());
        EXPECT_NEAR(game.quay.cranes[0].trolley, 5 - way_of(0.6), 1e-9);
        EXPECT_NEAR(game.quay.cranes[1].trolley, 1 + way_of(1) - way_of(0.5), 1e-9);
        desk.connect(second, pad, at(3601));
        play_until(4000);
        key(4001, KeyJ, true), key(4201, KeyJ, false);  // the whole keyboard is the first operator's again
        play_until(4800);
        EXPECT_NEAR(game.quay.cranes[0].trolley, 5 - way_of(0.6) - way_of(0.2), 1e-9);
        EXPECT_NEAR(game.quay.cranes[1].trolley, 1 + way_of(1) - way_of(0.5), 1e-9);
    }
}

}  // namespace
