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

struct Quay {
    Quay() {
        for (const DeviceId pad : {west, east}) inlet.connect(pad, {.kind = DeviceKind::gamepad}, at(0));
    }
    Timeline timeline;
    Inlet& inlet = timeline.desk();
    Sampler sampler{timeline, {.start = at(0)}};
    Seats seats{2};

    void cut(std::int64_t t) { seats.read(sampler.advance(at(t))); }
    std::string changes() const {
        constexpr const char* names[] = {"joined", "given", "taken", "lost", "returned"};
        std::string told;
        for (std::size_t i = 0; i < seats.change_count(); ++i) {
            const SeatChange& c = seats.change(i);
            told += std::string{i == 0 ? "" : "; "} + names[static_cast<int>(c.kind)] + " " + std::to_string(c.seat) +
                    " " + std::to_string(static_cast<std::uint32_t>(c.device));
        }
        return told;
    }
};

TEST(Seats, EachHasItsOwnDevices) {
    Quay q;
    EXPECT_TRUE(q.seats.give(west, 0));
    EXPECT_TRUE(q.seats.give(east, 1));
    q.cut(5);
    EXPECT_EQ(q.changes(), "given 0 3; given 1 4");
    q.inlet.button(west, PadSouth, true, at(6));
    q.inlet.button(east, PadSouth, true, at(7));
    q.inlet.button(east, PadSouth, false, at(8));
    q.inlet.stick(east, PadStickLeft, 1, 0, at(8));
    q.cut(10);
    EXPECT_EQ(text(q.seats[0][PadSouth]), "press 1000 4 4");
    EXPECT_EQ(text(q.seats[1][PadSouth]), "blip 1100 1 1");
    EXPECT_EQ(q.seats[1].stick(PadStickLeft).now, (Vector2{1, 0}));
    EXPECT_EQ(q.seats[0].stick(PadStickLeft).now, Vector2{});
    EXPECT_EQ(text(q.seats[1][PadStickLeftRight]), "press 1000 2 2");
    EXPECT_EQ(q.seats.last_device(1), east);
    EXPECT_FALSE(q.seats.give(west, 2));
}

TEST(Seats, TwoShareAKeyboardByHalves) {
    Quay q;
    q.seats.give(keyboard, 0, left_half());
    q.seats.give(keyboard, 1, right_half());
    q.cut(1);
    for (const Button key : {KeyW, ArrowUp, ShiftLeft, Enter}) q.inlet.button(key, true, at(5));
    q.cut(10);
    for (const Button key : {KeyW, ShiftLeft, Shift}) EXPECT_TRUE(q.seats[0][key].pressed()) << name_of(key);
    for (const Button key : {ArrowUp, Enter}) EXPECT_TRUE(q.seats[1][key].pressed()) << name_of(key);
    for (const Button key : {ArrowUp, Enter}) EXPECT_EQ(q.seats[0][key].state(), ButtonState::idle) << name_of(key);
    for (const Button key : {KeyW, ShiftLeft, Shift}) EXPECT_EQ(q.seats[1][key].state(), ButtonState::idle);
    EXPECT_TRUE((left_half() & right_half()).empty());
}

TEST(Seats, PressToJoin) {
    Quay q;
    q.seats.open_joining({PadStart, Enter, Space}, true);
    q.inlet.button(east, PadSouth, true, at(1));  // not one of them
    q.inlet.button(east, PadStart, true, at(2));
    q.cut(5);
    EXPECT_EQ(q.changes(), "joined 0 4");
    EXPECT_FALSE(q.seats[0][PadStart].pressed()) << "the press that joins does nothing else";
    q.inlet.button(Enter, true, at(6));
    q.cut(10);
    EXPECT_EQ(q.changes(), "given 0 4; joined 1 1");
    EXPECT_EQ(text(q.seats[0][PadStart]), "hold 0010 5 5");
    q.inlet.button(west, PadStart, true, at(11));  // no seat is free
    q.cut(15);
    EXPECT_EQ(q.changes(), "given 1 1");
    EXPECT_EQ(q.seats.seat_of(keyboard, Enter), 1U);
    EXPECT_EQ(q.seats.seat_of(keyboard, Space), std::nullopt) << "the left half is free";
    q.seats.close_joining();
    q.seats.take_back(east);
    q.inlet.button(west, PadStart, false, at(16)), q.inlet.button(west, PadStart, true, at(17));
    q.cut(20);
    EXPECT_EQ(q.changes(), "taken 0 4");
}

TEST(Seats, ALostPadIsToldAndItsPlaceWaits) {
    Quay q;
    q.seats.give(west, 0);
    q.cut(1);
    q.inlet.button(west, PadSouth, true, at(2));
    q.cut(5);
    EXPECT_TRUE(q.seats.is_present(0) && !q.seats.is_waiting(0));
    q.inlet.disconnect(west, at(6));
    q.cut(10);
    EXPECT_EQ(q.changes(), "lost 0 3");
    EXPECT_EQ(text(q.seats[0][PadSouth]), "cancel 0001 4 1");
    EXPECT_TRUE(!q.seats.is_present(0) && q.seats.is_waiting(0));
    q.seats.open_joining({PadStart});
    q.inlet.button(east, PadStart, true, at(11));
    q.cut(15);
    EXPECT_EQ(q.changes(), "joined 1 4") << "the seat that waits is not free";
    q.inlet.connect(west, {.kind = DeviceKind::gamepad}, at(16));
    q.inlet.button(west, PadSouth, true, at(17));
    q.cut(20);
    EXPECT_EQ(q.changes(), "given 1 4; returned 0 3");
    EXPECT_EQ(text(q.seats[0][PadSouth]), "press 1000 3 3");
}

TEST(Seats, MovingADeviceCancelsInTheOldAndAdoptsInTheNew) {
    Quay q;
    q.sampler.set_repeat({.delay = Duration{10}, .interval = Duration{10}, .cap = 0});
    q.seats.give(west, 0);
    q.cut(1);
    q.inlet.button(west, PadSouth, true, at(2));
    q.cut(10);
    q.seats.give(west, 1);
    EXPECT_TRUE(q.seats[0][PadSouth].down()) << "not in the middle of a frame";
    q.cut(20);
    EXPECT_EQ(q.changes(), "taken 0 3; given 1 3");
    EXPECT_EQ(text(q.seats[0][PadSouth]), "cancel 0001 8 0");
    EXPECT_EQ(text(q.seats[1][PadSouth]), "hold 0010 10 10");
    q.cut(40);
    EXPECT_EQ(text(q.seats[0][PadSouth]), "idle 0000 0 0");
    EXPECT_EQ(text(q.seats[1][PadSouth]), "hold 0000 30 20") << "adopted: no repeats";
    q.inlet.button(west, PadSouth, false, at(41)), q.inlet.button(west, PadSouth, true, at(42));
    q.cut(60);
    EXPECT_EQ(text(q.seats[1][PadSouth]), "dip 1100 18 19 rep1") << "its own press repeats";
}

TEST(Seats, DividingAKeyboardTouchesOnlyWhatMoves) {
    Quay q;
    q.seats.give(keyboard, 0);
    q.cut(1);
    q.inlet.button(KeyW, true, at(2)), q.inlet.button(ArrowUp, true, at(2));
    q.cut(5);
    q.seats.give(keyboard, 1, right_half());
    q.cut(10);
    EXPECT_EQ(text(q.seats[0][KeyW]), "hold 0000 8 5");
    EXPECT_EQ(text(q.seats[0][ArrowUp]), "cancel 0001 3 0");
    EXPECT_EQ(text(q.seats[1][ArrowUp]), "hold 0010 5 5");
    q.cut(20);
    EXPECT_EQ(text(q.seats[0][KeyW]), "hold 0000 18 10");
}

TEST(Seats, TheLastDeviceIsNotChangedByNoise) {
    Quay q;
    q.seats.give(west, 0), q.seats.give(keyboard, 0), q.seats.give(mouse, 0);
    q.inlet.button(KeyW, true, at(1));
    q.cut(5);
    q.cut(6);
    q.inlet.button(KeyW, false, at(7)), q.inlet.button(KeyW, true, at(8));
    q.cut(10);
    EXPECT_EQ(q.seats.last_device(0), keyboard);
    q.inlet.stick(west, PadStickLeft, 0.3, 0.1, at(11));
    q.inlet.motion(2, 2, at(12));
    q.cut(20);
    EXPECT_EQ(q.seats.last_device(0), keyboard) << "noise, and a nudge of the table";
    q.inlet.stick(west, PadStickLeft, 0.8, 0.1, at(21));
    q.cut(30);
    EXPECT_EQ(q.seats.last_device(0), west);
    q.inlet.motion(4, 0, at(31));
    q.cut(40);
    EXPECT_EQ(q.seats.last_device(0), mouse);
    EXPECT_EQ(q.seats[0].motion(), (Distance{4, 0}));
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
    rumble.ask({west, 1, 1, Duration{1}});
    EXPECT_EQ(carrier.carry_out(at(1)), 1U);
    desk.interrupt(unknown_state, at(2));
    EXPECT_EQ(carrier.carry_out(at(3)), 1U);
    EXPECT_TRUE(motors.requests.back().stops());
    rumble.ask({west, 1, 1, Duration{1}});
    EXPECT_EQ(carrier.carry_out(at(4)), 1U);
    desk.lose_focus(at(5));
    EXPECT_EQ(carrier.carry_out(at(6)), 1U);
    EXPECT_TRUE(motors.requests.back().stops());
    rumble.ask({west, 1, 1, Duration{1}});
    carrier.carry_out(at(7));
    EXPECT_TRUE(motors.requests.back().stops()) << "without focus nothing is carried out";
    desk.gain_focus(unknown_state, at(8));
    EXPECT_EQ(carrier.carry_out(at(9)), 0U) << "nor later";
    rumble.ask({west, 1, 0, Duration{1}});
    EXPECT_EQ(carrier.carry_out(at(10)), 1U);
    EXPECT_FALSE(motors.requests.back().stops());
    desk.lose_focus(at(11));
    desk.gain_focus(unknown_state, at(12));
    EXPECT_EQ(carrier.carry_out(at(13)), 1U);
    EXPECT_TRUE(motors.requests.back().stops()) << "lost and back between two rounds";
}

// ---- contacts

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
    /// "7 began 1,2 down; …"
    std::string told(std::int64_t t) {
        std::string text;
        sampler.advance(at(t)).for_each_contact([&](const ContactReading& c) {
            text += (text.empty() ? "" : "; ") + std::to_string(c.contact) + (c.began ? " began" : "") + " " +
                    std::to_string(static_cast<int>(c.position.x)) + "," +
                    std::to_string(static_cast<int>(c.position.y)) + (c.down ? " down" : "") +
                    (c.ended ? " ended" : "") + (c.cancelled ? " cancelled" : "");
        });
        return text;
    }
};

using enum ContactPhase;

TEST(Contacts, BeginMoveEndCancel) {
    Surface s;
    s.touch(7, begin, 1, 2, 1);
    s.touch(8, begin, 5, 5, 2, 0.25);
    EXPECT_EQ(s.told(3), "7 began 1,2 down; 8 began 5,5 down");
    s.touch(7, move, 3, 4, 4);
    s.touch(8, end, 6, 6, 5);
    s.touch(9, begin, 0, 0, 6);
    s.touch(9, end, 0, 1, 7);
    EXPECT_EQ(s.told(8), "7 3,4 down; 8 6,6 ended; 9 began 0,1 ended") << "no touch is too short";
    EXPECT_EQ(s.touch(8, move, 1, 1, 9), Outcome::stray_contact);
    EXPECT_EQ(s.touch(7, begin, 9, 9, 10), Outcome::contact_restarted) << "an end was lost";
    EXPECT_EQ(s.told(11), "7 3,4 cancelled; 7 began 9,9 down");
    s.inlet.lose_focus(at(12));
    EXPECT_EQ(s.told(13), "7 9,9 cancelled");
    EXPECT_EQ(s.told(14), "");
    EXPECT_EQ(s.touch(1, begin, 0, 0, 15), Outcome::ignored);
    EXPECT_EQ(s.sampler.frame().pointer().has_position(), false);
}

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
    for (std::uint32_t i = 0; i < contact_capacity; ++i) EXPECT_EQ(s.touch(i, begin, i, 0, i + 1), Outcome::taken);
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

TEST(Devices, ComingAndGoingAreToldInOrder) {
    Quay q;
    std::string told;
    q.inlet.disconnect(west, at(3)), q.inlet.connect(west, {.kind = DeviceKind::gamepad}, at(4));
    q.sampler.advance(at(5)).for_each_device_change([&](const DeviceChange& c) {
        told += std::to_string(static_cast<std::uint32_t>(c.device)) + (c.connected ? "+" : "-") + " ";
    });
    EXPECT_EQ(told, "3+ 4+ 3- 3+ ");
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

TEST(Seats, ADeviceGivenWhileItIsAwayIsWaitedFor) {
    Quay q;
    q.cut(1);
    q.inlet.disconnect(west, at(2));
    q.cut(5);
    q.seats.give(west, 0);
    q.cut(10);
    EXPECT_EQ(q.changes(), "given 0 3");
    EXPECT_TRUE(!q.seats.is_present(0) && q.seats.is_waiting(0));
    q.inlet.connect(west, {.kind = DeviceKind::gamepad}, at(12));
    q.cut(15);
    EXPECT_EQ(q.changes(), "returned 0 3");
    EXPECT_TRUE(q.seats.is_present(0) && !q.seats.is_waiting(0));
}

TEST(Seats, HaveAnyOfSeveralButtonsAndAPointer) {
    Quay q;
    q.seats.give(keyboard, 0);
    q.seats.give(mouse, 1);
    q.cut(1);
    q.inlet.button(KeyW, true, at(2));
    q.inlet.button(ArrowUp, true, at(4));
    q.inlet.button(KeyW, false, at(6));
    q.inlet.moved_to({5, 5}, at(6));
    q.inlet.button(MouseLeft, true, at(7));
    q.inlet.button(MouseLeft, false, at(8));
    q.inlet.motion(3, 0, at(9));
    q.inlet.wheel(0, 2, at(9));
    q.cut(11);
    EXPECT_EQ(text(q.seats[0].any({KeyW, ArrowUp})), "press 1000 9 9");
    EXPECT_EQ(text(q.seats[1].any({KeyW, ArrowUp, Button{9999}})), "idle 0000 0 0");
    EXPECT_EQ(q.seats[0].pointer().motion(), Distance{});
    EXPECT_TRUE(q.seats[0].pointer().clicks().empty());
    EXPECT_EQ(q.seats[1].pointer().motion(), (Distance{3, 0}));
    EXPECT_EQ(q.seats[1].pointer().wheel(), (Distance{0, 2}));
    EXPECT_TRUE(q.seats[1].pointer().target({0, 0, 10, 10}).clicked());
    EXPECT_FALSE(q.seats[0].pointer().target({0, 0, 10, 10}).clicked());
}

}  // namespace
