// Step 2: four keys as one direction, and a list that repeats while a key is held. Run it: ./run.sh guide 2
#include "cursorum/cursorum.hpp"
#include "stage.hpp"

using namespace cursorum;
using namespace cursorum::controls;

int main(int count, char** arguments) {
    Stage stage{count, arguments,
                "0.5 KeyD down, 1 KeyW down, 1.5 KeyD up, 1.5 KeyW up, 2 PageDown down, 2.75 PageDown up"};
    double box = 0, height = 0;
    unsigned job = 0;
    Timeline timeline{{.down = stage.keys_down()}};
    stage.on_key = [&](Button key, bool down) { timeline.desk().button(key, down); };
    stage.on_focus = [&](bool has) {
        has ? timeline.desk().gain_focus(stage.keys_down()) : timeline.desk().lose_focus();
    };
    Sampler sampler{timeline};
    PictureClock pictures;
    // [snippet guide_2]
    const DirectionButtons keys{.left = {KeyA, ArrowLeft}, .right = {KeyD, ArrowRight}, .up = {KeyW}, .down = {KeyS}};
    const auto update = [&](const Frame& frame, double step) {
        const Vector2 way = frame.direction(keys).mean;  // never longer than 1: a diagonal is not faster
        box += 100 * step * way.x;
        height -= 100 * step * way.y;
        job += static_cast<unsigned>(frame[PageDown].steps());  // the press, and a repeat every 50 ms from 400 ms on
    };
    // [/snippet]
    while (stage.is_open()) {
        stage.pump();
        if (const auto tick = pictures.next(Clock::now())) update(sampler.advance(*tick), tick->step);
        stage.show(box, "box %.1f, height %.1f, job %u", box, height, job);
    }
    return 0;
}
