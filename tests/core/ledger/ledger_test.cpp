// What an inlet's ledger keeps: each event as it was posted, whatever the rules made of it, as a line of text.
#include "core/ledger/ledger.hpp"

#include <gtest/gtest.h>

#include <string>
#include <vector>

#include "core/frame/frame_levels.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"
#include "cursorum/core/timeline.hpp"

namespace {

using namespace cursorum;
using detail::Ledger;
using detail::LedgerEvent;

Time at(std::int64_t time) { return Time{Duration{time}}; }

std::string text_of(const ButtonSet& buttons) {
    std::string text = "{";
    buttons.for_each([&](Button button) { text += (text.size() == 1 ? "" : " ") + std::string{name_of(button)}; });
    return text + "}";
}

std::string number(double value) {
    char digits[32];
    std::snprintf(digits, sizeof digits, "%.17g", value);
    return digits;
}

std::string text_of(const LedgerEvent& it) {
    const Event& event = it.event;
    std::string text = std::to_string(nanoseconds(event.time)) + ' ' + std::string{name_of(event.type)};
    if (event.device != DeviceId{}) text += '@' + std::to_string(static_cast<std::uint32_t>(event.device));
    const auto add = [&](const std::string& more) { text += ' ' + more; };
    switch (event.type) {
        case EventType::button:
            add(it.is_nameless ? "?" : std::string{name_of(event.control)});
            add(event.down ? event.system_repeat ? "again" : "down" : "up");
            break;
        case EventType::axis: add(std::string{name_of(event.axis)} + '=' + number(event.value)); break;
        case EventType::motion:
        case EventType::wheel:
            if (event.has_motion || event.type == EventType::wheel)
                add("by " + number(event.dx) + ',' + number(event.dy));
            if (event.has_position) add("to " + number(event.x) + ',' + number(event.y));
            if (event.has_raw) add("raw " + number(event.raw_dx) + ',' + number(event.raw_dy));
            if (event.warp) add("warp");
            break;
        case EventType::state:
            if (event.has_down_set) add(text_of(event.down_set));
            for (std::uint8_t i = 0; i < axis_kinds; ++i)
                if (event.axes.has(i)) add(std::string{name_of(Axis{i})} + '=' + number(event.axes.values[i]));
            if (event.adopt) add("adopt");
            break;
        case EventType::focus: add(event.focused ? "gained" : "lost"); break;
        case EventType::pointer:
            if (event.has_inside) add(event.inside ? "inside" : "outside");
            if (event.has_cursor)
                add("cursor " + std::to_string(static_cast<int>(event.cursor_state.hold)) +
                    (event.cursor_state.hidden ? " hidden" : ""));
            break;
        case EventType::contact:
            add(std::to_string(event.contact) + ' ' + std::string{name_of(event.phase)} + ' ' + number(event.x) + ',' +
                number(event.y) + ' ' + number(event.value));
            break;
        case EventType::locks: add(text_of(event.down_set)); break;
        case EventType::shaping: add(number(event.shaping.thresholds.press)); break;
        case EventType::connect: {
            const DeviceInfo& info = event.info;
            add(std::string{name_of(info.kind)} + " \"" + std::string{info.name} + "\" " + std::to_string(info.vendor) +
                ':' + std::to_string(info.product) + ' ' + text_of(info.buttons) + ' ' + std::to_string(info.axes));
            for (const auto& [is_so, what] :
                 {std::pair{info.marks_repeats, "marks"}, std::pair{info.background, "back"},
                  std::pair{info.is_virtual, "virtual"}, std::pair{info.first_contact_points, "points"}})
                if (is_so) add(what);
            break;
        }
        default: break;
    }
    return text;
}

std::vector<std::string> lines_of(const Ledger& ledger) {
    std::vector<std::string> lines;
    LedgerEvent event;
    for (std::uint64_t position = 0; position != ledger.end(); position = ledger.glance(position).next) {
        EXPECT_TRUE(ledger.read(position, event));
        lines.push_back(text_of(event));
    }
    return lines;
}

TEST(Ledger, KeepsEachEventAsItWasPosted) {
    Timeline timeline{{.ledger = 1}};
    Inlet& desk = timeline.desk();
    Ledger& ledger = *detail::ledger_of(timeline, 0);
    ledger.keep({controls::KeyW, controls::Space, controls::MouseLeft, controls::PadSouth});
    constexpr DeviceId pad{7}, unknown{9};
    DeviceShaping shaping;
    shaping.thresholds = {.press = 0.75, .release = 0.25};
    AxisValues axes;
    axes.set(controls::PadPullLeft, 0.1);
    Event locks = Event::of(at(31), EventType::locks, {});
    locks.down_set = {controls::CapsLock};
    Event raw = Event::motion(at(14), desk_mouse, {0.1, 2});
    raw.has_raw = true, raw.raw_dx = 3, raw.raw_dy = 4;

    desk.button(controls::KeyW, true, at(1));
    desk.system_repeat(controls::KeyW, at(2));
    desk.button(controls::KeyQ, true, at(3));
    desk.button(unknown, controls::Space, true, at(4));
    desk.connect(pad,
                 {.kind = DeviceKind::gamepad,
                  .name = "left pad",
                  .background = true,
                  .vendor = 7,
                  .product = 8,
                  .buttons = {controls::PadSouth},
                  .axes = 5},
                 at(5));
    desk.axis(pad, controls::PadStickLeftX, 0.1, at(6));
    desk.stick(pad, controls::PadStickRight, 0.5, 2, at(7));
    desk.state(pad, ButtonSet{controls::PadSouth, controls::KeyQ}, axes, at(8));
    desk.state(pad, ButtonSet{}, axes, at(9));
    desk.state(pad, ButtonSet{}, at(10), true);
    desk.motion(1, -2.5, at(11));
    desk.moved_to(WindowPoint{10, 20}, at(12));
    desk.moved_to(WindowPoint{13, 24}, at(13));
    desk.post(raw);
    desk.warped_to(desk_mouse, WindowPoint{1, 1}, at(15));
    desk.wheel(0, 0.1, at(16));
    const MotionSample samples[] = {{at(17), 1, 0}, {at(18), 2, 0}};
    desk.motions(desk_mouse, samples);
    desk.pointer_inside(desk_mouse, false, at(19));
    desk.cursor(desk_mouse, {CursorHold::locked, true}, at(20));
    desk.contact(pad, 3, ContactPhase::begin, 0.5, 0.25, 1, at(21));
    desk.set_shaping(pad, shaping, at(22));
    desk.lose_focus(at(23));
    desk.button(controls::Space, true, at(24));
    desk.gain_focus(ButtonSet{controls::KeyW}, at(25));
    desk.state(pad, ButtonSet{}, axes, at(26));
    desk.interrupt(ButtonSet{}, at(28));
    desk.disconnect(pad, at(29));
    desk.connect(DeviceId{8}, {.kind = DeviceKind::gamepad}, at(30));
    desk.state(DeviceId{8}, ButtonSet{}, at(30));
    desk.state(DeviceId{8}, ButtonSet{controls::PadSouth}, axes, at(30));  // its buttons are known, its axes are not
    desk.button(controls::KeyW, false, at(5));                             // late
    desk.post(locks);
    desk.post(Event::typed(at(32), "secret"));
    const std::vector<std::string> expected{"1 button@1 KeyW down",
                                            "2 button@1 KeyW again",
                                            "3 button@1 ? down",
                                            "4 button@9 Space down",
                                            "5 connect@7 gamepad \"left pad\" 7:8 {PadSouth} 5 back",
                                            "6 axis@7 PadStickLeftX=0.10000000000000001",
                                            "7 axis@7 PadStickRightX=0.5",
                                            "7 axis@7 PadStickRightY=2",
                                            "8 state@7 {PadSouth} PadPullLeft=0.10000000000000001 adopt",
                                            "9 state@7 {} PadPullLeft=0.10000000000000001",
                                            "10 state@7 {} adopt",
                                            "11 motion@2 by 1,-2.5",
                                            "12 motion@2 by 0,0 to 10,20",
                                            "13 motion@2 by 3,4 to 13,24",
                                            "14 motion@2 by 0.10000000000000001,2 raw 3,4",
                                            "15 motion@2 to 1,1 warp",
                                            "16 wheel@2 by 0,0.10000000000000001",
                                            "17 motion@2 by 1,0",
                                            "18 motion@2 by 2,0",
                                            "19 pointer@2 outside",
                                            "20 pointer@2 cursor 2 hidden",
                                            "21 contact@7 3 begin 0.5,0.25 1",
                                            "22 shaping@7 0.75",
                                            "23 focus lost",
                                            "24 button@1 Space down",
                                            "25 focus gained",
                                            "25 state@1 {KeyW} adopt",
                                            "25 state@2 {} adopt",
                                            "26 state@7 {} PadPullLeft=0.10000000000000001",
                                            "28 interrupt",
                                            "28 state@1 {} adopt",
                                            "28 state@2 {} adopt",
                                            "29 disconnect@7",
                                            "30 connect@8 gamepad \"\" 0:0 {} 0",
                                            "30 state@8 {} adopt",
                                            "30 state@8 {PadSouth}",
                                            "30 state@8 PadPullLeft=0.10000000000000001 adopt",
                                            "5 button@1 KeyW up",
                                            "31 locks {CapsLock}"};
    EXPECT_EQ(lines_of(ledger), expected);

    // Names can be taken away later.
    ledger.take_names(0, {controls::KeyW});
    ledger.take_names(4, {controls::Space});
    EXPECT_EQ(lines_of(ledger)[0], "1 button@1 ? down");
    EXPECT_EQ(lines_of(ledger)[2], expected[2]);
}

TEST(Ledger, SaysWhereAFrameEnded) {
    Timeline timeline{{.inlets = 2, .ledger = 1}};
    Sampler sampler{timeline, {.start = at(0)}};
    timeline.desk().motion(1, 1, at(1));
    timeline.inlet(1).lose_focus(at(2));
    const Frame& frame = sampler.advance(at(10));
    timeline.desk().motion(1, 1, at(11));
    EXPECT_EQ(detail::ledger_end_of(frame, 0), 3U);
    EXPECT_EQ(detail::ledger_end_of(frame, 1), 2U);
    EXPECT_EQ(detail::ledger_of(timeline, 0)->end(), 6U);
    const Timeline without;
    EXPECT_EQ(detail::ledger_of(without, 0), nullptr);
}

// A ledger is bounded, and says what it has no longer.
TEST(Ledger, OverwritesTheOldest) {
    Timeline timeline{{.ledger = 1U << 14}};
    const Ledger& ledger = *detail::ledger_of(timeline, 0);
    LedgerEvent event;
    for (int i = 0; i < 5000; ++i) timeline.desk().button(controls::KeyW, i % 2 == 0, at(i + 1));
    EXPECT_EQ(ledger.end(), 10'000U);
    EXPECT_FALSE(ledger.still_has(0));
    EXPECT_FALSE(ledger.read(0, event));
    EXPECT_FALSE(ledger.read(10'000 - 2050, event));
    EXPECT_TRUE(ledger.read(10'000 - 2048, event));
}

}  // namespace
