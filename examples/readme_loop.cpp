// The loop of docs/drop-in.md with an engine around it; compiled, linked and run by the tests. documents_test.cpp checks that the
// document shows the lines between the marks.

#include "cursorum/cursorum.hpp"

namespace {

enum MyKey { my_space, my_escape, my_right };
constexpr cursorum::Button my_table[] = {cursorum::controls::Space, cursorum::controls::Escape,
                                         cursorum::controls::ArrowRight};

struct {
    int toggles = 0;
    void toggle_lock() { ++toggles; }
} spreader;
struct {
    int opened = 0;
    void open() { ++opened; }
} menu;
struct {
    double x = 0;
} trolley;
constexpr double speed = 1.2;
bool running = true;

struct Window {
} my_window;
cursorum::ButtonSet my_keys_down() { return {}; }
void draw(const cursorum::Frame&, double) {}
[[maybe_unused]] int problems = 0;
[[maybe_unused]] void log(const char*) { ++problems; }

}  // namespace

// clang-format off
// [loop]
using namespace cursorum;
using namespace cursorum::controls;

Timeline timeline;                                  // has one inlet, the desk: a keyboard and a mouse, in focus
Inlet& desk = timeline.desk();
void on_key(MyKey k, bool down)   { desk.button(my_table[k], down); }      // three lines in an engine's own callbacks;
void on_move(float dx, float dy)  { desk.motion(dx, dy); }                 // stamped now unless a time is given
void on_focus(bool has)           { has ? desk.gain_focus(my_keys_down()) : desk.lose_focus(); }
// [/loop]

namespace {

// Stands for the engine's own pump, which calls the callbacks.
void pump(Window&) {
    static int rounds = 0;
    if (++rounds == 2) on_key(my_space, true), on_key(my_space, false), on_key(my_escape, true);
    if (rounds == 3) on_focus(false), on_focus(true), on_move(1, 0);
    if (rounds == 4) on_key(my_right, true);
    if (rounds > 4 && spreader.toggles != 0 && trolley.x > 0) running = false;
}

}  // namespace

int main() {
// [loop]
Sampler   simulation{timeline}, picture{timeline};  // two consumers, each sees every press once
TickClock ticks{hertz(60), at_most(5)};             // scale; pause and resume; a stall makes a longer frame, up to 250 ms
InputCheck check;

while (running) {
    pump(my_window);                                // calls the callbacks
    const Time complete = Clock::now();             // everything up to here has been posted: the time *after* pumping
    while (auto tick = ticks.next(complete)) {
        const Frame& f = simulation.advance(*tick); // what was paused or stalled away is skipped, not played
        if (f[Space].pressed())   spreader.toggle_lock();
        if (f[Escape].released()) menu.open();
        trolley.x += speed * tick->step * f[ArrowRight].down_share();      // 0..1 of the frame, exact
    }
    draw(picture.advance(complete), ticks.blend(complete));
#ifndef NDEBUG
    while (const char* problem = check.next_problem(timeline, simulation)) log(problem);
#endif
}
// [/loop]
    // The tap counts once; Escape was let go by the focus, not by the person.
    return spreader.toggles == 1 && problems == 0 && menu.opened == 0 && trolley.x > 0 ? 0 : 1;
}
