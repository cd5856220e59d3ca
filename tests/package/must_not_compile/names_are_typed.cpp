// A button is not a number: an engine's own key codes cannot slip through.
#include <cursorum/cursorum.hpp>

void post(cursorum::Inlet& desk) {
    desk.button(cursorum::controls::KeyW, true);
#ifdef MISTAKE
    desk.button(26, true);
#endif
}
