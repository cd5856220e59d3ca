// Gamepads: asking for sticks, posting axes, actions on sticks.

#include <benchmark/benchmark.h>

#include <cstdio>
#include <vector>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/actions/profile.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"
#include "groups.hpp"
#include "timing.hpp"

namespace bench {
namespace {

using namespace cursorum;
using namespace cursorum::controls;

constexpr unsigned many = 1000;
Time at(std::int64_t ns) { return Time{Duration{ns}}; }

/// Pads with both sticks pushed, the next a little farther, and a frame in which nothing happens.
struct Pads {
    explicit Pads(unsigned count) {
        for (unsigned i = 0; i < count; ++i) {
            const DeviceId pad{10 + i};
            timeline.desk().connect(pad, {.kind = DeviceKind::gamepad}, at(0));
            timeline.desk().stick(pad, PadStickLeft, 0.5 + i * 0.01, 0.1, at(1));
            timeline.desk().stick(pad, PadStickRight, 0.5 + i * 0.01, 0.1, at(1));
        }
        sampler.advance(at(2));
        sampler.advance(at(now));
    }
    Timeline timeline{{.devices = 32}};
    Sampler sampler{timeline, {.start = at(0)}};
    std::int64_t now = 3;
};

template <unsigned count>
void ask_for_stick(benchmark::State& state) {
    Pads pads{count};
    const Frame& frame = pads.sampler.frame();
    double sum = 0, rounds = 0;
    time_rounds(
        state, "stick", many, [&] { ++rounds; },
        [&] {
            for (unsigned i = 0; i < many; ++i) {
                sum += frame.stick(PadStickLeft).now.x;
                benchmark::ClobberMemory();
            }
        });
    if (const double one = frame.on(DeviceId{9 + count}).stick(PadStickLeft).now.x; sum < 0.99 * one * many * rounds)
        differ("sticks");
}

template <typename Post>
void post_axes(benchmark::State& state, Post&& post) {
    Pads pads{1};
    unsigned n = 0;
    time_rounds(
        state, "event", many, [] {},
        [&] {
            for (unsigned i = 0; i < many; ++i) post(pads.timeline.desk(), ++n, at(pads.now += 10));
        });
    if (pads.timeline.desk().counters().events < n) differ("axes");
}

Profile two_sticks() {
    Mode mode{.name = "crane"};
    for (const Stick stick : {PadStickLeft, PadStickRight}) {
        Action action{.name = stick == PadStickLeft ? "travel" : "hoist", .kind = ActionKind::vector};
        action.bindings.push_back({.kind = Binding::Kind::stick, .stick = stick});
        mode.actions.push_back(action);
    }
    Profile profile;
    profile.modes = {mode};
    return profile;
}

/// `reads`: actions too, else the frame alone.
template <bool reads>
void stick_actions(benchmark::State& state) {
    Pads pads{4};
    ActionReader reader{two_sticks()};
    reader.open(ModeHandle{0});
    time_rounds(
        state, "frame", many, [] {},
        [&] {
            for (unsigned i = 0; i < many; ++i) {
                const Frame& frame = pads.sampler.advance(at(pads.now += 10));
                if (reads) reader.read(frame);
            }
        });
    if (reads && reader[VectorAction{0}].value.x <= 0.4) differ("actions on sticks");
}

/// A peer's late input: back to a tick, and eight ticks again, each saved, with four keys and a pad down.
template <bool saves>
void go_back(benchmark::State& state) {
    Pads pads{1};
    Inlet& desk = pads.timeline.desk();
    for (const Button key : {KeyW, KeyA, Space, ShiftLeft}) desk.button(key, true, at(4));
    desk.button(DeviceId{10}, PadSouth, true, at(4));
    for (int i = 0; i < 8; ++i) desk.axis(DeviceId{10}, PadStickLeftX, 0.5 + 0.01 * i, at(100 * i + 50));
    pads.sampler.advance(at(10));
    const Sampler::State start = pads.sampler.save();
    std::vector<Sampler::State> ticks(8);
    time_rounds(
        state, "time", 1, [] {},
        [&] {
            pads.sampler.restore(start);
            for (int i = 0; i < 8; ++i) {
                pads.sampler.advance(at(100 * (i + 1)));
                if (saves) pads.sampler.save_to(ticks[static_cast<std::size_t>(i)]);
            }
        });
    if (pads.sampler.frame().stick(PadStickLeft).now.x <= 0.5) differ("going back");
}

}  // namespace

void add_pads_benchmarks() {
    const auto add = [](const char* name, auto function) {
        benchmark::RegisterBenchmark(name, function)->UseManualTime();
    };
    const DeviceId pad{10};
    add("stick(), 1 pad", ask_for_stick<1>);
    add("stick(), 9 pads", ask_for_stick<9>);
    add("post a stick's axis", [pad](benchmark::State& s) {
        post_axes(s,
                  [pad](Inlet& inlet, unsigned n, Time when) { inlet.axis(pad, PadStickLeftX, n % 90 * 0.004, when); });
    });
    add("post a trigger", [pad](benchmark::State& s) {
        post_axes(s,
                  [pad](Inlet& inlet, unsigned n, Time when) { inlet.axis(pad, PadPullLeft, n % 90 * 0.004, when); });
    });
    add("post an axis, unchanged", [pad](benchmark::State& s) {
        post_axes(s, [pad](Inlet& inlet, unsigned, Time when) { inlet.axis(pad, PadPullLeft, 0.25, when); });
    });
    add("2 stick actions, 4 pads", stick_actions<true>);
    add("4 pads, no actions", stick_actions<false>);
    add("back and 8 ticks, saved", go_back<true>);
    add("back and 8 ticks", go_back<false>);
}

void report_pads(RatioReporter& report) {
    constexpr const char* copy = "copy 16 bytes into a queue";
    std::printf("\nGamepads, in copies of 16 bytes\n\n");
    report.row("stick() with one pad / copy", "stick(), 1 pad", copy, 7.1);
    report.row("stick() with 9 pads / copy", "stick(), 9 pads", copy, 45);
    report.row("posting a stick's axis / copy", "post a stick's axis", copy, 36);
    report.row("posting a trigger / copy", "post a trigger", copy, 22);
    report.row("posting an axis that did not change / copy", "post an axis, unchanged", copy, 8);
    report.row("a frame and 2 stick actions with 4 pads / copy", "2 stick actions, 4 pads", copy, 100);
    report.row("back and 8 ticks again, each saved / copy", "back and 8 ticks, saved", copy, 3400);
    report.row("back and 8 ticks again / copy", "back and 8 ticks", copy, no_limit);
    report.row("a frame with 4 pads alone / copy", "4 pads, no actions", copy, no_limit);
}

}  // namespace bench
