// What an event costs the thread that posts it, alone and while others read.

#include <benchmark/benchmark.h>

#include <atomic>
#include <cstdio>
#include <memory>
#include <thread>

#include "comparators.hpp"
#include "cursorum/core/sampler.hpp"
#include "groups.hpp"
#include "timing.hpp"

namespace bench {
namespace {

using namespace cursorum;

constexpr unsigned frames = 180, per_frame = 20;
constexpr std::int64_t events = frames * per_frame;

const std::vector<RawEvent>& stream() {
    static const std::vector<RawEvent> all = button_stream(frames, per_frame);
    return all;
}

/// Posts the stream again and again, each time later.
struct Poster {
    Timeline timeline;
    std::int64_t base = 0;

    void next_round() { base += (frames + 1) * frame_length; }
    void post_all() {
        Inlet& desk = timeline.desk();
        for (const RawEvent& event : stream()) desk.button(event.button, event.down, Time{Duration{base + event.time}});
    }
    void post_motion() {
        Inlet& desk = timeline.desk();
        for (const RawEvent& event : stream()) desk.motion(1.5, -0.25, Time{Duration{base + event.time}});
    }
};

void post(benchmark::State& state) {
    Poster poster;
    time_rounds(
        state, "event", events, [&] { poster.next_round(); }, [&] { poster.post_all(); });
    if (poster.timeline.desk().counters().strays != 0) differ("post");
}

void post_motion(benchmark::State& state) {
    Poster poster;
    time_rounds(
        state, "event", events, [&] { poster.next_round(); }, [&] { poster.post_motion(); });
}

/// A consumer on a thread of its own that advances every `pause` looks at the clock.
void post_beside(benchmark::State& state, Duration pause) {
    Poster poster;
    std::atomic<bool> on{true};
    std::thread consumer{[&] {
        Sampler sampler{poster.timeline, {.start = Time{}}};
        for (Time next = Clock::now(); on.load(std::memory_order_relaxed);) {
            if (Clock::now() < next) continue;
            next = Clock::now() + pause;
            sampler.advance(latest_time);  // whatever is there
        }
        const SamplerCounters counters = sampler.counters();
        if (counters.taken + counters.lost > poster.timeline.desk().counters().events) differ("beside a consumer");
    }};
    time_rounds(
        state, "event", events, [&] { poster.next_round(); }, [&] { poster.post_all(); });
    on = false;
    consumer.join();
}
// Sixteen times in a tick of 60 Hz; and as often as it can.
void post_beside_one(benchmark::State& state) { post_beside(state, Duration{1'000'000}); }
void post_beside_a_busy_one(benchmark::State& state) { post_beside(state, Duration{0}); }

/// The comparator: the event's 16 bytes are copied into a ring by a function of another file, as posting is one.
void copy_events(benchmark::State& state) {
    EventQueue queue;
    time_rounds(
        state, "event", events, [] {},
        [&] {
            for (const RawEvent& event : stream()) queue.push(event);
        });
    benchmark::DoNotOptimize(queue.size());
}

const std::pair<const char*, void (*)(benchmark::State&)> all[] = {
    {"post", post},
    {"post motion", post_motion},
    {"post beside a consumer, 1 kHz", post_beside_one},
    {"post beside a busy consumer", post_beside_a_busy_one},
    {"copy 16 bytes into a queue", copy_events},
};

}  // namespace

void add_posting_benchmarks() {
    for (const auto& [name, function] : all) benchmark::RegisterBenchmark(name, function)->UseManualTime();
}

void report_posting(RatioReporter& report) {
    std::printf("\nPosting an event: at most 10 ns, or 12 times a copy of 16 bytes\n\n");
    const double limit = std::max(12.0, 10.0 / report.median("copy 16 bytes into a queue"));
    report.row("post / copy", "post", "copy 16 bytes into a queue", limit);
    report.row("post beside a consumer on another core / copy", "post beside a consumer, 1 kHz",
               "copy 16 bytes into a queue", limit);
    report.row("post beside one that looks all the time / copy", "post beside a busy consumer",
               "copy 16 bytes into a queue", no_limit);
    report.row("post motion / copy", "post motion", "copy 16 bytes into a queue", no_limit);
}

}  // namespace bench
