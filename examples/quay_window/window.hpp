// A window: XCB, and Cairo to draw in it. Keys and the mouse are the source's business; the window keeps its own
// events.
#pragma once

#include <cairo/cairo.h>
#include <xcb/xcb.h>

#include <functional>
#include <memory>
#include <string>

#include "cursorum/sources/x11_source.hpp"

class Window {
public:
    /// Null, and the reason in `error`, if no X server answers.
    static std::unique_ptr<Window> open(int width, int height, std::string& error);
    ~Window();
    Window(const Window&) = delete;
    Window& operator=(const Window&) = delete;

    xcb_connection_t* connection() const { return connection_; }
    xcb_window_t id() const { return window_; }
    int width() const { return width_; }
    int height() const { return height_; }
    /// Passes events to the source, if there is one, and keeps the rest: resizing, closing. False when it was closed.
    bool pump(cursorum::X11Source* source);
    void draw(const std::function<void(cairo_t*)>& picture);

private:
    Window() = default;
    xcb_connection_t* connection_ = nullptr;
    xcb_screen_t* screen_ = nullptr;
    xcb_window_t window_ = 0;
    xcb_atom_t protocols_ = 0, close_ = 0;
    cairo_surface_t *surface_ = nullptr, *picture_ = nullptr;
    int width_ = 0, height_ = 0;
    bool is_closed_ = false;
};
