// The window's own events are few: it is resized, uncovered, or closed.
#include "window.hpp"

#include <cairo/cairo-xcb.h>

#include <cstdlib>
#include <cstring>

namespace {

xcb_atom_t atom(xcb_connection_t* connection, const char* name) {
    xcb_intern_atom_reply_t* const reply = xcb_intern_atom_reply(
        connection, xcb_intern_atom(connection, 0, static_cast<std::uint16_t>(std::strlen(name)), name), nullptr);
    const xcb_atom_t its = reply ? reply->atom : xcb_atom_t{XCB_ATOM_NONE};
    std::free(reply);
    return its;
}

xcb_visualtype_t* visual_of(const xcb_screen_t* screen) {
    for (auto depth = xcb_screen_allowed_depths_iterator(screen); depth.rem != 0; xcb_depth_next(&depth))
        for (auto visual = xcb_depth_visuals_iterator(depth.data); visual.rem != 0; xcb_visualtype_next(&visual))
            if (visual.data->visual_id == screen->root_visual) return visual.data;
    return nullptr;
}

}  // namespace

std::unique_ptr<Window> Window::open(int width, int height, std::string& error) {
    std::unique_ptr<Window> window{new Window};
    xcb_connection_t* const c = window->connection_ = xcb_connect(nullptr, nullptr);
    if (xcb_connection_has_error(c) != 0) {
        error = "no X server answers; is DISPLAY set?";
        return nullptr;
    }
    window->screen_ = xcb_setup_roots_iterator(xcb_get_setup(c)).data;
    window->window_ = xcb_generate_id(c);
    window->width_ = width, window->height_ = height;
    const std::uint32_t mask = XCB_EVENT_MASK_EXPOSURE | XCB_EVENT_MASK_STRUCTURE_NOTIFY;
    xcb_create_window(c, XCB_COPY_FROM_PARENT, window->window_, window->screen_->root, 0, 0,
                      static_cast<std::uint16_t>(width), static_cast<std::uint16_t>(height), 0,
                      XCB_WINDOW_CLASS_INPUT_OUTPUT, window->screen_->root_visual, XCB_CW_EVENT_MASK, &mask);
    constexpr char title[] = "Quay";
    xcb_change_property(c, XCB_PROP_MODE_REPLACE, window->window_, XCB_ATOM_WM_NAME, XCB_ATOM_STRING, 8,
                        sizeof title - 1, title);
    window->protocols_ = atom(c, "WM_PROTOCOLS"), window->close_ = atom(c, "WM_DELETE_WINDOW");
    xcb_change_property(c, XCB_PROP_MODE_REPLACE, window->window_, window->protocols_, XCB_ATOM_ATOM, 32, 1,
                        &window->close_);
    xcb_map_window(c, window->window_);
    window->surface_ = cairo_xcb_surface_create(c, window->window_, visual_of(window->screen_), width, height);
    xcb_flush(c);
    return window;
}

Window::~Window() {
    if (picture_) cairo_surface_destroy(picture_);
    if (surface_) cairo_surface_destroy(surface_);
    if (connection_) xcb_disconnect(connection_);
}

bool Window::pump(cursorum::X11Source* source) {
    while (xcb_generic_event_t* const event = xcb_poll_for_event(connection_)) {
        const bool is_input = source && source->take(event);
        switch (is_input ? 0 : event->response_type & 0x7F) {
            case XCB_CONFIGURE_NOTIFY: {
                const auto& now = *reinterpret_cast<const xcb_configure_notify_event_t*>(event);
                if (now.width == width_ && now.height == height_) break;
                width_ = now.width, height_ = now.height;
                cairo_xcb_surface_set_size(surface_, width_, height_);
                if (picture_) cairo_surface_destroy(picture_);
                picture_ = nullptr;
                break;
            }
            case XCB_CLIENT_MESSAGE:
                is_closed_ |= reinterpret_cast<const xcb_client_message_event_t*>(event)->data.data32[0] == close_;
                break;
            case XCB_DESTROY_NOTIFY: is_closed_ = true; break;
            default: break;
        }
        std::free(event);
    }
    return !is_closed_ && xcb_connection_has_error(connection_) == 0;
}

// Into a picture of its own first, so that nothing flickers.
void Window::draw(const std::function<void(cairo_t*)>& picture) {
    if (!picture_) picture_ = cairo_surface_create_similar(surface_, CAIRO_CONTENT_COLOR, width_, height_);
    cairo_t* const to = cairo_create(picture_);
    picture(to);
    cairo_destroy(to);
    cairo_t* const shown = cairo_create(surface_);
    cairo_set_source_surface(shown, picture_, 0, 0);
    cairo_paint(shown);
    cairo_destroy(shown);
    cairo_surface_flush(surface_);
    xcb_flush(connection_);
}
