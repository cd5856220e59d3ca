// Step 3: a stick or keys, a dead zone, and pads that come and go. Run it: ./run.sh guide 3
#include "cursorum/cursorum.hpp"
#include "stage.hpp"

using namespace cursorum;
using namespace cursorum::controls;

int main(int count, char** arguments) {
    Stage stage{
        count, arguments,
        "0.5 pad on, 0.6 stick 0.05 0, 1 stick 1 0, 2 stick 0 0, 2.2 PadSouth down, 2.3 PadSouth up, 2.5 stick 1 0, 3 "
        "pad off"};
    double box = 0;
    unsigned locks = 0;
    const char* news = "";
    const DirectionButtons keys{.left = {KeyA, ArrowLeft}, .right = {KeyD, ArrowRight}, .up = {KeyW}, .down = {KeyS}};
    Timeline timeline{{.down = stage.keys_down()}};
    stage.on_key = [&](Button key, bool down) { timeline.desk().button(key, down); };
    stage.on_focus = [&](bool has) {
        has ? timeline.desk().gain_focus(stage.keys_down()) : timeline.desk().lose_focus();
    };
    Sampler sampler{timeline};
    PictureClock pictures;
    // [snippet guide_3]
    const DeviceId pad{10};  // a number of your own for each pad
    stage.on_pad = [&](bool on) {
        on ? timeline.desk().connect(pad, {.kind = DeviceKind::gamepad}) : timeline.desk().disconnect(pad);
    };
    stage.on_stick = [&](double x, double y) { timeline.desk().stick(pad, PadStickLeft, x, y); };
    stage.on_pad_button = [&](Button button, bool down) { timeline.desk().button(pad, button, down); };
    const auto update = [&](const Frame& frame, double step) {
        box += 100 * step * frame.direction(keys, PadStickLeft).mean.x;  // a stick at rest, worn or new, is at 0
        locks += frame.any({Space, PadSouth}).press_count();
        frame.for_each_device_change(
            [&](const DeviceChange& it) { news = it.connected ? "" : "; plug the pad in again"; });
    };
    // [/snippet]
    while (stage.is_open()) {
        stage.pump();
        if (const auto tick = pictures.next(Clock::now())) update(sampler.advance(*tick), tick->step);
        stage.show(box, "box %.1f, locked %u times%s", box, locks, news);
    }
    return 0;
}
