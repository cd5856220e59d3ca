// examples/quay_window in a real window on a real X server, played by a hand that knows only keys: it types a label,
// loses the focus with keys held, saves what was pressed, binds another key, and quits from the menu.

#include <gtest/gtest.h>
#include <poll.h>
#include <xcb/xcb.h>

#include <filesystem>
#include <string>
#include <utility>
#include <vector>

#include "support/quay_window_program.hpp"
#include "support/x_server.hpp"

namespace {

using test::content_of;
using test::eventually;
using test::Folder;
using test::Program;
using test::window_named;

TEST(QuayWindowLive, IsPlayedByKeys) {
    const test::XServer server;
    ASSERT_TRUE(server.is_up()) << "Xvfb does not start";
    test::XHand hand{server.display()};
    const Folder folder;
    Program program{server.display(), folder.path, {"--settings", "player.toml"}};
    xcb_connection_t* const c = xcb_connect(server.display().c_str(), nullptr);
    xcb_window_t window = 0;
    ASSERT_TRUE(eventually([&] { return (window = window_named(c, "Quay")) != 0; }));
    const auto tap = [&](unsigned code) { hand.key(code, true), hand.key(code, false), hand.finish(); };
    constexpr unsigned escape = 1, t = 20, enter = 28, a = 30, h = 35, l = 38, up = 103, down = 108, f2 = 60;
    // It has a name before it is mapped, and only then can it have the focus.
    const std::filesystem::path saved = std::filesystem::path{folder.path} / "quay_window.jsonl";
    ASSERT_TRUE(eventually([&] { return hand.give_focus(window), tap(f2), std::filesystem::exists(saved); }));
    for (const unsigned code : {t, h, a, l, enter}) tap(code);
    hand.key(a, true);  // held while the focus goes and comes back
    hand.give_focus(hand.make_window());
    hand.give_focus(window);
    hand.key(a, false);
    // Without the focus, the menu may have opened: Escape closes it, or opens it, and F2 saves only while it is closed.
    ASSERT_TRUE(eventually([&] {
        return tap(escape), tap(f2), content_of(saved).find("\"focused\":false") != std::string::npos;
    })) << content_of(saved);
    const std::string recording = content_of(saved);
    EXPECT_NE(recording.find("\"KeyT\""), std::string::npos) << "the key that opens the field is the game's";
    EXPECT_EQ(recording.find("\"KeyL\""), std::string::npos) << "what is typed is nobody's business";
    // The menu's sixth line asks for the key of "lock", in a frame after that; its last one, above the first, quits.
    const std::filesystem::path settings = std::filesystem::path{folder.path} / "player.toml";
    EXPECT_TRUE(eventually([&] {
        for (const unsigned code : {escape, down, down, down, down, down, enter}) tap(code);
        for (int i = 0; i < 20 && content_of(settings).find("KeyL") == std::string::npos; ++i)
            poll(nullptr, 0, 10), tap(l);
        return content_of(settings).find("bind = [\"KeyL\"") != std::string::npos;
    })) << content_of(settings);
    EXPECT_TRUE(eventually([&] {
        for (const unsigned code : {escape, up, enter}) tap(code);
        return program.has_ended();
    }));
    EXPECT_EQ(program.exit_code, 0) << content_of(std::filesystem::path{folder.path} / "out");
    xcb_disconnect(c);
}

TEST(QuayWindowLive, PlaysARecordingAndEndsWithItsServer) {
    test::XServer server;
    ASSERT_TRUE(server.is_up()) << "Xvfb does not start";
    const Folder folder;
    Program program{server.display(),
                    folder.path,
                    {"--source", "replay:" CURSORUM_SOURCE_DIR "/demo/two-operators.jsonl", "--size", "800x480"}};
    xcb_connection_t* const c = xcb_connect(server.display().c_str(), nullptr);
    ASSERT_TRUE(eventually([&] { return window_named(c, "Quay") != 0; }));
    xcb_disconnect(c);
    server.stop();
    EXPECT_TRUE(eventually([&] { return program.has_ended(); }));
    EXPECT_EQ(content_of(std::filesystem::path{folder.path} / "out"), "");
}

TEST(QuayWindowLive, SaysWhatIsWrong) {
    const Folder folder;
    for (const auto& [options, said] :
         {std::pair<std::vector<std::string>, const char*>{{"--source", "replay:none.jsonl"}, "none.jsonl"},
          {{"--size", "12"}, "found --size 12"},
          {{"--sauce", "live"}, "found --sauce live"},
          {{}, "no X server answers"}}) {
        Program program{":4711", folder.path, options};
        ASSERT_TRUE(eventually([&] { return program.has_ended(); }));
        EXPECT_EQ(program.exit_code, 2);
        const std::string out = content_of(std::filesystem::path{folder.path} / "out");
        EXPECT_NE(out.find(said), std::string::npos) << out;
    }
}

}  // namespace
