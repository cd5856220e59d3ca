// 10,000 players' keyboards, advanced in one call, against what people write by hand for each of them.

#include <benchmark/benchmark.h>

#include <cstdio>
#include <cstring>
#include <unordered_set>
#include <vector>

#include "cursorum/batch/keyboard_batch.hpp"
#include "groups.hpp"
#include "streams.hpp"
#include "timing.hpp"

namespace bench {
namespace {

using namespace cursorum;

constexpr std::uint32_t players = 10'000;
constexpr unsigned frames = 30;

/// A frame's events of all players, in order of time. Everything is up at the end.
using Stream = std::vector<std::vector<BatchEvent>>;

/// Each player presses and releases keys, at `per_frame` events a player and frame.
Stream make_stream(double per_frame) {
    std::uint64_t state = 7;
    const auto below = [&state](std::uint64_t bound) {
        state = state * 6364136223846793005ULL + 1442695040888963407ULL;
        return (state >> 33) % bound;
    };
    std::vector<std::uint8_t> held(players);
    Stream stream(frames);
    for (unsigned frame = 0; frame < frames; ++frame) {
        const auto count = static_cast<unsigned>(per_frame * players);
        for (unsigned i = 0; i < count; ++i) {
            const auto player = static_cast<std::uint32_t>(below(players));
            const bool down = held[player] == 0;
            if (down) held[player] = static_cast<std::uint8_t>(4 + below(40));
            stream[frame].push_back({Time{Duration{frame * frame_length + 1 + i * (frame_length - 2) / count}}, player,
                                     Button{held[player]}, down ? BatchEventKind::down : BatchEventKind::up});
            if (!down) held[player] = 0;
        }
    }
    for (std::uint32_t player = 0; player < players; ++player)
        if (held[player] != 0)
            stream.back().push_back(
                {Time{Duration{frames * frame_length}}, player, Button{held[player]}, BatchEventKind::up});
    return stream;
}

/// As people play: eight presses and releases a second.
const Stream& usual() {
    static const Stream stream = make_stream(8.0 / 60);
    return stream;
}
/// As nobody plays: one event a player in every frame.
const Stream& crowded() {
    static const Stream stream = make_stream(1);
    return stream;
}

template <typename Frame>
void rounds(benchmark::State& state, Frame&& frame) {
    time_rounds(
        state, "player", std::int64_t{players} * frames, [] {},
        [&] {
            for (unsigned i = 0; i < frames; ++i) frame(i);
        });
}

void batch(benchmark::State& state, const Stream& stream) {
    KeyboardBatch keyboards{{.players = players, .start = Time{}}};
    std::int64_t base = 0;
    std::uint64_t posted = 0;
    Stream shifted = stream;
    time_rounds(
        state, "player", std::int64_t{players} * frames,
        [&] {
            for (unsigned i = 0; i < frames; ++i)
                for (std::size_t k = 0; k < stream[i].size(); ++k)
                    shifted[i][k].time = stream[i][k].time + Duration{base};
        },
        [&] {
            for (unsigned i = 0; i < frames; ++i) {
                keyboards.advance(Time{Duration{base + (i + 1) * frame_length}}, shifted[i]);
                posted += shifted[i].size();
            }
            base += (frames + 1) * frame_length;
        });
    for (const std::uint64_t word : keyboards.levels())
        if (word != 0) differ("batch");
    const BatchCounters& counters = keyboards.counters();
    if (counters.taken != posted || counters.late + counters.strays + counters.refused != 0) differ("batch");
}
void batch_usual(benchmark::State& state) { batch(state, usual()); }
void batch_crowded(benchmark::State& state) { batch(state, crowded()); }

/// Two arrays of bool for each player, the older a copy of the newer at each frame's start.
struct BoolKeyboard {
    std::array<bool, 256> current{}, previous{};
};
void bools(benchmark::State& state, const Stream& stream) {
    std::vector<BoolKeyboard> keyboards(players);
    rounds(state, [&](unsigned i) {
        for (BoolKeyboard& keyboard : keyboards) keyboard.previous = keyboard.current;
        for (const BatchEvent& event : stream[i])
            keyboards[event.player].current[event.key.number] = event.kind == BatchEventKind::down;
        benchmark::ClobberMemory();
    });
    for (const BoolKeyboard& keyboard : keyboards)
        for (const bool down : keyboard.current)
            if (down) differ("bool arrays");
}
void bools_usual(benchmark::State& state) { bools(state, usual()); }
void bools_crowded(benchmark::State& state) { bools(state, crowded()); }

/// Sets of what is down, was pressed and was released, for each player.
struct SetKeyboard {
    std::unordered_set<std::uint16_t> down, pressed, released;
};
void sets(benchmark::State& state, const Stream& stream) {
    std::vector<SetKeyboard> keyboards(players);
    rounds(state, [&](unsigned i) {
        for (SetKeyboard& keyboard : keyboards) {
            keyboard.pressed.clear();
            keyboard.released.clear();
        }
        for (const BatchEvent& event : stream[i]) {
            SetKeyboard& keyboard = keyboards[event.player];
            if (event.kind == BatchEventKind::down) {
                if (keyboard.down.insert(event.key.number).second) keyboard.pressed.insert(event.key.number);
            } else if (keyboard.down.erase(event.key.number) != 0) {
                keyboard.released.insert(event.key.number);
            }
        }
        benchmark::ClobberMemory();
    });
    for (const SetKeyboard& keyboard : keyboards)
        if (!keyboard.down.empty()) differ("hash sets");
}
void sets_usual(benchmark::State& state) { sets(state, usual()); }
void sets_crowded(benchmark::State& state) { sets(state, crowded()); }

/// The levels of all players, 32 bytes each.
void copy_levels(benchmark::State& state) {
    std::vector<std::uint64_t> from(std::size_t{players} * 4), to(from.size());
    rounds(state, [&](unsigned) {
        benchmark::DoNotOptimize(from.data());
        std::memcpy(to.data(), from.data(), from.size() * 8);
        benchmark::ClobberMemory();
    });
}

const std::pair<const char*, void (*)(benchmark::State&)> all[] = {
    {"batch", batch_usual},
    {"batch, crowded", batch_crowded},
    {"players' bool arrays", bools_usual},
    {"players' bool arrays, crowded", bools_crowded},
    {"players' hash sets", sets_usual},
    {"players' hash sets, crowded", sets_crowded},
    {"copy players' levels", copy_levels},
};

}  // namespace

void add_batch_benchmarks() {
    for (const auto& [name, function] : all) benchmark::RegisterBenchmark(name, function)->UseManualTime();
}

void report_batch(RatioReporter& report) {
    std::printf("\n10,000 players in one call: eight events a second each; crowded: one in every frame\n\n");
    report.row("batch / a player's hash sets", "batch", "players' hash sets", 1.0 / 8);
    report.row("batch / a player's two bool arrays", "batch", "players' bool arrays", 1.0 / 3);
    report.row("batch / copying all levels", "batch", "copy players' levels", no_limit);
    report.row("crowded: batch / a player's hash sets", "batch, crowded", "players' hash sets, crowded", no_limit);
    report.row("crowded: batch / a player's two bool arrays", "batch, crowded", "players' bool arrays, crowded",
               no_limit);
}

}  // namespace bench
