// Step 7: two players, who join by pressing a button. Run it: ./run.sh guide 7
#include <array>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/actions/profile_file.hpp"
#include "cursorum/cursorum.hpp"
#include "quay.hpp"
#include "stage.hpp"

using namespace cursorum;
using namespace cursorum::controls;

int main(int count, char** arguments) {
    Stage stage{count, arguments,
                "0.2 pad on, 0.5 PadSouth down, 0.6 PadSouth up, 0.8 Space down, 0.9 Space up, 1 stick 1 0, 1 KeyA "
                "down, 1.5 KeyA up, 2 stick 0 0, 2.5 pad off"};
    std::array<double, 2> box{100, 100};
    const char* news = "";
    ProfileError error;
    const auto profile = load_profile("examples/guide/quay.toml", error);
    if (!profile) return std::puts(error.message().c_str()), 1;
    Timeline timeline{{.down = stage.keys_down()}};
    stage.on_key = [&](Button key, bool down) { timeline.desk().button(key, down); };
    stage.on_focus = [&](bool has) {
        has ? timeline.desk().gain_focus(stage.keys_down()) : timeline.desk().lose_focus();
    };
    Sampler sampler{timeline};
    PictureClock pictures;
    const DeviceId pad{10};
    stage.on_pad = [&](bool on) {
        on ? timeline.desk().connect(pad, {.kind = DeviceKind::gamepad}) : timeline.desk().disconnect(pad);
    };
    stage.on_stick = [&](double x, double y) { timeline.desk().stick(pad, PadStickLeft, x, y); };
    stage.on_pad_button = [&](Button button, bool down) { timeline.desk().button(pad, button, down); };
    // [snippet guide_7]
    Seats seats{2};
    seats.offer({.buttons = {Space, PadSouth}});  // whoever presses one of them first is the first player
    std::array<ActionReader, 2> actions{ActionReader{*profile}, ActionReader{*profile}};
    for (ActionReader& reader : actions) reader.open(quay::crane::mode);
    const auto update = [&](const Frame& frame, double step) {
        seats.read(frame);
        for (unsigned i = 0; i < seats.count(); ++i) {
            actions[i].read(frame, seats, i);
            box[i] += 100 * step * actions[i][quay::crane::travel].mean.x;
            if (seats.is_away(i)) news = "; a player's pad is unplugged";
        }
    };
    // [/snippet]
    while (stage.is_open()) {
        stage.pump();
        if (const auto tick = pictures.next(Clock::now())) update(sampler.advance(*tick), tick->step);
        stage.show(box[0], "player 1 at %.1f, player 2 at %.1f%s", box[0], box[1], news);
    }
    return 0;
}
