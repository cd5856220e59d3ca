// A box in a window: Space, PadSouth or a click makes it step, arrow keys or a stick move it while held. Prints every edge.
// --source replay:FILE plays a recording instead of live input.
#include <xcb/xcb.h>
#include <algorithm>
#include <cstdio>
#include <string_view>
#include <thread>
#include "cursorum/cursorum.hpp"
#include "cursorum/recording/replay_source.hpp"
#include "cursorum/sources/evdev_source.hpp"
#include "cursorum/sources/x11_source.hpp"
using namespace cursorum;
using namespace cursorum::controls;
constexpr DirectionButtons arrows{.left = {ArrowLeft}, .right = {ArrowRight}, .up = {ArrowUp}, .down = {ArrowDown}};
int main(int count, char** arguments) {
    xcb_connection_t* x = xcb_connect(nullptr, nullptr);
    if (xcb_connection_has_error(x)) return std::puts("no X server answers; is DISPLAY set?"), 1;
    const xcb_screen_t* screen = xcb_setup_roots_iterator(xcb_get_setup(x)).data;
    const xcb_window_t window = xcb_generate_id(x), ink = xcb_generate_id(x);
    const std::uint32_t water = 0x2B4A5E, orange = 0xE8833A;  // the quay at night, and a box
    xcb_create_window(x, XCB_COPY_FROM_PARENT, window, screen->root, 0, 0, 640, 360, 0, XCB_WINDOW_CLASS_INPUT_OUTPUT,
                      screen->root_visual, XCB_CW_BACK_PIXEL, &water);
    xcb_create_gc(x, ink, window, XCB_GC_FOREGROUND, &orange), xcb_map_window(x, window), xcb_flush(x);
    std::string why;
    const auto desk = X11Source::open({.window = window}, why);
    if (!desk) return std::puts(why.c_str()), 1;
    const std::string_view source = count > 2 ? arguments[2] : "live";
    const auto replay = source.starts_with("replay:") ? ReplaySource::open({.file = arguments[2] + 7}, why) : nullptr;
    if (!replay && source != "live") return std::puts(why.empty() ? "--source live, or replay:FILE" : why.c_str()), 2;
    const auto pads = EvdevSource::open({.keyboards = false, .mice = false}, why);  // null if there are none to read
    Timeline timeline{{.inlets = 2, .desk_devices = false}};                        // the sources bring theirs
    Sampler sampler{timeline};
    PictureClock pictures;
    for (double left = 60, top = 140; !xcb_connection_has_error(x) && desk->is_open(); xcb_flush(x)) {
        const Time now = replay ? replay->deliver(timeline) : desk->deliver(timeline);
        if (pads && !replay) pads->deliver(timeline.inlet(1), timeline.desk());  // with the window's focus
        if (const auto tick = pictures.next(now)) {
            const Frame& f = sampler.advance(*tick);
            for (const Edge e : f.edges()) std::printf("%s %s\n", name_of(e.button).data(), name_of(e.kind).data());
            // [snippet box_moves]
            const Vector2 way = f.direction(arrows, PadStickLeft).mean;  // exact over the frame, never longer than 1
            left += 200 * tick->step * way.x + 40.0 * f.any({Space, PadSouth, MouseLeft}).press_count();
            top += 200 * tick->step * way.y;
            left = std::clamp(left, 0.0, 580.0), top = std::clamp(top, 0.0, 300.0);  // in the window
            // [/snippet]
        }
        const xcb_rectangle_t box{static_cast<std::int16_t>(left), static_cast<std::int16_t>(top), 60, 60};
        xcb_clear_area(x, 0, window, 0, 0, 0, 0), xcb_poly_fill_rectangle(x, window, ink, 1, &box);
        std::this_thread::sleep_for(std::chrono::milliseconds{16});
    }
}
