// Motion, positions, wheel, axes, their directions, clicks, locks, pointer flags, connects, with 1 to 4 inlets and late
// events: against a plain second implementation of everything but buttons (those have their own). And what a sampler
// heals stays in the frame.

#include <gtest/gtest.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdlib>
#include <map>
#include <memory>
#include <optional>
#include <sstream>
#include <string>
#include <vector>

#include "core/random_events.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/event.hpp"
#include "cursorum/core/sampler.hpp"
#include "cursorum/core/shaping.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using test::Random;

Time at(std::int64_t ns) { return nanoseconds_since_zero(ns); }

double rounded(double value) { return std::nearbyint(value * 65536) / 65536; }

/// What one event did.
struct Fact {
    std::int64_t stamp = 0;
    std::vector<std::pair<unsigned, double>> values{};  // of the left stick's first axis, by device
    std::map<unsigned, double> shaped{};                // of the left stick, its first axis
    std::map<unsigned, bool> right{};                   // its direction, after all events of its time
    bool adopts = false;                                // that is nobody's press
    std::string line{};                                 // a change or a click; "@" stands for the time
    Distance motion{}, wheel{};
    long steps = 0;
    std::optional<WindowPoint> place{};
    std::optional<bool> caps{}, outside{};
    std::optional<CursorState> cursor{};
};

/// The rules of one inlet once more, in the plainest way.
class PlainInlet {
public:
    void post(const Event& e) {
        facts.push_back({.stamp = nanoseconds(e.time)});
        latest_ = std::max(latest_, facts.back().stamp);
        apply(e, facts.back());
    }
    std::vector<Fact> facts;
    std::size_t next = 0;  // the first that is not taken
    /// What one axis did and the next one at the same time undid counts if a cut or another device's event lies between
    /// them.
    bool is_unclear = false;

private:
    struct Pad {
        unsigned id = 0;
        bool connected = false, listens = false, outside = false, down = false, can_click = false;
        CursorState cursor{};
        bool is_locked() const { return cursor.hold == CursorHold::locked; }
        bool has_last = false, press_placed = false, right = false;
        enum class Way { none, across, along } way{}, way_before{};  // the left stick is pushed
        WindowPoint position{}, press_at{};
        Distance drift{};
        Vector2 stick{};
        double dead = 0.15;
        bool is_heard = false;                      // since it was at rest
        std::array<std::int64_t, 2> group{-1, -1};  // of the axes that apply together: their stamp, the latest one then
        std::size_t group_begin = 0, in_group = 0;
    };

    void let_go(Pad& pad, Fact& fact) {
        pad.down = pad.can_click = false;
        pad.stick = {};
        pad.group = {-1, -1};
        fact.values.push_back({pad.id, 0});
        fact.right[pad.id] = pad.right = false;
        pad.way = {};
        fact.shaped[pad.id] = 0;
        pad.is_heard = false;
    }
    void apply(const Event& e, Fact& fact) {
        if (e.type == EventType::locks) {
            fact.caps = e.down_set.contains(CapsLock);
            return;
        }
        if (e.type == EventType::focus || e.type == EventType::interrupt) {
            if (e.type == EventType::focus && e.focused == focused_) return;
            if (e.type == EventType::focus) focused_ = e.focused;
            for (Pad& pad : pads_) {
                if (e.type == EventType::focus) pad.listens = pad.connected && focused_;
                if (e.type == EventType::interrupt || !focused_) let_go(pad, fact);
                if (e.type == EventType::focus && focused_) pad.has_last = fresh_ = false;
            }
            return;
        }
        const auto id = static_cast<unsigned>(e.device);
        auto pad = std::find_if(pads_.begin(), pads_.end(), [id](const Pad& p) { return p.id == id; });
        if (e.type == EventType::connect) {
            if (pad == pads_.end()) pad = pads_.insert(pad, {.id = id});
            if (pad->connected) return;
            pad->connected = true;
            pad->listens = focused_;
            pad->outside = pad->has_last = false;
            pad->cursor = {};
            fact.line = "change @ " + std::to_string(id) + " in\n";
        } else if (e.type == EventType::shaping && pad != pads_.end()) {
            pad->dead = e.shaping.sticks[0].response.dead_zone;
            pad->group = {-1, -1};
            if (!pad->is_heard) return;
            fact.adopts = true;
            push(*pad);
            pad->group = {-1, -1};
        } else if (pad == pads_.end() || !pad->connected) {
            return;
        } else if (e.type == EventType::disconnect) {
            let_go(*pad, fact);
            if (pad->outside || pad->cursor != CursorState{}) {
                fact.outside = pad->outside = false;
                fact.cursor = pad->cursor = {};
            }
            pad->connected = pad->listens = false;
            fact.line = "change @ " + std::to_string(id) + " out\n";
        } else if (pad->listens) {
            apply(e, *pad, fact);
        }
    }
    void apply(const Event& e, Pad& pad, Fact& fact) {
        if (e.type == EventType::axis) {
            (e.axis == PadStickLeftX ? pad.stick.x : pad.stick.y) = e.value;
            fact.values.push_back({pad.id, pad.stick.x});
            pad.is_heard = true;
            push(pad);
        } else if (e.type == EventType::motion) {
            move(e, pad, fact);
        } else if (e.type == EventType::wheel) {
            fact.wheel.y = rounded(e.dy);
            carried_ += fact.wheel.y;
            fact.steps = static_cast<long>(std::trunc(carried_));
            carried_ -= std::trunc(carried_);
        } else if (e.type == EventType::pointer) {
            if (e.has_inside) pad.outside = !e.inside;
            if (e.has_cursor) {
                const bool was_locked = pad.is_locked();
                pad.cursor = e.cursor_state;
                if (pad.is_locked() != was_locked) pad.has_last = fresh_ = false;
            }
            fact.outside = pad.outside;
            fact.cursor = pad.cursor;
        } else if (e.type == EventType::button && e.down != pad.down) {
            if (!e.down && pad.can_click) fact.line = "click @ " + std::to_string(pad.id) + '\n';
            pad.down = pad.can_click = e.down;
            pad.drift = {};
            pad.press_placed = fresh_ && !pad.is_locked();
            pad.press_at = pointer_;
        }
    }
    void move(const Event& e, Pad& pad, Fact& fact) {
        if (e.has_motion) fact.motion = {rounded(e.dx), rounded(e.dy)};
        if (!e.has_position || pad.is_locked()) {
            pad.drift.x += fact.motion.x, pad.drift.y += fact.motion.y;
            if (!pad.press_placed && std::hypot(pad.drift.x, pad.drift.y) >= 6) pad.can_click = false;
            return;
        }
        const WindowPoint to{rounded(e.x), rounded(e.y)};
        if (!e.has_motion && pad.has_last) fact.motion = {to.x - pad.position.x, to.y - pad.position.y};
        fact.place = pad.position = pointer_ = to;
        pad.has_last = fresh_ = true;
        for (Pad& any : pads_)
            if (any.press_placed && std::hypot(to.x - any.press_at.x, to.y - any.press_at.y) >= 6)
                any.can_click = false;
    }
    /// Axes of one time apply together: only the last one counts.
    void push(Pad& pad) {
        const std::array time{facts.back().stamp, latest_};
        if (pad.group != time) {
            pad.group = time;
            pad.group_begin = facts.size() - 1;
            pad.way_before = pad.way;
            pad.in_group = 0;
        }
        ++pad.in_group;
        const double length = std::hypot(pad.stick.x, pad.stick.y),
                     m = std::clamp((length - pad.dead) / (0.95 - pad.dead), 0.0, 1.0);
        const double x = length > 0 ? pad.stick.x / length * m : 0;
        facts.back().shaped[pad.id] = x;
        const double y = length > 0 ? pad.stick.y / length * m : 0;
        const double tangent = std::abs(y) / std::max(std::abs(x), 1e-9);
        const double border = pad.way_before == Pad::Way::none     ? 1
                              : pad.way_before == Pad::Way::across ? 1.30322537284  // of 52.5 degrees
                                                                   : 0.76732698798;
        const bool is_pushed = pad.way_before == Pad::Way::none ? std::hypot(x, y) >= 0.5 : std::hypot(x, y) > 0.4;
        pad.way = !is_pushed ? Pad::Way::none : tangent <= border ? Pad::Way::across : Pad::Way::along;
        pad.right = pad.way == Pad::Way::across && x > 0;
        for (std::size_t i = pad.group_begin; i < facts.size(); ++i) {
            const bool is_new = facts[i].right.contains(pad.id) && facts[i].right[pad.id] != pad.right;
            is_unclear |= is_new && (next > pad.group_begin || facts.size() - pad.group_begin > pad.in_group);
            facts[i].right[pad.id] = pad.right;
        }
    }

    std::int64_t latest_ = 0;
    bool focused_ = true;
    double carried_ = 0;
    WindowPoint pointer_;    // of all devices of the inlet
    bool fresh_ = false;     // it is known since focus came back
    std::vector<Pad> pads_;  // in the order of their first connects
};

/// Each inlet has two devices.
std::vector<unsigned> device_ids(std::size_t inlets) {
    std::vector<unsigned> ids;
    for (unsigned i = 0; i < inlets; ++i) ids.insert(ids.end(), {1 + 10 * i, 2 + 10 * i});
    return ids;
}

/// Everything posted, taken again from the heads of the inlets.
class PlainOrder {
public:
    explicit PlainOrder(unsigned inlets) : inlets_(inlets) {}
    void post(unsigned inlet, const Event& event) { inlets_[inlet].post(event); }

    bool is_unclear() const {
        return std::any_of(inlets_.begin(), inlets_.end(), [](const PlainInlet& in) { return in.is_unclear; });
    }

    /// One line for each thing that a frame shows.
    std::string frame(std::int64_t t1) {
        t0_ = t1_;
        t1_ = t1;
        out_ = {};
        out_.precision(17);
        value_ = least_ = greatest_ = merged();
        presses_.clear();
        const double before = value_;
        Distance motion, wheel;
        long steps = 0;
        unsigned samples = 0;
        for (;;) {
            PlainInlet* first = nullptr;
            for (PlainInlet& in : inlets_)
                if (in.next < in.facts.size() && in.facts[in.next].stamp <= t1 &&
                    (!first || in.facts[in.next].stamp < first->facts[first->next].stamp))
                    first = &in;
            if (!first) break;
            const Fact& fact = first->facts[first->next++];
            const std::int64_t so_far = std::max(effective_, t0_);
            late_ += fact.stamp < so_far;
            effective_ = std::max(fact.stamp, so_far);
            ++taken_;
            motion.x += fact.motion.x, motion.y += fact.motion.y;
            wheel.y += fact.wheel.y;
            steps += fact.steps;
            samples += fact.motion != Distance{};
            take(fact);
        }
        out_ << "axis " << before << ' ' << value_ << ' ' << least_ << ' ' << greatest_ << "\nlocks " << caps_
             << " outside " << outside_ << " cursor " << static_cast<int>(cursor_.hold) << cursor_.hidden << "\nplace "
             << place_.has_value();
        if (place_) out_ << ' ' << place_->x << ' ' << place_->y;
        out_ << "\nmotion " << motion.x << ' ' << motion.y << " in " << samples << " wheel " << wheel.y << ' ' << steps
             << "\ntaken " << taken_ << " late " << late_ << '\n';
        out_.precision(9);
        for (const unsigned id : device_ids(inlets_.size()))
            out_ << "right " << id << ' ' << right_[id] << presses_[id] << ' ' << shaped_[id] << '\n';
        return out_.str();
    }

private:
    double merged() const {
        double greatest = 0;
        for (const auto& [id, value] : values_)
            if (std::abs(value) > std::abs(greatest)) greatest = value;
        return greatest;
    }
    void take(const Fact& fact) {
        for (const auto& [id, value] : fact.values) {
            if (values_[id] == value) continue;
            values_[id] = value;
            value_ = merged();
            least_ = std::min(least_, value_);
            greatest_ = std::max(greatest_, value_);
            out_ << "value " << effective_ << ' ' << value_ << '\n';
        }
        for (const auto& [id, is_right] : fact.right) {
            presses_[id] += is_right && !right_[id] && !fact.adopts;
            right_[id] = is_right;
        }
        for (const auto& [id, x] : fact.shaped) shaped_[id] = x + 0.0;
        if (fact.caps) caps_ = *fact.caps;
        if (fact.outside) outside_ = *fact.outside;
        if (fact.cursor) cursor_ = *fact.cursor;
        if (fact.place) place_ = fact.place;
        if (const std::size_t time = fact.line.find('@'); time != fact.line.npos)
            out_ << fact.line.substr(0, time) << effective_ << fact.line.substr(time + 1);
    }

    std::vector<PlainInlet> inlets_;
    std::int64_t t0_ = 0, t1_ = 0, effective_ = 0;
    std::uint64_t taken_ = 0, late_ = 0;
    bool caps_ = false, outside_ = false;
    CursorState cursor_;
    std::optional<WindowPoint> place_;
    std::map<unsigned, double> values_;
    std::map<unsigned, bool> right_;
    std::map<unsigned, double> shaped_;
    std::map<unsigned, unsigned> presses_;
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

std::string shown(const Sampler& sampler, unsigned inlets) {
    const Frame& frame = sampler.frame();
    const PointerReading pointer = frame.pointer();
    std::ostringstream out;
    out.precision(17);
    frame.for_each_raw_value(
        PadStickLeftX, [&](Time time, double value) { out << "value " << nanoseconds(time) << ' ' << value << '\n'; });
    frame.for_each_device_change([&](const DeviceChange& change) {
        out << "change " << nanoseconds(change.time) << ' ' << static_cast<unsigned>(change.device)
            << (change.connected ? " in\n" : " out\n");
    });
    for (const Click& click : pointer.clicks())
        out << "click " << nanoseconds(click.released) << ' ' << static_cast<unsigned>(click.device) << '\n';
    const AxisReading axis = frame.raw_axis(PadStickLeftX);
    out << "axis " << axis.before << ' ' << axis.now << ' ' << axis.least << ' ' << axis.greatest << "\nlocks "
        << frame.locks().contains(CapsLock) << " outside " << !pointer.inside() << " cursor "
        << static_cast<int>(pointer.cursor().hold) << pointer.cursor().hidden << "\nplace " << pointer.has_position();
    if (pointer.has_position()) out << ' ' << pointer.position().x << ' ' << pointer.position().y;
    Distance sum;
    unsigned moved = 0;
    Time last = frame.start();
    for (const PointerSample& sample : pointer.samples()) {
        sum.x += sample.motion.x, sum.y += sample.motion.y;
        moved += sample.motion != Distance{};
        EXPECT_GE(std::exchange(last, sample.time), Time{});
        EXPECT_LE(last, frame.end());
    }
    EXPECT_EQ(sum, pointer.motion());
    std::int32_t steps = 0;
    last = frame.start();
    pointer.for_each_wheel_step([&](Time time, WheelSteps more) {
        EXPECT_TRUE(time >= last && time <= frame.end() && more != WheelSteps{});
        last = time;
        steps += more.y;
    });
    EXPECT_EQ(steps, pointer.wheel_steps().y);
    out << "\nmotion " << pointer.motion().x << ' ' << pointer.motion().y << " in " << moved << " wheel "
        << pointer.wheel().y << ' ' << steps << "\ntaken " << sampler.counters().taken << " late "
        << sampler.counters().late << '\n';
    out.precision(9);
    for (const unsigned id : device_ids(inlets)) {
        const ButtonFigures right = frame.on(DeviceId{id})[PadStickLeftRight].figures();
        out << "right " << id << ' ' << right.down() << right.press_count() << ' '
            << frame.on(DeviceId{id}).stick(PadStickLeft).now.x + 0.0 << '\n';
    }
    return out.str();
}

Event random_event(Random& random, std::int64_t now, unsigned inlet, bool is_alone) {
    const DeviceId device{1 + 10 * inlet + static_cast<std::uint32_t>(random.below(2))};
    const std::uint64_t kind = random.below(100);
    const auto number = [&] { return static_cast<double>(random.below(2001)) / 8 - 125 + 1.0 / 131072; };
    const Time late = at(random.one_in(8) ? std::max<std::int64_t>(0, now - std::int64_t(random.below(30))) : now);
    if (kind < 20) {
        // Where several inlets move the pointer, each is in time.
        Event event = Event::of(is_alone ? late : at(now), EventType::motion, device);
        event.has_motion = !random.one_in(3);
        event.has_position = !event.has_motion || random.one_in(2);
        event.dx = number(), event.dy = number(), event.x = number(), event.y = number();
        return event;
    }
    if (kind < 26) {
        Event event = Event::of(is_alone ? late : at(now), EventType::wheel, device);
        event.dy = static_cast<double>(random.below(17)) / 4 - 2;
        return event;
    }
    if (kind < 55)
        return Event::axis_value(late, device, random.one_in(3) ? PadStickLeftY : PadStickLeftX,
                                 double(random.below(17)) / 8 - 1);
    if (kind < 70) return Event::button(late, device, MouseLeft, random.one_in(2));
    if (kind < 76) {
        Event event = Event::of(late, EventType::locks, {});
        if (random.one_in(2)) event.down_set.insert(CapsLock);
        return event;
    }
    if (kind < 78) {
        DeviceShaping shaping;
        shaping.sticks[0].response.dead_zone = 0.05 + 0.1 * static_cast<double>(random.below(6));
        return Event::shaped(late, device, shaping);
    }
    if (kind < 82) return Event::pointer_inside(late, device, random.one_in(2));
    if (kind < 84) return Event::cursor(late, device, {static_cast<CursorHold>(random.below(3)), random.one_in(2)});
    if (kind < 88) return Event::disconnect(late, device);
    if (kind < 96) return Event::connect(late, device, {.kind = DeviceKind::mouse});
    if (kind < 98) return Event::focus(late, !random.one_in(3));
    return Event::interrupt(late);
}

void run(std::uint64_t seed) {
    Random random{seed};
    const unsigned inlets = 1 + static_cast<unsigned>(seed % 4);
    Timeline timeline{{.inlets = inlets, .motion_history = 64, .axis_history = 64, .desk_devices = false}};
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
        Event event = random_event(random, now[inlet], inlet, inlets == 1);
        for (auto& pair : pairs) pair->plain.post(inlet, event);
        if (event.type != EventType::motion || !event.has_motion || event.has_position) {
            timeline.inlet(inlet).post(event);
        } else {  // what only moves may come in batches
            std::vector<MotionSample> batch{{event.time, event.dx, event.dy}};
            for (std::uint64_t more = random.below(3); more > 0; --more) {
                event.dx += 0.5;
                batch.push_back({event.time, event.dx, event.dy});
                for (auto& pair : pairs) pair->plain.post(inlet, event);
            }
            timeline.inlet(inlet).motions(event.device, batch);
        }
        for (auto& pair : pairs) {
            if (!random.one_in(pair->longest == 5 ? 2 : 12) && step != 119) continue;
            pair->cut = step == 119 ? 10'000 : pair->cut + std::int64_t(random.below(std::uint64_t(pair->longest)));
            pair->sampler.advance(at(pair->cut));
            if (pair->plain.is_unclear()) return;
            ASSERT_EQ(by_kind(shown(pair->sampler, inlets)), by_kind(pair->plain.frame(pair->cut)))
                << "seed " << seed << ", step " << step << ", " << inlets
                << " inlets; replay: CURSORUM_TEST_SEED=" << seed;
        }
    }
}

TEST(SeveralInlets, AgreeWithAPlainModelInEverythingButButtons) {
    if (const char* seed = std::getenv("CURSORUM_TEST_SEED")) return run(std::strtoull(seed, nullptr, 10));
    const char* streams = std::getenv("CURSORUM_TEST_STREAMS");
    const std::uint64_t count = streams ? std::strtoull(streams, nullptr, 10) : test::usual_count(1500);
    for (std::uint64_t seed = 1; seed <= count && !testing::Test::HasFatalFailure(); ++seed) run(seed);
}

// A consumer that falls behind, events out of order, and now and then a stamp far ahead: whatever it takes lies within
// its frame, and once all stamps have come it knows what is down.
TEST(SeveralInlets, WhatIsHealedStaysWithinTheFrame) {
    for (std::uint64_t seed = 1; seed <= 25; ++seed) {
        SCOPED_TRACE("seed " + std::to_string(seed));
        Random random{seed};
        const unsigned inlets = 1 + static_cast<unsigned>(seed % 3);
        Timeline timeline{{.inlets = inlets, .motion_history = 64, .axis_history = 64, .occasion_history = 64}};
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
            frame.for_each_raw_value(PadStickLeftX, [&](Time time, double) { ASSERT_TRUE(within(time)); });
            frame.for_each_device_change([&](const DeviceChange& change) { ASSERT_TRUE(within(change.time)); });
            for (const Click& click : frame.pointer().clicks()) ASSERT_TRUE(within(click.released));
            for (const Button button : {KeyW, Shift, MouseLeft, PadStickLeftRight}) {
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
        std::uint64_t posted = 0;
        for (unsigned i = 0; i < inlets; ++i) posted += timeline.inlet(i).counters().events - 1;  // the connect
        EXPECT_EQ(sampler.counters().taken + sampler.counters().lost, posted);
        for (const Button button : {KeyW, ShiftLeft, MouseLeft, PadStickLeftRight}) {
            bool down = false;
            for (std::size_t i = 0; i < timeline.device_count(); ++i) down |= timeline.device(i).down.contains(button);
            EXPECT_EQ(sampler.frame()[button].down(), down) << name_of(button);
        }
    }
}

}  // namespace
