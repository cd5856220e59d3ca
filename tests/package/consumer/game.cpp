// … and its game, in another.
#include <cursorum/cursorum.hpp>

extern cursorum::Timeline timeline;
void on_key(cursorum::Button key, bool down);
void on_move(float dx, float dy);
void on_focus(bool has);

int main() {
    using namespace cursorum;
    Sampler simulation{timeline};
    on_key(controls::Space, true);
    on_move(1, 2);
    const bool pressed = simulation.advance(Clock::now())[controls::Space].pressed();
    on_focus(false);
    const Frame& frame = simulation.advance(Clock::now());
    return pressed && frame[controls::Space].ended() && !frame[controls::Space].released() ? 0 : 1;
}
