// A window of Xlib's and the loop of docs/drop-in.md: prints what KeyW does, until Escape is released or the window is closed.

#include "x_core_keys.hpp"

#include <poll.h>

#include <cstdio>

int main() {
    Display* display = XOpenDisplay(nullptr);
    if (display == nullptr) {
        std::fputs("x_core_loop: cannot connect to an X server; set DISPLAY, for example to :0\n", stderr);
        return 2;
    }
    const Window window = XCreateSimpleWindow(display, DefaultRootWindow(display), 0, 0, 640, 480, 0, 0, 0);
    XStoreName(display, window, "Quay: W moves the trolley, Escape ends");
    Atom closing = XInternAtom(display, "WM_DELETE_WINDOW", False);
    XSetWMProtocols(display, window, &closing, 1);

    cur::Timeline timeline;
    XCoreKeys keys{display, window, timeline.desk()};
    XMapWindow(display, window);
    cur::Sampler simulation{timeline};
    cur::TickClock ticks{cur::hertz(60), cur::at_most(5)};

    double trolley = 0;
    unsigned presses = 0, repeats = 0;
    for (bool running = true; running;) {
        pollfd waiting{ConnectionNumber(display), POLLIN, 0};
        poll(&waiting, 1, 4);  // stands for drawing a picture
        while (XPending(display) > 0) {
            XEvent event;
            XNextEvent(display, &event);
            if (event.type == ClientMessage && static_cast<Atom>(event.xclient.data.l[0]) == closing) running = false;
            keys.handle(event);
        }
        if (const char* problem = keys.problem()) std::fprintf(stderr, "x_core_loop: %s\n", problem);
        const cur::Time complete = keys.complete();
        while (const auto tick = ticks.next(complete)) {
            const cur::Frame& frame = simulation.advance(*tick);
            const auto w = frame[cur::controls::KeyW];
            trolley += 1.2 * tick->step * w.down_share();
            presses += w.press_count();
            repeats += static_cast<unsigned>(w.figures().system_repeat_count());
            if (w.released())
                std::printf("KeyW: %u presses, %u system repeats that moved nothing, trolley at %.2f m\n", presses,
                            repeats, trolley);
            if (frame[cur::controls::Escape].released()) running = false;
        }
    }
    XDestroyWindow(display, window);
    XCloseDisplay(display);
}
