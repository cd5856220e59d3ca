// Actions: 64 of them, each with one to four bindings, asked for in every frame.

#include <benchmark/benchmark.h>

#include <array>
#include <cstdio>
#include <string>
#include <unordered_map>
#include <utility>
#include <vector>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"
#include "cursorum/why/recent_input.hpp"
#include "groups.hpp"
#include "streams.hpp"
#include "timing.hpp"

namespace bench {
namespace {

using namespace cursorum;

constexpr unsigned action_count = 64, frames = 400, per_frame = 2;

const std::vector<RawEvent>& stream() {
    static const std::vector<RawEvent> events = button_stream(frames, per_frame);
    return events;
}

std::string name(unsigned action) { return "crane operator action " + std::to_string(action); }
Button bound(unsigned action, unsigned binding) {
    static const std::vector<Button> keys = [] {
        std::vector<Button> named;
        for (std::uint16_t i = first_key; i <= last_key; ++i)
            if (!name_of(Button{i}).empty()) named.push_back({i});
        return named;
    }();
    return keys[(action * 7 + binding * 29) % keys.size()];
}
unsigned bindings(unsigned action) { return 1 + action % 4; }

Profile profile() {
    Profile profile{.title = "", .modes = {{.name = "crane"}}};
    for (unsigned action = 0; action < action_count; ++action) {
        Action its{.name = name(action)};
        for (unsigned i = 0; i < bindings(action); ++i) its.bindings.push_back({.buttons = {bound(action, i)}});
        profile.modes[0].actions.push_back(its);
    }
    return profile;
}

/// Frames of the same stream, round after round; a round posts a few frames, and takes them.
constexpr unsigned frames_a_round = 20;
struct Desk {
    Timeline timeline{{.history = 8192}};
    Sampler sampler{timeline, {.start = Time{}}};
    std::int64_t base = 0;
    unsigned posted = 0, taken = 0;

    void post() {
        if (posted == frames) posted = taken = 0, base += (frames + 1) * frame_length;
        for (unsigned i = posted * per_frame; i < (posted + frames_a_round) * per_frame; ++i)
            timeline.desk().button(stream()[i].button, stream()[i].down, Time{Duration{base + stream()[i].time}});
        posted += frames_a_round;
    }
    const Frame& next() { return sampler.advance(Time{Duration{base + ++taken * frame_length}}); }
};

template <typename Work>
void each_frame(benchmark::State& state, Work&& work) {
    Desk desk;
    time_rounds(
        state, "frame", frames_a_round, [&] { desk.post(); },
        [&] {
            for (unsigned i = 0; i < frames_a_round; ++i) work(desk.next());
        });
}

void alone(benchmark::State& state) {
    each_frame(state, [](const Frame&) { benchmark::ClobberMemory(); });
}

/// As a game asks: no two answers are worked out together.
unsigned one_by_one(unsigned answer) {
    asm volatile("" : "+r"(answer));
    return answer;
}

/// Calls `ask` with each action's handle in turn: constants, as in a header that the build makes of a profile. Each is
/// a place of its own in the program, as in a game.
template <std::uint16_t... numbers, typename Ask>
void for_each_handle(std::integer_sequence<std::uint16_t, numbers...>, std::uint32_t numbering, Ask&& ask) {
    (ask(ButtonAction{numbers, numbering}), ...);
}
template <typename Ask>
void for_each_handle(std::uint32_t numbering, Ask&& ask) {
    for_each_handle(std::make_integer_sequence<std::uint16_t, action_count>{}, numbering, ask);
}

void by_reader(benchmark::State& state) {
    ActionReader reader{profile()};
    reader.open(ModeHandle{0});
    std::uint64_t sum = 0;
    each_frame(state, [&](const Frame& frame) {
        reader.read(frame);
        std::uint64_t here = 0;
        for_each_handle(
            reader.numbering(), [&](ButtonAction handle) __attribute__((always_inline)) {
                const ActionReading action = reader[handle];
                here += one_by_one(action.pressed() + action.down());
            });
        sum += here;
        benchmark::ClobberMemory();
    });
    benchmark::DoNotOptimize(sum);
    if (sum == 0) differ("actions by reader");
}

void by_strings(benchmark::State& state) {
    std::unordered_map<std::string, std::vector<Button>> map;
    std::vector<std::string> names;
    for (unsigned action = 0; action < action_count; ++action) {
        names.push_back(name(action));
        for (unsigned i = 0; i < bindings(action); ++i) map[names.back()].push_back(bound(action, i));
    }
    std::uint64_t sum = 0;
    each_frame(state, [&](const Frame& frame) {
        std::uint64_t here = 0;
        for (const std::string& name : names) {
            bool pressed = false, down = false;
            for (const Button button : map.at(name)) {
                pressed |= frame[button].pressed();
                down |= frame[button].down();
            }
            here += one_by_one(pressed + down);
        }
        sum += here;
        benchmark::ClobberMemory();
    });
    benchmark::DoNotOptimize(sum);
    if (sum == 0 && state.iterations() > 100) differ("actions by strings");
}

/// As it is often written: two arrays of levels, and a map from names; no frame of ours.
void by_strings_over_arrays(benchmark::State& state) {
    std::unordered_map<std::string, std::vector<Button>> map;
    std::vector<std::string> names;
    for (unsigned action = 0; action < action_count; ++action) {
        names.push_back(name(action));
        for (unsigned i = 0; i < bindings(action); ++i) map[names.back()].push_back(bound(action, i));
    }
    std::array<bool, button_capacity> now{}, before{};
    std::size_t next = 0;
    std::uint64_t sum = 0;
    time_rounds(
        state, "frame", frames_a_round, [] {},
        [&] {
            for (unsigned frame = 0; frame < frames_a_round; ++frame) {
                before = now;
                for (unsigned i = 0; i < per_frame; ++i, next = (next + 1) % stream().size())
                    now[stream()[next].button.number] = stream()[next].down;
                std::uint64_t here = 0;
                for (const std::string& name : names) {
                    bool pressed = false, down = false;
                    for (const Button button : map.at(name)) {
                        pressed |= now[button.number] && !before[button.number];
                        down |= now[button.number];
                    }
                    here += one_by_one(pressed + down);
                }
                sum += here;
                benchmark::ClobberMemory();
            }
        });
    benchmark::DoNotOptimize(sum);
    if (sum == 0 && state.iterations() > 100) differ("actions by strings over arrays");
}

void readings(benchmark::State& state) {
    ActionReader reader{profile()};
    reader.open(ModeHandle{0});
    std::uint64_t sum = 0;
    each_frame(state, [&](const Frame& frame) {
        reader.read(frame);
        for (unsigned time = 0; time < 16; ++time) {
            std::uint64_t here = 0;
            for_each_handle(
                reader.numbering(), [&](ButtonAction handle) __attribute__((always_inline)) {
                    here += one_by_one(reader[handle].pressed());
                });
            sum += here;
            benchmark::ClobberMemory();
        }
    });
    benchmark::DoNotOptimize(sum);
}
void button_readings(benchmark::State& state) {
    std::vector<Button> buttons;
    for (unsigned i = 0; i < action_count; ++i) buttons.push_back(bound(i, 0));
    std::uint64_t sum = 0;
    each_frame(state, [&](const Frame& frame) {
        for (unsigned time = 0; time < 16; ++time) {
            std::uint64_t here = 0;
            for (const Button button : buttons) here += one_by_one(frame[button].pressed());
            sum += here;
            benchmark::ClobberMemory();
        }
    });
    benchmark::DoNotOptimize(sum);
}

/// Frames in which nothing happens, of actions that `press` may have set in motion before. `reads`: by a reader, too.
template <bool reads>
void quiet_frames(benchmark::State& state, const Profile& of, const std::vector<Button>& down) {
    Timeline timeline;
    Sampler sampler{timeline, {.start = Time{}}};
    ActionReader reader{of};
    reader.open(ModeHandle{0});
    for (const Button key : down) timeline.desk().button(key, true, Time{Duration{1}});
    std::int64_t now = 0;
    for (int i = 0; i < 60; ++i) reader.read(sampler.advance(Time{Duration{now += frame_length}}));
    time_rounds(
        state, "frame", frames_a_round, [] {},
        [&] {
            for (unsigned i = 0; i < frames_a_round; ++i) {
                const Frame& frame = sampler.advance(Time{Duration{now += frame_length}});
                if (reads) reader.read(frame);
                benchmark::ClobberMemory();
            }
        });
    if (reads && !down.empty() && reader[VectorAction{0}].integral.x <= 0) differ("quiet frames");
}

/// Frames of 64 edges each, read by a reader of plain actions; and kept for the question why, or only copied, 16
/// bytes for each edge.
enum class Keeping : std::uint8_t { nothing, copies, notes };
template <Keeping keeping>
void busy_frames(benchmark::State& state) {
    constexpr unsigned edges = 64, frames_here = 8;
    Timeline timeline{{.history = 8192, .ledger = half_a_minute}};
    Sampler sampler{timeline, {.start = Time{}}};
    ActionReader reader{profile()};
    RecentInput recent{timeline, sampler, reader};
    reader.open(ModeHandle{0});
    std::int64_t posted = 0, taken = 0;
    std::vector<std::array<std::uint64_t, 2>> copies(16'384);
    std::size_t copied = 0;
    time_rounds(
        state, "event", edges * frames_here,
        [&] {
            for (unsigned i = 0; i < edges * frames_here; ++i, posted += frame_length / edges)
                timeline.desk().button(stream()[i % 64 * 2].button, i / 64 % 2 == 0, Time{Duration{posted + 1}});
        },
        [&] {
            for (unsigned i = 0; i < frames_here; ++i) {
                const Frame& frame = sampler.advance(Time{Duration{taken += edges * (frame_length / edges)}});
                reader.read(frame);
                if (keeping == Keeping::notes) recent.note();
                if (keeping == Keeping::copies)
                    for (const Edge edge : frame.edges())
                        copies[copied++ % copies.size()] = {static_cast<std::uint64_t>(nanoseconds(edge.time)),
                                                            edge.button.number};
                benchmark::ClobberMemory();
            }
        });
    if (keeping == Keeping::notes && recent.length() == Duration{} && state.iterations() > 100) differ("busy frames");
}

/// 32 vectors with ramps, all of them of the same four keys.
Profile ramped_vectors() {
    Profile profile;
    profile.modes = {{.name = "m"}};
    for (unsigned i = 0; i < 32; ++i) {
        Action action{.name = name(i), .kind = ActionKind::vector};
        action.bindings = {{.kind = Binding::Kind::cross,
                            .buttons = {controls::KeyA, controls::KeyD, controls::KeyW, controls::KeyS}}};
        action.rise = action.fall = Duration{100'000'000};
        profile.modes[0].actions.push_back(std::move(action));
    }
    return profile;
}

}  // namespace

void add_actions_benchmarks() {
    const auto add = [](const char* what, auto function) {
        benchmark::RegisterBenchmark(what, function)->UseManualTime();
    };
    add("frames alone", alone);
    add("64 actions", by_reader);
    add("64 actions by strings", by_strings);
    add("64 actions by strings over arrays", by_strings_over_arrays);
    add("1024 actions' pressed()", readings);
    add("1024 buttons' pressed()", button_readings);
    add("a quiet frame", [](benchmark::State& s) { quiet_frames<false>(s, profile(), {}); });
    add("64 actions, nothing happens", [](benchmark::State& s) { quiet_frames<true>(s, profile(), {}); });
    add("events of actions", busy_frames<Keeping::nothing>);
    add("events of actions, copied", busy_frames<Keeping::copies>);
    add("events of actions, noted", busy_frames<Keeping::notes>);
    add("32 ramps at rest", [](benchmark::State& s) { quiet_frames<true>(s, ramped_vectors(), {}); });
    add("32 ramps at their target",
        [](benchmark::State& s) { quiet_frames<true>(s, ramped_vectors(), {controls::KeyD}); });
}

void report_actions(RatioReporter& report) {
    std::printf("\n64 actions of 1 to 4 bindings, 2 button events a frame\n\n");
    report.row("reading the frame and all actions / by strings, OR-ing bindings", "64 actions", "64 actions by strings",
               "frames alone", 1.0 / 18);
    report.row("the frame and all actions / by strings, over two bool arrays", "64 actions",
               "64 actions by strings over arrays", 1.0 / 8);
    report.row("an action's pressed() / a button's", "1024 actions' pressed()", "1024 buttons' pressed()",
               "frames alone", 2);
    constexpr const char* copy = "copy 16 bytes into a queue";
    report.row("a frame in which nothing happens, and 64 actions / copy", "64 actions, nothing happens", copy, 23);
    report.row("a frame and 32 ramped vectors at rest / copy", "32 ramps at rest", copy, 33);
    report.row("a frame and 32 ramped vectors at their target / copy", "32 ramps at their target", copy, 33);
    report.row("noting an event for the question why / copying time and button", "events of actions, noted",
               "events of actions, copied", "events of actions", 2);
    report.row("a frame in which nothing happens, alone / copy", "a quiet frame", copy, no_limit);
}

}  // namespace bench
