// The quay loop on three threads: one hears the input, one simulates, one draws. None waits for another.
//
//   quay_threads FILE PROFILE
//
// It ends in the same state as quay_loop, whoever runs when: the simulation cuts where the input is complete, and the
// picture looks between the cuts without taking anything away. The recording is played at twenty times its speed; all
// times that are printed are the recording's.

#include <algorithm>
#include <atomic>
#include <cstdio>
#include <thread>
#include <vector>

#include "cursorum/core/event.hpp"
#include "cursorum/core/latency.hpp"
#include "cursorum/cursorum.hpp"
#include "quay_crane.hpp"

using namespace cursorum;

int main(int argc, char** argv) {
    if (argc != 3) {
        std::fprintf(stderr,
                     "usage: quay_threads FILE PROFILE\nexample: quay_threads demo/quay-shift.jsonl demo/quay.toml\n");
        return 2;
    }
    std::vector<Event> events;
    Profile profile;
    quay::CraneActions actions;
    if (!quay::load(argv[1], events) || !quay::load(argv[2], profile) || !actions.find_in(profile)) return 2;
    if (events.empty()) return 0;
    // Whole seconds, as in quay_loop.
    const Time end{Duration{(nanoseconds(events.back().time) / 1'000'000'000 + 1) * 1'000'000'000}};

    // The present, as the recording counts it.
    const Time begun = Clock::now();
    const auto present = [begun] { return Time{(Clock::now() - begun) * 20}; };

    // A machine that is busy elsewhere may stop the input thread for a while: wait for it a minute of the recording.
    Timeline timeline{{.inlets = 1, .devices = 8, .desk_devices = false, .silent_limit = std::chrono::seconds{60}}};
    Sampler simulation{timeline, {.start = Time{}}}, picture{timeline, {.start = Time{}}};
    std::atomic<bool> simulating{true};

    // Here a source would wait for the system and post what it says; this one waits until the time has come.
    std::thread input{[&] {
        Inlet& desk = timeline.desk();
        auto next = events.begin();
        while (next != events.end()) {
            const Time now = present();
            while (next != events.end() && next->time <= now) desk.post(*next++);
            desk.set_complete_until(now);
            std::this_thread::yield();
        }
        desk.set_complete_until(latest_time);
    }};

    quay::Crane crane{profile, actions};
    std::thread simulate{[&] {
        TickClock ticks{hertz(60), at_most(100'000), Time{}};
        ticks.set_longest(std::chrono::hours{1});  // a recording is played whole, however long this thread is stopped
        while (ticks.last_cut() < end) {
            const Time complete = std::min(timeline.complete_until(present()), end);
            while (const auto tick = ticks.next(complete)) crane.step(simulation.advance(*tick), *tick);
            std::this_thread::yield();
        }
        simulating = false;
    }};

    unsigned long pictures = 0, presses_seen = 0;
    Duration longest_latency{};
    std::thread draw{[&] {
        for (bool last = false; !last; ++pictures) {
            last = !simulating;
            const Frame& seen =
                picture.advance(std::max(picture.frame().end(), std::min(timeline.complete_until(present()), end)));
            for (const Edge edge : seen.edges()) presses_seen += edge.kind == EdgeKind::press;
            longest_latency = std::max(longest_latency, seen.latency().greatest);
            std::this_thread::yield();
        }
    }};

    input.join();
    simulate.join();
    draw.join();
    crane.print();
    std::fprintf(stderr,
                 "%lu pictures saw %lu presses, the oldest event %.1f ms before its picture; %llu events late\n",
                 pictures, presses_seen, seconds(longest_latency) * 1e3,
                 static_cast<unsigned long long>(simulation.counters().late + picture.counters().late));
    return 0;
}
