// The pointer: positions, motion, samples, wheel steps, clicks, drags, targets.

#include <gtest/gtest.h>

#include <cmath>
#include <limits>
#include <string>
#include <vector>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;

constexpr DeviceId mouse{2};
constexpr std::int64_t ms = 1'000'000;

struct Desk {
    explicit Desk(const PointerSettings& settings = {}) : timeline{{.pointer = settings}} {}
    Timeline timeline;
    Inlet& inlet = timeline.desk();
    Sampler sampler{timeline, {.start = Time{}}};

    static Time at(std::int64_t milliseconds) { return nanoseconds_since_zero(milliseconds * ms); }
    void to(double x, double y, std::int64_t t) { inlet.moved_to({x, y}, at(t)); }
    void down(std::int64_t t, Button button = MouseLeft) { inlet.button(button, true, at(t)); }
    void up(std::int64_t t, Button button = MouseLeft) { inlet.button(button, false, at(t)); }
    const Frame& cut(std::int64_t t) { return sampler.advance(at(t)); }
};

/// "Left 1 2>3 4 far 5 x2 drag": button, from, to, farthest, count.
std::string clicks_text(const Frame& frame) {
    std::string text;
    const auto whole = [](double value) { return std::to_string(std::lround(value)); };
    for (const Click& c : frame.pointer().clicks()) {
        if (!text.empty()) text += "; ";
        text += std::string{name_of(c.button)}.substr(5) + " " + whole(c.from.x) + " " + whole(c.from.y) + ">" +
                whole(c.to.x) + " " + whole(c.to.y) + " far " + whole(c.farthest);
        if (c.count > 1) text += " x" + std::to_string(c.count);
    }
    return text;
}

TEST(Pointer, MotionAndPositionDoNotCorrectEachOther) {
    struct Row {
        const char* what;
        std::vector<Event> events;
        Distance motion;
        WindowPoint position;
        bool has_position;
    };
    const auto event = [](std::int64_t t, bool moves, double dx, double dy, bool places, double x, double y) {
        Event e = Event::of(Desk::at(t), EventType::motion, mouse);
        e.has_motion = moves, e.dx = dx, e.dy = dy;
        e.has_position = places, e.x = x, e.y = y;
        return e;
    };
    Event warp = event(3, false, 0, 0, true, 500, 400);
    warp.warp = true;
    Event raw = event(3, true, 3, 4, true, 13, 24);
    raw.has_raw = true, raw.raw_dx = 7, raw.raw_dy = 8;
    const Row rows[] = {
        {"motion alone leaves the position", {event(1, true, 3, 4, false, 0, 0)}, {3, 4}, {0, 0}, false},
        {"the first position is no motion", {event(1, false, 0, 0, true, 10, 20)}, {0, 0}, {10, 20}, true},
        {"then the difference is",
         {event(1, false, 0, 0, true, 10, 20), event(2, false, 0, 0, true, 13, 18)},
         {3, -2},
         {13, 18},
         true},
        {"told both, both are taken as they are", {event(1, true, 100, 0, true, 10, 20)}, {100, 0}, {10, 20}, true},
        {"a warp is no motion", {event(1, false, 0, 0, true, 10, 20), warp}, {0, 0}, {500, 400}, true},
        {"nor is the first after a focus gain",
         {event(1, false, 0, 0, true, 10, 20), Event::focus(Desk::at(2), false), Event::focus(Desk::at(3), true),
          event(4, false, 0, 0, true, 90, 90)},
         {0, 0},
         {90, 90},
         true},
        {"nor after a connect",
         {event(1, false, 0, 0, true, 10, 20), Event::disconnect(Desk::at(2), mouse),
          Event::connect(Desk::at(3), mouse, {.kind = DeviceKind::mouse}), event(4, false, 0, 0, true, 90, 90)},
         {0, 0},
         {90, 90},
         true},
        {"without focus nothing moves",
         {event(1, false, 0, 0, true, 10, 20), Event::focus(Desk::at(2), false), event(3, true, 1, 1, true, 90, 90)},
         {0, 0},
         {10, 20},
         true},
        {"raw counts stand beside", {event(1, false, 0, 0, true, 10, 20), raw}, {3, 4}, {13, 24}, true},
        {"whole pixels are exact",
         {event(1, false, 0, 0, true, 16777217, -8388609)},
         {0, 0},
         {16777217, -8388609},
         true},
    };
    for (const Row& row : rows) {
        Desk desk;
        for (const Event& e : row.events) desk.inlet.post(e);
        const PointerReading pointer = desk.cut(100).pointer();
        EXPECT_EQ(pointer.motion(), row.motion) << row.what;
        EXPECT_EQ(pointer.has_position(), row.has_position) << row.what;
        EXPECT_TRUE(!row.has_position || pointer.position() == row.position) << row.what;
    }
    Desk desk;
    desk.inlet.post(raw);
    EXPECT_EQ(desk.cut(5).pointer().raw_motion(), (Distance{7, 8}));
}

TEST(Pointer, HasThePositionAtBothCutsAndEverySampleInOrder) {
    Desk desk;
    desk.to(1, 1, 1);
    desk.cut(10);
    std::vector<MotionSample> samples;
    for (int i = 1; i <= 133; ++i) samples.push_back({nanoseconds_since_zero(10 * ms + i * 125'000), 0.5, -0.25});
    EXPECT_EQ(desk.inlet.motions(mouse, samples), Outcome::taken);
    desk.to(7, 9, 27);
    const PointerReading pointer = desk.cut(27).pointer();
    EXPECT_EQ(pointer.previous_position(), (WindowPoint{1, 1}));
    EXPECT_EQ(pointer.position(), (WindowPoint{7, 9}));
    EXPECT_EQ(pointer.motion(), (Distance{66.5 + 6, -33.25 + 8}));
    unsigned count = 0;
    for (const PointerSample& sample : pointer.samples()) {
        if (++count > 133) break;
        EXPECT_EQ(sample.time, samples[count - 1].time);
        EXPECT_EQ(sample.motion, (Distance{0.5, -0.25}));
    }
    EXPECT_EQ(count, 134U);
    EXPECT_EQ(desk.sampler.counters().taken, 135U);
    EXPECT_FALSE(desk.cut(28).pointer().moved());
    EXPECT_EQ(desk.sampler.frame().pointer().position(), (WindowPoint{7, 9}));
}

TEST(Pointer, ToAndFroIsMotionToo) {
    Desk desk;
    desk.inlet.motion(5, 0, Desk::at(1));
    desk.inlet.motion(-5, 0, Desk::at(2));
    EXPECT_EQ(desk.cut(3).pointer().motion(), (Distance{0, 0}));
    EXPECT_TRUE(desk.sampler.frame().pointer().moved());
}

TEST(Pointer, WholeWheelStepsAreTheSameHoweverTimeIsCut) {
    const double turns[] = {0.25, 0.5, 0.5, -0.25, -0.5, -0.75, 2.5, -1.25, 0.125, 0.9, -3};
    for (const int every : {1, 2, 3, 100}) {
        Desk desk;
        int steps = 0, i = 0;
        for (const double turn : turns) {
            desk.inlet.wheel(0, turn, Desk::at(++i));
            if (i % every == 0) steps += desk.cut(i).pointer().wheel_steps().y;
        }
        steps += desk.cut(100).pointer().wheel_steps().y;
        EXPECT_EQ(steps, 0) << every;  // 1 - 1 + 2 - 1 + 1 - 2
    }
    Desk desk;
    for (int i = 0; i < 3; ++i) desk.inlet.wheel(-0.25, 0.25, Desk::at(i));
    EXPECT_EQ(desk.cut(10).pointer().wheel_steps(), (WheelSteps{0, 0}));
    desk.inlet.wheel(-0.25, 0.25, Desk::at(20));
    EXPECT_EQ(desk.cut(20).pointer().wheel_steps(), (WheelSteps{-1, 1}));
}

TEST(Pointer, InsideOutsideAndLocked) {
    Desk desk;
    desk.to(10, 10, 1);
    EXPECT_TRUE(desk.cut(1).pointer().inside());
    desk.inlet.pointer_inside(mouse, false, Desk::at(2));
    EXPECT_FALSE(desk.cut(2).pointer().inside());
    EXPECT_TRUE(desk.sampler.frame().pointer().was_inside());
    EXPECT_FALSE(desk.sampler.frame().pointer().target({0, 0, 100, 100}).hovered);
    desk.inlet.pointer_inside(mouse, true, Desk::at(3));
    desk.inlet.pointer_locked(mouse, true, Desk::at(3));
    desk.inlet.motion(40, 0, Desk::at(4));
    desk.to(300, 300, 5);  // a locked pointer has no position
    const PointerReading locked = desk.cut(5).pointer();
    EXPECT_TRUE(locked.locked());
    EXPECT_EQ(locked.motion(), (Distance{40, 0}));
    EXPECT_EQ(locked.position(), (WindowPoint{10, 10}));
    desk.inlet.pointer_locked(mouse, false, Desk::at(6));
    desk.to(80, 80, 7);  // where it comes out is no motion
    EXPECT_EQ(desk.cut(7).pointer().motion(), (Distance{0, 0}));
    EXPECT_EQ(desk.sampler.frame().pointer().position(), (WindowPoint{80, 80}));
}

TEST(Pointer, OfOneDeviceIsItsOwn) {
    Desk desk;
    desk.inlet.connect(DeviceId{7}, {.kind = DeviceKind::mouse}, Desk::at(0));
    desk.inlet.motion(1, 2, Desk::at(1));
    desk.inlet.motion(DeviceId{7}, 10, 20, Desk::at(2));
    desk.inlet.wheel(DeviceId{7}, 0, 1, Desk::at(3));
    const Frame& frame = desk.cut(5);
    EXPECT_EQ(frame.pointer().motion(), (Distance{11, 22}));
    EXPECT_EQ(frame.on(mouse).pointer().motion(), (Distance{1, 2}));
    EXPECT_EQ(frame.on(DeviceId{7}).pointer().motion(), (Distance{10, 20}));
    EXPECT_EQ(frame.on(DeviceId{7}).pointer().wheel(), (Distance{0, 1}));
    EXPECT_EQ(frame.on(mouse).pointer().wheel(), (Distance{0, 0}));
    desk.to(50, 60, 6);
    desk.inlet.motion(DeviceId{7}, 1, 0, Desk::at(7));
    desk.cut(8);
    EXPECT_EQ(frame.on(mouse).pointer().position(), (WindowPoint{50, 60}));
    EXPECT_FALSE(frame.on(DeviceId{7}).pointer().has_position()) << "another mouse's place is not its own";
    EXPECT_FALSE(frame.on(DeviceId{9}).pointer().moved());
}

TEST(Pointer, AMouseThatIsGoneLocksNothing) {
    Desk desk;
    desk.inlet.pointer_locked(mouse, true, Desk::at(1));
    EXPECT_TRUE(desk.cut(2).pointer().locked());
    desk.inlet.disconnect(mouse, Desk::at(3));
    EXPECT_FALSE(desk.cut(4).pointer().locked());
    EXPECT_TRUE(desk.sampler.frame().pointer().was_locked());
}

// ---- clicks

TEST(Clicks, AreToldOnReleaseAcrossFrameBorders) {
    Desk desk;
    desk.to(10, 20, 1);
    desk.down(2);
    EXPECT_EQ(clicks_text(desk.cut(5)), "");
    desk.to(13, 24, 6);
    desk.to(11, 20, 7);
    EXPECT_EQ(clicks_text(desk.cut(10)), "");
    desk.up(12);
    EXPECT_EQ(clicks_text(desk.cut(15)), "Left 10 20>11 20 far 5");
    EXPECT_EQ(clicks_text(desk.cut(20)), "");
}

TEST(Clicks, TwoOfThemWithinAFrameAreTwo) {
    Desk desk;
    desk.to(0, 0, 1);
    for (const int t : {2, 4, 6}) desk.down(t), desk.up(t + 1);
    desk.down(8, MouseRight), desk.up(9, MouseRight);
    EXPECT_EQ(clicks_text(desk.cut(20)),
              "Left 0 0>0 0 far 0; Left 0 0>0 0 far 0 x2; Left 0 0>0 0 far 0 x3; Right 0 0>0 0 far 0");
}

TEST(Clicks, CountUpWithin400MillisecondsAnd4Pixels) {
    struct Row {
        std::int64_t pause;
        double dx, dy;
        unsigned count;
    };
    for (const Row& row :
         {Row{400, 0, 0, 2}, {401, 0, 0, 1}, {10, 4, 0, 2}, {10, 4.01, 0, 1}, {10, 2.4, 3.2, 2}, {10, 3, 3, 1}}) {
        Desk desk;
        desk.to(100, 100, 1);
        desk.down(2), desk.up(50);
        desk.to(100 + row.dx, 100 + row.dy, 55);
        desk.down(50 + row.pause), desk.up(60 + row.pause);
        std::vector<unsigned> counts;
        for (const Click& click : desk.cut(1000).pointer().clicks()) counts.push_back(click.count);
        EXPECT_EQ(counts, (std::vector<unsigned>{1, row.count})) << row.pause << ' ' << row.dx << ' ' << row.dy;
    }
}

TEST(Clicks, AnotherButtonBetweenStartsAnew) {
    Desk desk;
    desk.down(1), desk.up(2), desk.down(3, MouseRight), desk.up(4, MouseRight), desk.down(5), desk.up(6);
    for (const Click& click : desk.cut(10).pointer().clicks()) EXPECT_EQ(click.count, 1U);
}

TEST(Clicks, AreCalledOff) {
    struct Row {
        const char* what;
        PointerSettings settings;
        void (*between)(Desk&);
    };
    const Row rows[] = {
        {"by focus loss",
         {},
         [](Desk& d) {
             d.inlet.lose_focus(Desk::at(5)), d.inlet.gain_focus(unknown_state, Desk::at(6)),
                 d.inlet.state(mouse, {MouseLeft}, Desk::at(6));
         }},
        {"by an interruption",
         {},
         [](Desk& d) {
             d.inlet.interrupt(unknown_state, Desk::at(5)), d.inlet.state(mouse, {MouseLeft}, Desk::at(6));
         }},
        {"by unplugging",
         {},
         [](Desk& d) {
             d.inlet.disconnect(mouse, Desk::at(5));
             d.inlet.connect(mouse, {.kind = DeviceKind::mouse}, Desk::at(6));
             d.inlet.state(mouse, {MouseLeft}, Desk::at(6));
         }},
        {"by leaving, where asked",
         {.cancel_on_leave = true},
         [](Desk& d) {
             d.inlet.pointer_inside(mouse, false, Desk::at(5)), d.inlet.pointer_inside(mouse, true, Desk::at(6));
         }},
        {"by the caller", {}, [](Desk& d) { d.cut(5), d.sampler.cancel_presses(); }},
    };
    for (const Row& row : rows) {
        Desk desk{row.settings};
        desk.to(10, 10, 1);
        desk.down(2);
        desk.to(30, 10, 3);
        desk.cut(4);
        EXPECT_TRUE(desk.sampler.frame().pointer().drag(MouseLeft).active) << row.what;
        row.between(desk);
        const bool cancelled = desk.cut(8).pointer().drag(MouseLeft).cancelled;
        desk.up(9);
        const Frame& frame = desk.cut(10);
        EXPECT_EQ(clicks_text(frame), "") << row.what;
        EXPECT_TRUE(cancelled) << row.what;
        EXPECT_FALSE(frame.pointer().drag(MouseLeft).dropped) << row.what;
        EXPECT_FALSE(frame[MouseLeft].down()) << row.what;
        desk.down(20), desk.up(30);
        EXPECT_NE(clicks_text(desk.cut(40)), "") << row.what << ": the next one is one";
    }
    Desk desk;
    desk.down(2);
    desk.inlet.pointer_inside(mouse, false, Desk::at(5));
    desk.up(6);
    EXPECT_NE(clicks_text(desk.cut(10)), "") << "leaving, where not asked";
}

TEST(Clicks, WithoutAPositionCountByMotion) {
    Desk desk;
    desk.down(1);
    desk.inlet.motion(3, 4, Desk::at(2));
    desk.up(3);
    for (const Click& click : desk.cut(5).pointer().clicks()) {
        EXPECT_FALSE(click.has_position);
        EXPECT_EQ(click.farthest, 5);
    }
    EXPECT_FALSE(desk.sampler.frame().pointer().clicks().empty());
}

// ---- drags and targets

TEST(Drags, BeginSixPixelsFromThePress) {
    Desk desk;
    desk.to(10, 10, 1);
    desk.down(2);
    desk.to(15.9, 10, 3);
    EXPECT_FALSE(desk.cut(4).pointer().drag(MouseLeft).active);
    desk.to(16, 10, 5);
    DragReading drag = desk.cut(6).pointer().drag(MouseLeft);
    EXPECT_TRUE(drag.began && drag.active);
    EXPECT_EQ(drag.from, (WindowPoint{10, 10}));
    desk.to(10, 12, 7);  // coming back does not end it
    drag = desk.cut(8).pointer().drag(MouseLeft);
    EXPECT_TRUE(!drag.began && drag.active);
    EXPECT_EQ(drag.to, (WindowPoint{10, 12}));
    desk.up(9);
    drag = desk.cut(10).pointer().drag(MouseLeft);
    EXPECT_TRUE(drag.dropped && !drag.active && !drag.cancelled);
    EXPECT_EQ(clicks_text(desk.sampler.frame()), "");
    EXPECT_FALSE(desk.cut(11).pointer().drag(MouseLeft).dropped);
}

TEST(Targets, SlidingOffDisarmsAndBackArmsAgain) {
    const WindowRect box{100, 100, 50, 20};
    Desk desk;
    const auto text = [&](std::int64_t t) {
        const TargetReading r = desk.cut(t).pointer().target(box);
        std::string s = r.hovered ? "h" : "-";
        s += r.armed ? 'a' : '-';
        s += r.pressed ? 'p' : '-';
        return s + (r.clicked() ? 'c' : '-');
    };
    desk.to(0, 0, 1);
    EXPECT_EQ(text(2), "----");
    desk.to(100, 100, 3);
    EXPECT_EQ(text(4), "h---") << "its upper left corner is in it";
    desk.to(150, 110, 5);
    EXPECT_EQ(text(6), "----") << "its right border is not";
    desk.to(120, 110, 7);
    desk.down(7);
    EXPECT_EQ(text(8), "hap-");
    desk.to(10, 10, 9);
    EXPECT_EQ(text(10), "----");
    desk.to(120, 111, 11);
    EXPECT_EQ(text(12), "ha--");
    desk.up(13);
    EXPECT_EQ(text(14), "h--c");
    EXPECT_EQ(text(16), "h---");
    desk.down(17);
    desk.to(10, 10, 18);
    desk.up(19);
    EXPECT_EQ(text(20), "--p-") << "let go beside it: somebody thought better of it";
    desk.down(21);
    desk.to(120, 110, 22);
    EXPECT_EQ(text(23), "h---") << "pressed elsewhere";
    desk.up(24);
    EXPECT_EQ(text(25), "h---");
}

TEST(Targets, ADoubleClickIsTold) {
    Desk desk;
    desk.to(5, 5, 1);
    desk.down(2), desk.up(3), desk.down(4), desk.up(5);
    const TargetReading reading = desk.cut(10).pointer().target({0, 0, 10, 10});
    EXPECT_EQ(reading.clicks, 2U);
    EXPECT_EQ(reading.count, 2U);
    EXPECT_EQ(desk.sampler.frame().pointer().target({0, 0, 10, 10}, MouseRight).clicks, 0U);
}

TEST(Pointer, BadNumbersAreRefusedAndCounted) {
    const double inf = std::numeric_limits<double>::infinity(), nan = std::numeric_limits<double>::quiet_NaN();
    Desk desk;
    desk.to(1, 1, 1);
    std::uint64_t refused = 0;
    for (const double bad : {inf, -inf, nan, 1e300, -1e300, 2147483649.0}) {
        EXPECT_EQ(desk.inlet.motion(bad, 0, Desk::at(2)), Outcome::refused_value);
        EXPECT_EQ(desk.inlet.moved_to({0, bad}, Desk::at(2)), Outcome::refused_value);
        EXPECT_EQ(desk.inlet.wheel(0, bad, Desk::at(2)), Outcome::refused_value);
        refused += 3;
    }
    EXPECT_EQ(desk.inlet.counters().refused, refused);
    EXPECT_EQ(desk.cut(5).pointer().motion(), (Distance{0, 0}));
    EXPECT_EQ(desk.sampler.frame().pointer().position(), (WindowPoint{1, 1}));
}

TEST(Pointer, SurvivesSaveAndRestore) {
    Desk desk;
    desk.to(10, 10, 1);
    desk.down(2);
    desk.to(12, 10, 3);
    desk.cut(4);
    const Sampler::State saved = desk.sampler.save();
    desk.to(13, 10, 5);
    desk.up(6);
    const std::string clicks = clicks_text(desk.cut(8));
    EXPECT_EQ(clicks, "Left 10 10>13 10 far 3");
    desk.sampler.restore(saved);
    EXPECT_EQ(desk.sampler.frame().pointer().position(), (WindowPoint{12, 10}));
    EXPECT_EQ(clicks_text(desk.cut(8)), clicks);
    EXPECT_EQ(desk.sampler.frame().pointer().motion(), (Distance{1, 0}));
    Sampler later{desk.timeline, {.start = Desk::at(4)}};
    EXPECT_EQ(later.frame().pointer().position(), (WindowPoint{12, 10})) << "a new sampler, too";
    EXPECT_EQ(clicks_text(later.advance(Desk::at(8))), clicks);
}

TEST(Locks, AreKnownToNewAndToOverrunSamplers) {
    Timeline timeline{{.fact_history = 512}};
    Inlet& inlet = timeline.desk();
    const auto time = [](std::int64_t ns) { return nanoseconds_since_zero(ns); };
    Sampler sampler{timeline, {.start = time(0)}};
    inlet.button(CapsLock, true, time(1));
    EXPECT_TRUE(sampler.advance(time(5)).locks().empty()) << "the key alone turns nothing on";
    EXPECT_EQ(inlet.locks({CapsLock, KeyW}, time(10)), Outcome::taken);
    inlet.lose_focus(time(12));
    EXPECT_EQ(inlet.locks({CapsLock, NumLock}, time(20)), Outcome::taken) << "without focus, too";
    EXPECT_EQ(sampler.advance(time(15)).locks(), ButtonSet{CapsLock});
    EXPECT_EQ((Sampler{timeline, {.start = time(15)}}.frame().locks()), ButtonSet{CapsLock});
    EXPECT_EQ((Sampler{timeline, {.start = time(25)}}.frame().locks()), (ButtonSet{CapsLock, NumLock}));
    for (int i = 0; i < 3000; ++i) inlet.locks(i % 2 == 0 ? ButtonSet{ScrollLock} : ButtonSet{}, time(30 + i));
    inlet.locks({ScrollLock, CapsLock}, time(5000));
    EXPECT_EQ(sampler.advance(time(6000)).locks(), (ButtonSet{ScrollLock, CapsLock}));
    EXPECT_EQ(sampler.counters().lost, 0U) << "events themselves were all seen";
    EXPECT_EQ(sampler.advance(time(6001)).previous_locks(), (ButtonSet{ScrollLock, CapsLock}));
}

TEST(Locks, AnInletThatWasToldOfNoneSaysNothing) {
    Timeline timeline{{.inlets = 2, .fact_history = 512}};
    const auto time = [](std::int64_t ns) { return nanoseconds_since_zero(ns); };
    Sampler sampler{timeline, {.start = time(0)}};
    timeline.desk().locks({CapsLock}, time(10));
    sampler.advance(time(20));
    Inlet& other = timeline.inlet(1);
    for (int i = 0; i < 4000; ++i) {
        const Time when = time(30 + i);
        i % 2 == 0 ? other.connect(DeviceId{50}, {}, when) : other.disconnect(DeviceId{50}, when);
    }
    sampler.advance(time(5000));
    EXPECT_GT(sampler.counters().overruns, 0U) << "of the other inlet";
    EXPECT_EQ(sampler.frame().locks(), ButtonSet{CapsLock});
}

TEST(Clicks, ADragIsNoneAndTheNextClickCountsAnew) {
    Desk desk;
    const auto click = [&](std::int64_t t, double to) {
        desk.to(10, 10, t);
        desk.down(t);
        desk.to(to, 10, t + 1);
        desk.to(10, 10, t + 2);
        desk.up(t + 3);
    };
    const WindowRect target{0, 0, 100, 100};
    click(1, 12);
    EXPECT_EQ(clicks_text(desk.cut(9)), "Left 10 10>10 10 far 2");
    click(10, 30);  // there and back: a drag, but the target was pressed and released
    const PointerReading dragged = desk.cut(19).pointer();
    EXPECT_TRUE(dragged.clicks().empty());
    EXPECT_EQ(dragged.target(target).clicks, 1U);
    EXPECT_EQ(dragged.target(target).count, 1U);
    click(20, 11);
    EXPECT_EQ(clicks_text(desk.cut(29)), "Left 10 10>10 10 far 1") << "not the second of a double click";
    click(30, 11);
    EXPECT_EQ(clicks_text(desk.cut(39)), "Left 10 10>10 10 far 1 x2");
}

TEST(Clicks, HappenWhereThePointerIsWhicheverDeviceMovedIt) {
    constexpr DeviceId buttons{12};
    Desk desk;
    desk.inlet.connect(buttons, {.kind = DeviceKind::mouse}, Desk::at(0));
    desk.to(350, 225, 1);
    desk.inlet.button(buttons, MouseLeft, true, Desk::at(10));
    const WindowRect target{300, 200, 100, 50};
    EXPECT_TRUE(desk.cut(12).pointer().target(target).armed);
    EXPECT_TRUE(desk.sampler.frame().on(buttons).pointer().target(target).pressed);
    desk.to(352, 225, 13);
    desk.inlet.button(buttons, MouseLeft, false, Desk::at(20));
    const Frame& frame = desk.cut(30);
    EXPECT_TRUE(frame.pointer().target(target).clicked());
    EXPECT_TRUE(frame.on(buttons).pointer().target(target).clicked());
    EXPECT_FALSE(frame.on(mouse).pointer().target(target).clicked());
    EXPECT_EQ(clicks_text(frame), "Left 350 225>352 225 far 2");
    desk.inlet.button(buttons, MouseLeft, true, Desk::at(40));
    desk.to(380, 225, 41);  // the other device drags it
    EXPECT_TRUE(desk.cut(42).pointer().drag(MouseLeft).active);
    // Where the pointer is after focus came back, nobody knows before it moves.
    desk.inlet.lose_focus(Desk::at(43));
    desk.inlet.gain_focus(unknown_state, Desk::at(44));
    desk.inlet.button(buttons, MouseLeft, true, Desk::at(45));
    desk.inlet.button(buttons, MouseLeft, false, Desk::at(46));
    EXPECT_FALSE(desk.cut(50).pointer().target(target).clicked());
}

}  // namespace
