// Inlets on threads of their own, kept and replayed: each cut takes what its producers had reported as complete.
#include <gtest/gtest.h>

#include <atomic>
#include <sstream>
#include <string>
#include <thread>
#include <vector>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/recording/replay.hpp"
#include "cursorum/why/recent_input.hpp"
#include "cursorum/why/replayed_calls.hpp"

namespace {

using namespace cursorum;

constexpr unsigned producers = 2, events_each = 20'000;
constexpr Button keys[] = {controls::KeyA, controls::KeyB, controls::KeyC, controls::Space};

Profile profile() {
    Profile all;
    all.modes = {{.name = "m"}};
    for (const Button key : keys)
        all.modes[0].actions.push_back({.name = std::string{name_of(key)}, .bindings = {{.buttons = {key}}}});
    all.modes[0].actions.push_back({.name = "both", .bindings = {{.buttons = {controls::KeyA, controls::KeyB}}}});
    return all;
}

std::string shown(const Frame& frame, const ActionReader& reader) {
    std::ostringstream text;
    for (const Button key : keys) {
        const ButtonFigures f = frame[key].figures();
        text << f.press_count() << ' ' << f.release_count() << ' ' << f.held_for().count() << ' ';
    }
    text << frame.pointer().motion().x;
    for (std::uint16_t i = 0; i <= std::size(keys); ++i) text << ' ' << reader[ButtonAction{i}].figures().press_count();
    return text.str();
}

TEST(RecentInput, ReplaysWhatThreadsPosted) {
    Timeline timeline{{.inlets = producers,
                       .history = 1U << 15,
                       .motion_history = 1U << 13,
                       .ledger = 1U << 22,
                       .desk_devices = false,
                       .silent_limit = std::chrono::hours{1}}};
    Sampler sampler{timeline};
    const Profile bindings = profile();
    ActionReader reader{bindings};
    reader.open({0});
    RecentInput recent{timeline, sampler, reader, {.length = std::chrono::hours{1}, .frames = 1U << 18}};
    std::atomic<unsigned> ended{0}, cuts{0};
    std::vector<std::thread> threads;
    for (unsigned i = 0; i < producers; ++i)
        threads.emplace_back([&timeline, &ended, &cuts, i] {
            Inlet& inlet = timeline.inlet(i);
            const DeviceId id{i + 1};
            inlet.connect(id, {.kind = i == 0 ? DeviceKind::keyboard : DeviceKind::mouse, .name = "it"}, Clock::now());
            for (unsigned n = 0; n < events_each; ++n) {
                const Button key = keys[n * 7 / 3 % std::size(keys)];
                if (n % 5 == 4)
                    inlet.motion(id, 1 + n % 3, 0, Clock::now());
                else
                    inlet.button(id, key, n % 3 != 0, Clock::now());
                inlet.set_complete_until(Clock::now());
                // The consumer gets its turn, on a busy machine as well: 64 events, and at least one cut.
                while (n % 64 == 0 && cuts.load() < n / 64) std::this_thread::yield();
            }
            inlet.set_complete_until(latest_time);
            ended.fetch_add(1);
        });
    std::vector<std::string> frames;
    for (bool last = false; !last;) {
        last = ended.load() == producers;
        const Time now = Clock::now();
        const Time complete = std::min(timeline.complete_until(now), now);
        if (complete < sampler.frame().end()) continue;
        reader.read(sampler.advance(complete));
        recent.note();
        frames.push_back(shown(sampler.frame(), reader));
        cuts.fetch_add(1);
    }
    for (std::thread& thread : threads) thread.join();

    std::stringstream saved;
    ASSERT_TRUE(recent.write(saved));
    ReplayedCalls calls;
    ActionReader again{bindings};
    Replay replay{saved, "threads", {.on_line = [&](const RecordingLine& line, Outcome) { calls.note(line); }}};
    std::vector<std::string> replayed;
    while (const Frame* frame = replay.next()) {
        calls.read(again, *frame);
        if (replay.frame_number() != 0) replayed.push_back(shown(*frame, again));
    }
    ASSERT_FALSE(replay.error()) << replay.error()->message();
    ASSERT_LE(replayed.size(), frames.size());
    ASSERT_GT(replayed.size(), 10U);
    frames.erase(frames.begin(), frames.end() - static_cast<std::ptrdiff_t>(replayed.size()));
    for (std::size_t i = 0; i < frames.size(); ++i) ASSERT_EQ(replayed[i], frames[i]) << i << " of " << frames.size();
}

}  // namespace
