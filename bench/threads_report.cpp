// Threads in real time: what is late for a careless loop, and a soak.

#include <algorithm>
#include <array>
#include <atomic>
#include <chrono>
#include <cstdio>
#include <thread>
#include <vector>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/latency.hpp"
#include "cursorum/core/sampler.hpp"
#include "groups.hpp"

namespace bench {
namespace {

using namespace cursorum;

/// A device thread as they are: it wakes every millisecond and posts what has happened since, with the times at which
/// it happened (20,000 events a second).
void post_for_half_a_second(Inlet& inlet) {
    constexpr Duration spacing{50'000};
    const Time begin = Clock::now(), end = begin + Duration{500'000'000};
    Time next = begin;
    bool down = false;
    for (Time now = begin; now < end; now = Clock::now()) {
        for (; next <= now; next += spacing) inlet.button(controls::Space, down = !down, next);
        inlet.set_complete_until(now);
        std::this_thread::sleep_for(std::chrono::milliseconds{1});
    }
    inlet.set_complete_until(latest_time);
}

struct LateShare {
    double share;
    Duration median_latency;
};
LateShare late_share(bool careful) {
    Timeline timeline;
    Sampler sampler{timeline};
    std::thread producer{[&] { post_for_half_a_second(timeline.desk()); }};
    const Time end = Clock::now() + Duration{400'000'000};
    std::vector<Duration> medians;
    for (Time now = Clock::now(); now < end; now = Clock::now()) {
        const Time cut = careful ? timeline.complete_until(earliest_time) : now;
        if (cut <= sampler.frame().end()) continue;
        const Latency latency = sampler.advance(cut).latency();
        if (latency.events != 0) medians.push_back(latency.median);
        std::this_thread::sleep_for(std::chrono::milliseconds{4});  // the picture
    }
    producer.join();
    std::sort(medians.begin(), medians.end());
    const SamplerCounters counters = sampler.counters();
    return {static_cast<double>(counters.late) / static_cast<double>(std::max<std::uint64_t>(counters.taken, 1)),
            medians.empty() ? Duration{} : medians[medians.size() / 2]};
}

}  // namespace

void report_late_shares() {
    std::printf("\nA device thread that posts every millisecond, a loop of 250 frames a second\n\n");
    for (const bool careful : {false, true}) {
        const LateShare result = late_share(careful);
        std::printf("  %-52s %5.1f %% of events late, median from event to cut %.2f ms\n",
                    careful ? "careful: cuts at timeline.complete_until()" : "careless: cuts at Clock::now()",
                    100 * result.share, seconds(result.median_latency) * 1e3);
    }
}

bool run_soak(std::uint64_t events) {
    events = std::max<std::uint64_t>(events, 1000);
    constexpr unsigned inlets = 2;
    Timeline timeline{{.inlets = inlets, .devices = 2, .history = 1 << 16, .desk_devices = false}};
    Sampler follower{timeline, {.start = Time{}}}, sleeper{timeline, {.start = Time{}}};
    std::array<std::atomic<std::int64_t>, inlets> posted{};
    std::atomic<std::int64_t> followed{0};
    const std::uint64_t each = events / inlets;
    const auto begin = std::chrono::steady_clock::now();
    std::vector<std::thread> threads;
    for (unsigned i = 0; i < inlets; ++i) {
        threads.emplace_back([&, i] {
            Inlet& inlet = timeline.inlet(i);
            const DeviceId device{i + 1};
            inlet.connect(device, {.name = "soak"}, Time{});
            std::uint64_t state = i + 1;
            std::array<bool, 64> down{};
            for (std::uint64_t n = 1; n < each; ++n) {
                state = state * 6364136223846793005ULL + 1442695040888963407ULL;
                const auto key = static_cast<unsigned>(state >> 58);
                const auto time = static_cast<std::int64_t>(n * inlets + i);
                inlet.button(device, Button{static_cast<std::uint16_t>(4 + key)}, down[key] = !down[key],
                             Time{Duration{time}});
                if (n % 256 != 0) continue;
                inlet.set_complete_until(Time{Duration{time}});
                posted[i].store(time, std::memory_order_relaxed);
                // Only so far ahead that one sampler can see everything; the other one sleeps.
                while (time > followed.load(std::memory_order_relaxed) + 60'000) std::this_thread::yield();
            }
            inlet.set_complete_until(latest_time);
        });
    }
    std::uint64_t edges = 0, next_line = events / 10;
    const Time end{Duration{static_cast<std::int64_t>(events + inlets)}};
    while (follower.frame().end() < end) {
        const Time cut = std::min(timeline.complete_until(earliest_time), end);
        if (cut <= follower.frame().end()) continue;
        for ([[maybe_unused]] const Edge edge : follower.advance(cut).edges()) ++edges;
        followed.store(nanoseconds(cut), std::memory_order_relaxed);
        if (follower.counters().taken / (events / 10) % 2 == 1) sleeper.advance(cut);  // else it sleeps
        if (follower.counters().taken < next_line) continue;
        std::printf("  %3.0f %%  %llu events\n",
                    100.0 * static_cast<double>(follower.counters().taken) / static_cast<double>(events),
                    static_cast<unsigned long long>(follower.counters().taken));
        std::fflush(stdout);
        next_line += events / 10;
    }
    for (std::thread& thread : threads) thread.join();
    sleeper.advance(end);
    const double took = std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();

    const InletCounters first = timeline.inlet(0).counters(), second = timeline.inlet(1).counters();
    const std::uint64_t total = first.events + second.events, refused = first.refused + second.refused;
    const SamplerCounters all = follower.counters(), some = sleeper.counters();
    const bool good = all.taken == total && all.lost == 0 && all.late == 0 && edges == total - inlets - refused &&
                      some.taken + some.lost == total && some.overruns > 0 &&
                      sleeper.frame().current().down == follower.frame().current().down;
    std::printf(
        "  %llu events of 2 inlets in %.1f s (%.0f ns each, all threads together); one sampler took all of them, "
        "none late;\n  the other took %llu, missed %llu in %llu overruns, and ends with the same levels: %s\n",
        static_cast<unsigned long long>(total), took, took * 1e9 / static_cast<double>(total),
        static_cast<unsigned long long>(some.taken), static_cast<unsigned long long>(some.lost),
        static_cast<unsigned long long>(some.overruns), good ? "all counts agree" : "COUNTS DIFFER");
    return good;
}

}  // namespace bench
