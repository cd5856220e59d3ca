// Outcomes, counters, limits: what posting itself says.

#include "cursorum/core/inlet.hpp"

#include <gtest/gtest.h>

#include <array>
#include <chrono>
#include <string>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"
#include "support/script.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using test::ScriptRun;
using test::text;

struct Row {
    const char* script;
    Outcome outcome;  // of the last event
};

const Row rows[] = {
    {"1+W", Outcome::press},
    {"1+W 2-W", Outcome::release},
    {"1-W", Outcome::stray_release},
    {"1+W 2~W", Outcome::system_repeat},
    {"1+2W 2+2W", Outcome::system_repeat},
    {"1+W 2+W", Outcome::lost_release},
    {"1~W", Outcome::adopted_repeat},
    {"1sta1:W", Outcome::state_taken},
    {"1ado1:W", Outcome::state_adopted},
    {"1int 2sta1:W", Outcome::state_adopted},
    {"1con4", Outcome::connected},
    {"1con1", Outcome::stray_connect},
    {"1dis1", Outcome::disconnected},
    {"1dis4", Outcome::stray_device},
    {"1+4W", Outcome::stray_device},
    {"1foc1", Outcome::focus_unchanged},
    {"1foc0", Outcome::focus_lost},
    {"1foc0 2foc1", Outcome::focus_gained},
    {"1foc0 2+W", Outcome::ignored},
    {"1foc0 2sta1:W", Outcome::ignored},
    {"1foc0 2+3W", Outcome::press},
    {"1int", Outcome::interrupted},
    {"1con4 2con5", Outcome::refused_devices},
};

TEST(Inlet, SaysWhatBecameOfAnEvent) {
    for (const Row& row : rows) {
        ScriptRun script;
        script.run(row.script);
        EXPECT_EQ(script.last_outcome, row.outcome) << row.script << ": " << describe(script.last_outcome);
        EXPECT_FALSE(describe(row.outcome).empty());
    }
}

TEST(Inlet, TakesAnEmptySetOfKeysInBraces) {
    Timeline timeline{{.start = Time{}}};
    timeline.desk().lose_focus(Time{Duration{1}});
    timeline.desk().gain_focus({}, Time{Duration{2}});
    EXPECT_TRUE(timeline.desk().has_focus());
    timeline.desk().interrupt({}, Time{Duration{3}});
    EXPECT_EQ(timeline.desk().counters().interruptions, 1U);
}

TEST(Inlet, CountsWhatWasNotTakenAtItsWord) {
    ScriptRun script;
    const std::uint64_t before = script.timeline.desk().counters().events;
    script.run("5-W 6+4W 7+W 8~W 9+W 3+A 10foc0 11+W 12con4 13con5 14con4");
    const InletCounters c = script.timeline.desk().counters();
    EXPECT_EQ(c.events - before, 11U);
    EXPECT_EQ(c.strays, 3U);  // up while up, unknown device, second connect
    EXPECT_EQ(c.system_repeats, 1U);
    EXPECT_EQ(c.lost_releases, 1U);
    EXPECT_EQ(c.backdated, 1U);
    EXPECT_EQ(c.ignored, 1U);
    EXPECT_EQ(c.refused, 1U);
}

TEST(Inlet, AnIdThatComesBackAsAnotherKindIsStray) {
    Timeline timeline{{.desk_devices = false}};
    Inlet& desk = timeline.desk();
    EXPECT_EQ(desk.connect(DeviceId{7}, {.kind = DeviceKind::keyboard}, Time{}), Outcome::connected);
    EXPECT_EQ(desk.disconnect(DeviceId{7}, Time{}), Outcome::disconnected);
    EXPECT_EQ(desk.connect(DeviceId{7}, {.kind = DeviceKind::mouse}, Time{}), Outcome::stray_kind);
    EXPECT_EQ(desk.button(DeviceId{7}, KeyW, true, Time{}), Outcome::stray_device);
    EXPECT_EQ(desk.connect(DeviceId{7}, {.kind = DeviceKind::keyboard}, Time{}), Outcome::connected);
}

TEST(Inlet, TheDeskHasAKeyboardAndAMouse) {
    Timeline timeline;
    Inlet& desk = timeline.desk();
    Sampler sampler{timeline, {.start = Time{}}};
    desk.button(KeyW, true, nanoseconds_since_zero(1));
    desk.button(MouseLeft, true, nanoseconds_since_zero(2));
    desk.system_repeat(KeyW, nanoseconds_since_zero(3));
    EXPECT_EQ(desk.motion(3, -1, nanoseconds_since_zero(4)), Outcome::taken);
    EXPECT_EQ(desk.wheel(0, 1, nanoseconds_since_zero(4)), Outcome::taken);
    const Frame& frame = sampler.advance(nanoseconds_since_zero(5));
    EXPECT_EQ(test::edges_text(frame), "1 1 KeyW press; 2 2 MouseLeft press");
    EXPECT_EQ(frame[KeyW].system_repeat_count(), 1U);
    ASSERT_EQ(timeline.device_count(), 2U);
    EXPECT_EQ(timeline.device(0).name(), "desk keyboard");
    EXPECT_EQ(timeline.device(1).kind, DeviceKind::mouse);
    EXPECT_TRUE(timeline.find_device(DeviceId{2})->down.contains(MouseLeft));
    EXPECT_FALSE(timeline.find_device(DeviceId{3}));
}

TEST(Inlet, StampsWithThePresentUnlessATimeIsGiven) {
    Timeline timeline;
    const Time before = Clock::now();
    timeline.desk().button(KeyW, true);
    EXPECT_GE(timeline.desk().latest(), before);
    EXPECT_LE(timeline.desk().latest(), Clock::now());
}

TEST(Inlet, RefusesWhatIsNoButtonOfADevice) {
    Timeline timeline;
    for (const Button none : {Button{}, Shift, Button{439}, Button{65535}})
        EXPECT_EQ(timeline.desk().button(none, true, Time{}), Outcome::refused_control);
    Sampler sampler{timeline, {.start = Time{}}};
    EXPECT_EQ(timeline.desk().state(DeviceId{1}, {Shift, KeyW}, nanoseconds_since_zero(1)), Outcome::state_adopted);
    EXPECT_EQ(test::edges_text(sampler.advance(nanoseconds_since_zero(2))), "1 1 KeyW adopt");
}

TEST(Inlet, ClampsTimesOutOfRange) {
    Timeline timeline;
    Sampler sampler{timeline, {.start = Time{}}};
    timeline.desk().button(KeyW, true, Time::min());
    timeline.desk().button(KeyS, true, Time::max());
    EXPECT_EQ(timeline.desk().counters().clamped, 2U);
    EXPECT_EQ(timeline.desk().latest(), latest_time);
    const Frame& frame = sampler.advance(latest_time);
    EXPECT_TRUE(frame[KeyW].pressed());
    EXPECT_EQ(frame[KeyW].held_for(), latest_time - Time{});
    EXPECT_TRUE(frame[KeyS].pressed());
}

TEST(Inlet, ManyHoldsAreRefusedAndNothingElseSuffers) {
    Timeline timeline{{.devices = 64, .desk_devices = false}};
    Inlet& desk = timeline.desk();
    Sampler sampler{timeline, {.start = Time{}}};
    unsigned down = 0, refused = 0;
    for (unsigned device = 1; device <= 8; ++device) {
        desk.connect(DeviceId{device}, {.name = "many"}, Time{});
        for (std::uint16_t key = 4; key < 84; ++key) {
            if (!can_be_posted(Button{key})) continue;
            const Outcome outcome = desk.button(DeviceId{device}, Button{key}, true, Time{});
            if (outcome == Outcome::press) ++down;
            if (outcome == Outcome::refused_holds) ++refused;
        }
    }
    EXPECT_EQ(down, hold_capacity);
    EXPECT_GT(refused, 0U);
    EXPECT_EQ(desk.counters().refused, refused);
    sampler.advance(nanoseconds_since_zero(1));
    desk.lose_focus(nanoseconds_since_zero(2));
    const Frame& frame = sampler.advance(nanoseconds_since_zero(3));
    EXPECT_TRUE(frame.current().down.empty());
    unsigned cancels = 0;
    for (const Edge edge : frame.edges()) cancels += edge.kind == EdgeKind::cancel;
    EXPECT_EQ(cancels, hold_capacity);
    // Their places go to others.
    desk.gain_focus(unknown_state, nanoseconds_since_zero(4));
    EXPECT_EQ(desk.button(DeviceId{8}, Button{83}, true, nanoseconds_since_zero(5)), Outcome::press);
    EXPECT_TRUE(sampler.advance(nanoseconds_since_zero(6)).on(DeviceId{8})[Button{83}].pressed());
}

TEST(Inlet, HoldsWhosePlaceWentToAnotherAreStillFound) {
    // A sampler that lags behind knows a hold by a place that the inlet has given away since.
    Timeline timeline{{.devices = 64, .history = 8192, .desk_devices = false}};
    Inlet& desk = timeline.desk();
    desk.connect(DeviceId{1}, {.name = "first"}, Time{});
    Sampler sampler{timeline, {.start = Time{}}};
    desk.button(DeviceId{1}, KeyW, true, nanoseconds_since_zero(1));
    sampler.advance(nanoseconds_since_zero(2));
    desk.button(DeviceId{1}, KeyW, false, nanoseconds_since_zero(10));
    for (unsigned device = 2; device <= 10; ++device) {
        desk.connect(DeviceId{device}, {.name = "many"}, nanoseconds_since_zero(11));
        for (std::uint16_t key = 4; key < 84; ++key) {
            desk.button(DeviceId{device}, Button{key}, true, nanoseconds_since_zero(11));
            desk.button(DeviceId{device}, Button{key}, false, nanoseconds_since_zero(11));
        }
    }
    EXPECT_EQ(test::text(sampler.advance(nanoseconds_since_zero(5)).on(DeviceId{1})[KeyW].figures()), "hold 0000 4 3");
    EXPECT_EQ(test::text(sampler.advance(nanoseconds_since_zero(12)).on(DeviceId{1})[KeyW].figures()),
              "release 0100 9 5");
}

TEST(Inlet, LongNamesAreCutBetweenCharacters) {
    Timeline timeline;
    std::string name(62, 'a');
    name += "é";  // its second byte would be the 64th
    timeline.desk().connect(DeviceId{5}, {.name = name}, Time{});
    EXPECT_EQ(timeline.find_device(DeviceId{5})->name(), std::string(62, 'a'));
}

// ---- what is down at the start, on focus gain, after an interruption

TEST(Inlet, WhatIsDownAtFocusGainAndInterruptionIsAdopted) {
    const auto at = nanoseconds_since_zero;
    for (const bool interrupted : {false, true}) {
        Timeline timeline;
        Inlet& desk = timeline.desk();
        Sampler sampler{timeline, {.start = at(0)}};
        desk.button(KeyW, true, at(1));
        if (interrupted) {
            EXPECT_EQ(desk.interrupt(ButtonSet{KeyW, Escape, MouseLeft, Shift}, at(10)), Outcome::interrupted);
        } else {
            desk.lose_focus(at(5));
            EXPECT_EQ(desk.gain_focus(ButtonSet{KeyW, Escape, MouseLeft, Shift}, at(10)), Outcome::focus_gained);
            EXPECT_EQ(desk.gain_focus(ButtonSet{KeyS}, at(11)), Outcome::focus_unchanged);
        }
        desk.button(Escape, true, at(15));  // the system's repeat
        desk.button(Escape, false, at(20));
        desk.button(MouseLeft, false, at(21));
        const Frame& frame = sampler.advance(at(30));
        EXPECT_EQ(test::edges_text(frame),
                  std::string{"1 1 KeyW press; "} + (interrupted ? "10" : "5") +
                      " 1 KeyW cancel; 10 1 Escape adopt; 10 1 KeyW adopt; 10 2 MouseLeft adopt; 20 1 Escape release; "
                      "21 2 MouseLeft release");
        EXPECT_FALSE(frame[Escape].pressed() || frame[Escape].released());
        EXPECT_TRUE(frame.pointer().clicks().empty());
        EXPECT_TRUE(frame[KeyW].down());
        desk.button(KeyS, true, at(31));
        EXPECT_TRUE(sampler.advance(at(40))[KeyS].pressed()) << "what was up counts as ever";
    }
}

TEST(Inlet, WhereTheStateIsUnknownAHeldKeyCountsOnceUnlessRepeatsAreMarked) {
    const auto at = nanoseconds_since_zero;
    for (const bool marks : {false, true}) {
        Timeline timeline{{.desk_marks_repeats = marks}};
        Inlet& desk = timeline.desk();
        Sampler sampler{timeline, {.start = at(0)}};
        for (std::int64_t t = 1; t < 4; ++t) marks ? desk.system_repeat(KeyW, at(t)) : desk.button(KeyW, true, at(t));
        desk.lose_focus(at(5));
        desk.gain_focus(unknown_state, at(6));
        for (std::int64_t t = 7; t < 9; ++t) marks ? desk.system_repeat(KeyW, at(t)) : desk.button(KeyW, true, at(t));
        EXPECT_EQ(sampler.advance(at(10))[KeyW].press_count(), marks ? 0U : 2U);
    }
}

TEST(Inlet, WhatIsDownWhenTheTimelineIsMadeIsNoPress) {
    const auto at = nanoseconds_since_zero;
    Timeline timeline{{.down = {KeyW, MouseRight}, .start = at(5)}};
    Sampler earlier{timeline, {.start = at(0)}}, later{timeline, {.start = at(10)}};
    timeline.desk().button(KeyW, true, at(12));
    timeline.desk().button(KeyW, false, at(15));
    EXPECT_EQ(text(earlier.advance(at(20))[KeyW].figures()), "blip 0110 10 10 sys1");
    EXPECT_EQ(text(later.advance(at(20))[KeyW].figures()), "release 0100 10 5 sys1");
    EXPECT_FALSE(later.frame()[KeyW].released());
    EXPECT_TRUE(later.frame()[MouseRight].down() && earlier.frame()[MouseRight].down());
    EXPECT_TRUE(Sampler{Timeline{{.down = {KeyW}}}}.frame()[KeyW].down()) << "as of the present";
}

TEST(Inlet, APolledStateTakesOnlyButtonsThatCanBePosted) {
    const auto at = nanoseconds_since_zero;
    Timeline timeline;
    Sampler sampler{timeline, {.start = at(0)}};
    timeline.desk().state(DeviceId{1}, {}, at(1));
    timeline.desk().state(DeviceId{1}, {KeyW, Shift, axis_button(PadStickLeftX), Button{0x32}}, at(2));
    EXPECT_EQ(test::edges_text(sampler.advance(at(5))), "2 1 KeyW press");
    EXPECT_FALSE(sampler.frame()[Shift].down() || sampler.frame()[axis_button(PadStickLeftX)].down());
}

TEST(Inlet, StampsFarAheadOfThePresentAreReplacedWhereThereIsALimit) {
    using namespace std::chrono_literals;
    Timeline timeline;
    Inlet& desk = timeline.desk();
    desk.set_ahead_limit(10ms);
    Sampler sampler{timeline};
    const Time before = Clock::now();
    desk.button(KeyW, true, before + 1h);
    desk.motion(5, 0, before + 2h);
    desk.motions(DeviceId{2}, std::array{MotionSample{before + 3h, 1, 0}});
    const Time after = Clock::now();
    EXPECT_EQ(desk.counters().ahead, 3U);
    EXPECT_TRUE(desk.latest() >= before + 10ms && desk.latest() <= after + 10ms);
    desk.button(KeyS, true, desk.latest());  // within the limit
    EXPECT_EQ(desk.counters().ahead, 3U);
    const Frame& frame = sampler.advance(after + 20ms);
    EXPECT_TRUE(frame[KeyW].pressed() && frame[KeyS].pressed());
    EXPECT_EQ(frame.pointer().motion(), (Distance{6, 0}));
    desk.set_ahead_limit(std::nullopt);
    desk.button(KeyW, false, before + 1h);
    EXPECT_EQ(desk.counters().ahead, 3U);
    EXPECT_EQ(sampler.advance(after + 30ms)[KeyW].down(), true);
    EXPECT_EQ(sampler.counters().held_back, 1U);
}

}  // namespace
