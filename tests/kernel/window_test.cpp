// examples/quay_window in a real window, with pads of a real kernel: two operators, a plug that is pulled, focus that
// is lost while a stick is held, and a random hand for keys, mouse and pads together.

#include <gtest/gtest.h>

#include <filesystem>
#include <optional>
#include <random>
#include <sstream>
#include <string>
#include <utility>
#include <vector>

#include "cursorum/recording/replay.hpp"
#include "kernel/made_devices.hpp"
#include "support/quay_window_program.hpp"
#include "support/x_server.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::kernel;
using test::content_of;
using test::eventually;

const std::vector<std::pair<unsigned, unsigned>> codes{{EV_KEY, BTN_SOUTH}, {EV_KEY, BTN_EAST},  {EV_KEY, BTN_START},
                                                       {EV_ABS, ABS_X},     {EV_ABS, ABS_Y},     {EV_ABS, ABS_RX},
                                                       {EV_ABS, ABS_RY},    {EV_ABS, ABS_HAT0X}, {EV_ABS, ABS_HAT0Y}};

/// The game in its window, and what it saves of the last half minute.
struct Played {
    Played() {
        connection = xcb_connect(server.display().c_str(), nullptr);
        start();
    }
    ~Played() { xcb_disconnect(connection); }

    void start() {
        program.emplace(server.display(), folder.path, std::vector<std::string>{"--settings", "player.toml"});
        EXPECT_TRUE(eventually([&] { return (window = test::window_named(connection, "Quay")) != 0; }));
        // It has a name before it is mapped, and only then can it have the focus.
        EXPECT_TRUE(eventually([&] { return hand.give_focus(window), tap(f2), std::filesystem::exists(saved); }));
    }

    void tap(unsigned code) { hand.key(code, true), hand.key(code, false); }
    /// Saves until the recording has that text `count` times. Where the menu is open, Escape closes it.
    bool has(const std::string& text, unsigned count = 1) {
        return eventually([&] {
            tap(f2);
            const std::string all = content_of(saved);
            unsigned found = 0;
            for (auto at = all.find(text); at != std::string::npos; at = all.find(text, at + 1)) ++found;
            if (found < count) tap(escape);
            return found >= count;
        });
    }

    static constexpr unsigned escape = 1, f2 = 60;
    test::XServer server;
    test::XHand hand{server.display()};
    const test::Folder folder;
    const std::filesystem::path saved = std::filesystem::path{folder.path} / "quay_window.jsonl";
    std::optional<test::Program> program;
    xcb_connection_t* connection = nullptr;
    xcb_window_t window = 0;
};

/// What is down at the recording's end, keys of the test apart; and how far axes are out.
std::string at_the_end(const std::string& recording) {
    std::istringstream in{recording};
    Replay replay{in, "saved"};
    std::string left;
    while (const Frame* frame = replay.next()) {
        left.clear();
        frame->all_down().for_each([&](Button button) {
            if (button != F2 && button != Escape) left += std::string{name_of(button)} + ' ';
        });
        for (const Axis axis : {PadStickLeftX, PadStickLeftY})
            if (frame->raw_axis(axis).now != 0) left += std::string{name_of(axis)} + ' ';
    }
    EXPECT_FALSE(replay.error()) << replay.error()->message();
    return left;
}

bool has_window() { return std::filesystem::exists(QUAY_WINDOW); }

TEST(Window, IsPlayedWithTwoPadsThatComeAndGo) {
    if (!has_window()) GTEST_SKIP() << "the machine was made without the window";
    Played game;
    ASSERT_TRUE(game.server.is_up()) << "Xvfb does not start";
    Made west{"west pad", codes};
    std::optional<Made> east{std::in_place, "east pad", codes};
    ASSERT_TRUE(game.has("\"west pad\"") && game.has("\"east pad\"")) << content_of(game.saved);
    west.send(EV_KEY, BTN_SOUTH, 1).report();
    east->send(EV_ABS, ABS_X, 32767).report();
    ASSERT_TRUE(game.has("\"control\":\"PadSouth\",\"down\":true")) << content_of(game.saved);
    ASSERT_TRUE(game.has("\"control\":\"PadStickLeftX\",\"value\":1")) << content_of(game.saved);
    east.reset();  // its stick is held
    ASSERT_TRUE(game.has("\"type\":\"disconnect\"")) << content_of(game.saved);
    // Released while the window has no focus, which is then as if it had been let go of when the focus went.
    game.hand.give_focus(game.hand.make_window());
    west.send(EV_KEY, BTN_SOUTH, 0).report();
    game.hand.give_focus(game.window);
    ASSERT_TRUE(game.has("\"focused\":false") && game.has("\"focused\":true")) << content_of(game.saved);
    EXPECT_EQ(at_the_end(content_of(game.saved)), "");
    east.emplace("east pad", codes);
    ASSERT_TRUE(game.has("\"east pad\"", 2)) << "it is known again: " << content_of(game.saved);
    east->send(EV_KEY, BTN_EAST, 1).report();
    ASSERT_TRUE(game.has("\"control\":\"PadEast\",\"down\":true")) << content_of(game.saved);
    game.server.stop();
    EXPECT_TRUE(eventually([&] { return game.program->has_ended(); }));
    EXPECT_EQ(content_of(std::filesystem::path{game.folder.path} / "out"), "");
}

TEST(Window, SurvivesARandomHand) {
    if (!has_window()) GTEST_SKIP() << "the machine was made without the window";
    Played game;
    ASSERT_TRUE(game.server.is_up()) << "Xvfb does not start";
    std::optional<Made> pads[2];
    pads[0].emplace("west pad", codes), pads[1].emplace("east pad", codes);
    constexpr unsigned keys[] = {1, 17, 20, 28, 30, 31, 32, 35, 36, 38, 42, 49, 57, 61, 103, 108};
    constexpr unsigned pad_buttons[] = {BTN_SOUTH, BTN_EAST, BTN_START};
    // For other ones: --gtest_shuffle --gtest_repeat=N.
    const unsigned seed = 20261202 + static_cast<unsigned>(testing::UnitTest::GetInstance()->random_seed());
    SCOPED_TRACE("seed " + std::to_string(seed));
    std::mt19937 random{seed};
    const auto below = [&](unsigned count) { return static_cast<unsigned>(random() % count); };
    const xcb_window_t other = game.hand.make_window();
    const auto go_on = [&] {  // also if it chose "quit" in the menu
        if (!game.program->has_ended()) return;
        EXPECT_EQ(game.program->exit_code, 0);
        game.start();
    };
    for (int deed = 0; deed < 1500 && !HasFailure(); ++deed) {
        std::optional<Made>& pad = pads[below(2)];
        const unsigned what = below(40);
        if (what == 0)
            pad ? pad.reset() : static_cast<void>(pad.emplace(&pad == pads ? "west pad" : "east pad", codes));
        else if (what == 1)
            game.hand.give_focus(below(2) ? other : game.window);
        else if (what < 12 && pad)
            pad->send(EV_KEY, pad_buttons[below(3)], below(2)).report();
        else if (what < 24 && pad)
            pad->send(EV_ABS, below(2) ? ABS_X : ABS_Y, static_cast<int>(below(65535)) - 32767).report();
        else if (what < 28)
            game.hand.move_to(static_cast<int>(below(640)), static_cast<int>(below(480)));
        else if (what < 31)
            game.hand.mouse(1 + below(5), below(2));
        else
            game.hand.key(keys[below(std::size(keys))], below(2));
        go_on();
    }
    for (const unsigned key : keys) game.hand.key(key, false);
    for (unsigned button = 1; button <= 3; ++button) game.hand.mouse(button, false);
    for (std::optional<Made>& pad : pads) pad.reset();
    game.hand.give_focus(other);
    game.hand.give_focus(game.window);
    const std::string before = content_of(game.saved);
    EXPECT_TRUE(eventually([&] {
        go_on();
        game.tap(game.escape), game.tap(game.f2);
        const std::string now = content_of(game.saved);
        return now != before && at_the_end(now).empty();
    })) << at_the_end(content_of(game.saved));
}

}  // namespace
