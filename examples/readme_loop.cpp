// The README's loop with an engine around it; compiled, linked and run by the tests. documents_test.cpp checks that the
// README shows the lines between the marks.

#include "cursorum/cursorum.hpp"

namespace {

using cursorum::Time;

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

struct PumpedSource;
void draw(const cursorum::Frame&, double) {}

}  // namespace

// clang-format off
// [loop]
using namespace cursorum;
using namespace cursorum::controls;

Timeline timeline;                                  // has one inlet, the desk: a keyboard and a mouse, in focus
Inlet& desk = timeline.desk();
void on_key(MyKey k, bool down)   { desk.button(my_table[k], down); }      // three lines in an engine's own callbacks;
void on_move(float dx, float dy)  { desk.motion(dx, dy); }                 // stamped now unless a time is given
void on_focus(bool has)           { desk.focus(has); }
// [/loop]

namespace {

// Stands for the engine's own pump: it calls the callbacks, and what it called is all there is.
struct PumpedSource {
    int rounds = 0;
    Time deliver(Timeline&) {
        if (++rounds == 2) on_key(my_space, true), on_key(my_space, false), on_key(my_escape, true);
        if (rounds == 3) on_focus(false), on_focus(true), on_move(1, 0);
        if (rounds == 4) on_key(my_right, true);
        if (rounds > 4 && spreader.toggles != 0 && trolley.x > 0) running = false;
        return Clock::now();
    }
} source;

}  // namespace

int main() {
// [loop]
Sampler   simulation{timeline}, picture{timeline};  // two consumers, each sees every press once
TickClock ticks{hertz(60), at_most(5)};             // scale, pause; a stall makes a longer frame, never a burst of ticks

while (running) {
    const Time complete = source.deliver(timeline); // everything up to here has been posted
    while (auto cut = ticks.next(complete)) {
        const Frame& f = simulation.advance(*cut);
        const double step = seconds(f.length());
        if (f[Space].pressed())   spreader.toggle_lock();
        if (f[Escape].released()) menu.open();
        trolley.x += speed * step * f[ArrowRight].down_share();      // 0..1 of the frame, exact
    }
    draw(picture.advance(complete), ticks.blend(complete));
}
// [/loop]
    // The tap counts once; Escape was let go by the focus, not by the person.
    return spreader.toggles == 1 && menu.opened == 0 && trolley.x > 0 ? 0 : 1;
}
