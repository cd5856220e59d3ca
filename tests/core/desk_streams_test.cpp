// Random streams of motion, wheel, axes, clicks, focus, connects and disconnects, against a plain second
// implementation: sums, positions, steps, axis readings, directions, clicks; several samplers, each at its own pace.

#include <gtest/gtest.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdlib>
#include <vector>

#include "core/random_events.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using test::Random;

constexpr DeviceId mouse{2}, pad{3};
Time at(std::int64_t ns) { return nanoseconds_since_zero(ns); }

double rounded(double value) { return std::nearbyint(value * 65536) / 65536; }

/// What one event did, as of its place in the order posted.
struct Fact {
    std::int64_t stamp = 0, greatest_stamp = 0;  // its own, and the greatest up to it
    Distance motion{};
    WindowPoint position{};
    bool placed = false;
    double wheel = 0, axis_x = 0;  // the axis after it
    bool sets_axis = false;
    long steps = 0;
    bool right = false;  // the stick is pushed right, after all events of its time
    bool clicks = false;
};

/// The rules once more, in the plainest way.
class Plain {
public:
    void post(const Event& e) {
        Fact fact;
        fact.stamp = nanoseconds(e.time);
        latest_ = fact.greatest_stamp = std::max(latest_, fact.stamp);
        switch (e.type) {
            case EventType::focus:
                if (e.focused == focused_) break;
                focused_ = e.focused;
                if (!focused_)
                    let_go(true, true);
                else
                    has_last_ = false;
                break;
            case EventType::connect: connected_ = true; break;
            case EventType::disconnect:
                if (connected_) let_go(false, true);
                connected_ = false;
                break;
            case EventType::motion:
                if (!focused_) break;
                if (e.has_motion) fact.motion = {rounded(e.dx), rounded(e.dy)};
                if (!e.has_position) {
                    drift_.x += fact.motion.x, drift_.y += fact.motion.y;
                    far_ |= !press_.placed && std::hypot(drift_.x, drift_.y) >= 6;
                    break;
                }
                if (!e.has_motion && has_last_) fact.motion = {rounded(e.x) - position_.x, rounded(e.y) - position_.y};
                position_ = {rounded(e.x), rounded(e.y)};
                has_last_ = placed_ = true;
                far_ |= press_.placed && std::hypot(position_.x - press_.at.x, position_.y - press_.at.y) >= 6;
                break;
            case EventType::wheel:
                if (!focused_) break;
                fact.wheel = rounded(e.dy);
                carried_ += fact.wheel;
                fact.steps = static_cast<long>(std::trunc(carried_));
                carried_ -= std::trunc(carried_);
                break;
            case EventType::axis:
                if (!focused_ || !connected_) break;
                (e.axis == PadStickLeftX ? stick_.x : stick_.y) = e.value;
                push({fact.stamp, latest_});
                break;
            case EventType::button:
                if (!focused_ || e.down == down_) break;
                fact.clicks = !e.down && !cancelled_ && !far_;
                down_ = e.down;
                cancelled_ = far_ = false;
                drift_ = {};
                press_ = {has_last_, position_};
                break;
            default: break;
        }
        fact.position = position_;
        fact.placed = placed_;
        fact.axis_x = stick_.x;
        fact.sets_axis = facts.empty() ? stick_.x != 0 : stick_.x != facts.back().axis_x;
        fact.right = right_;
        facts.push_back(fact);
        // Axes of one time apply together: only the last of them tells.
        if (group_ == std::array{fact.stamp, latest_})
            for (std::size_t i = group_begin_; i < facts.size(); ++i) facts[i].right = right_;
    }

    std::vector<Fact> facts;

private:
    void let_go(bool with_mouse, bool with_pad) {
        if (with_mouse) down_ = false, cancelled_ = false;
        if (with_pad) {
            stick_ = {};
            right_ = false;
            group_ = {-1, -1};
        }
    }
    void push(std::array<std::int64_t, 2> time) {
        if (group_ != time) {
            group_ = time;
            group_begin_ = facts.size();
            before_ = right_;
        }
        const double length = std::hypot(stick_.x, stick_.y), m = std::clamp((length - 0.15) / 0.8, 0.0, 1.0);
        const double x = length > 0 ? stick_.x / length * m : 0;
        right_ = before_ ? x > 0.4 : x >= 0.5;
    }

    std::int64_t latest_ = 0;
    std::array<std::int64_t, 2> group_{-1, -1};  // of the axes that apply together: their stamp, the latest one then
    bool focused_ = true, connected_ = true, has_last_ = false, placed_ = false, down_ = false, cancelled_ = false;
    bool right_ = false, before_ = false;
    std::size_t group_begin_ = 0;
    /// Of the press in progress: where it was, if that is known, and whether the pointer went far from it.
    struct {
        bool placed = false;
        WindowPoint at;
    } press_;
    bool far_ = false;
    Distance drift_;
    WindowPoint position_;
    Vector2 stick_;
    double carried_ = 0;
};

struct Follower {
    explicit Follower(const Timeline& timeline) : sampler{timeline, {.start = at(0)}} {}
    Sampler sampler;
    std::size_t next = 0;
    double axis = 0;
    bool right = false;

    void check(const std::vector<Fact>& facts, std::int64_t cut) {
        const Frame& frame = sampler.advance(at(cut));
        Distance motion;
        double wheel = 0, least = axis, greatest = axis;
        const double before = axis;
        long steps = 0;
        unsigned clicks = 0, presses = 0, samples = 0;
        WindowPoint position;
        bool placed = false;
        for (; next < facts.size() && facts[next].greatest_stamp <= cut; ++next) {
            const Fact& fact = facts[next];
            motion.x += fact.motion.x, motion.y += fact.motion.y;
            wheel += fact.wheel;
            steps += fact.steps;
            clicks += fact.clicks;
            samples += fact.motion != Distance{};
            if (fact.sets_axis) least = std::min(least, fact.axis_x), greatest = std::max(greatest, fact.axis_x);
            axis = fact.axis_x;
            presses += fact.right && !right;
            right = fact.right;
        }
        if (next > 0) position = facts[next - 1].position, placed = facts[next - 1].placed;
        const PointerReading pointer = frame.pointer();
        ASSERT_EQ(pointer.motion(), motion);
        ASSERT_EQ(pointer.wheel().y, wheel);
        ASSERT_EQ(pointer.wheel_steps().y, steps);
        std::int32_t one_by_one = 0;
        Time last_step = frame.start();
        pointer.for_each_wheel_step([&](Time time, WheelSteps more) {
            EXPECT_TRUE(time >= last_step && time <= frame.end() && more != WheelSteps{});
            last_step = time;
            one_by_one += more.y;
        });
        ASSERT_EQ(one_by_one, steps);
        ASSERT_EQ(pointer.has_position(), placed);
        ASSERT_TRUE(!placed || pointer.position() == position);
        ASSERT_EQ(frame.axis(PadStickLeftX), (AxisReading{before, axis, least, greatest}));
        unsigned told = 0;
        for (const Click& click : pointer.clicks()) told += click.button == MouseLeft;
        ASSERT_EQ(told, clicks);
        Distance sum;
        unsigned moved = 0;
        Time last = frame.start();
        for (const PointerSample& sample : pointer.samples()) {
            sum.x += sample.motion.x, sum.y += sample.motion.y;
            moved += sample.motion != Distance{};
            ASSERT_GE(sample.time, last);
            last = sample.time;
        }
        ASSERT_EQ(sum, motion);
        ASSERT_EQ(moved, samples);
        const ButtonFigures f = frame[axis_button(PadStickLeftX)].figures();
        ASSERT_EQ(f.down(), right);
        ASSERT_EQ(f.press_count(), presses);
        ASSERT_EQ(frame.stick(PadStickLeft).now.x != 0, frame.on(pad).stick(PadStickLeft).now.x != 0);
    }
};

Event random_event(Random& random, std::int64_t& now) {
    now += static_cast<std::int64_t>(random.below(5));
    std::int64_t stamp = now;
    if (random.one_in(8)) stamp = std::max<std::int64_t>(0, now - static_cast<std::int64_t>(random.below(30)));
    const auto number = [&] { return static_cast<double>(random.below(2001)) / 8 - 125 + 1.0 / 131072; };
    const std::uint64_t kind = random.below(100);
    if (kind < 40) {
        Event e = Event::of(at(stamp), EventType::motion, mouse);
        e.has_motion = !random.one_in(3);
        e.has_position = !e.has_motion || random.one_in(2);
        e.dx = number(), e.dy = number(), e.x = number(), e.y = number();
        return e;
    }
    if (kind < 50) {
        Event e = Event::of(at(stamp), EventType::wheel, mouse);
        e.dy = static_cast<double>(random.below(17)) / 4 - 2;
        return e;
    }
    if (kind < 85)
        return Event::axis_value(at(stamp), pad, random.one_in(2) ? PadStickLeftX : PadStickLeftY,
                                 static_cast<double>(random.below(17)) / 8 - 1);
    if (kind < 94) return Event::button(at(stamp), mouse, MouseLeft, random.one_in(2));
    if (kind < 96) return Event::focus(at(stamp), random.one_in(2));
    if (kind < 98) return Event::disconnect(at(stamp), pad);
    return Event::connect(at(stamp), pad, {.kind = DeviceKind::gamepad});
}

void run(std::uint64_t seed) {
    SCOPED_TRACE("seed " + std::to_string(seed) + "; replay: CURSORUM_TEST_SEED=" + std::to_string(seed));
    Random random{seed};
    Timeline timeline;
    timeline.desk().connect(pad, {.kind = DeviceKind::gamepad}, at(0));
    Plain plain;
    Follower often{timeline}, seldom{timeline};
    std::int64_t now = 0;
    // In every other run, what only moves is posted together with what follows it and does the same.
    const bool in_batches = seed % 2 == 0;
    std::vector<MotionSample> batch;
    const auto post_batch = [&] {
        timeline.desk().motions(mouse, batch);
        batch.clear();
    };
    for (int step = 0; step < 120; ++step) {
        const Event event = random_event(random, now);
        plain.post(event);
        if (in_batches && event.type == EventType::motion && event.has_motion && !event.has_position) {
            batch.push_back({event.time, event.dx, event.dy});
            continue;
        }
        post_batch();
        timeline.desk().post(event);
    }
    post_batch();
    for (std::int64_t cut = 1; cut <= now + 31; cut += 1 + static_cast<std::int64_t>(random.below(12)))
        ASSERT_NO_FATAL_FAILURE(often.check(plain.facts, cut)) << cut;
    for (std::int64_t cut = 50; cut <= now + 131; cut += 50)
        ASSERT_NO_FATAL_FAILURE(seldom.check(plain.facts, cut)) << cut;
}

TEST(DeskStreams, AgreeWithAPlainSecondImplementation) {
    if (const char* seed = std::getenv("CURSORUM_TEST_SEED")) return run(std::strtoull(seed, nullptr, 10));
    for (std::uint64_t seed = 1; seed <= 1500 && !HasFatalFailure(); ++seed) run(seed);
}

}  // namespace
