// Step 8: a recording, and a test of the game from it. Run it: ./run.sh guide 8
#include <sstream>

#include "cursorum/core/event.hpp"
#include "cursorum/cursorum.hpp"
#include "cursorum/recording/recording_writer.hpp"
#include "cursorum/recording/replay.hpp"
#include "stage.hpp"

using namespace cursorum;
using namespace cursorum::controls;

int main(int count, char** arguments) {
    Stage stage{count, arguments, "0.5 KeyD down, 1.5 KeyD up, 2 Space down, 2.004 Space up"};
    struct Game {
        double box = 0;
        unsigned locks = 0;
        void update(const Frame& frame, double step) {
            box += 100 * step * frame[KeyD].down_share();
            locks += frame[Space].press_count();
        }
    } game, replayed;
    const DeviceId keyboard{1};
    std::stringstream file;  // a std::fstream in your game
    // [snippet guide_8]
    Timeline timeline{{.desk_devices = false}};  // its devices are events, too, so that the recording has them
    RecordingWriter recording{file, "a shift at the quay"};
    const auto post = [&](const Event& event) { recording.take(event), timeline.desk().post(event); };
    const auto keys_held = [&] { return Event::state(Clock::now(), keyboard, stage.keys_down(), true); };
    post(Event::connect(Clock::now(), keyboard, {.kind = DeviceKind::keyboard}));
    post(keys_held());
    stage.on_key = [&](Button key, bool down) { post(Event::button(Clock::now(), keyboard, key, down)); };
    stage.on_focus = [&](bool has) { post(Event::focus(Clock::now(), has)), post(keys_held()); };
    // [/snippet]
    Sampler sampler{timeline};
    PictureClock pictures;
    while (stage.is_open()) {
        stage.pump();
        if (const auto tick = pictures.next(Clock::now())) {
            // [snippet guide_8_frames]
            recording.frame(*tick);  // in front of sampler.advance(*tick)
            // [/snippet]
            game.update(sampler.advance(*tick), tick->step);
        }
        stage.show(game.box, "box %.1f, locked %u times", game.box, game.locks);
    }
    // [snippet guide_8_test]
    Replay replay{file, "a shift at the quay"};
    while (const Frame* frame = replay.next()) replayed.update(*frame, seconds(frame->end() - frame->start()));
    // [/snippet]
    const bool same = !replay.error() && replayed.box == game.box && replayed.locks == game.locks;
    std::printf("replayed: box %.1f, locked %u times: %s\n", replayed.box, replayed.locks,
                same ? "the same" : "different");
    return same ? 0 : 1;
}
