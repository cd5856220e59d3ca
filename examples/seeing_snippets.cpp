// The snippets of docs/seeing.md, as they are shown there, in a program that compiles and runs.

#include <array>
#include <chrono>
#include <cstdio>
#include <sstream>
#include <string_view>
#include <vector>

#include "cursorum/actions/action_belief_check.hpp"
#include "cursorum/cursorum.hpp"
#include "cursorum/recording/recording_writer.hpp"
#include "cursorum/views/control_picture.hpp"
#include "cursorum/views/lane_picture.hpp"
#include "cursorum/why/action_lanes.hpp"

using namespace cursorum;
using namespace cursorum::controls;

// As the document shows them:
// clang-format off
namespace {

using MyColour = unsigned;
constexpr std::array<MyColour, picture_role_count> my_colours{};

/// Counts what it would draw.
struct Renderer {
    unsigned rectangles = 0, ellipses = 0, polygons = 0, curves = 0, texts = 0;

    void choose(MyColour, bool) {}
    void rectangle(double, double, double, double) { ++rectangles; }
    void ellipse(double, double, double, double) { ++ellipses; }
    void polygon(const std::vector<PicturePoint>&) { ++polygons; }
    void curve(const std::vector<PicturePoint>&) { ++curves; }
    void text(std::string_view, double, double, double) { ++texts; }
} renderer;

void draw(const PictureShape& shape) {
    renderer.choose(my_colours[static_cast<unsigned>(shape.role)], shape.filled);
    switch (shape.form) {
        case PictureShape::Form::rectangle: renderer.rectangle(shape.x, shape.y, shape.width, shape.height); break;
        case PictureShape::Form::circle: renderer.ellipse(shape.x, shape.y, shape.width, shape.height); break;
        case PictureShape::Form::polygon: renderer.polygon(shape.points); break;
        case PictureShape::Form::curve: renderer.curve(shape.points); break;
        case PictureShape::Form::text: renderer.text(shape.text, shape.x, shape.y, shape.height / 1.25); break;
    }
}

/// An engine's own layer that never sees a press.
struct OldLayer {
    bool lock_pressed() const { return false; }
    bool lock_down() const { return false; }
    bool horn_pressed() const { return false; }
    bool horn_down() const { return false; }
    ButtonSet pressed() const { return {}; }
    ButtonSet down() const { return {}; }
} old_layer;

unsigned printed = 0;
void print(std::string_view) { ++printed; }

Profile two_actions() {
    Profile profile;
    profile.modes = {{.name = "crane",
                      .actions = {{.name = "lock", .bindings = {{.buttons = {Space}}}},
                                  {.name = "horn", .bindings = {{.buttons = {KeyH}}}}}}};
    return profile;
}

/// A panel at 60 pictures per second: taps, a hold, the focus lost.
bool panel() {
    const Profile profile = two_actions();
    const Time begin = Clock::now();
    Timeline timeline{{.start = begin}};
    Sampler picture{timeline, {.start = begin}};
    ActionReader shown_actions{profile};
    shown_actions.open(ModeHandle{0});
    const bool panel_is_shown = true;
    LaneHistory lanes{timeline};
    std::uint64_t pictures = 0;
    ActionLanes action_lanes{lanes, shown_actions, profile};
    shown_actions.set_verdict_sink(&action_lanes);
    for (std::int64_t i = 0; i < 1200; ++i) {
        const Time complete = begin + (i + 1) * Duration{16'000'000};
        if (i % 40 == 3) {
            timeline.desk().button(Space, true, complete - Duration{9'000'000});
            timeline.desk().button(Space, false, complete - Duration{4'000'000});
        }
        if (i == 1100) timeline.desk().button(KeyH, true, complete);
        if (i == 1150) {
            const bool has_focus = false;
            timeline.desk().lose_focus(Clock::now());
            lanes.note_focus(has_focus, Clock::now());
        }
        if (i % 2 == 0) {
            lanes.note(picture.advance(complete), pictures++);
            lanes.forget_before(complete - std::chrono::seconds{10});
            if (panel_is_shown)
                for (const PictureShape& shape : lane_picture(lanes, {.width = 640, .height = 360}).shapes) draw(shape);
        } else {
            const Frame& shown = picture.advance(complete);
            lanes.note(shown, pictures++);
            shown_actions.read(shown);
            action_lanes.note();

            const ButtonAction lock = *profile.find_button("lock");
            const Button wanted = profile.action(lock)->bindings.front().buttons.front();
            const Picture keys = control_picture(all_devices(shown), {.kind = DeviceKind::keyboard, .keys = {KeyA, KeyD, KeyW, KeyS, Space},
                                                                      .marked = {wanted}});
            for (const PictureShape& shape : keys.shapes) draw(shape);
        }
    }
    return renderer.rectangles > 600 && renderer.polygons > 0 && renderer.texts > 600 && renderer.curves > 600 &&
           lanes.frames().size() < 700 && lanes.lanes().size() >= 3;
}

/// A layer that misses everything, asked about actions and recorded.
bool beliefs() {
    const Profile profile = two_actions();
    Timeline timeline;
    Sampler sampler{timeline};
    ActionReader actions{profile};
    actions.open(ModeHandle{0});
    const ButtonAction lock = actions.find_button("lock").value_or(ButtonAction{}),
                       horn = actions.find_button("horn").value_or(ButtonAction{});
    std::uint64_t seen = 0;
    std::ostringstream out;
    RecordingWriter recorder{out, Clock::now()};
    recorder.header("beliefs");
    ActionBeliefCheck check{{lock, horn}};
    for (int i = 0; i < 10; ++i) {
        if (i == 2) timeline.desk().button(Space, true);
        if (i == 3) timeline.desk().button(Space, false);
        actions.read(sampler.advance(Clock::now()));
        const ActionBelief beliefs[] = {{lock, old_layer.lock_pressed(), old_layer.lock_down()},
                                        {horn, old_layer.horn_pressed(), old_layer.horn_down()}};
        check.note(actions, sampler.frame(), beliefs);
        for (; seen < check.count(); ++seen) print(describe(check.finding(seen).what));
        const Time end = sampler.frame().end();
        RecordedBelief belief{.handles = {KeyA, KeyD, Space}, .belief = {.pressed = old_layer.pressed(), .down = old_layer.down()}};
        recorder.belief(end, belief);
        recorder.frame(end);
    }
    return printed == 1 && out.str().find("\"handles\":[\"KeyA\",\"KeyD\",\"Space\"]") != std::string::npos;
}

}  // namespace

int main() {
    if (!panel()) {
        std::puts("the panel is wrong");
        return 1;
    }
    if (!beliefs()) {
        std::puts("the beliefs are wrong");
        return 1;
    }
    std::printf("%u rectangles, %u polygons, %u circles, %u curves and %u texts were drawn\n", renderer.rectangles,
                renderer.polygons, renderer.ellipses, renderer.curves, renderer.texts);
    return 0;
}
