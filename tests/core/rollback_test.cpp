// Going back: two peers play the same game over a bad link, and a whole game is tested on posted input alone.

#include <gtest/gtest.h>

#include <array>
#include <cstring>
#include <deque>
#include <vector>

#include "core/random_events.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"
#include "cursorum/core/snapshot_packing.hpp"
#include "cursorum/core/tick_clock.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;

constexpr Duration tick{16'666'667};
Time cut_of(int number) { return Time{} + number * tick; }

/// A crane for two: each operator's trolley runs while keys are held, and a press locks or unlocks the spreader.
struct Crane {
    std::array<std::int64_t, 2> trolley{};
    std::array<bool, 2> locked{};
    std::uint64_t horn = 0, steps = 0;

    void tick(const Frame& frame) {
        for (unsigned i = 0; i < 2; ++i) {
            const DeviceFrame operator_keys = frame.on(DeviceId{1 + i});
            trolley[i] += operator_keys[ArrowRight].down_span().count() - operator_keys[ArrowLeft].down_span().count();
            for (std::uint32_t n = operator_keys[Space].press_count(); n > 0; --n) locked[i] = !locked[i];
        }
        horn += static_cast<std::uint64_t>(frame[KeyH].down_span().count());
        steps = steps * 31 + frame[ArrowDown].steps() + 7 * frame[Shift].press_count();
        for (const Edge edge : frame.edges()) steps = steps * 31 + static_cast<std::uint64_t>(nanoseconds(edge.time));
    }
    friend bool operator==(const Crane&, const Crane&) = default;
};

struct KeyEvent {
    Time time;
    Button button;
    bool down;
};

/// What an operator does in so many ticks.
std::vector<KeyEvent> play(std::uint64_t seed, int ticks) {
    constexpr Button keys[] = {ArrowRight, ArrowLeft, ArrowDown, Space, KeyH, ShiftLeft, ShiftRight};
    test::Random random{seed};
    std::vector<KeyEvent> events;
    bool down[std::size(keys)] = {};
    for (std::int64_t now = 0; now < ticks * tick.count();) {
        now += static_cast<std::int64_t>(random.below(60'000'000));
        const auto key = static_cast<unsigned>(random.below(std::size(keys)));
        events.push_back({Time{Duration{now}}, keys[key], down[key] = !down[key]});
    }
    return events;
}

/// One of the two: it hears its own keys at once and the other's when they come, and then goes back.
class Peer {
public:
    static constexpr int history = 60;

    explicit Peer(unsigned own) : own_{own} {
        for (unsigned i = 0; i < 2; ++i)
            timeline_.inlet(i).connect(DeviceId{1 + i}, {.name = "operator", .background = true}, Time{});
        sampler_.advance(Time{});
        remember();
    }
    void hear(unsigned inlet, const KeyEvent& event) {
        timeline_.inlet(inlet).button(DeviceId{1 + inlet}, event.button, event.down, event.time);
        if (inlet != own_ && event.time <= cut_of(now_)) back_to_ = std::min(back_to_, event.time);
    }
    /// The next tick; before it, all that has to be done again.
    void advance() {
        if (back_to_ <= cut_of(now_)) {
            int number = now_;
            while (number > 0 && cut_of(number) >= back_to_) --number;
            ASSERT_GE(number, now_ - history + 1) << "the link is worse than the history is long";
            const int target = now_;
            now_ = number;
            sampler_.restore(saved_[static_cast<std::size_t>(number % history)].sampler);
            crane_ = saved_[static_cast<std::size_t>(number % history)].crane;
            while (now_ < target) step();
            back_to_ = Time::max();
            ++went_back_;
        }
        step();
    }
    const Crane& crane() const { return crane_; }
    Snapshot snapshot() const { return sampler_.frame().current(); }
    unsigned went_back() const { return went_back_; }
    SamplerCounters counters() const { return sampler_.counters(); }

private:
    struct Saved {
        Sampler::State sampler;
        Crane crane;
    };
    void step() {
        crane_.tick(sampler_.advance(cut_of(++now_)));
        remember();
    }
    void remember() { saved_[static_cast<std::size_t>(now_ % history)] = {sampler_.save(), crane_}; }

    unsigned own_;
    Timeline timeline_{{.inlets = 2, .devices = 2, .desk_devices = false}};
    Sampler sampler_{timeline_, {.start = Time{} - Duration{1}}};
    Crane crane_;
    std::vector<Saved> saved_{history};
    int now_ = 0;
    Time back_to_ = Time::max();
    unsigned went_back_ = 0;
};

/// Carries an operator's keys over: some packets are lost, some come twice, all come some ticks late and in any order.
/// Each holds everything that was not acknowledged yet, so nothing is lost for good.
class Link {
public:
    Link(std::uint64_t seed, const std::vector<KeyEvent>& events) : random_{seed}, events_{events} {}
    void send(int now, std::size_t sent) {
        for (std::uint64_t copies = random_.one_in(4) ? 0 : 1 + random_.below(2); copies > 0; --copies)
            packets_.push_back({now + 1 + static_cast<int>(random_.below(12)), heard_, sent});
    }
    /// Calls `hear` for what is new, in order.
    template <typename Hear>
    void deliver(int now, Hear&& hear) {
        for (const Packet& packet : packets_) {
            if (packet.arrives > now || packet.from > heard_) continue;
            for (; heard_ < packet.to; ++heard_) hear(events_[heard_]);
        }
        std::erase_if(packets_, [&](const Packet& packet) { return packet.arrives <= now; });
    }

private:
    struct Packet {
        int arrives;
        std::size_t from, to;
    };
    test::Random random_;
    const std::vector<KeyEvent>& events_;
    std::vector<Packet> packets_;
    std::size_t heard_ = 0;  // the acknowledgement comes back at once
};

TEST(Rollback, TwoPeersOverALossyLinkEndEqual) {
    constexpr int ticks = 900;
    for (std::uint64_t seed = 1; seed <= 12; ++seed) {
        const std::array<std::vector<KeyEvent>, 2> events{play(seed, ticks), play(seed + 1000, ticks)};
        std::deque<Peer> peers;
        peers.emplace_back(0U);
        peers.emplace_back(1U);
        std::array<std::size_t, 2> done{};
        std::deque<Link> links;
        for (unsigned i = 0; i < 2; ++i) links.emplace_back(seed + 7 * i, events[i]);
        // A second longer than the events, so that the last of them arrive.
        for (int now = 0; now < ticks + 60; ++now) {
            for (unsigned i = 0; i < 2; ++i) {
                for (; done[i] < events[i].size() && events[i][done[i]].time <= cut_of(now + 1); ++done[i])
                    peers[i].hear(i, events[i][done[i]]);
                links[i].send(now, done[i]);
                links[i].deliver(now, [&](const KeyEvent& event) { peers[1 - i].hear(i, event); });
            }
            for (Peer& peer : peers) peer.advance();
            if (HasFatalFailure()) return;
        }
        // As both are to one who heard everything at once.
        Peer reference{2};
        for (unsigned i = 0; i < 2; ++i)
            for (const KeyEvent& event : events[i]) reference.hear(i, event);
        for (int now = 0; now < ticks + 60; ++now) reference.advance();
        EXPECT_GT(reference.crane().steps, 0U);
        for (const Peer& peer : peers) {
            ASSERT_TRUE(peer.crane() == reference.crane()) << "seed " << seed;
            ASSERT_EQ(peer.snapshot(), reference.snapshot()) << "seed " << seed;
            ASSERT_EQ(peer.counters().late, 0U) << "in the end everything was in its place, seed " << seed;
            ASSERT_GT(peer.went_back(), 50U) << "the link was too good, seed " << seed;
        }
        std::array<std::array<std::byte, packed_snapshot_room>, 2> bytes{};
        ASSERT_EQ(pack(peers[0].snapshot(), bytes[0]), pack(peers[1].snapshot(), bytes[1]));
        ASSERT_EQ(bytes[0], bytes[1]);
    }
}

TEST(Rollback, SixtyFramesBackAndForthTheStateIsTheSameToTheByte) {
    for (std::uint64_t seed = 1; seed <= 60; ++seed) {
        test::Random random{seed};
        Timeline timeline{{.inlets = 2, .devices = 5, .desk_devices = false}};
        test::RandomEvents first{seed, 1}, second{seed + 500, 11};
        for (int i = 0; i < 250; ++i) {
            timeline.inlet(0).post(first.next());
            timeline.inlet(1).post(second.next());
        }
        Sampler sampler{timeline, {.start = Time{}}};
        const auto cut = [](int number) { return Time{Duration{number * 9}}; };
        std::vector<Sampler::State> states{sampler.save()};
        for (int number = 1; number <= 60; ++number) {
            sampler.advance(cut(number));
            states.push_back(sampler.save());
        }
        for (int round = 0; round < 20; ++round) {
            int number = static_cast<int>(random.below(61));
            sampler.restore(states[static_cast<std::size_t>(number)]);
            while (number < 60) {
                sampler.advance(cut(++number));
                const Sampler::State again = sampler.save();
                ASSERT_EQ(std::memcmp(&again, &states[static_cast<std::size_t>(number)], sizeof again), 0)
                    << "seed " << seed << ", frame " << number;
            }
        }
    }
}

TEST(Rollback, FartherBackThanTheHistoryItIsOverrunAndSaysSo) {
    Timeline timeline;
    Sampler sampler{timeline, {.start = Time{}}};
    const Sampler::State old = sampler.save();
    for (int i = 0; i < 3000; ++i) {
        timeline.desk().button(Space, true, Time{Duration{2 * i}});
        timeline.desk().button(Space, false, Time{Duration{2 * i + 1}});
        if (i % 100 == 0) sampler.advance(Time{Duration{2 * i}});
    }
    timeline.desk().button(KeyH, true, Time{Duration{7000}});
    EXPECT_TRUE(sampler.advance(Time{Duration{8000}})[KeyH].pressed());
    EXPECT_EQ(sampler.counters().overruns, 0U);
    sampler.restore(old);
    const Frame& frame = sampler.advance(Time{Duration{8000}});
    EXPECT_EQ(sampler.counters().overruns, 1U);
    EXPECT_FALSE(frame[KeyH].pressed());
    EXPECT_TRUE(frame[KeyH].down());
}

// A whole game, tested by a bot: nothing but posted input, at any picture rate, with the same result.
TEST(PostedInput, AWholeGameIsPlayedByABot) {
    std::vector<Crane> ends;
    for (const std::int64_t picture_rate : {24, 60, 144, 1000}) {
        Timeline timeline{{.desk_devices = false}};
        Inlet& desk = timeline.desk();
        desk.connect(DeviceId{1}, {.name = "bot", .is_virtual = true}, Time{});
        Sampler simulation{timeline, {.start = Time{}}}, picture{timeline, {.start = Time{}}};
        TickClock ticks{hertz(60), at_most(5), Time{}};
        Crane crane;
        std::uint64_t pictures = 0, presses_seen = 0;
        const std::vector<KeyEvent> script = play(77, 600);
        std::size_t next = 0;
        for (std::int64_t n = 1; n <= picture_rate * 10; ++n) {
            const Time now{Duration{n * 1'000'000'000 / picture_rate}};
            for (; next < script.size() && script[next].time <= now; ++next)
                desk.button(DeviceId{1}, script[next].button, script[next].down, script[next].time);
            while (const auto cut = ticks.next(now)) crane.tick(simulation.advance(*cut));
            const Frame& frame = picture.advance(now);
            presses_seen += frame[Space].press_count();
            EXPECT_FALSE(frame.has_input_from(Origin::person));
            ++pictures;
        }
        EXPECT_EQ(crane.locked[0], presses_seen % 2 != 0);
        EXPECT_EQ(ticks.dropped(), 0U);
        ends.push_back(crane);
    }
    for (const Crane& end : ends) EXPECT_TRUE(end == ends.front());
    EXPECT_NE(ends.front().trolley[0], 0);
}

}  // namespace
