// Two operators at one crane, each with a computer of their own, over a link that loses, doubles and reorders packets.
//
//   quay_peers [SEED [TICKS]]
//
// Each peer simulates at once with what it knows. When it hears of a key that the other pressed some ticks ago, it goes
// back to the state it saved then and does those ticks again, with the key in its place. In the end both have come to
// the same, and to what one who heard everything at once would have: exit code 0; else 1.

#include <algorithm>
#include <array>
#include <cstdio>
#include <cstdlib>
#include <vector>

#include "cursorum/core/snapshot_packing.hpp"
#include "cursorum/cursorum.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;

constexpr Duration tick{16'666'667};
Time cut_of(int number) { return Time{} + number * tick; }

/// The state of the game: a plain value, so that it can be saved and restored by assignment.
struct Crane {
    std::array<std::int64_t, 2> trolley{};  // nanoseconds of way
    std::array<bool, 2> locked{};
    std::int64_t horn = 0;
    std::uint64_t job = 0;

    void step(const Frame& frame) {
        for (unsigned i = 0; i < 2; ++i) {
            const DeviceFrame keys = frame.on(DeviceId{1 + i});
            trolley[i] += keys[ArrowRight].down_span().count() - keys[ArrowLeft].down_span().count();
            for (std::uint32_t n = keys[Space].press_count(); n > 0; --n) locked[i] = !locked[i];
        }
        horn += frame[KeyH].down_span().count();  // both sound the same horn
        job += frame[ArrowDown].steps() + 10 * frame[Shift].press_count();
    }
    friend bool operator==(const Crane&, const Crane&) = default;
};

class Random {
public:
    explicit Random(std::uint64_t seed) : state_{seed * 2 + 1} {}
    std::uint64_t below(std::uint64_t bound) {
        state_ = state_ * 6364136223846793005ULL + 1442695040888963407ULL;
        return (state_ >> 33) % bound;
    }
    bool one_in(std::uint64_t n) { return below(n) == 0; }

private:
    std::uint64_t state_;
};

struct KeyEvent {
    Time time;
    Button button;
    bool down;
};

/// What an operator does in so many ticks.
std::vector<KeyEvent> play(std::uint64_t seed, int ticks) {
    constexpr Button keys[] = {ArrowRight, ArrowLeft, ArrowDown, Space, KeyH, ShiftLeft, ShiftRight};
    Random random{seed};
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
            int number = now_;  // the last cut before it; where that is no longer saved, the oldest that is
            while (number > std::max(0, now_ - history + 1) && cut_of(number) >= back_to_) --number;
            farthest_ = std::max(farthest_, now_ - number);
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
    int farthest() const { return farthest_; }
    std::uint64_t late() const { return sampler_.counters().late; }

private:
    struct Saved {
        Sampler::State sampler;
        Crane crane;
    };
    void step() {
        crane_.step(sampler_.advance(cut_of(++now_)));
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
    int farthest_ = 0;
};

/// Carries an operator's keys over: some packets are lost, some come twice, all come some ticks late and in any order.
/// Each holds everything that was not acknowledged yet, so nothing is lost for good.
class Link {
public:
    Link(std::uint64_t seed, const std::vector<KeyEvent>& events) : random_{seed}, events_{events} {}
    void send(int now, std::size_t until) {
        ++sent_;
        const std::uint64_t copies = random_.one_in(4) ? 0 : 1 + random_.below(2);
        lost_ += copies == 0;
        for (std::uint64_t i = 0; i < copies; ++i)
            packets_.push_back({now + 1 + static_cast<int>(random_.below(12)), heard_, until});
    }
    int sent() const { return sent_; }
    int lost() const { return lost_; }
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
    Random random_;
    const std::vector<KeyEvent>& events_;
    std::vector<Packet> packets_;
    std::size_t heard_ = 0;  // the acknowledgement comes back at once
    int sent_ = 0, lost_ = 0;
};

}  // namespace

int main(int argc, char** argv) {
    const std::uint64_t seed = argc > 1 ? std::strtoull(argv[1], nullptr, 10) : 1;
    const int ticks = argc > 2 ? std::atoi(argv[2]) : 900;
    if (argc > 3 || ticks < 1 || ticks > 100'000) {
        std::fprintf(stderr, "usage: quay_peers [SEED [TICKS, 1 to 100000]]\nexample: quay_peers 7 900\n");
        return 2;
    }
    const std::array<std::vector<KeyEvent>, 2> events{play(seed, ticks), play(seed + 1000, ticks)};
    Peer one{0}, two{1}, reference{2};
    std::array<Peer*, 2> peers{&one, &two};
    std::array<Link, 2> links{Link{seed, events[0]}, Link{seed + 7, events[1]}};
    std::array<std::size_t, 2> done{};
    // A second longer than the events, so that the last of them arrive.
    for (int now = 0; now < ticks + 60; ++now) {
        for (unsigned i = 0; i < 2; ++i) {
            for (; done[i] < events[i].size() && events[i][done[i]].time <= cut_of(now + 1); ++done[i]) {
                peers[i]->hear(i, events[i][done[i]]);
                reference.hear(i, events[i][done[i]]);
            }
            links[i].send(now, done[i]);
            links[i].deliver(now, [&](const KeyEvent& event) { peers[1 - i]->hear(i, event); });
        }
        for (Peer* peer : {&one, &two, &reference}) peer->advance();
    }
    const auto print = [](const char* who, const Peer& peer) {
        const Crane& crane = peer.crane();
        std::printf(
            "%-9s trolleys %+.6f s and %+.6f s of way, locks %s and %s, horn %.6f s, job %llu; went back %u times, "
            "%d ticks at most\n",
            who, static_cast<double>(crane.trolley[0]) / 1e9, static_cast<double>(crane.trolley[1]) / 1e9,
            crane.locked[0] ? "locked" : "unlocked", crane.locked[1] ? "locked" : "unlocked",
            static_cast<double>(crane.horn) / 1e9, static_cast<unsigned long long>(crane.job), peer.went_back(),
            peer.farthest());
    };
    std::printf("%zu and %zu key events in %d ticks; %d of %d packets were lost\n", events[0].size(), events[1].size(),
                ticks, links[0].lost() + links[1].lost(), links[0].sent() + links[1].sent());
    print("peer 1", one);
    print("peer 2", two);
    print("reference", reference);
    // As they would compare over the wire: by packed bytes.
    std::array<std::array<std::byte, packed_snapshot_room>, 2> bytes{};
    const std::size_t size = pack(one.snapshot(), bytes[0]);
    const bool equal = one.crane() == two.crane() && one.crane() == reference.crane() &&
                       size == pack(two.snapshot(), bytes[1]) && bytes[0] == bytes[1] &&
                       one.snapshot() == reference.snapshot() && one.late() + two.late() == 0;
    std::printf("%s\n", equal ? "all equal" : "THEY DIFFER");
    return equal ? 0 : 1;
}
