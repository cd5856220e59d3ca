// The bench's main rows once more, as loops for callgrind: `cursorum_instruction_rows ROW COUNT` runs the row's work so
// many times. What COUNT more of them cost in instructions is free of noise; instructions.py holds it to limits.

#include <array>
#include <cstdint>
#include <cstdio>
#include <cstdlib>
#include <string_view>
#include <vector>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;

std::int64_t now = 0;
Time later(std::int64_t by = 1'000'000) { return Time{Duration{now += by}}; }
Button key(unsigned i) { return {static_cast<std::uint16_t>(KeyA.number + i % 26)}; }

/// Keeps a value from being optimised away.
template <typename Value>
void use(const Value& value) {
    asm volatile("" : : "r,m"(value) : "memory");
}

struct Desk {
    Timeline timeline;
    Inlet& inlet = timeline.desk();
    Sampler sampler{timeline, {.start = Time{}}};
    bool down = false;

    explicit Desk(std::uint32_t ledger = 0)
        : timeline{{.inlets = 2, .history = 8192, .ledger = ledger, .start = Time{}}} {
        inlet.connect(DeviceId{3}, {.kind = DeviceKind::gamepad, .name = "pad"}, later());
        timeline.inlet(1).connect(DeviceId{9}, {.kind = DeviceKind::keyboard, .name = "second"}, later());
    }
    /// Posts that many edges: 20 keys go down one after the other, then all of them come up, and so on.
    void press(unsigned edges) {
        for (unsigned i = 0; i < edges; ++i) {
            if (i % 20 == 0) down = !down;
            inlet.button(key(i % 20), down, later(100'000));
        }
    }
    const Frame& cut() { return sampler.advance(Time{Duration{now}}); }
};

/// A profile of `count` actions with two keys each; `change` is called with every action.
Profile profile_of(
    unsigned count, void (*change)(Action&) = [](Action&) {}) {
    Profile profile{.title = {}, .modes = {{.name = "crane"}}};
    for (unsigned i = 0; i < count; ++i) {
        Action action{.name = "action" + std::to_string(i)};
        action.bindings = {{.buttons = {key(i)}}, {.buttons = {key(i + 7)}}};
        change(action);
        profile.modes[0].actions.push_back(action);
    }
    return profile;
}

struct Actions : Desk {
    explicit Actions(const Profile& profile) : reader{profile} { reader.open(ModeHandle{0}); }
    ActionReader reader;
    void read() { reader.read(cut()); }
};

template <typename Work>
void times(std::uint64_t count, Work&& work) {
    for (std::uint64_t i = 0; i < count; ++i) work();
}

template <std::uint32_t ledger>
void post_keys(std::uint64_t count) {
    Desk desk{ledger};
    times(count, [&] { desk.press(1); });
}
template <std::uint32_t ledger>
void post_motion(std::uint64_t count) {
    Desk desk{ledger};
    times(count, [&] { desk.inlet.motion(1, -1, later(100'000)); });
}
void post_wheel(std::uint64_t count) {
    Desk desk;
    times(count, [&] { desk.inlet.wheel(0, 1, later(100'000)); });
}
template <std::uint32_t ledger>
void post_sticks(std::uint64_t count) {
    Desk desk{ledger};
    double x = 0;
    times(count,
          [&] { desk.inlet.stick(DeviceId{3}, PadStickLeft, x = x > 0.2 ? -0.25 : x + 0.01, 0.1, later(100'000)); });
}
void post_clicks(std::uint64_t count) {
    Desk desk;
    times(count, [&] { desk.inlet.button(MouseLeft, desk.down = !desk.down, later(100'000)); });
}
void post_motion_with_a_button_held(std::uint64_t count) {
    Desk desk;
    desk.inlet.button(MouseLeft, true, later(100'000));
    times(count, [&] { desk.inlet.motion(1, -1, later(100'000)); });
}
/// A whole pad, as it is polled: six axes and all buttons, two of them down.
template <bool moves>
void poll_pad(std::uint64_t count) {
    Desk desk;
    double x = 0;
    times(count, [&] {
        if (moves) x = x > 0.2 ? -0.25 : x + 0.01;
        AxisValues axes;
        axes.set(PadStickLeftX, 0.5 + x), axes.set(PadStickLeftY, 0.25), axes.set(PadStickRightX, 0.01);
        axes.set(PadStickRightY, -0.02), axes.set(PadPullLeft, 0), axes.set(PadPullRight, 0.75);
        desk.inlet.state(DeviceId{3}, {PadSouth, PadShoulderLeft}, axes, later(100'000));
    });
}
void empty_frame(std::uint64_t count) {
    Desk desk;
    times(count, [&] {
        later();
        use(desk.cut());
    });
}
void frame_of_20_edges(std::uint64_t count) {
    Desk desk;
    times(count, [&] {
        desk.press(20);
        use(desk.cut());
    });
}
void frame_of_20_edges_with_64_reads(std::uint64_t count) {
    Desk desk;
    times(count, [&] {
        desk.press(20);
        const Frame& frame = desk.cut();
        unsigned some = 0;
        for (unsigned i = 0; i < 64; ++i) some += frame[key(i)].pressed() + frame[key(i)].down();
        use(some);
    });
}
void frame_of_17_motions(std::uint64_t count) {
    Desk desk;
    times(count, [&] {
        for (int i = 0; i < 17; ++i) desk.inlet.motion(1, -1, later(100'000));
        use(desk.cut().pointer().motion());
    });
}
/// What a game's frame of 60 per second has with a mouse that moves: posting, the cut, and questions.
void whole_path(std::uint64_t count) {
    Desk desk;
    times(count, [&] {
        for (int i = 0; i < 17; ++i) desk.inlet.motion(1, -1, later(100'000));
        desk.inlet.axis(DeviceId{3}, PadPullLeft, desk.down ? 0.25 : 0.3, later(100'000));
        desk.down = !desk.down;
        for (unsigned i = 0; i < 2; ++i) desk.inlet.button(key(i), desk.down, later(100'000));
        const Frame& frame = desk.cut();
        unsigned some = 0;
        for (unsigned i = 0; i < 64; ++i) some += frame[key(i)].pressed() + frame[key(i)].down();
        use(some);
    });
}
void frame_of_two_inlets(std::uint64_t count) {
    Desk desk;
    Inlet& other = desk.timeline.inlet(1);
    times(count, [&] {
        desk.down = !desk.down;
        for (unsigned i = 0; i < 10; ++i) {
            desk.inlet.button(key(i), desk.down, later(100'000));
            other.button(DeviceId{9}, key(i), desk.down, later(100'000));
        }
        use(desk.cut());
    });
}
void save_and_restore(std::uint64_t count) {
    Desk desk;
    desk.press(7);
    desk.cut();
    Sampler::State state;
    times(count, [&] {
        desk.sampler.save_to(state);
        desk.sampler.restore(state);
    });
}
void actions_without_edges(std::uint64_t count) {
    Actions actions{profile_of(64)};
    times(count, [&] {
        later();
        actions.read();
    });
}
struct CountOfVerdicts final : VerdictSink {
    void take(const Verdict&) override { ++count; }
    unsigned count = 0;
};
template <unsigned number, bool judged = false>
void actions_with_20_edges(std::uint64_t count) {
    Actions actions{profile_of(number)};
    CountOfVerdicts verdicts;
    if (judged) actions.reader.set_verdict_sink(&verdicts);
    times(count, [&] {
        actions.press(20);
        actions.read();
        unsigned some = 0;
        for (std::uint16_t i = 0; i < 64; ++i) some += actions.reader[ButtonAction{i}].pressed();
        use(some);
    });
}
void gestures_with_20_edges(std::uint64_t count) {
    Actions actions{profile_of(64, [](Action& action) {
        action.gesture = Gesture::long_press;
        action.gesture_time = std::chrono::milliseconds{500};
        action.debounce = std::chrono::milliseconds{1};
    })};
    times(count, [&] {
        actions.press(20);
        actions.read();
    });
}
void axes_with_ramps(std::uint64_t count) {
    Actions actions{profile_of(16, [](Action& action) {
        action.kind = ActionKind::axis;
        action.bindings = {
            {.kind = Binding::Kind::pair, .buttons = {action.bindings[0].buttons[0], action.bindings[1].buttons[0]}}};
        action.rise = action.fall = std::chrono::milliseconds{250};
    })};
    times(count, [&] {
        actions.press(4);
        actions.read();
        use(actions.reader[AxisAction{0}].mean);
    });
}
void save_actions(std::uint64_t count) {
    Actions actions{profile_of(64)};
    actions.press(7);
    actions.read();
    ActionReader::State state = actions.reader.save();
    times(count, [&] {
        actions.reader.save_to(state);
        use(actions.reader.restore(state));
    });
}

struct Row {
    std::string_view name;
    void (*run)(std::uint64_t count);
};
constexpr Row rows[] = {
    {"post_keys", post_keys<0>},
    {"post_keys_with_ledger", post_keys<half_a_minute>},
    {"post_motion", post_motion<0>},
    {"post_motion_with_ledger", post_motion<half_a_minute>},
    {"post_wheel", post_wheel},
    {"post_sticks", post_sticks<0>},
    {"post_sticks_with_ledger", post_sticks<half_a_minute>},
    {"post_clicks", post_clicks},
    {"post_motion_with_a_button_held", post_motion_with_a_button_held},
    {"poll_still_pad", poll_pad<false>},
    {"poll_moving_pad", poll_pad<true>},
    {"empty_frame", empty_frame},
    {"frame_of_20_edges", frame_of_20_edges},
    {"frame_of_20_edges_with_64_reads", frame_of_20_edges_with_64_reads},
    {"frame_of_17_motions", frame_of_17_motions},
    {"whole_path", whole_path},
    {"frame_of_two_inlets", frame_of_two_inlets},
    {"save_and_restore", save_and_restore},
    {"actions_without_edges", actions_without_edges},
    {"64_actions_with_20_edges", actions_with_20_edges<64>},
    {"64_actions_with_20_verdicts", actions_with_20_edges<64, true>},
    {"512_actions_with_20_edges", actions_with_20_edges<512>},
    {"gestures_with_20_edges", gestures_with_20_edges},
    {"axes_with_ramps", axes_with_ramps},
    {"save_actions", save_actions},
};

}  // namespace

int main(int count, char** arguments) {
    if (count == 3)
        for (const Row& row : rows)
            if (row.name == arguments[1]) return row.run(std::strtoull(arguments[2], nullptr, 10)), 0;
    for (const Row& row : rows) std::printf("%.*s\n", static_cast<int>(row.name.size()), row.name.data());
    return count == 1 ? 0 : 2;
}
