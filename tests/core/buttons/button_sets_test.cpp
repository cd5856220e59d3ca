// Readings of all buttons and devices together; levels that are polled; one tick for each picture.

#include <gtest/gtest.h>

#include <cmath>
#include <sstream>
#include <string>
#include <vector>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"
#include "cursorum/core/seats.hpp"
#include "cursorum/core/tick_clock.hpp"
#include "support/script.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
constexpr auto at = nanoseconds_since_zero;

std::string names(const ButtonSet& set) {
    std::string all;
    set.for_each([&](Button button) { all += (all.empty() ? "" : " ") + std::string{name_of(button)}; });
    return all.empty() ? "-" : all;
}

struct Desk : test::ScriptRun {
    Desk() : ScriptRun{{.start = Time{}}, {}} {
        sampler.set_repeat({.delay = Duration{10}, .interval = Duration{10}, .cap = 0});
        on_view = [this](const std::string& view) -> std::string {
            const Frame& frame = sampler.frame();
            if (view == "pressed") return names(frame.all_pressed());
            if (view == "released") return names(frame.all_released());
            if (view == "ended") return names(frame.all_ended());
            if (view == "repeated") return names(frame.all_repeated());
            if (view == "down") return names(frame.all_down());
            if (view == "newest") {
                const Button newest = frame.newest({KeyA, KeyD, PadStickLeftLeft});
                return newest ? std::string{name_of(newest)} : "-";
            }
            if (view == "merged") {
                std::string all;
                frame.for_each_merged_edge([&](const Edge& edge) {
                    all += (all.empty() ? "" : "; ") + std::to_string(nanoseconds(edge.time)) + " " +
                           std::to_string(static_cast<unsigned>(edge.device)) + " " +
                           std::string{name_of(edge.button)} + " " + std::string{name_of(edge.kind)};
                });
                return all.empty() ? "-" : all;
            }
            if (view == "pads") {
                std::string all = std::to_string(frame.count_of(DeviceKind::gamepad));
                for (const unsigned place : {0U, 1U, 2U}) {
                    const auto id = frame.device(DeviceKind::gamepad, place);
                    all += " " + (id ? std::to_string(static_cast<unsigned>(*id)) : "-");
                }
                return all;
            }
            if (view == "kinds") {
                std::string all;
                frame.for_each_device_change([&](const DeviceChange& change) {
                    all += (all.empty() ? "" : " ") + std::string{name_of(change.kind)} + " " +
                           std::to_string(change.place);
                });
                return all.empty() ? "-" : all;
            }
            return {};
        };
    }
};

TEST(FrameSets, ByRows) {
    test::check_rows(R"(
without the doubles of either side : 1+< 2+W 3+l |5pressed,down |8pressed,down 9-< 9-l |10released,ended,down : KeyW ShiftLeft MouseLeft | KeyW ShiftLeft MouseLeft; - | KeyW ShiftLeft MouseLeft; ShiftLeft MouseLeft | ShiftLeft MouseLeft | KeyW
a cancel is an end and no release : 1+W |5 6foc0 |10released,ended,down : - | KeyW | -
repeats : 1+W |5repeated |12repeated : -; KeyW
directions and triggers are among them : 1stk3:1,0 2axs3:PL,1 |5pressed,down : PadPullLeft PadStickLeftRight | PadPullLeft PadStickLeftRight
the newest of several that are down : |1newest 2+A |3newest 4+D |5newest 6stk3:-1,0 |7newest 8-D 9stk3:0,0 |10newest 11-A |12newest : -; KeyA; KeyD; PadStickLeftLeft; KeyA; -
of two at one time, the later in the list : 2+D 2+A |3newest : KeyD
every edge of what can be read : 1+< 2+> 3-< 4stk3:0,1 5-> |9merged : 1 1 Shift press; 1 1 ShiftLeft press; 2 1 ShiftRight press; 3 1 ShiftLeft release; 4 3 PadStickLeftDown press; 5 1 Shift release; 5 1 ShiftRight release
a press where others only hold an adopted one : 1ado1:W 2+2W |9merged : 1 1 KeyW adopt; 2 2 KeyW cancel; 2 2 KeyW press
pads keep their places : |1pads 2dis3 |3pads 4con3 |5pads : 2 3 4 -; 1 - 4 -; 2 3 4 -
a change carries its kind and place : |1 2dis4 3dis6 |5kinds 6con4 |7kinds : gamepad 1 mouse 1; gamepad 1
)" + 1,
                     [](const std::string& script) { return Desk{}.run(script); });
}

TEST(FrameSets, OneDeviceAtACut) {
    Desk desk;
    desk.run("1+3s 2+4e 3stk3:0.5,0.25 |5");
    const DeviceSnapshot pad = desk.sampler.frame().on(DeviceId{3}).current();
    EXPECT_EQ(names(pad.down), "PadSouth PadStickLeftRight");
    EXPECT_TRUE(pad.raw_axes.has(0) && pad.raw_axes.values[0] == 0.5 && pad.raw_axes.values[1] == 0.25);
    EXPECT_EQ(pad.time, at(5));
    EXPECT_TRUE(desk.sampler.frame().has(DeviceKind::keyboard));
}

TEST(Polling, CountsNothingThatIsKnown) {
    Desk desk;
    Inlet& inlet = desk.timeline.desk();
    const InletCounters before = inlet.counters();
    for (int round = 1; round <= 60; ++round) {
        const Outcome w = inlet.set_level(KeyW, round >= 10 && round < 50, at(round));
        EXPECT_EQ(w == Outcome::unchanged, round != 10 && round != 50) << round;
        inlet.set_level(MouseLeft, round % 2 == 0, at(round));
    }
    EXPECT_EQ(inlet.counters().events, before.events + 2 + 60 - 1);
    EXPECT_EQ(inlet.counters().strays + inlet.counters().system_repeats, 0U);
    EXPECT_EQ(test::text(desk.sampler.advance(at(100))[KeyW].figures()), "blip 1100 40 40 rep3");
    inlet.lose_focus(at(110));
    EXPECT_EQ(inlet.set_level(KeyW, true, at(111)), Outcome::ignored);
    EXPECT_EQ(inlet.set_level(DeviceId{99}, KeyW, true, at(111)), Outcome::stray_device);
}

TEST(Polling, AWholeDeskAtOnce) {
    Timeline timeline;
    Inlet& desk = timeline.desk();
    Sampler sampler{timeline, {.start = at(0)}};
    EXPECT_EQ(desk.state({KeyW}, at(1)), Outcome::state_adopted) << "the first one finds what is down";
    EXPECT_EQ(desk.state({KeyS, MouseLeft}, at(2)), Outcome::state_taken);
    EXPECT_EQ(test::edges_text(sampler.advance(at(5))),
              "1 1 KeyW adopt; 2 1 KeyW release; 2 1 KeyS press; 2 2 MouseLeft press");
    EXPECT_EQ(desk_keyboard, DeviceId{1});
    EXPECT_TRUE(timeline.find_device(desk_mouse)->down.contains(MouseLeft));
}

// ---- seats that fill by themselves

TEST(SeatFilling, TakesPadsAsTheyConnectAndAdoptedButtonsWhereAsked) {
    Timeline timeline{{.desk_devices = false}};
    Inlet& desk = timeline.desk();
    Sampler sampler{timeline, {.start = at(0)}};
    Seats seats{2};
    seats.fill_with(DeviceKind::gamepad);
    desk.connect(DeviceId{3}, {.kind = DeviceKind::keyboard}, at(1));
    desk.connect(DeviceId{4}, {.kind = DeviceKind::gamepad}, at(2));
    seats.read(sampler.advance(at(3)));
    EXPECT_EQ(seats.seat_of(DeviceId{3}, KeyW), std::nullopt);
    seats.read(sampler.advance(at(4)));
    EXPECT_EQ(seats.seat_of(DeviceId{4}, PadSouth), 0U);
    for (const bool adopted : {false, true}) {
        Seats open{1};
        open.offer({.buttons = {PadSouth}, .adopted = adopted});
        const DeviceId late{adopted ? 6U : 5U};
        const Time now = sampler.frame().end() + Duration{1};
        desk.connect(late, {.kind = DeviceKind::gamepad}, now);
        desk.state(late, {PadSouth}, now);
        open.read(sampler.advance(now));
        open.read(sampler.advance(now + Duration{1}));
        EXPECT_EQ(open.seat_of(late, PadSouth).has_value(), adopted);
        EXPECT_FALSE(open[0][PadSouth].pressed());
    }
}

// ---- one tick for each picture

std::string text(const std::optional<Tick>& tick) {
    if (!tick) return "-";
    constexpr const char* gaps[] = {"", " paused", " stalled"};
    const auto ms = [](Time time) { return std::to_string(nanoseconds(time) / 1'000'000); };
    return ms(tick->gap_from) + " " + ms(tick->begin) + " " + ms(tick->end) + gaps[static_cast<int>(tick->gap)] + " " +
           std::to_string(std::lround(tick->step * 1000));
}

TEST(PictureClock, GivesOneBoundedTickForEachRound) {
    // Words: a time in milliseconds, pause, resume, half (slow motion).
    test::check_rows(R"(
as long as the pictures take : 16 20 20 100 : 0 0 16 16; 16 16 20 4; -; 20 20 100 80
the first one is bounded too : 4000 4010 : 0 3750 4000 stalled 250; 4000 4000 4010 10
a stall is a gap : 16 3016 3032 : 0 0 16 16; 16 2766 3016 stalled 250; 3016 3016 3032 16
a pause is skipped, and the round after it begins anew : 16 pause 40 60 resume 70 86 : 0 0 16 16; -; -; -; 16 70 86 paused 16
a stall behind a pause becomes the next one's gap : 16 pause 40 resume 70 3070 3086 : 0 0 16 16; -; -; 16 70 70 paused 0; 70 2836 3086 stalled 250
slow motion : half 16 1016 : 0 0 16 8; 16 516 1016 stalled 250
)",
                     [](const std::string& script) {
                         PictureClock clock{Time{}};
                         std::vector<std::string> ticks;
                         std::istringstream words{script};
                         for (std::string word; words >> word;) {
                             if (word == "pause" || word == "resume")
                                 clock.pause(word == "pause");
                             else if (word == "half")
                                 clock.scale(1, 2);
                             else
                                 ticks.push_back(text(clock.next(at(std::stoll(word) * 1'000'000))));
                         }
                         return ticks;
                     });
}

}  // namespace
