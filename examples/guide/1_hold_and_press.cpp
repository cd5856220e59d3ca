// Step 1: a box moves while a key is held, and something happens once for each press. Run it: ./run.sh guide 1
#include "cursorum/cursorum.hpp"
#include "stage.hpp"

using namespace cursorum;
using namespace cursorum::controls;

int main(int count, char** arguments) {
    Stage stage{count, arguments, "0.5 KeyD down, 1.5 KeyD up, 2 Space down, 2.004 Space up"};
    double box = 0;
    unsigned locks = 0;
    // [snippet guide_1]
    Timeline timeline{{.down = stage.keys_down()}};  // keys that are held already do not fire
    stage.on_key = [&](Button key, bool down) { timeline.desk().button(key, down); };
    stage.on_focus = [&](bool has) {
        has ? timeline.desk().gain_focus(stage.keys_down()) : timeline.desk().lose_focus();
    };
    Sampler sampler{timeline};
    PictureClock pictures;  // after a stop, one frame of at most 250 ms
    const auto update = [&](const Frame& frame, double step) {
        box += 100 * step * frame[KeyD].down_share();  // 100 per second, for exactly as long as the key was down
        locks += frame[Space].press_count();           // once for each press, however short it was
    };
    // [/snippet]
    while (stage.is_open()) {
        stage.pump();
        if (const auto tick = pictures.next(Clock::now())) update(sampler.advance(*tick), tick->step);
        stage.show(box, "box %.1f, locked %u times", box, locks);
    }
    return 0;
}
