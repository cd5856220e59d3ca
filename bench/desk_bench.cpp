// Frames of a whole desk: mostly motion, and a mouse of 8,000 reports a second; polled keys.

#include <benchmark/benchmark.h>

#include <climits>
#include <cstdio>
#include <cstring>
#include <span>
#include <vector>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/polled_state.hpp"
#include "cursorum/core/sampler.hpp"
#include "desk_comparators.hpp"
#include "groups.hpp"
#include "timing.hpp"

namespace bench {
namespace {

using namespace cursorum;

constexpr unsigned asked = 64;
Button asked_button(unsigned i) { return {static_cast<std::uint16_t>(4 + i)}; }

/// A stream, and how it is cut. A round takes a few frames, then the next round the few after them: a loop takes what
/// was posted a moment ago, so it is still at hand, but what comes is never what came before.
struct Load {
    unsigned frames, per_frame, rounds;
    std::vector<DeskEvent> events;

    std::span<const DeskEvent> of(unsigned round, unsigned frame) const {
        const std::size_t first = std::size_t{round} * frames + frame;
        return std::span{events}.subspan(first * per_frame, per_frame);
    }
};
Load load_of(unsigned frames, unsigned per_frame, unsigned rounds, Mix mix) {
    return {frames, per_frame, rounds, desk_stream(rounds * frames, per_frame, mix)};
}

/// 20 events a frame: 17 of motion, 1 of a trigger, 2 of keys, shuffled.
const Load& mixed() {
    static const Load load = load_of(20, 20, 200, Mix::even);
    return load;
}
/// As many on average, but never the same.
const Load& random() {
    static const Load load = load_of(20, 20, 200, Mix::any);
    return load;
}
/// Nothing but motion: 133 samples a frame.
const Load& fast_mouse() {
    static const Load load = load_of(4, 133, 8, Mix::motion);
    return load;
}

/// What a desk has to be in after so many rounds.
void check_desk(const Load& load, unsigned rounds, const char* who, auto&& is_as) {
    DeskHashSets sets;
    for (unsigned round = 0; round < rounds; ++round)
        for (unsigned frame = 0; frame < load.frames; ++frame) sets.frame(load.of(round, frame));
    if (!is_as(sets)) differ(who);
}

constexpr DeviceId mouse{2}, pad{3};

struct Exact {
    explicit Exact(const Load& of) : load{of} { timeline.desk().connect(pad, {.kind = DeviceKind::gamepad}, Time{}); }

    void post_frame(unsigned frame) {
        for (const DeskEvent& e : load.of(round, frame)) {
            const Time time{Duration{base + e.time}};
            switch (e.kind) {
                case DeskEvent::Kind::motion: timeline.desk().motion(mouse, e.dx, e.dy, time); break;
                case DeskEvent::Kind::key: timeline.desk().button(e.button, e.down, time); break;
                case DeskEvent::Kind::axis: timeline.desk().axis(pad, controls::PadPullLeft, e.dx, time); break;
            }
        }
    }
    void post_in_batches(unsigned frame) {
        samples.clear();
        for (const DeskEvent& e : load.of(round, frame)) samples.push_back({Time{Duration{base + e.time}}, e.dx, e.dy});
        timeline.desk().motions(mouse, samples);
    }
    Time cut(unsigned frame) const {
        return Time{Duration{base + (std::int64_t{round} * load.frames + frame + 1) * frame_length}};
    }
    void next_round() {
        round = (round + 1) % load.rounds;
        if (round == 0) base += (load.frames * load.rounds + 1) * frame_length;
    }

    void check(const char* who) const {
        const Frame& last = sampler.frame();
        check_desk(load, round + 1, who, [&](const DeskHashSets& sets) {
            return last.current().down - ButtonSet{axis_button(controls::PadPullLeft)} == sets.down() &&
                   last.pointer().motion() == Distance{sets.dx(), sets.dy()} &&
                   last.raw_axis(controls::PadPullLeft).now == sets.axis();
        });
        if (sampler.counters().lost != 0 || sampler.counters().late != 0) differ(who);
    }

    const Load& load;
    Timeline timeline{{.history = 8192, .motion_history = 4096}};
    Sampler sampler{timeline, {.start = Time{}}};
    std::vector<MotionSample> samples;
    unsigned round = UINT_MAX;
    std::int64_t base = 0;
};

template <typename Ask>
void exact(benchmark::State& state, const Load& load, const char* who, Ask&& ask) {
    Exact exact{load};
    std::uint64_t sum = 0;
    time_rounds(
        state, "frame", load.frames,
        [&] {
            exact.next_round();
            for (unsigned frame = 0; frame < load.frames; ++frame) exact.post_frame(frame);
        },
        [&] {
            for (unsigned frame = 0; frame < load.frames; ++frame) sum += ask(exact.sampler.advance(exact.cut(frame)));
        });
    benchmark::DoNotOptimize(sum);
    exact.check(who);
}

std::uint64_t ask_nothing(const Frame& frame) { return static_cast<std::uint64_t>(nanoseconds(frame.end()) & 1); }
std::uint64_t ask_pressed(const Frame& frame) {
    std::uint64_t sum = 0;
    for (unsigned i = 0; i < asked; ++i) sum += frame[asked_button(i)].pressed();
    return sum;
}

void mixed_advance(benchmark::State& state) { exact(state, mixed(), "mixed advance", ask_nothing); }
void mixed_pressed(benchmark::State& state) { exact(state, mixed(), "mixed, 64 pressed", ask_pressed); }
void random_advance(benchmark::State& state) { exact(state, random(), "random advance", ask_nothing); }
void fast_advance(benchmark::State& state) { exact(state, fast_mouse(), "fast mouse", ask_nothing); }

void fast_samples(benchmark::State& state) {
    exact(state, fast_mouse(), "fast mouse, samples", [](const Frame& frame) {
        double sum = 0;
        for (const PointerSample& sample : frame.pointer().samples()) sum += sample.motion.x;
        return static_cast<std::uint64_t>(sum >= 0);
    });
}

template <bool in_batches>
void fast_post(benchmark::State& state) {
    Exact exact{fast_mouse()};
    time_rounds(
        state, "frame", exact.load.frames, [&] { exact.next_round(); },
        [&] {
            for (unsigned frame = 0; frame < exact.load.frames; ++frame) {
                if constexpr (in_batches)
                    exact.post_in_batches(frame);
                else
                    exact.post_frame(frame);
                exact.sampler.advance(exact.cut(frame));
            }
        });
    exact.check("fast mouse, posted");
}

template <typename ByHand>
void by_hand(benchmark::State& state, const Load& load, bool ask) {
    ByHand desk;
    std::uint64_t sum = 0;
    unsigned round = UINT_MAX;
    time_rounds(
        state, "frame", load.frames, [&] { round = (round + 1) % load.rounds; },
        [&] {
            for (unsigned frame = 0; frame < load.frames; ++frame) {
                desk.frame(load.of(round, frame));
                benchmark::ClobberMemory();
                if (ask)
                    for (unsigned i = 0; i < asked; ++i) sum += desk.pressed(asked_button(i));
            }
        });
    benchmark::DoNotOptimize(sum);
    check_desk(load, round + 1, "by hand", [&](const DeskHashSets& sets) {
        return sets.down() == desk.down() && sets.dx() == desk.dx() && sets.axis() == desk.axis();
    });
}

template <const Load& (*load)()>
void floor_copy(benchmark::State& state) {
    DeskCopying copying;
    unsigned round = UINT_MAX;
    time_rounds(
        state, "frame", load().frames, [&] { round = (round + 1) % load().rounds; },
        [&] {
            for (unsigned frame = 0; frame < load().frames; ++frame) copying.frame(load().of(round, frame));
        });
}

// ---- polled keys

constexpr unsigned polls = 256;

/// Each poll, one key comes up and another goes down.
const std::vector<KeyBytes>& poll_stream() {
    static const std::vector<KeyBytes> stream = [] {
        std::vector<KeyBytes> bytes(polls + 1);
        for (unsigned i = 0; i <= polls; ++i)
            for (unsigned key = 0; key < 4; ++key) bytes[i][4 + (i + key * 11) % 44] = 0x80;
        return bytes;
    }();
    return stream;
}

template <typename Changes>
void polled(benchmark::State& state, Changes&& changes) {
    std::uint64_t sum = 0;
    time_rounds(
        state, "poll", polls, [] {},
        [&] {
            for (unsigned i = 1; i <= polls; ++i) changes(poll_stream()[i - 1], poll_stream()[i], sum);
        });
    std::uint64_t expected = 0, rounds = 0;
    for (unsigned i = 1; i <= polls; ++i) key_changes(poll_stream()[i - 1], poll_stream()[i], expected);
    rounds = expected == 0 ? 1 : sum / expected;
    if (expected == 0 || rounds * expected != sum) differ("polled keys");
}
void polled_bytes(benchmark::State& state) {
    ButtonSet before = keys_from_bytes(poll_stream()[0], 0x80);
    polled(state, [&](const KeyBytes& last, const KeyBytes& now, std::uint64_t& sum) {
        if (&last == &poll_stream()[0]) before = keys_from_bytes(last, 0x80);
        const ButtonSet after = keys_from_bytes(now, 0x80);
        (before - after).for_each([&](Button key) { sum += key.number; });
        (after - before).for_each([&](Button key) { sum += key.number * 1000U; });
        before = after;
    });
}
void polled_by_loop(benchmark::State& state) {
    polled(state, [](const KeyBytes& last, const KeyBytes& now, std::uint64_t& sum) { key_changes(last, now, sum); });
}

}  // namespace

void add_desk_benchmarks() {
    const auto add = [](const char* name, auto function) {
        benchmark::RegisterBenchmark(name, function)->UseManualTime();
    };
    add("mixed", mixed_advance);
    add("mixed, 64 pressed", mixed_pressed);
    add("mixed floor", floor_copy<mixed>);
    add("mixed bool arrays", [](benchmark::State& s) { by_hand<DeskBoolArrays>(s, mixed(), false); });
    add("mixed hash sets", [](benchmark::State& s) { by_hand<DeskHashSets>(s, mixed(), false); });
    add("mixed hash sets, 64 pressed", [](benchmark::State& s) { by_hand<DeskHashSets>(s, mixed(), true); });
    add("random", random_advance);
    add("random floor", floor_copy<random>);
    add("random bool arrays", [](benchmark::State& s) { by_hand<DeskBoolArrays>(s, random(), false); });
    add("fast mouse", fast_advance);
    add("fast mouse, all samples", fast_samples);
    add("fast mouse, posted", fast_post<false>);
    add("fast mouse, in batches", fast_post<true>);
    add("fast mouse floor", floor_copy<fast_mouse>);
    add("polled bytes", polled_bytes);
    add("polled byte loop", polled_by_loop);
}

void report_desk(RatioReporter& report) {
    std::printf("\n20 events a frame: 17 of motion, 1 of a trigger, 2 of keys, shuffled\n\n");
    report.row("advance / floor (copying the events and 48 bytes)", "mixed", "mixed floor", 6);
    report.row("advance / two bool arrays and sums", "mixed", "mixed bool arrays", 0.9);
    report.row("advance / hash sets and sums", "mixed", "mixed hash sets", no_limit);
    report.row("advance and 64 pressed() / hash sets and 64 pressed", "mixed, 64 pressed",
               "mixed hash sets, 64 pressed", 0.25);
    std::printf("\nAs many on average, but no frame is as the last\n\n");
    report.row("advance / floor", "random", "random floor", no_limit);
    report.row("advance / two bool arrays and sums", "random", "random bool arrays", no_limit);
    std::printf("\nA mouse of 8,000 reports a second, 133 of them a frame\n\n");
    report.row("advance / floor", "fast mouse", "fast mouse floor", 1.5);
    report.row("advance and all samples / floor", "fast mouse, all samples", "fast mouse floor", no_limit);
    report.row("posting in batches and advance / posting one by one", "fast mouse, in batches", "fast mouse, posted",
               no_limit);
    std::printf("\n256 bytes of polled keys, of which two changed\n\n");
    report.row("bytes to changes / a loop over the bytes", "polled bytes", "polled byte loop", 0.2);
}

}  // namespace bench
