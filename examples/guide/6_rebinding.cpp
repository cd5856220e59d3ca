// Step 6: the player chooses another key. Run it: ./run.sh guide 6
#include <optional>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/actions/binding_capture.hpp"
#include "cursorum/actions/binding_text.hpp"
#include "cursorum/actions/player_profile.hpp"
#include "cursorum/actions/profile_file.hpp"
#include "cursorum/cursorum.hpp"
#include "quay.hpp"
#include "stage.hpp"

using namespace cursorum;
using namespace cursorum::controls;

int main(int count, char** arguments) {
    Stage stage{
        count, arguments,
        "0.5 Space down, 0.6 Space up, 1 F2 down, 1.1 F2 up, 1.5 KeyL down, 1.6 KeyL up, 2 KeyL down, 2.1 KeyL up, 2.2 "
        "Space down, 2.3 Space up"};
    unsigned locks = 0;
    ProfileError error;
    const auto profile = load_profile("examples/guide/quay.toml", error);
    if (!profile) return std::puts(error.message().c_str()), 1;
    ActionReader actions{*profile};
    actions.open(quay::crane::mode);
    Timeline timeline{{.down = stage.keys_down()}};
    stage.on_key = [&](Button key, bool down) { timeline.desk().button(key, down); };
    stage.on_focus = [&](bool has) {
        has ? timeline.desk().gain_focus(stage.keys_down()) : timeline.desk().lose_focus();
    };
    Sampler sampler{timeline};
    PictureClock pictures;
    // [snippet guide_6]
    // What is shipped, and what the player changes. player.overlay() is the text of the player's own file.
    PlayerProfile player{*profile};
    std::optional<BindingCapture> capture;
    const auto update = [&](const Frame& frame, double) {
        actions.read(frame);
        locks += actions[quay::crane::lock].press_count();
        if (actions[quay::crane::choose_key].pressed())
            capture.emplace(actions);  // what is pressed from now on does nothing else
        if (!capture || capture->read(frame) == BindingCapture::State::waiting) return;
        const auto binding = capture->binding();  // none after Escape
        if (binding && player.bind("crane.lock", 0, *binding, Settle::swap)) actions.rebind(player.profile());
        capture.reset();
    };
    // [/snippet]
    while (stage.is_open()) {
        stage.pump();
        if (const auto tick = pictures.next(Clock::now())) update(sampler.advance(*tick), tick->step);
        stage.show(0, "locked %u times by %s%s", locks,
                   binding_text(ActionKind::button, player.profile().action(quay::crane::lock)->bindings[0]).c_str(),
                   capture ? "; press a key" : "");
    }
    return 0;
}
