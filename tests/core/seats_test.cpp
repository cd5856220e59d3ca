// Seats, places of devices, rumble, and contacts on touch surfaces.

#include "cursorum/core/seats.hpp"

#include <gtest/gtest.h>

#include <limits>
#include <string>
#include <vector>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/device_places.hpp"
#include "cursorum/core/rumble.hpp"
#include "cursorum/core/sampler.hpp"
#include "support/script.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using test::text;

constexpr DeviceId keyboard{1}, mouse{2}, west{3}, east{4};
Time at(std::int64_t ns) { return nanoseconds_since_zero(ns); }

/// A whole desk with two seats. Words: give3,0 gives device 3 to seat 0, give1L,0 the left half of the keyboard, back3
/// takes it back, offer offers seats for Start, Enter and Space, offerhalves with half keyboards, shut ends that.
/// Views: seats for the changes, 0:s for a button in a seat, 0? for whether the seat is there or waits, 0! for its last
/// device.
struct Quay : test::ScriptRun {
    Quay() : ScriptRun{{.start = Time{}}, {}} {
        on_cut = [this](const Frame& frame) { seats.read(frame); };
        on_word = [this](std::string_view word) {
            const DeviceId device{static_cast<unsigned>(word[4] - '0')};
            const unsigned seat = static_cast<unsigned>(word.back() - '0');
            if (word.starts_with("give"))
                word[5] == ','   ? seats.give(device, seat)
                : word[5] == 'L' ? seats.give(device, seat, left_half())
                                 : seats.give(device, seat, right_half());
            if (word.starts_with("back")) seats.take_back(device);
            if (word.starts_with("offer")) seats.offer({PadStart, Enter, Space}, word == "offerhalves");
            if (word == "shut") seats.end_offer();
        };
        on_view = [this](const std::string& view) -> std::string {
            if (view == "seats") return changes();
            const auto seat = static_cast<unsigned>(view[0] - '0');
            if (view.size() < 2 || seat > 1) return {};
            if (view[1] == '?')
                return std::string{seats.has_device(seat) ? "there" : "away"} + (seats.is_away(seat) ? " waits" : "");
            if (view[1] == '!')
                return std::to_string(static_cast<unsigned>(seats.last_device(seat).value_or(DeviceId{})));
            const std::string button = view.substr(2);
            return text(seats[seat][button.size() == 1 ? test::letter(button[0]) : find_button(button)]);
        };
    }
    Inlet& inlet = timeline.desk();
    Seats seats{2};

    std::string changes() const {
        constexpr const char* names[] = {"taken", "given", "freed", "away", "back"};
        std::string all;
        for (std::size_t i = 0; i < seats.change_count(); ++i) {
            const SeatChange& c = seats.change(i);
            all += std::string{i == 0 ? "" : " & "} + names[static_cast<int>(c.kind)] + " " + std::to_string(c.seat) +
                   " " + std::to_string(static_cast<std::uint32_t>(c.device));
        }
        return all.empty() ? "-" : all;
    }
};

TEST(Seats, ByRows) {
    test::check_rows(R"(
each has its own devices : give3,0 give4,1 |5seats 6+3s 7+4s 8-4s 8stk4:1,0 |10seats,0:s,1:s,1:PadStickLeftRight,0:PadStickLeftRight,1! : given 0 3 & given 1 4; - | press 1000 4 4 | blip 1100 1 1 | press 1000 2 2 | idle 0000 0 0 | 4
two share a keyboard by halves : give1L,0 give1R,1 |1 5+W 5+< 5+K |10seats,0:W,0:Shift,0:K,1:K,1:W,1:Shift : - | press 1000 5 5 | press 1000 5 5 | idle 0000 0 0 | press 1000 5 5 | idle 0000 0 0 | idle 0000 0 0
the press that takes a seat does nothing else : offer 1+4s 2+4m |5seats,0:m |10seats,0:m : taken 0 4 | idle 0000 0 0; given 0 4 | hold 0010 5 5
no seat is free : give3,0 give1,1 offer |1 2+4m |5seats : -
the offer is over : offer shut 2+4m |5seats : -
taken back : give3,0 |1seats back3 |2seats,0? : given 0 3; freed 0 3 | away
the seat of a pad that is away is kept : give3,0 |1 2+3s |5seats,0? 6dis3 |10seats,0:s,0? offer 11+4m |15seats 16con3 17+3s |20seats,0:s : - | there; away 0 3 | cancel 0001 4 1 | away waits; taken 1 4; given 1 4 & back 0 3 | press 1000 3 3
moved in the middle of a frame, it acts from the next on : give3,0 |1 2+3s |10 give3,1 |20seats,0:s,1:s |40seats,0:s,1:s : freed 0 3 & given 1 3 | cancel 0001 8 0 | hold 0010 10 10; - | idle 0000 0 0 | hold 0000 30 20
dividing a keyboard touches only what moves : give1,0 |1 2+W 2+K |5 give1R,1 |10seats,0:W,0:K,1:K |20seats,0:W : freed 0 1 & given 0 1 & given 1 1 | hold 0000 8 5 | cancel 0001 3 0 | hold 0010 5 5; - | hold 0000 18 10
the last device is not changed by noise : give3,0 give1,0 give2,0 |1 2+W |5 11stk3:0.3,0.1 12mov2:2,2 |20seats,0! 21stk3:0.8,0.1 |30seats,0! 31mov2:4,0 |40seats,0! : - | 1; - | 3; - | 2
given while it is away, it is waited for : |1 2dis3 |5 give3,0 |10seats,0? 12con3 |15seats,0? : given 0 3 | away waits; back 0 3 | there
)",
                     [](const std::string& script) { return Quay{}.run(script); });
    EXPECT_FALSE(Quay{}.seats.give(west, 2));
    EXPECT_TRUE((left_half() & right_half()).empty());
    for (const Button key : {ArrowUp, Enter}) EXPECT_TRUE(right_half().contains(key)) << name_of(key);
}

TEST(Seats, HalfAKeyboardTakesASeat) {
    Quay q;
    q.run("offerhalves |1");
    q.inlet.button(Enter, true, at(6));
    EXPECT_EQ(q.run("|10seats |15seats"), (std::vector<std::string>{"taken 0 1", "given 0 1"}));
    EXPECT_EQ(q.seats.seat_of(keyboard, Enter), 0U);
    EXPECT_EQ(q.seats.seat_of(keyboard, Space), std::nullopt) << "the left half is free";
}

TEST(Seats, OnlyItsOwnPressRepeatsInASeat) {
    Quay q;
    q.sampler.set_repeat({.delay = Duration{10}, .interval = Duration{10}, .cap = 0});
    q.run("give3,0 |1 2+3s |10 give3,1 |20 |40");
    EXPECT_EQ(q.run("|50seats,1:s 51-3s 52+3s |70seats,1:s"),
              (std::vector<std::string>{"- | hold 0000 40 10", "- | dip 1100 18 19 rep1"}));
}

// ---- places

TEST(DevicePlaces, AReturningPadGetsItsPlaceBack) {
    DevicePlaces places{DeviceId{10}, 4};
    const DeviceInfo pad{.kind = DeviceKind::gamepad, .name = "pad", .vendor = 1, .product = 2};
    const DeviceInfo stranger{.kind = DeviceKind::gamepad, .name = "another", .vendor = 3, .product = 4};
    const DeviceInfo mice{.kind = DeviceKind::mouse, .name = "mouse"};
    EXPECT_EQ(places.came(pad, "a", at(1)), DeviceId{10});
    EXPECT_EQ(places.came(pad, "b", at(2)), DeviceId{11});
    EXPECT_EQ(places.came(mice, "", at(3)), DeviceId{12});
    places.went(DeviceId{10}, at(4));
    places.went(DeviceId{11}, at(5));
    EXPECT_EQ(places.came(pad, "b", at(6)), DeviceId{11}) << "by its serial number";
    places.went(DeviceId{11}, at(7));
    EXPECT_EQ(places.came(pad, "c", at(8)), DeviceId{10}) << "of two alike, the one that waits longest";
    EXPECT_EQ(places.came(stranger, "", at(9)), DeviceId{11}) << "a borrowed pad takes the place that waits";
    places.went(DeviceId{12}, at(10));
    EXPECT_EQ(places.came(stranger, "", at(11)), DeviceId{13}) << "not a mouse's";
    EXPECT_EQ(places.came(stranger, "", at(12)), std::nullopt);
    EXPECT_EQ(places.came(mice, "x", at(13)), DeviceId{12});
    places.went(DeviceId{99}, at(14));  // nobody
}

// ---- rumble

struct Motors final : RumbleTaker {
    bool try_rumble(const RumbleRequest& request, Time) override {
        requests.push_back(request);
        return able;
    }
    std::vector<RumbleRequest> requests;
    bool able = true;
};

TEST(Rumble, TheLastRequestIsCarriedOut) {
    Timeline timeline;
    Rumble rumble;
    Motors motors, recording;
    {
        RumbleCarrier carrier{rumble, timeline.desk(), motors, &recording};
        EXPECT_EQ(carrier.carry_out(at(0)), 0U);
        rumble.ask({west, 0.25, 0.5, std::chrono::milliseconds{100}});
        rumble.ask({west, 1, 7, Duration{1}});
        rumble.ask({east, 0, 0.5, std::chrono::hours{1}});
        EXPECT_EQ(carrier.carry_out(at(1)), 2U);
        EXPECT_EQ(motors.requests[0], (RumbleRequest{west, 1, 1, std::chrono::milliseconds{1}}));
        EXPECT_EQ(motors.requests[1].length, std::chrono::seconds{65});
        EXPECT_NEAR(motors.requests[1].weak, 0.5, 1e-4);
        EXPECT_EQ(recording.requests, motors.requests);
        EXPECT_EQ(carrier.carry_out(at(2)), 0U);
        motors.able = false;
    }
    EXPECT_EQ(motors.requests.size(), 4U) << "at the end all stop";
    EXPECT_TRUE(motors.requests.back().stops());
    const double nan = std::numeric_limits<double>::quiet_NaN();
    EXPECT_FALSE(rumble.ask({west, nan, 0, Duration{1}}));
    EXPECT_FALSE(rumble.ask({west, 1, 0, Duration{-1}}));
    for (std::uint32_t i = 0; i < 40; ++i) rumble.stop(DeviceId{100 + i});
    const RumbleCounters c = rumble.counters();
    EXPECT_EQ(c.carried_out, 2U);
    EXPECT_EQ(c.unable, 2U);
    EXPECT_EQ(c.replaced, 1U);
    EXPECT_EQ(c.refused, 2U + 10U);
}

TEST(Rumble, StopsOnFocusLossAndInterruption) {
    Timeline timeline;
    Inlet& desk = timeline.desk();
    Rumble rumble;
    Motors motors;
    RumbleCarrier carrier{rumble, desk, motors};
    std::int64_t now = 0;
    // What the motors were asked last, if anything new.
    const auto round = [&](bool asks) {
        if (asks) rumble.ask({west, 1, 1, Duration{1}});
        if (carrier.carry_out(at(++now)) == 0) return "nothing";
        return motors.requests.back().stops() ? "stop" : "go";
    };
    EXPECT_STREQ(round(true), "go");
    desk.interrupt(unknown_state, at(++now));
    EXPECT_STREQ(round(false), "stop");
    EXPECT_STREQ(round(true), "go");
    desk.lose_focus(at(++now));
    EXPECT_STREQ(round(false), "stop");
    EXPECT_STREQ(round(true), "stop") << "without focus nothing is carried out";
    desk.gain_focus(unknown_state, at(++now));
    EXPECT_STREQ(round(false), "nothing") << "nor later";
    EXPECT_STREQ(round(true), "go");
    desk.lose_focus(at(++now));
    desk.gain_focus(unknown_state, at(++now));
    EXPECT_STREQ(round(false), "stop") << "lost and back between two rounds";
}

// ---- contacts

using enum ContactPhase;

TEST(Contacts, BeginMoveEndCancel) {
    test::check_rows(R"(
they begin, move and end : 1beg5:7,1,2 2beg5:8,5,5 |3contacts 4mve5:7,3,4 5end5:8,6,6 |8contacts : 7 began 1,2 down & 8 began 5,5 down; 7 3,4 down & 8 6,6 ended
no touch is too short : 6beg5:9,0,0 7end5:9,0,1 |8contacts 9mve5:9,1,1 |10contacts : 9 began 0,1 ended; -
an end was lost : 1beg5:7,3,4 |8 10beg5:7,9,9 |11contacts : 7 3,4 cancelled & 7 began 9,9 down
focus loss cancels : 1beg5:7,9,9 |8 12foc0 |13contacts,at |14contacts 15beg5:1,0,0 |16contacts : 7 9,9 cancelled | nowhere; -; -
)",
                     [](const std::string& script) {
                         return test::ScriptRun{{.start = Time{}}, {}}.run(script);
                     });
}

struct Surface {
    explicit Surface(bool points = false) {
        inlet.connect(DeviceId{5}, {.kind = DeviceKind::touch, .first_contact_points = points}, at(0));
    }
    Timeline timeline;
    Inlet& inlet = timeline.desk();
    Sampler sampler{timeline, {.start = at(0)}};

    Outcome touch(std::uint32_t id, ContactPhase phase, double x, double y, std::int64_t t, double pressure = 1) {
        return inlet.contact(DeviceId{5}, id, phase, x, y, pressure, at(t));
    }
};

TEST(Contacts, TheFirstMayActAsPointer) {
    Surface s{true};
    s.touch(1, begin, 10, 20, 1);
    s.touch(2, begin, 50, 50, 2);
    const Frame& frame = s.sampler.advance(at(3));
    EXPECT_EQ(frame.pointer().position(), (WindowPoint{10, 20}));
    EXPECT_EQ(frame.pointer().motion(), (Distance{0, 0})) << "it comes from nowhere";
    EXPECT_TRUE(frame[MouseLeft].pressed());
    s.touch(2, move, 60, 60, 4);
    s.touch(1, move, 11, 22, 5);
    s.touch(1, end, 11, 22, 6);
    s.sampler.advance(at(7));
    EXPECT_EQ(frame.pointer().motion(), (Distance{1, 2}));
    EXPECT_TRUE(frame.pointer().target({10, 20, 5, 5}).clicked());
    EXPECT_EQ(s.inlet.counters().events, 6U);
    EXPECT_EQ(s.sampler.counters().taken, 6U) << "a contact that points is one event";
    s.touch(3, begin, 0, 0, 8);  // the second contact is still there, but it does not point
    s.inlet.disconnect(DeviceId{5}, at(9));
    s.sampler.advance(at(10));
    EXPECT_EQ(text(frame[MouseLeft].figures()), "blip 1001 1 1");
    EXPECT_TRUE(frame.pointer().clicks().empty());
}

TEST(Contacts, MoreThanThereIsRoomForAreRefused) {
    Surface s;
    EXPECT_EQ(s.touch(0, move, 0, 0, 1), Outcome::stray_contact);
    for (std::uint32_t i = 0; i < contact_capacity; ++i) EXPECT_EQ(s.touch(i, begin, i, 0, i + 1), Outcome::taken);
    EXPECT_EQ(s.touch(0, begin, 0, 0, 99), Outcome::contact_restarted);
    EXPECT_EQ(s.touch(999, begin, 0, 0, 100), Outcome::refused_contacts);
    EXPECT_EQ(s.touch(0, move, std::numeric_limits<double>::infinity(), 0, 101), Outcome::refused_value);
    EXPECT_EQ(s.touch(0, move, 0, 0, 101, std::numeric_limits<double>::quiet_NaN()), Outcome::refused_value);
    EXPECT_EQ(s.inlet.counters().refused, 3U);
}

TEST(Devices, WhatTheyTellOfThemselvesIsKept) {
    Quay q;
    q.inlet.disconnect(west, at(1));
    q.inlet.connect(west,
                    {.kind = DeviceKind::gamepad, .vendor = 0xFFF1, .product = 7, .buttons = {PadSouth}, .axes = 0x30},
                    at(2));
    const auto status = q.timeline.find_device(west);
    ASSERT_TRUE(status);
    EXPECT_EQ(status->vendor, 0xFFF1);
    EXPECT_EQ(status->product, 7);
    EXPECT_EQ(status->buttons, ButtonSet{PadSouth});
    EXPECT_EQ(status->axes, 0x30);
}

// Levels at both cuts, as of each sampler's frame, whatever was posted since.
TEST(Devices, AreThereOrNotAtBothCuts) {
    Quay q;
    q.sampler.advance(at(5));
    q.inlet.disconnect(west, at(7));
    q.inlet.connect(west, {.kind = DeviceKind::gamepad}, at(17));
    const auto levels = [](const Frame& frame) {
        return std::string{frame.was_connected(west) ? "+" : "-"} + (frame.is_connected(west) ? "+" : "-");
    };
    EXPECT_EQ(levels(q.sampler.advance(at(6))), "++");
    const auto saved = q.sampler.save();
    EXPECT_EQ(levels(q.sampler.advance(at(10))), "+-");
    EXPECT_EQ(levels(q.sampler.advance(at(12))), "--");
    EXPECT_EQ(levels(q.sampler.peek(at(20))), "-+");
    Sampler second{q.timeline, {.start = at(11)}};
    EXPECT_EQ(levels(second.frame()), "--") << "as of its start";
    EXPECT_EQ(levels(second.advance(at(20))), "-+");
    q.sampler.restore(saved);
    EXPECT_EQ(levels(q.sampler.advance(at(8))), "+-");
    EXPECT_FALSE(q.sampler.frame().is_connected(DeviceId{99}));
    // More than the history of such facts: the present is right.
    for (int i = 0; i < 400; ++i) {
        q.inlet.disconnect(west, at(30 + 2 * i));
        q.inlet.connect(west, {.kind = DeviceKind::gamepad}, at(31 + 2 * i));
    }
    q.inlet.disconnect(west, at(900));
    EXPECT_EQ(levels(q.sampler.advance(at(1000))), "--");
    EXPECT_GT(q.sampler.counters().overruns, 0U);
}

TEST(Seats, HaveAnyOfSeveralButtonsAndAPointer) {
    Quay q;
    q.seats.give(keyboard, 0);
    q.seats.give(mouse, 1);
    q.run("|1 2+W 4+A 6-W 6pos2:5,5 7+l 8-l 9mov2:3,0 9whl2:0,2 |11");
    EXPECT_EQ(text(q.seats[0].any({KeyW, KeyA})), "press 1000 9 9");
    EXPECT_EQ(text(q.seats[1].any({KeyW, KeyA, Button{9999}})), "idle 0000 0 0");
    EXPECT_EQ(q.seats[0].pointer().motion(), Distance{});
    EXPECT_TRUE(q.seats[0].pointer().clicks().empty());
    EXPECT_EQ(q.seats[1].pointer().motion(), (Distance{3, 0}));
    EXPECT_EQ(q.seats[1].pointer().wheel(), (Distance{0, 2}));
    EXPECT_TRUE(q.seats[1].pointer().target({0, 0, 10, 10}).clicked());
    EXPECT_FALSE(q.seats[0].pointer().target({0, 0, 10, 10}).clicked());
}

}  // namespace
