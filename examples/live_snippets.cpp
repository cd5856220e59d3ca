// The snippets of docs/live-sources.md and docs/drop-in.md's loops, compiled as they are shown there.
#include <xcb/xcb.h>

#include <cstdio>
#include <cstdlib>
#include <thread>

#include "cursorum/core/belief_check.hpp"
#include "cursorum/cursorum.hpp"
#include "cursorum/recording/replay_source.hpp"
#include "cursorum/sources/evdev_source.hpp"
#include "cursorum/sources/x11_source.hpp"

using namespace cursorum;
using namespace cursorum::controls;

void handle(const xcb_generic_event_t*) {}
bool running = false;
double trolley = 0;

void share_the_engines_connection(xcb_connection_t* connection, xcb_window_t window) {
    std::string why;
    const auto source = X11Source::attach(connection, {.window = window}, why);
    if (!source) return (void)std::fprintf(stderr, "%s\n", why.c_str());
    Timeline timeline{{.desk_devices = false}};
    Sampler sampler{timeline};

    while (running) {
        source->fetch();                                  // one round trip: all that was sent until now is here
        while (xcb_generic_event_t* event = xcb_poll_for_event(connection)) {
            if (!source->take(event)) handle(event);      // resizing, closing … stay the engine's
            std::free(event);
        }
        const Frame& frame = sampler.advance(source->deliver(timeline));
        source->lock_pointer(frame[MouseRight].down());   // look around while it is held: motion, no position
    }
}

void pads_beside_a_window(X11Source& window_source) {
    Timeline timeline{{.inlets = 2, .desk_devices = false}};
    Sampler sampler{timeline};
    std::string why;
    const auto pads = EvdevSource::open({.keyboards = false, .mice = false}, why);

    while (running) {
        window_source.deliver(timeline.inlet(0));
        if (pads) pads->deliver(timeline.inlet(1), timeline.inlet(0));   // pads follow the window's focus
        if (!window_source.is_open()) break;
        const Frame& frame = sampler.advance(timeline.complete_until(Clock::now()));
        if (const auto first = frame.device(DeviceKind::gamepad, 0))
            trolley += frame.on(*first).stick(PadStickLeft).now.x;
    }
}

void a_thread_of_its_own() {
    Timeline timeline{{.inlets = 2}};
    std::string why;
    const auto pads = EvdevSource::open({.keyboards = false, .mice = false}, why);
    if (!pads) return (void)std::fprintf(stderr, "%s\n", why.c_str());
    std::jthread reader{[&](std::stop_token stop) { pads->run(timeline.inlet(1), stop); }};
}

void a_recording_as_if_it_happened_now() {
    Timeline timeline{{.devices = 16, .desk_devices = false}};
    Sampler sampler{timeline};
    std::string why;
    const auto source = ReplaySource::open({.file = "demo/two-operators.jsonl", .repeats = true}, why);
    if (!source) return (void)std::fprintf(stderr, "%s\n", why.c_str());
    while (source->is_open()) sampler.advance(source->deliver(timeline));
}

bool engine_key_is_down(Button) { return false; }
ButtonSet engine_keys_down() { return {}; }
bool engine_window_is_active() { return true; }

void poll_one_key_after_the_other(Timeline& timeline) {
    // [polling]
    Inlet& desk = timeline.desk();
    Sampler sampler{timeline};
    PictureClock pictures;                              // one bounded tick for each picture
    while (running) {
        if (engine_window_is_active() != desk.has_focus())
            engine_window_is_active() ? desk.gain_focus(engine_keys_down()) : desk.lose_focus();
        for (const Button key : {KeyA, KeyD, Space})
            desk.set_level(key, engine_key_is_down(key));   // posts nothing, and counts nothing, while it is unchanged
        if (const auto tick = pictures.next(Clock::now())) {
            const Frame& f = sampler.advance(*tick);
            if (f[Space].pressed()) std::puts("lock");
            if (const Button way = f.newest({KeyA, KeyD})) trolley += (way == KeyD ? 2 : -2) * tick->step;
        }
    }
    // [/polling]
}

struct Window {
} my_window;
void pump(Window&) {}
ButtonSet old_layer_pressed() { return {}; }

void compare_with_the_old_layer(Timeline& timeline) {
    BeliefCheck check{{KeyA, KeyD, Space}};             // the keys that the other layer deals with
    Sampler sampler{timeline};
    std::uint64_t seen = 0;
    while (running) {
        pump(my_window);                                // calls the old layer's callbacks, and posts the same into the desk
        check.note(sampler.advance(Clock::now()), {.pressed = old_layer_pressed(), .down = engine_keys_down()});
        for (; seen < check.count(); ++seen) {
            const BeliefFinding it = check.finding(seen);
            std::printf("%s %s: %s\n", name_of(it.button).data(), name_of(it.kind).data(), describe(it).data());
        }
    }
}

int main() {
    Timeline timeline;
    compare_with_the_old_layer(timeline);
    poll_one_key_after_the_other(timeline);
    a_thread_of_its_own();
}
