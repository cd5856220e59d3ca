// Step 5: names for what a player can do, in a file, and a menu that pauses. Run it: ./run.sh guide 5
#include "cursorum/actions/action_reader.hpp"
#include "cursorum/actions/profile_file.hpp"
#include "cursorum/cursorum.hpp"
#include "quay.hpp"
#include "stage.hpp"

using namespace cursorum;
using namespace cursorum::controls;

int main(int count, char** arguments) {
    Stage stage{
        count, arguments,
        "0.5 KeyD down, 1.5 KeyD up, 1.7 Space down, 1.8 Space up, 2 Escape down, 2.1 Escape up, 2.2 Space down, 2.3 "
        "Space up, 2.5 KeyD down, 3 Escape down, 3.1 Escape up, 3.5 KeyD up"};
    double box = 0;
    unsigned locks = 0;
    Timeline timeline{{.down = stage.keys_down()}};
    stage.on_key = [&](Button key, bool down) { timeline.desk().button(key, down); };
    stage.on_focus = [&](bool has) {
        has ? timeline.desk().gain_focus(stage.keys_down()) : timeline.desk().lose_focus();
    };
    Sampler sampler{timeline};
    PictureClock pictures;
    // [snippet guide_5]
    ProfileError error;
    const auto profile = load_profile("examples/guide/quay.toml", error);
    if (!profile) return std::puts(error.message().c_str()), 1;
    ActionReader actions{*profile};
    actions.open(quay::crane::mode);  // made from the file when the program is built: a mistyped name is an error
    const auto update = [&](const Frame& frame, double) {
        actions.read(frame);
        box += 100 * actions[quay::crane::travel].integral.x;  // value times time, while no menu covers it
        locks += actions[quay::crane::lock].press_count();     // in the menu, Space chooses; it locks nothing
        pictures.stand_still(actions.pauses());
    };
    // [/snippet]
    while (stage.is_open()) {
        stage.pump();
        if (const auto tick = pictures.next(Clock::now())) update(sampler.advance(*tick), tick->step);
        stage.show(box, "box %.1f, locked %u times%s", box, locks, actions.pauses() ? ", menu" : "");
    }
    return 0;
}
