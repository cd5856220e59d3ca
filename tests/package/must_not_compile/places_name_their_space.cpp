// A place in the window is none on the screen, and no distance.
#include <cursorum/cursorum.hpp>

void post(cursorum::Inlet& desk, int x, float y) {
    desk.moved_to(cursorum::WindowPoint{x, y});
#ifdef MISTAKE
    desk.moved_to({x, y});
#endif
}
