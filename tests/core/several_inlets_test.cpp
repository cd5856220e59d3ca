// What comes in on several inlets is taken in the order of time, whatever it is: against a plain model of everything
// but buttons (those have their own), with 1 to 4 inlets and late events. And what a sampler heals stays in the frame.

#include <gtest/gtest.h>

#include <algorithm>
#include <cstdlib>
#include <map>
#include <sstream>
#include <string>
#include <vector>

#include "core/random_events.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using test::Random;

Time at(std::int64_t ns) { return nanoseconds_since_zero(ns); }

/// Everything posted, taken again from the heads of plain queues.
class PlainOrder {
public:
    explicit PlainOrder(unsigned inlets) : inlets_(inlets) {}
    void post(unsigned inlet, const Event& event) { inlets_[inlet].queue.push_back(event); }

    /// One line for each thing that a frame shows.
    std::string frame(std::int64_t t1) {
        t0_ = t1_;
        t1_ = t1;
        out_ = {};
        value_ = least_ = greatest_ = merged();
        const double before = value_;
        for (;;) {
            Queue* first = nullptr;
            for (Queue& q : inlets_)
                if (q.next < q.queue.size() && nanoseconds(q.queue[q.next].time) <= t1 &&
                    (!first || q.queue[q.next].time < first->queue[first->next].time))
                    first = &q;
            if (!first) break;
            const Event& event = first->queue[first->next++];
            const std::int64_t stamp = nanoseconds(event.time), so_far = std::max(effective_, t0_);
            late_ += stamp < so_far;
            effective_ = std::max(stamp, so_far);
            ++taken_;
            take(*first, event);
        }
        out_ << "axis " << before << ' ' << value_ << ' ' << least_ << ' ' << greatest_ << "\nlocks " << caps_
             << " outside " << outside_ << " locked " << locked_ << " at " << place_.x << "\ntaken " << taken_
             << " late " << late_ << '\n';
        return out_.str();
    }

private:
    struct Pad {
        unsigned id = 0;
        bool connected = false, listens = false, outside = false, locked = false, down = false, can_click = false;
        double value = 0;
    };
    struct Queue {
        std::vector<Event> queue;
        std::size_t next = 0;
        bool focused = true;
        std::vector<Pad> pads;  // in the order of their first connects
    };

    double merged() const {
        std::map<unsigned, double> values;
        for (const Queue& q : inlets_)
            for (const Pad& pad : q.pads) values[pad.id] = pad.value;
        double greatest = 0;
        for (const auto& [id, value] : values)
            if (std::abs(value) > std::abs(greatest)) greatest = value;
        return greatest;
    }
    void set(Pad& pad, double value) {
        if (pad.value == value) return;
        pad.value = value;
        value_ = merged();
        least_ = std::min(least_, value_);
        greatest_ = std::max(greatest_, value_);
        out_ << "value " << effective_ << ' ' << value_ << '\n';
    }
    void let_go(Pad& pad) {
        pad.down = pad.can_click = false;
        set(pad, 0);
    }
    void take(Queue& q, const Event& event) {
        if (event.type == EventType::locks) {
            caps_ = event.down_set.contains(CapsLock);
            return;
        }
        if (event.type == EventType::focus || event.type == EventType::interrupt) {
            if (event.type == EventType::focus && event.focused == q.focused) return;
            if (event.type == EventType::focus) q.focused = event.focused;
            for (Pad& pad : q.pads) {
                if (event.type == EventType::focus) pad.listens = pad.connected && q.focused;
                if (event.type == EventType::interrupt || !q.focused) let_go(pad);
            }
            return;
        }
        const auto id = static_cast<unsigned>(event.device);
        auto pad = std::find_if(q.pads.begin(), q.pads.end(), [id](const Pad& p) { return p.id == id; });
        if (event.type == EventType::connect) {
            if (pad == q.pads.end()) pad = q.pads.insert(pad, {.id = id});
            if (pad->connected) return;
            pad->connected = true;
            pad->listens = q.focused;
            pad->outside = pad->locked = false;
            out_ << "change " << effective_ << ' ' << id << " in\n";
            return;
        }
        if (pad == q.pads.end() || !pad->connected) return;
        if (event.type == EventType::disconnect) {
            let_go(*pad);
            if (pad->outside || pad->locked) outside_ = locked_ = pad->outside = pad->locked = false;
            pad->connected = pad->listens = false;
            out_ << "change " << effective_ << ' ' << id << " out\n";
            return;
        }
        if (!pad->listens) return;
        if (event.type == EventType::axis) set(*pad, event.value);
        if (event.type == EventType::motion) place_ = {event.x, event.y};
        if (event.type == EventType::pointer) {
            if (event.has_inside) pad->outside = !event.inside;
            if (event.has_locked) pad->locked = event.locked;
            outside_ = pad->outside;
            locked_ = pad->locked;
        }
        if (event.type == EventType::button && event.down != pad->down) {
            if (!event.down && pad->can_click) out_ << "click " << effective_ << ' ' << id << '\n';
            pad->down = pad->can_click = event.down;
        }
    }

    std::vector<Queue> inlets_;
    std::int64_t t0_ = 0, t1_ = 0, effective_ = 0;
    std::uint64_t taken_ = 0, late_ = 0;
    bool caps_ = false, outside_ = false, locked_ = false;
    WindowPoint place_;
    double value_ = 0, least_ = 0, greatest_ = 0;
    std::ostringstream out_;
};

// The model writes lines in the order taken; a frame is asked for each kind by itself. So both are sorted by kind.
std::string by_kind(const std::string& text) {
    std::istringstream in{text};
    std::vector<std::string> lines;
    for (std::string line; std::getline(in, line);) lines.push_back(line);
    std::stable_sort(lines.begin(), lines.end(),
                     [](const auto& a, const auto& b) { return a.substr(0, a.find(' ')) < b.substr(0, b.find(' ')); });
    std::string all;
    for (const std::string& line : lines) all += line + '\n';
    return all;
}

std::string shown(const Sampler& sampler) {
    const Frame& frame = sampler.frame();
    std::ostringstream out;
    frame.for_each_value(
        PadStickLeftX, [&](Time time, double value) { out << "value " << nanoseconds(time) << ' ' << value << '\n'; });
    frame.for_each_device_change([&](const DeviceChange& change) {
        out << "change " << nanoseconds(change.time) << ' ' << static_cast<unsigned>(change.device)
            << (change.connected ? " in\n" : " out\n");
    });
    for (const Click& click : frame.pointer().clicks())
        out << "click " << nanoseconds(click.released) << ' ' << static_cast<unsigned>(click.device) << '\n';
    const AxisReading axis = frame.axis(PadStickLeftX);
    out << "axis " << axis.before << ' ' << axis.now << ' ' << axis.least << ' ' << axis.greatest << "\nlocks "
        << frame.locks().contains(CapsLock) << " outside " << !frame.pointer().inside() << " locked "
        << frame.pointer().locked() << " at " << frame.pointer().position().x << "\ntaken " << sampler.counters().taken
        << " late " << sampler.counters().late << '\n';
    return out.str();
}

Event random_event(Random& random, std::int64_t now, unsigned inlet) {
    // Motion is in time on its inlet.
    const DeviceId device{1 + 10 * inlet + static_cast<std::uint32_t>(random.below(2))};
    const std::uint64_t kind = random.below(100);
    if (kind < 8) return Event::moved_to(at(now), device, {1.0 + double(random.below(1000)), 0});
    const Time time = at(random.one_in(8) ? std::max<std::int64_t>(0, now - std::int64_t(random.below(30))) : now);
    if (kind < 45) return Event::axis_value(time, device, PadStickLeftX, double(random.below(17)) / 8 - 1);
    if (kind < 65) return Event::button(time, device, MouseLeft, random.one_in(2));
    if (kind < 73) {
        Event event = Event::of(time, EventType::locks, {});
        if (random.one_in(2)) event.down_set.insert(CapsLock);
        return event;
    }
    if (kind < 80) return Event::pointer_inside(time, device, random.one_in(2));
    if (kind < 84) return Event::pointer_locked(time, device, false);
    if (kind < 88) return Event::disconnect(time, device);
    if (kind < 96) return Event::connect(time, device, {.kind = DeviceKind::mouse});
    if (kind < 98) return Event::focus(time, !random.one_in(3));
    return Event::interrupt(time);
}

void run(std::uint64_t seed) {
    Random random{seed};
    const unsigned inlets = 1 + static_cast<unsigned>(seed % 4);
    // No press is so long that it becomes a drag.
    Timeline timeline{{.inlets = inlets,
                       .motion_history = 64,
                       .axis_history = 64,
                       .pointer = {.drag_from = 1e9},
                       .desk_devices = false}};
    struct Pair {
        Sampler sampler;
        PlainOrder plain;
        std::int64_t longest, cut = 0;
    };
    std::vector<std::unique_ptr<Pair>> pairs;
    for (const std::int64_t longest : {5, 60})
        pairs.push_back(
            std::unique_ptr<Pair>{new Pair{Sampler{timeline, {.start = Time{}}}, PlainOrder{inlets}, longest}});
    std::vector<std::int64_t> now(inlets);
    for (int step = 0; step < 120; ++step) {
        const auto inlet = static_cast<unsigned>(random.below(inlets));
        now[inlet] += std::int64_t(random.below(6));
        const Event event = random_event(random, now[inlet], inlet);
        timeline.inlet(inlet).post(event);
        for (auto& pair : pairs) pair->plain.post(inlet, event);
        for (auto& pair : pairs) {
            if (!random.one_in(pair->longest == 5 ? 2 : 12) && step != 119) continue;
            pair->cut = step == 119 ? 10'000 : pair->cut + std::int64_t(random.below(std::uint64_t(pair->longest)));
            pair->sampler.advance(at(pair->cut));
            ASSERT_EQ(by_kind(shown(pair->sampler)), by_kind(pair->plain.frame(pair->cut)))
                << "seed " << seed << ", step " << step << ", " << inlets
                << " inlets; replay: CURSORUM_TEST_SEED=" << seed;
        }
    }
}

TEST(SeveralInlets, AgreeWithAPlainModelInEverythingButButtons) {
    if (const char* seed = std::getenv("CURSORUM_TEST_SEED")) return run(std::strtoull(seed, nullptr, 10));
    const char* streams = std::getenv("CURSORUM_TEST_STREAMS");
    const std::uint64_t count = streams ? std::strtoull(streams, nullptr, 10) : 1500;
    for (std::uint64_t seed = 1; seed <= count && !testing::Test::HasFatalFailure(); ++seed) run(seed);
}

// A consumer that falls behind, events out of order, and now and then a stamp far ahead: whatever it takes lies within
// its frame, and once all stamps have come it knows what is down.
TEST(SeveralInlets, WhatIsHealedStaysWithinTheFrame) {
    for (std::uint64_t seed = 1; seed <= 25; ++seed) {
        SCOPED_TRACE("seed " + std::to_string(seed));
        Random random{seed};
        const unsigned inlets = 1 + static_cast<unsigned>(seed % 3);
        Timeline timeline{{.inlets = inlets, .motion_history = 64, .axis_history = 64, .fact_history = 64}};
        for (unsigned i = 0; i < inlets; ++i)
            timeline.inlet(i).connect(DeviceId{20 + i}, {.kind = DeviceKind::mouse}, at(0));
        Sampler sampler{timeline, {.start = at(0)}};
        std::int64_t now = 0, cut = 0;
        std::uint64_t edges = 0;
        const auto check = [&](const Frame& frame) {
            const auto within = [&](Time time) { return time >= frame.start() && time <= frame.end(); };
            for (const Edge edge : frame.edges()) {
                ++edges;
                ASSERT_TRUE(within(edge.time)) << name_of(edge.button);
            }
            frame.for_each_value(PadStickLeftX, [&](Time time, double) { ASSERT_TRUE(within(time)); });
            frame.for_each_device_change([&](const DeviceChange& change) { ASSERT_TRUE(within(change.time)); });
            for (const Click& click : frame.pointer().clicks()) ASSERT_TRUE(within(click.released));
            for (const Button button : {KeyW, Shift, MouseLeft, axis_button(PadStickLeftX)}) {
                const ButtonFigures f = frame[button].figures();
                ASSERT_TRUE(f.down_span() >= Duration{} && f.down_span() <= frame.length()) << name_of(button);
                ASSERT_GE(f.held_for(), Duration{}) << name_of(button);
            }
        };
        for (int round = 0; round < 12; ++round) {
            const bool overruns = random.one_in(3);
            for (std::uint64_t n = overruns ? 6000 + random.below(4000) : random.below(40); n > 0; --n) {
                now += std::int64_t(random.below(4));
                std::int64_t stamp = random.one_in(6) ? now - std::int64_t(random.below(2000)) : now;
                if (random.one_in(4000)) stamp += 30'000;
                const auto which = static_cast<unsigned>(random.below(inlets));
                Inlet& inlet = timeline.inlet(which);
                const DeviceId device{20 + which};
                switch (random.below(6)) {
                    case 0: inlet.axis(device, PadStickLeftX, random.one_in(2) ? 1 : -1, at(stamp)); break;
                    case 1:
                        inlet.contact(device, 1, random.one_in(2) ? ContactPhase::begin : ContactPhase::end, 0, 0, 1,
                                      at(stamp));
                        break;
                    case 2: inlet.button(device, MouseLeft, random.one_in(2), at(stamp)); break;
                    case 3: inlet.motion(device, 1, 0, at(stamp)); break;
                    default: inlet.button(device, random.one_in(2) ? KeyW : ShiftLeft, random.one_in(2), at(stamp));
                }
            }
            cut = std::max(cut, now - std::int64_t(random.below(1500)));
            ASSERT_NO_FATAL_FAILURE(check(sampler.advance(at(cut)))) << "round " << round;
        }
        ASSERT_NO_FATAL_FAILURE(check(sampler.advance(at(now + 100'000))));
        EXPECT_GT(edges, 0U);
        EXPECT_GT(sampler.counters().overruns, 0U);
        for (const Button button : {KeyW, ShiftLeft, MouseLeft, axis_button(PadStickLeftX)}) {
            bool down = false;
            for (std::size_t i = 0; i < timeline.device_count(); ++i) down |= timeline.device(i).down.contains(button);
            EXPECT_EQ(sampler.frame()[button].down(), down) << name_of(button);
        }
    }
}

}  // namespace
