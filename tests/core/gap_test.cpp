// Frames with a gap before them: what was paused away is skipped, what was stalled away takes effect at the frame's
// start.

#include <gtest/gtest.h>

#include <map>
#include <string>
#include <vector>

#include "core/random_events.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;

constexpr DeviceId mouse{2}, pad{3}, surface{4};
Time at(std::int64_t ns) { return nanoseconds_since_zero(ns); }
Tick paused(std::int64_t from, std::int64_t begin, std::int64_t end) {
    return {at(from), at(begin), at(end), Tick::Gap::paused, 0};
}
Tick stalled(std::int64_t from, std::int64_t begin, std::int64_t end) {
    return {at(from), at(begin), at(end), Tick::Gap::stalled, 0};
}

struct Gap : testing::Test {
    Timeline timeline{{.devices = 8}};
    Inlet& desk = timeline.desk();
    Sampler sampler{timeline, {.start = at(0), .repeat = {Duration{30}, Duration{10}, 0}}};

    Gap() {
        desk.connect(pad, {.kind = DeviceKind::gamepad}, at(0));
        desk.connect(surface, {.kind = DeviceKind::touch}, at(0));
        sampler.advance(at(0));
    }
    void tap(Button button, std::int64_t down, std::int64_t up) {
        desk.button(button, true, at(down));
        desk.button(button, false, at(up));
    }
    std::string text(Button button) const {
        const ButtonFigures f = sampler.frame()[button].figures();
        return std::string{name_of(f.state())} + " p" + std::to_string(f.press_count()) + " r" +
               std::to_string(f.release_count()) + " a" + std::to_string(f.adopt_count()) + " c" +
               std::to_string(f.cancel_count()) + " rep" + std::to_string(f.repeat_count()) + " held " +
               std::to_string(f.held_for().count()) + " span " + std::to_string(f.down_span().count());
    }
};

TEST_F(Gap, OfAPauseNothingIsPressedAndWhatIsDownIsAdopted) {
    sampler.advance(at(100));
    tap(KeyA, 103, 105);                // before the pause, and not taken yet: counts
    desk.button(KeyB, true, at(107));   // likewise, and goes on through it
    desk.button(Space, true, at(110));  // from its first moment on nothing does
    desk.button(Space, false, at(150));
    tap(Enter, 160, 170);
    desk.button(KeyD, true, at(180));  // still down afterwards
    desk.button(KeyW, true, at(200));  // at `begin`: the game goes on
    desk.button(KeyD, false, at(205));
    sampler.advance(paused(110, 200, 210));
    EXPECT_EQ(sampler.frame().start(), at(200));
    EXPECT_TRUE(sampler.frame().follows_pause());
    EXPECT_EQ(text(KeyA), "blip p1 r1 a0 c0 rep0 held 0 span 0");
    EXPECT_EQ(text(KeyB), "press p1 r0 a1 c1 rep0 held 10 span 10");
    EXPECT_EQ(text(Space), "idle p0 r0 a0 c0 rep0 held 0 span 0");
    EXPECT_EQ(text(Enter), "idle p0 r0 a0 c0 rep0 held 0 span 0");
    EXPECT_EQ(text(KeyD), "blip p0 r1 a1 c0 rep0 held 5 span 5");
    EXPECT_FALSE(sampler.frame()[KeyD].released()) << "nobody here asked for it";
    EXPECT_EQ(text(KeyW), "press p1 r0 a0 c0 rep0 held 10 span 10");
    EXPECT_EQ(sampler.counters().skipped, 5U);
    EXPECT_EQ(sampler.counters().moved, 3U);
    EXPECT_EQ(sampler.counters().late, 0U);
    desk.button(KeyB, false, at(215));
    sampler.advance(at(220));
    EXPECT_EQ(text(KeyB), "release p0 r1 a0 c0 rep0 held 15 span 5");
    EXPECT_FALSE(sampler.frame()[KeyB].released());
    EXPECT_FALSE(sampler.frame().follows_pause());
}

TEST_F(Gap, WhatWasHeldBeforeAPauseIsCancelledAndItsRepeatsStop) {
    desk.button(KeyW, true, at(50));
    desk.button(ShiftLeft, true, at(60));
    sampler.advance(at(100));
    desk.button(ShiftLeft, false, at(150));
    desk.button(ShiftLeft, true, at(160));
    sampler.advance(paused(100, 200, 300));
    EXPECT_EQ(text(KeyW), "hold p0 r0 a1 c1 rep0 held 100 span 100");
    EXPECT_EQ(text(Shift), "hold p0 r0 a1 c1 rep0 held 100 span 100");
    EXPECT_TRUE(sampler.frame()[KeyW].ended());
    const auto saved = sampler.save();
    desk.button(KeyW, false, at(310));
    tap(KeyW, 320, 330);
    sampler.advance(at(400));
    EXPECT_EQ(text(KeyW), "release p1 r2 a0 c0 rep0 held 10 span 20");
    EXPECT_TRUE(sampler.frame()[KeyW].released()) << "of the second press";
    sampler.restore(saved);
    sampler.advance(at(400));
    EXPECT_EQ(text(KeyW), "release p1 r2 a0 c0 rep0 held 10 span 20");
}

TEST_F(Gap, OfAStallPressesCountAndTimeDoesNot) {
    desk.button(KeyW, true, at(50));
    desk.button(KeyS, true, at(60));
    sampler.advance(at(100));
    tap(Space, 1000, 1100);
    tap(Space, 2000, 2100);
    desk.button(KeyS, false, at(2500));
    desk.button(KeyD, true, at(2600));
    tap(Enter, 3010, 3020);
    sampler.advance(stalled(100, 3000, 3100));
    EXPECT_EQ(text(Space), "blip p2 r2 a0 c0 rep0 held 0 span 0");
    EXPECT_EQ(text(KeyW), "hold p0 r0 a0 c0 rep10 held 3050 span 100");
    EXPECT_EQ(text(KeyS), "release p0 r1 a0 c0 rep0 held 2940 span 0");
    EXPECT_EQ(text(KeyD), "press p1 r0 a0 c0 rep8 held 100 span 100");
    EXPECT_EQ(text(Enter), "blip p1 r1 a0 c0 rep0 held 10 span 10");
    EXPECT_EQ(sampler.frame().latency().events, 8U);
    EXPECT_EQ(sampler.frame().latency().greatest, Duration{2100});
    EXPECT_EQ(sampler.counters().moved, 6U);
    EXPECT_EQ(sampler.counters().late, 0U);
    tap(Space, 50, 60);  // earlier than the last cut: late, as ever
    sampler.advance(stalled(3100, 4000, 4100));
    EXPECT_EQ(text(Space), "blip p1 r1 a0 c0 rep0 held 0 span 0");
    EXPECT_EQ(sampler.counters().late, 2U);
}

TEST_F(Gap, PointerAxesLocksAndDevicesAreAsOfThePausesEnd) {
    desk.moved_to({10, 10}, at(1));
    desk.axis(pad, PadStickLeftX, 0.25, at(2));
    sampler.advance(at(100));
    const auto play = [&] {
        desk.motion(1, 0, at(105));
        desk.wheel(0, 1, at(106));
        desk.axis(pad, PadStickLeftX, 0.5, at(107));
        desk.motion(100, 0, at(120));
        desk.wheel(0, 7, at(121));
        desk.moved_to({300, 20}, at(122));
        desk.axis(pad, PadStickLeftX, 1, at(123));
        desk.axis(pad, PadStickLeftX, -1, at(124));
        desk.axis(pad, PadStickLeftX, 0.75, at(125));
        desk.locks({CapsLock}, at(126));
        desk.connect(DeviceId{9}, {.kind = DeviceKind::mouse}, at(127));
        desk.motion(2, 0, at(205));
        desk.wheel(0, 2, at(206));
    };
    play();
    const Frame& frame = sampler.advance(paused(110, 200, 210));
    const PointerReading pointer = frame.pointer();
    EXPECT_EQ(pointer.motion(), (Distance{3, 0}));
    EXPECT_EQ(pointer.wheel(), (Distance{0, 3}));
    EXPECT_EQ(pointer.wheel_steps(), (WheelSteps{0, 3}));
    EXPECT_EQ(pointer.position(), (WindowPoint{300, 20}));
    double sum = 0;
    for (const PointerSample& sample : pointer.samples()) sum += sample.motion.x;
    EXPECT_EQ(sum, 3);
    std::int32_t steps = 0;
    pointer.for_each_wheel_step([&](Time, WheelSteps more) { steps += more.y; });
    EXPECT_EQ(steps, 3);
    EXPECT_EQ(frame.axis(PadStickLeftX), (AxisReading{0.25, 0.75, 0.25, 0.75}));
    std::string values;
    frame.for_each_value(PadStickLeftX, [&](Time time, double value) {
        values += std::to_string(nanoseconds(time)) + ":" + std::to_string(value).substr(0, 4) + " ";
    });
    EXPECT_EQ(values, "200:0.50 200:0.75 ");
    EXPECT_TRUE(frame.locks().contains(CapsLock));
    EXPECT_TRUE(frame.is_connected(DeviceId{9}));
    EXPECT_FALSE(frame.was_connected(DeviceId{9}));
    EXPECT_EQ(sampler.counters().skipped, 8U);
    // A stall loses no motion.
    desk.motion(50, 0, at(300));
    EXPECT_EQ(sampler.advance(stalled(210, 400, 410)).pointer().motion(), (Distance{50, 0}));
}

TEST_F(Gap, ClicksDragsAndContactsEndWithAPauseAndCountAnew) {
    const auto clicks = [&] {
        std::string all;
        for (const Click& click : sampler.frame().pointer().clicks()) all += std::to_string(click.count);
        return all;
    };
    desk.moved_to({10, 10}, at(1));
    desk.button(MouseLeft, true, at(5));
    desk.moved_to({30, 10}, at(6));
    desk.button(MouseRight, true, at(7));
    desk.contact(surface, 1, ContactPhase::begin, 0, 0, 1, at(8));
    sampler.advance(at(10));
    EXPECT_TRUE(sampler.frame().pointer().drag(MouseLeft).active);
    tap(MouseMiddle, 20, 21);  // a click in the menu
    desk.contact(surface, 2, ContactPhase::begin, 0, 0, 1, at(22));
    desk.button(MouseRight, false, at(51));  // after it
    desk.contact(surface, 1, ContactPhase::move, 1, 0, 1, at(52));
    sampler.advance(paused(15, 50, 60));
    EXPECT_TRUE(sampler.frame().pointer().drag(MouseLeft).cancelled);
    EXPECT_EQ(clicks(), "");
    unsigned cancelled = 0;
    sampler.frame().for_each_contact([&](const ContactReading& c) { cancelled += c.cancelled && !c.down; });
    EXPECT_EQ(cancelled, 1U);
    desk.button(MouseLeft, false, at(61));
    sampler.advance(at(62));
    EXPECT_EQ(clicks(), "");
    EXPECT_FALSE(sampler.frame().pointer().drag(MouseLeft).dropped);
    unsigned there = 0;
    sampler.frame().for_each_contact([&](const ContactReading& c) { there += c.down && !c.began; });
    EXPECT_EQ(there, 2U) << "both are there, neither has begun";
    // What the menu's click would have made the second one is the game's first.
    tap(MouseMiddle, 70, 71);
    desk.moved_to({30, 10}, at(72));
    sampler.advance(at(73));
    EXPECT_EQ(clicks(), "1");
    tap(MouseMiddle, 74, 75);
    tap(MouseMiddle, 80, 81);
    tap(MouseMiddle, 1'000'000'000, 1'000'000'001);  // much later: anew, everywhere
    tap(MouseMiddle, 1'000'000'002, 1'000'000'003);
    sampler.advance(at(2'000'000'000));
    EXPECT_EQ(clicks(), "2312");
}

// With 1 to 3 inlets, whatever comes in: presses, motion and levels are those of the frames before and behind the pause
// that another sampler cuts.
TEST(Gaps, TakeTheSameAsFramesCutByHand) {
    for (std::uint64_t seed = 1; seed <= 400; ++seed) {
        SCOPED_TRACE("seed " + std::to_string(seed));
        test::Random random{seed};
        const unsigned inlets = 1 + static_cast<unsigned>(seed % 3);
        Timeline timeline{{.inlets = inlets, .desk_devices = false}};
        Sampler gapped{timeline, {.start = at(0)}}, by_hand{timeline, {.start = at(0)}};
        std::vector<test::RandomEvents> events;
        for (unsigned i = 0; i < inlets; ++i) events.emplace_back(seed + 10'000 * i, 1 + 10 * i);
        std::int64_t cut = 0;
        for (int round = 0; round < 12; ++round) {
            for (int i = 0; i < 30; ++i) {
                const auto inlet = static_cast<unsigned>(random.below(inlets));
                timeline.inlet(inlet).post(events[inlet].next());
            }
            const std::int64_t from = cut + 1 + std::int64_t(random.below(30)),
                               begin = from + std::int64_t(random.below(60)),
                               end = begin + 1 + std::int64_t(random.below(40));
            const bool is_pause = random.one_in(2);
            const Frame& frame = gapped.advance(is_pause ? paused(from, begin, end) : stalled(from, begin, end));
            // By device: merged, a press counts once more where another device's hold was only adopted.
            const auto presses_in = [&](const Frame& part, Button button) {
                std::vector<unsigned> presses;
                for (unsigned i = 0; i < inlets; ++i)
                    for (unsigned d = 0; d < test::most_devices; ++d)
                        presses.push_back(part.on(DeviceId{1 + 10 * i + d})[button].press_count());
                return presses;
            };
            std::map<std::uint16_t, std::vector<unsigned>> presses;
            Distance motion;
            const auto add = [&](const Frame& part) {
                for (const Button button : test::random_buttons) {
                    std::vector<unsigned>& sum = presses[button.number];
                    const std::vector<unsigned> more = presses_in(part, button);
                    sum.resize(more.size());
                    for (std::size_t i = 0; i < sum.size(); ++i) sum[i] += more[i];
                }
                motion.x += part.pointer().motion().x;
            };
            if (is_pause && begin > from) {
                add(by_hand.advance(at(from - 1)));
                by_hand.advance(at(begin - 1));
            }
            add(by_hand.advance(at(end)));
            cut = end;
            ASSERT_EQ(frame.pointer().motion().x, motion.x);
            for (const Button button : test::random_buttons) {
                const ButtonFigures f = frame[button].figures();
                ASSERT_EQ(presses_in(frame, button), presses[button.number]) << name_of(button) << " round " << round;
                ASSERT_EQ(f.down(), by_hand.frame()[button].down()) << name_of(button) << " round " << round;
                ASSERT_TRUE(f.down_span() >= Duration{} && f.down_span() <= frame.length()) << name_of(button);
            }
            for (const Edge edge : frame.edges()) ASSERT_TRUE(edge.time >= frame.start() && edge.time <= frame.end());
        }
        EXPECT_EQ(gapped.counters().taken, by_hand.counters().taken);
    }
}

}  // namespace
