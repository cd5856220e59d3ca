// examples/quay_window in a real window on a real X server, played by a hand that knows only keys: it types a label,
// loses the focus with keys held, saves what was pressed, binds another key, and quits from the menu.

#include <gtest/gtest.h>
#include <poll.h>
#include <spawn.h>
#include <sys/wait.h>
#include <xcb/xcb.h>

#include <array>
#include <csignal>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <sstream>
#include <string>

#include "support/x_server.hpp"

extern char** environ;

namespace {

using test::eventually;

std::string content_of(const std::filesystem::path& path) {
    std::ifstream file{path};
    std::ostringstream text;
    text << file.rdbuf();
    return text.str();
}

/// The program, until it ends.
class Program {
public:
    Program(const std::string& display, const std::string& folder, std::vector<std::string> options) {
        setenv("DISPLAY", display.c_str(), 1);
        std::string line = "cd '" + folder + "' && exec '" QUAY_WINDOW "'";
        for (const std::string& option : options) line += " '" + option + "'";
        line += " >out 2>&1";
        std::array<char*, 4> arguments{const_cast<char*>("sh"), const_cast<char*>("-c"), line.data(), nullptr};
        is_there_ = posix_spawnp(&pid_, "sh", nullptr, nullptr, arguments.data(), environ) == 0;
    }
    ~Program() {
        if (is_there_) kill(pid_, SIGKILL), waitpid(pid_, nullptr, 0);
    }
    bool has_ended() {
        int status = 0;
        if (!is_there_ || waitpid(pid_, &status, WNOHANG) == 0) return false;
        is_there_ = false;
        exit_code = WIFEXITED(status) ? WEXITSTATUS(status) : -1;
        return true;
    }
    int exit_code = -1;

private:
    pid_t pid_ = 0;
    bool is_there_ = false;
};

/// The window of that name; 0 if there is none yet.
xcb_window_t window_named(xcb_connection_t* c, const std::string& name) {
    const xcb_window_t root = xcb_setup_roots_iterator(xcb_get_setup(c)).data->root;
    xcb_query_tree_reply_t* const tree = xcb_query_tree_reply(c, xcb_query_tree(c, root), nullptr);
    xcb_window_t found = 0;
    for (int i = 0; tree && i < xcb_query_tree_children_length(tree); ++i) {
        const xcb_window_t window = xcb_query_tree_children(tree)[i];
        xcb_get_property_reply_t* const its = xcb_get_property_reply(
            c, xcb_get_property(c, 0, window, XCB_ATOM_WM_NAME, XCB_ATOM_STRING, 0, 64), nullptr);
        if (its && std::string(static_cast<char*>(xcb_get_property_value(its)),
                               static_cast<std::size_t>(xcb_get_property_value_length(its))) == name)
            found = window;
        std::free(its);
    }
    std::free(tree);
    return found;
}

struct Folder {
    Folder() {
        std::string name = (std::filesystem::temp_directory_path() / "quay_window_XXXXXX").string();
        path = mkdtemp(name.data());
    }
    ~Folder() { std::filesystem::remove_all(path); }
    std::string path;
};

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
