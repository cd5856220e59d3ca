// A box in a window: Space makes it step, the arrow keys move it while they are held. Prints every edge.
#include <xcb/xcb.h>
#include <cstdio>
#include <thread>
#include "cursorum/cursorum.hpp"
#include "cursorum/sources/x11_source.hpp"

using namespace cursorum;
using namespace cursorum::controls;
int main() {
    xcb_connection_t* x = xcb_connect(nullptr, nullptr);
    if (xcb_connection_has_error(x)) return std::puts("no X server answers; is DISPLAY set?"), 1;
    const xcb_screen_t* screen = xcb_setup_roots_iterator(xcb_get_setup(x)).data;
    const xcb_window_t window = xcb_generate_id(x);
    xcb_create_window(x, XCB_COPY_FROM_PARENT, window, screen->root, 0, 0, 640, 360, 0, XCB_WINDOW_CLASS_INPUT_OUTPUT,
                      screen->root_visual, XCB_CW_BACK_PIXEL, &screen->white_pixel);
    const xcb_gcontext_t ink = xcb_generate_id(x);
    xcb_create_gc(x, ink, window, XCB_GC_FOREGROUND, &screen->black_pixel);
    xcb_map_window(x, window), xcb_flush(x);
    std::string why;
    const auto source = X11Source::open({.window = window}, why);
    if (!source) return std::puts(why.c_str()), 1;
    Timeline timeline{{.desk_devices = false}};  // the source brings its own
    Sampler sampler{timeline};
    PictureClock pictures;
    for (double left = 60, top = 140; !xcb_connection_has_error(x) && source->is_open();) {
        if (const auto tick = pictures.next(source->deliver(timeline))) {
            const Frame& f = sampler.advance(*tick);
            for (const Edge e : f.edges()) std::printf("%s %s\n", name_of(e.button).data(), name_of(e.kind).data());
            if (f[Space].pressed()) left += 40;
            left += 200 * tick->step * (f[ArrowRight].down_share() - f[ArrowLeft].down_share());
            top += 200 * tick->step * (f[ArrowDown].down_share() - f[ArrowUp].down_share());
        }
        xcb_clear_area(x, 0, window, 0, 0, 0, 0);
        const xcb_rectangle_t box{static_cast<std::int16_t>(left), static_cast<std::int16_t>(top), 60, 60};
        xcb_poly_fill_rectangle(x, window, ink, 1, &box);
        xcb_flush(x);
        std::this_thread::sleep_for(std::chrono::milliseconds{16});
    }
}
