// Random streams against the naive model: every figure of every button in every frame, at several rates at once.
// A failure prints its seed; CURSORUM_TEST_SEED=N runs that stream alone, CURSORUM_TEST_STREAMS=N that many, and
// CURSORUM_TEST_SHARD=N of those every fourth one, from N on (0 to 3).

#include <gtest/gtest.h>

#include <cstdlib>
#include <memory>
#include <sstream>

#include "core/naive_model.hpp"
#include "core/random_events.hpp"
#include "cursorum/core/event.hpp"
#include "cursorum/core/sampler.hpp"
#include "support/sanitizers.hpp"
#include "support/script.hpp"

namespace {

using namespace test;

// Sanitizers take their time: fewer streams, so that every build is tested in a minute. There are no threads here.
constexpr std::uint64_t default_streams = under_thread_sanitizer ? 100 : under_address_sanitizer ? 300 : 10'000;

std::uint64_t setting(const char* name, std::uint64_t otherwise) {
    const char* text = std::getenv(name);
    return text ? std::strtoull(text, nullptr, 10) : otherwise;
}

constexpr Button either_side[] = {controls::Shift, controls::Alt};

std::string naive_edges(const NaiveSampler& naive) {
    std::ostringstream out;
    const char* separator = "";
    for (const NaiveEdge& e : naive.edges()) {
        out << separator << e.time << ' ' << e.device << ' ' << name_of(e.button) << ' ' << name_of(e.kind);
        separator = "; ";
    }
    return out.str();
}

/// A sampler and its naive twin, cutting at their own pace.
struct Pair {
    Pair(const Timeline& timeline, std::size_t room, const Repeat& repeat, std::int64_t longest)
        : sampler{timeline, {.start = Time{}, .repeat = repeat}},
          naive{room, repeat, timeline.inlet_count()},
          inlets{timeline.inlet_count()},
          longest_frame{longest} {}

    Sampler sampler;
    NaiveSampler naive;
    unsigned inlets;
    std::int64_t longest_frame;
    std::int64_t cut = 0;
    std::uint64_t went_back = 0;
    unsigned device = 1;

    void compare_frame() {
        const bool forward = naive.advance(cut);
        const Frame& frame = sampler.advance(nanoseconds_since_zero(cut));
        ASSERT_EQ(edges_text(frame), naive_edges(naive));
        for (const Button button : random_buttons) compare_button(frame, button);
        for (const Button button : either_side) compare_button(frame, button);
        ASSERT_EQ(forward, sampler.counters().went_back == went_back);
        went_back = sampler.counters().went_back;
        ASSERT_EQ(sampler.counters().late, naive.late());
        ASSERT_EQ(sampler.counters().taken, naive.taken());
    }

    void compare_button(const Frame& frame, Button button) {
        const NaiveFigures expected = naive.merged(button);
        const ButtonReading reading = frame[button];
        expect_same(as_naive(reading.figures()), expected, button);
        ASSERT_EQ(reading.pressed(), expected.press != 0) << name_of(button);
        ASSERT_EQ(reading.released(), expected.released) << name_of(button);
        ASSERT_EQ(reading.ended(), expected.release + expected.cancel != 0) << name_of(button);
        ASSERT_EQ(reading.down(), expected.down) << name_of(button);
        ASSERT_EQ(reading.was_down(), expected.was_down) << name_of(button);
        ASSERT_EQ(reading.held(), expected.down && expected.press == 0) << name_of(button);
        ASSERT_EQ(frame.current().down.contains(button), expected.down) << name_of(button);
        ASSERT_EQ(frame.previous().down.contains(button), expected.was_down) << name_of(button);
        ASSERT_TRUE(expected.state == "idle" || frame.active().contains(button)) << name_of(button);
        if (button.number >= first_either_side) return;
        device = device % (most_devices * inlets) + 1;  // all of them in turn
        expect_same(as_naive(frame.on(DeviceId{device})[button].figures()), naive.on_device(button, device), button);
    }

    void expect_same(const NaiveFigures& actual, const NaiveFigures& expected, Button button) const {
        if (actual == expected) return;
        FAIL() << name_of(button) << ", device " << device << "\n  actual   " << text(actual) << "\n  expected "
               << text(expected);
    }
};

void run_stream(std::uint64_t seed) {
    Random random{seed};
    const unsigned inlets = random.one_in(2) ? 1 : 2 + static_cast<unsigned>(random.below(3));
    std::vector<RandomEvents> events;
    for (unsigned i = 0; i < inlets; ++i) events.emplace_back(seed + 1 + i * 1'000'000, 1 + i * most_devices);
    const std::size_t room = 3 + random.below(3);
    Timeline timeline{{.inlets = inlets, .devices = static_cast<unsigned>(room), .desk_devices = false}};
    const Repeat repeat{Duration{1 + static_cast<std::int64_t>(random.below(30))},
                        Duration{1 + static_cast<std::int64_t>(random.below(10))},
                        static_cast<std::uint32_t>(random.below(4))};
    std::vector<std::unique_ptr<Pair>> pairs;
    for (const std::int64_t longest : {4, 17, 90})
        pairs.push_back(std::make_unique<Pair>(timeline, room, repeat, longest));
    constexpr unsigned count = 70;
    std::int64_t now = 0;
    for (unsigned i = 0; i < count; ++i) {
        // Inlets are about equally far, but none waits for another.
        auto inlet = static_cast<unsigned>(random.below(inlets));
        for (unsigned k = 0; k < inlets; ++k)
            if (events[k].now() + 40 < events[inlet].now()) inlet = k;
        const Event event = events[inlet].next();
        now = std::max(now, events[inlet].now());
        timeline.inlet(inlet).post(event);
        for (auto& pair : pairs) pair->naive.post(event, inlet);
        for (auto& pair : pairs) {
            while (random.one_in(3)) {
                pair->cut += static_cast<std::int64_t>(random.below(static_cast<std::uint64_t>(pair->longest_frame)));
                if (random.one_in(40)) pair->cut -= 5;
                if (pair->cut > now + 20) pair->cut = now;
                pair->compare_frame();
                if (testing::Test::HasFatalFailure()) return;
                if (pair->cut < nanoseconds(pair->sampler.frame().end()))
                    pair->cut = nanoseconds(pair->sampler.frame().end());
            }
        }
    }
    for (auto& pair : pairs) {
        pair->cut = now + 100;
        pair->compare_frame();
        if (testing::Test::HasFatalFailure()) return;
        std::uint64_t posted = 0, strays = 0, ignored = 0;
        for (unsigned i = 0; i < inlets; ++i) {
            const InletCounters counters = timeline.inlet(i).counters();
            posted += counters.events, strays += counters.strays, ignored += counters.ignored;
        }
        ASSERT_EQ(posted, count);
        ASSERT_EQ(strays, pair->naive.strays());
        ASSERT_EQ(ignored, pair->naive.ignored());
    }
}

TEST(RandomStreams, AgreeWithTheNaiveModel) {
    const std::uint64_t only = setting("CURSORUM_TEST_SEED", 0);
    if (only != 0) {
        run_stream(only);
        return;
    }
    const std::uint64_t streams = setting("CURSORUM_TEST_STREAMS", default_streams);
    const std::uint64_t all = 4, shard = setting("CURSORUM_TEST_SHARD", all);
    ASSERT_LE(shard, all);
    for (std::uint64_t seed = shard == all ? 1 : shard + 1; seed <= streams; seed += shard == all ? 1 : all) {
        run_stream(seed);
        if (HasFatalFailure()) FAIL() << "seed " << seed << "; replay: CURSORUM_TEST_SEED=" << seed;
    }
}

}  // namespace
