// Step 4: the mouse: where it is, a button on the screen, drags, the wheel. Run it: ./run.sh guide 4
#include "cursorum/cursorum.hpp"
#include "stage.hpp"

using namespace cursorum;
using namespace cursorum::controls;

int main(int count, char** arguments) {
    Stage stage{
        count, arguments,
        "0.5 at 20 10, 0.6 MouseLeft down, 0.7 MouseLeft up, 1 MouseLeft down, 1.1 at 200 10, 1.2 MouseLeft up, 1.5 "
        "wheel -2, 1.6 at 300 10"};
    const WindowRect horn{0, 0, 100, 40};
    double box = 0, dragged = 0;
    unsigned blasts = 0;
    int zoom = 0;
    Timeline timeline{{.down = stage.keys_down()}};
    stage.on_key = [&](Button key, bool down) { timeline.desk().button(key, down); };
    stage.on_focus = [&](bool has) {
        has ? timeline.desk().gain_focus(stage.keys_down()) : timeline.desk().lose_focus();
    };
    Sampler sampler{timeline};
    PictureClock pictures;
    // [snippet guide_4]
    stage.on_place = [&](double x, double y) { timeline.desk().moved_to(WindowPoint{x, y}); };
    stage.on_wheel = [&](double detents) { timeline.desk().wheel(0, detents); };
    const auto update = [&](const Frame& frame, double) {
        const PointerReading pointer = frame.pointer();
        box = pointer.position().x;
        blasts += pointer.target(horn).clicks;  // pressed on it and released on it; sliding off changes one's mind
        zoom += pointer.wheel_steps().y;        // whole steps; away from the person is positive
        if (const DragReading drag = pointer.drag(MouseLeft); drag.active) dragged = drag.to.x - drag.from.x;
    };
    // [/snippet]
    while (stage.is_open()) {
        stage.pump();
        if (const auto tick = pictures.next(Clock::now())) update(sampler.advance(*tick), tick->step);
        stage.show(box, "pointer %.1f, horn %u times, zoom %d, dragged %.1f", box, blasts, zoom, dragged);
    }
    return 0;
}
