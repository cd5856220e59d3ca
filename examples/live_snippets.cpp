// The snippets of docs/live-sources.md, and the comparison with another layer of docs/guide/from-hand-written-code.md,
// compiled as they are shown there.
#include <xcb/xcb.h>

#include <cstdio>
#include <cstdlib>
#include <thread>

#include "cursorum/core/belief_check.hpp"
#include "cursorum/recording/replay_source.hpp"
#include "cursorum/sources/evdev_source.hpp"
#include "cursorum/sources/x11_source.hpp"

#include "cursorum/cursorum.hpp"
using namespace cursorum;
using namespace cursorum::controls;

void handle(const xcb_generic_event_t*) {}
bool running = false;

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
        const bool looks = frame[MouseRight].down();      // look around while it is held: motion, no position
        source->ask_for_cursor({looks ? CursorHold::locked : CursorHold::free});
    }
}

void a_recording_as_if_it_happened_now() {
    Timeline timeline{{.devices = 16, .desk_devices = false}};
    Sampler sampler{timeline};
    std::string why;
    const auto source = ReplaySource::open({.file = "demo/two-operators.jsonl", .repeats = true}, why);
    if (!source) return (void)std::fprintf(stderr, "%s\n", why.c_str());
    while (source->is_open()) sampler.advance(source->deliver(timeline));
}

ButtonSet engine_keys_down() { return {}; }

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
}
