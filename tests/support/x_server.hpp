// A private X server for a test, and fake keys on it.
#pragma once

#include <sys/types.h>
#include <xcb/xcb.h>

#include <cstdint>
#include <functional>
#include <string>

namespace test {

/// Xvfb on a free display, ended with the object. -noreset, so that settings outlive the last client.
class XServer {
public:
    XServer();
    ~XServer();
    XServer(const XServer&) = delete;
    XServer& operator=(const XServer&) = delete;

    bool is_up() const { return !display_.empty(); }
    const std::string& display() const { return display_; }
    void stop();

private:
    pid_t pid_ = -1;
    std::string display_;
};

/// A client that presses keys by XTEST and owns a window.
class XHand {
public:
    explicit XHand(const std::string& display);
    ~XHand();
    XHand(const XHand&) = delete;
    XHand& operator=(const XHand&) = delete;

    /// `linux_code` as in <linux/input-event-codes.h>; `device` 0 is the core keyboard.
    void key(unsigned linux_code, bool down);
    void mouse(unsigned button, bool down);
    void move_to(int x, int y);  // on the screen
    void move_by(int dx, int dy);
    int pointer_x();
    xcb_window_t make_window();
    void give_focus(xcb_window_t window);
    /// Grabs the keyboard for this client, as a desktop's own shortcut does; or lets it go.
    void grab(bool on);
    /// Grabs the server, which then answers nobody else; or lets it go.
    void grab_server(bool on);
    /// All that was asked so far has been done by the server.
    void finish();

private:
    xcb_connection_t* connection_;
    xcb_window_t root_;
};

/// Runs `step` again and again until it returns true; false if it does not within ten seconds.
bool eventually(const std::function<bool()>& step);

}  // namespace test
