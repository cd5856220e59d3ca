// A game module: a shared library that an engine loads, with Cursorum inside or next to it.
#include <cursorum/cursorum.hpp>
#ifdef WITH_ACTIONS
#include <cursorum/actions/action_reader.hpp>
#endif

using namespace cursorum;
using namespace cursorum::controls;

/// Returns how many presses one frame had; the engine checks it.
extern "C" __attribute__((visibility("default"))) int count_presses() {
    Timeline timeline;
    Sampler sampler{timeline, {.start = Time{}}};
    for (int i = 0; i < 3; ++i) {
        timeline.desk().button(Space, true, Time{Duration{10 * i + 1}});
        timeline.desk().button(Space, false, Time{Duration{10 * i + 2}});
    }
    const Frame& frame = sampler.advance(Time{Duration{100}});
#ifdef WITH_ACTIONS
    Profile profile;
    profile.modes = {{.name = "crane", .actions = {{.name = "lock", .bindings = {{.buttons = {Space}}}}}}};
    ActionReader actions{profile};
    ActionNames names{profile};
    actions.open(names.mode("crane"));
    actions.read(frame);
    return static_cast<int>(actions[names.button("lock")].press_count());
#else
    return static_cast<int>(frame[Space].press_count());
#endif
}
