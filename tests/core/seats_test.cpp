// Seats.

#include "cursorum/core/seats.hpp"

#include <gtest/gtest.h>

#include <string>
#include <vector>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"
#include "support/script.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using test::text;

constexpr DeviceId keyboard{1}, mouse{2}, west{3};
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
            if (word.starts_with("back")) seats.unassign(device);
            if (word.starts_with("offer"))
                seats.offer({.buttons = {PadStart, Enter, Space}, .halves = word == "offerhalves"});
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
dividing a keyboard touches only what moves : give1,0 |1 2+W 2+K |5 give1R,1 |10seats,0:W,0:K,1:K |20seats,0:W : given 1 1 | hold 0000 8 5 | cancel 0001 3 0 | hold 0010 5 5; - | hold 0000 18 10
half of a keyboard, then the whole: what is held goes on : |1 2+W 2+K give1L,0 |5seats,0:W give1,0 |10seats,0:W,0:K |20seats,0:W : given 0 1 | press 1000 3 3; given 0 1 | hold 0000 8 5 | hold 0010 5 5; - | hold 0000 18 10
moved away and back before the next frame, nothing happened : give1,0 |1 2+W 2+K |5 give1L,1 give1,0 |10seats,0:W,0:K,1:W : - | hold 0000 8 5 | hold 0000 8 5 | idle 0000 0 0
the last device is not changed by noise : give3,0 give1,0 give2,0 |1 2+W |5 11stk3:0.3,0.1 12mov2:2,2 |20seats,0! 21stk3:0.8,0.1 |30seats,0! 31mov2:4,0 |40seats,0! : - | 1; - | 3; - | 2
given while it is away, it is waited for : |1 2dis3 |5 give3,0 |10seats,0? 12con3 |15seats,0? : given 0 3 | away waits; back 0 3 | there
)",
                     [](const std::string& script) { return Quay{}.run(script); });
    EXPECT_FALSE(Quay{}.seats.give(west, 2));
    EXPECT_TRUE((left_half() & right_half()).empty());
    for (const Button key : {ArrowUp, Enter}) EXPECT_TRUE(right_half().contains(key)) << name_of(key);
}

TEST(Seats, AnOfferGivesWhatIsFree) {
    Quay q;
    q.seats.give(keyboard, 0, left_half());
    q.seats.offer({.buttons = {KeyL}});
    q.run("|1 2+W 3+L |10");
    EXPECT_EQ(q.changes(), "taken 1 1");
    q.run("|20");
    EXPECT_EQ(q.changes(), "given 1 1");
    EXPECT_EQ(q.seats.seat_of(keyboard, KeyW), 0U) << "the other player keeps the other half";
    EXPECT_EQ(q.seats.seat_of(keyboard, KeyL), 1U);
    EXPECT_EQ(text(q.seats[0][KeyW]), "hold 0000 18 10");
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
