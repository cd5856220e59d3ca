#include "support/x_server.hpp"

#include <fcntl.h>
#include <poll.h>
#include <signal.h>
#include <sys/wait.h>
#include <unistd.h>
#include <xcb/xtest.h>

#include <chrono>
#include <cstdlib>
#include <string>

namespace test {

XServer::XServer() {
    int number[2];
    if (pipe(number) != 0) return;
    pid_ = fork();
    if (pid_ == 0) {
        dup2(number[1], 6);
        const int nowhere = open("/dev/null", O_RDWR);
        dup2(nowhere, 1);
        dup2(nowhere, 2);
        execlp("Xvfb", "Xvfb", "-displayfd", "6", "-screen", "0", "640x480x24", "-nolisten", "tcp", "-noreset",
               nullptr);
        _exit(127);
    }
    close(number[1]);
    std::string text;
    char c = 0;
    pollfd waiting{number[0], POLLIN, 0};
    while (poll(&waiting, 1, 60'000) == 1 && read(number[0], &c, 1) == 1 && c != '\n') text += c;
    close(number[0]);
    if (c == '\n') display_ = ":" + text;
}

XServer::~XServer() { stop(); }

void XServer::stop() {
    if (pid_ <= 0) return;
    kill(pid_, SIGTERM);
    waitpid(pid_, nullptr, 0);
    pid_ = -1;
}

XHand::XHand(const std::string& display) : connection_{xcb_connect(display.c_str(), nullptr)}, root_{0} {
    root_ = xcb_setup_roots_iterator(xcb_get_setup(connection_)).data->root;
}

XHand::~XHand() { xcb_disconnect(connection_); }

void XHand::key(unsigned linux_code, bool down) {
    xcb_test_fake_input(connection_, down ? XCB_KEY_PRESS : XCB_KEY_RELEASE, static_cast<std::uint8_t>(linux_code + 8),
                        XCB_CURRENT_TIME, XCB_NONE, 0, 0, 0);
    finish();
}

void XHand::mouse(unsigned button, bool down) {
    xcb_test_fake_input(connection_, down ? XCB_BUTTON_PRESS : XCB_BUTTON_RELEASE, static_cast<std::uint8_t>(button),
                        XCB_CURRENT_TIME, XCB_NONE, 0, 0, 0);
    finish();
}

void XHand::move_to(int x, int y) {
    xcb_test_fake_input(connection_, XCB_MOTION_NOTIFY, 0, XCB_CURRENT_TIME, root_, static_cast<std::int16_t>(x),
                        static_cast<std::int16_t>(y), 0);
    finish();
}

void XHand::move_by(int dx, int dy) {
    xcb_test_fake_input(connection_, XCB_MOTION_NOTIFY, 1, XCB_CURRENT_TIME, XCB_NONE, static_cast<std::int16_t>(dx),
                        static_cast<std::int16_t>(dy), 0);
    finish();
}

int XHand::pointer_x() {
    xcb_query_pointer_reply_t* reply =
        xcb_query_pointer_reply(connection_, xcb_query_pointer(connection_, root_), nullptr);
    const int x = reply ? reply->root_x : -1;
    std::free(reply);
    return x;
}

xcb_window_t XHand::make_window() {
    const xcb_window_t window = xcb_generate_id(connection_);
    xcb_create_window(connection_, XCB_COPY_FROM_PARENT, window, root_, 0, 0, 640, 480, 0,
                      XCB_WINDOW_CLASS_INPUT_OUTPUT, XCB_COPY_FROM_PARENT, 0, nullptr);
    xcb_map_window(connection_, window);
    finish();
    return window;
}

void XHand::give_focus(xcb_window_t window) {
    xcb_set_input_focus(connection_, XCB_INPUT_FOCUS_POINTER_ROOT, window, XCB_CURRENT_TIME);
    finish();
}

void XHand::grab_server(bool on) {
    on ? xcb_grab_server(connection_) : xcb_ungrab_server(connection_);
    finish();
}

void XHand::grab(bool on) {
    if (on)
        std::free(xcb_grab_keyboard_reply(
            connection_,
            xcb_grab_keyboard(connection_, 1, root_, XCB_CURRENT_TIME, XCB_GRAB_MODE_ASYNC, XCB_GRAB_MODE_ASYNC),
            nullptr));
    else
        xcb_ungrab_keyboard(connection_, XCB_CURRENT_TIME);
    finish();
}

void XHand::finish() { std::free(xcb_get_input_focus_reply(connection_, xcb_get_input_focus(connection_), nullptr)); }

bool eventually(const std::function<bool()>& step) {
    const auto until = std::chrono::steady_clock::now() + std::chrono::seconds{60};
    while (!step()) {
        if (std::chrono::steady_clock::now() > until) return false;
        poll(nullptr, 0, 1);  // the condition is looked at again; nothing depends on this pause
    }
    return true;
}

}  // namespace test
