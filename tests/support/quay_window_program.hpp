// examples/quay_window as a program that a test starts on a private X server.
#pragma once

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
#include <vector>

extern char** environ;

namespace test {

inline std::string content_of(const std::filesystem::path& path) {
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
        exit_code = WIFEXITED(status) ? WEXITSTATUS(status) : -WTERMSIG(status);
        return true;
    }
    int exit_code = -1;  // or, negative, the signal that ended it

private:
    pid_t pid_ = 0;
    bool is_there_ = false;
};

/// The window of that name; 0 if there is none yet.
inline xcb_window_t window_named(xcb_connection_t* c, const std::string& name) {
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

}  // namespace test
