// Events to frames, against what people write by hand.

#include <benchmark/benchmark.h>

#include <cstdio>
#include <cstring>
#include <vector>

#include "comparators.hpp"
#include "cursorum/core/sampler.hpp"
#include "groups.hpp"
#include "timing.hpp"

namespace bench {
namespace {

using namespace cursorum;

constexpr unsigned frames = 180, per_frame = 20, asked = 64;

const std::vector<RawEvent>& stream() {
    static const std::vector<RawEvent> events = button_stream(frames, per_frame);
    return events;
}

std::span<const RawEvent> frame_events(unsigned frame) {
    return std::span{stream()}.subspan(std::size_t{frame} * per_frame, per_frame);
}

Button asked_button(unsigned i) { return {static_cast<std::uint16_t>(4 + i)}; }

/// Times `body`, which goes through all frames.
template <typename Prepare, typename Body>
void run(benchmark::State& state, Prepare&& prepare, Body&& body) {
    time_rounds(state, "frame", frames, prepare, body);
}

/// Cursorum's side: a timeline that is posted to, and samplers that follow.
struct Exact {
    Timeline timeline{{.history = 4096}};
    Sampler sampler{timeline, {.start = Time{}}};
    std::int64_t base = 0;

    void post_frame(unsigned frame) {
        for (const RawEvent& event : frame_events(frame))
            timeline.desk().button(event.button, event.down, Time{Duration{base + event.time}});
    }
    void post_all() {
        for (unsigned frame = 0; frame < frames; ++frame) post_frame(frame);
    }
    Time cut(unsigned frame) const { return Time{Duration{base + (frame + 1) * frame_length}}; }
    void next_round() { base += (frames + 1) * frame_length; }

    void check(const char* who) const {
        HashSets sets;
        for (unsigned frame = 0; frame < frames; ++frame) sets.frame(frame_events(frame));
        if (sampler.frame().current().down != sets.down()) differ(who);
        if (sampler.counters().lost != 0 || sampler.counters().late != 0) differ(who);
    }
};

template <typename Ask>
void exact(benchmark::State& state, const char* who, Ask&& ask) {
    Exact exact;
    std::uint64_t sum = 0;
    run(
        state, [&] { exact.next_round(), exact.post_all(); },
        [&] {
            for (unsigned frame = 0; frame < frames; ++frame) sum += ask(exact.sampler.advance(exact.cut(frame)));
        });
    benchmark::DoNotOptimize(sum);
    exact.check(who);
}

void advance_only(benchmark::State& state) {
    exact(state, "advance", [](const Frame& frame) { return nanoseconds(frame.end()) & 1; });
}
void advance_pressed(benchmark::State& state) {
    exact(state, "advance and pressed()", [](const Frame& frame) {
        std::uint64_t sum = 0;
        for (unsigned i = 0; i < asked; ++i) sum += frame[asked_button(i)].pressed();
        return sum;
    });
}
void advance_readings(benchmark::State& state) {
    exact(state, "advance and full readings", [](const Frame& frame) {
        std::uint64_t sum = 0;
        for (unsigned i = 0; i < asked; ++i) {
            const ButtonFigures f = frame[asked_button(i)].figures();
            sum += f.press_count() + f.release_count() + f.repeat_count() +
                   static_cast<std::uint64_t>(f.down_span().count() + f.held_for().count());
        }
        return sum;
    });
}

/// Posts each frame's events and lets the samplers take them.
void post_and_follow(benchmark::State& state, const char* who, bool with_second) {
    Exact exact;
    Sampler second{exact.timeline, {.start = Time{}}};
    run(
        state, [&] { exact.next_round(); },
        [&] {
            for (unsigned frame = 0; frame < frames; ++frame) {
                exact.post_frame(frame);
                exact.sampler.advance(exact.cut(frame));
                if (with_second) second.advance(exact.cut(frame));
            }
        });
    exact.check(who);
    if (with_second && second.frame().current() != exact.sampler.frame().current()) differ(who);
}
void post_and_advance(benchmark::State& state) { post_and_follow(state, "post and advance", false); }
void two_samplers(benchmark::State& state) { post_and_follow(state, "two samplers", true); }

void empty_frame(benchmark::State& state) {
    Exact exact;
    std::int64_t t = 0;
    run(
        state, [] {},
        [&] {
            for (unsigned frame = 0; frame < frames; ++frame)
                benchmark::DoNotOptimize(&exact.sampler.advance(Time{Duration{++t}}));
        });
}

void copy_48_bytes(benchmark::State& state) {
    std::array<std::uint64_t, 6> from{}, to{};
    run(
        state, [] {},
        [&] {
            for (unsigned frame = 0; frame < frames; ++frame) {
                benchmark::DoNotOptimize(from.data());
                std::memcpy(to.data(), from.data(), sizeof to);
                benchmark::DoNotOptimize(to.data());
                benchmark::ClobberMemory();
            }
        });
}

void floor_copy(benchmark::State& state) {
    Copying copying;
    run(
        state, [] {},
        [&] {
            for (unsigned frame = 0; frame < frames; ++frame) copying.frame(frame_events(frame));
        });
}

/// Events copied into a queue, and out of it again with 48 bytes of state.
void floor_in_and_out(benchmark::State& state) {
    Copying in, out;
    run(
        state, [] {},
        [&] {
            for (unsigned frame = 0; frame < frames; ++frame) {
                in.frame(frame_events(frame));
                out.frame(frame_events(frame));
            }
        });
}

template <typename ByHand>
void by_hand(benchmark::State& state, bool ask) {
    ByHand keys;
    std::uint64_t sum = 0;
    run(
        state, [] {},
        [&] {
            for (unsigned frame = 0; frame < frames; ++frame) {
                keys.frame(frame_events(frame));
                benchmark::ClobberMemory();
                if (ask)
                    for (unsigned i = 0; i < asked; ++i) sum += keys.pressed(asked_button(i));
            }
        });
    benchmark::DoNotOptimize(sum);
    BoolArrays check;
    for (unsigned frame = 0; frame < frames; ++frame) check.frame(frame_events(frame));
    if (check.down() != keys.down()) differ("by hand");
}
void bool_arrays(benchmark::State& state) { by_hand<BoolArrays>(state, false); }
void hash_sets(benchmark::State& state) { by_hand<HashSets>(state, false); }
void hash_sets_pressed(benchmark::State& state) { by_hand<HashSets>(state, true); }

const std::pair<const char*, void (*)(benchmark::State&)> all[] = {
    {"advance", advance_only},
    {"advance, 64 pressed", advance_pressed},
    {"advance, 64 readings", advance_readings},
    {"post and advance", post_and_advance},
    {"post, two samplers", two_samplers},
    {"empty frame", empty_frame},
    {"copy 48 bytes", copy_48_bytes},
    {"floor", floor_copy},
    {"floor, in and out", floor_in_and_out},
    {"bool arrays", bool_arrays},
    {"hash sets", hash_sets},
    {"hash sets, 64 pressed", hash_sets_pressed},
};

}  // namespace

void add_frames_benchmarks() {
    for (const auto& [name, function] : all) benchmark::RegisterBenchmark(name, function)->UseManualTime();
}

void report_frames(RatioReporter& report) {
    std::printf("\n20 button events a frame, with all rules of frames, merging and devices\n\n");
    report.row("advance / floor (copying the events and 48 bytes)", "advance", "floor", 24);
    report.row("advance / two bool arrays", "advance", "bool arrays", bench::no_limit);
    report.row("advance / hash sets", "advance", "hash sets", 0.15);
    report.row("advance and 64 pressed() / hash sets and 64 pressed", "advance, 64 pressed", "hash sets, 64 pressed",
               0.2);
    report.row("advance and 64 full readings / hash sets and 64 pressed", "advance, 64 readings",
               "hash sets, 64 pressed", 0.3);
    report.row("post and advance / copying the events in and out", "post and advance", "floor, in and out", 30);
    report.row("empty frame / copying 48 bytes", "empty frame", "copy 48 bytes", 20);
    report.row("posting and two samplers / posting and one", "post, two samplers", "post and advance", 1.6);
    report.row("the most that a saved state can take, in KB",
               static_cast<double>(sizeof(cursorum::Sampler::State)) / 1024, 37);
}

}  // namespace bench
