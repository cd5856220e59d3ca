// One call into the floor that is asked for (-DFLOOR_core and so on): it links with what its package names.
#include <cursorum/cursorum.hpp>

#if defined(FLOOR_core)
bool works() { return cursorum::Timeline{}.silent_count() == 0; }
#elif defined(FLOOR_batch)
#include <cursorum/batch/keyboard_batch.hpp>
bool works() { return cursorum::KeyboardBatch{{.players = 2}}.players() == 2; }
#elif defined(FLOOR_recording)
#include <cursorum/recording/recording_reader.hpp>
#include <sstream>
bool works() {
    std::istringstream nothing;
    return !cursorum::has_own_cuts(nothing);
}
#elif defined(FLOOR_actions)
#include <cursorum/actions/span_text.hpp>
bool works() { return cursorum::parse_span("250ms") == std::chrono::milliseconds(250); }
#elif defined(FLOOR_hid)
#include <cursorum/sources/hid_source.hpp>
bool works() {
    std::string error;
    return !cursorum::HidSource::open({.path = "/no/such/node"}, error);
}
#elif defined(FLOOR_dumps)
#include <cursorum/sources/evdev_dump.hpp>
bool works() { return !cursorum::looks_like_evdev_dump("text", 4); }
#elif defined(FLOOR_evdev)
#include <cursorum/sources/evdev_source.hpp>
bool works() {
    std::string error;
    return !cursorum::EvdevSource::open({.directory = "/no/such/folder"}, error);
}
#elif defined(FLOOR_x11)
#include <cursorum/sources/x11_source.hpp>
bool works() {
    std::string error;
    return !cursorum::X11Source::open({.display = "no such display"}, error);
}
#elif defined(FLOOR_views)
#include <cursorum/views/text.hpp>
bool works() { return cursorum::plural_text(2, "press") == "2 presses"; }
#elif defined(FLOOR_why)
#include <cursorum/why/action_explanation.hpp>
bool works() { return !cursorum::find_action(cursorum::Profile{}, "lock", nullptr); }
#endif

int main() { return works() ? 0 : 1; }
