// Devices that are neither a plain keyboard, mouse nor gamepad; and other programs that take a device for a while.

#include <fcntl.h>
#include <gtest/gtest.h>
#include <linux/input.h>
#include <sys/ioctl.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <fstream>
#include <memory>
#include <string>
#include <utility>
#include <vector>

#include "cursorum/core/input_check.hpp"
#include "kernel/made_devices.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using namespace cursorum::kernel;

using CodeList = std::vector<std::pair<unsigned, unsigned>>;

CodeList with_letters(CodeList more) {
    for (unsigned code = KEY_ESC; code <= KEY_SPACE; ++code) more.emplace_back(EV_KEY, code);
    return more;
}

/// "gamepad", "mouse keyboard" …: what the made device is in the reader's timeline, all that is connected under its
/// name.
std::string kinds_of(Reader& reader, std::string_view name) {
    std::vector<std::string> kinds;
    for (std::size_t i = 0; i < reader.timeline.device_count(); ++i)
        if (const DeviceStatus device = reader.timeline.device(i); device.connected && device.name() == name)
            kinds.emplace_back(name_of(device.kind));
    std::sort(kinds.begin(), kinds.end());
    std::string text;
    for (const std::string& kind : kinds) text += (text.empty() ? "" : " ") + kind;
    return text;
}

TEST(OddDevices, AreReadAsWhatTheyAre) {
    const struct {
        const char* name;
        CodeList codes;
        std::pair<unsigned, unsigned> press;
        const char* kinds;
        const char* edges;
    } rows[] = {
        {"quay flight stick",
         {{EV_KEY, BTN_TRIGGER}, {EV_KEY, BTN_THUMB}, {EV_ABS, ABS_X}, {EV_ABS, ABS_Y}, {EV_ABS, ABS_THROTTLE}},
         {EV_KEY, BTN_TRIGGER},
         "gamepad",
         "PadExtra32:press PadExtra32:release"},
        {"quay wheel",
         {{EV_KEY, BTN_GEAR_DOWN}, {EV_KEY, BTN_GEAR_UP}, {EV_ABS, ABS_WHEEL}, {EV_ABS, ABS_GAS}},
         {EV_KEY, BTN_GEAR_UP},
         "gamepad",
         "PadExtra49:press PadExtra49:release"},
        {"quay number pad",
         {{EV_KEY, KEY_KP5}, {EV_KEY, KEY_KPENTER}},
         {EV_KEY, KEY_KP5},
         "keyboard",
         "Numpad5:press Numpad5:release"},
        {"quay media keys",
         {{EV_KEY, KEY_PLAYPAUSE}, {EV_KEY, KEY_VOLUMEUP}},
         {EV_KEY, KEY_PLAYPAUSE},
         "keyboard",
         "MediaPlayPause:press MediaPlayPause:release"},
        {"quay desk with a ball",
         with_letters({{EV_KEY, BTN_LEFT}, {EV_REL, REL_X}, {EV_REL, REL_Y}}),
         {EV_KEY, KEY_A},
         "keyboard mouse",
         "KeyA:press KeyA:release"},
    };
    for (const auto& row : rows) {
        Made made{row.name, row.codes};
        for (const bool is_named : {false, true}) {
            Reader reader{is_named ? EvdevSourceOptions{.nodes = {made.node()}} : EvdevSourceOptions{}};
            ASSERT_TRUE(reader.until([&](const Frame&) { return kinds_of(reader, row.name) == row.kinds; }))
                << row.name;
            made.send(row.press.first, row.press.second, 1).report();
            made.send(row.press.first, row.press.second, 0).report();
            ASSERT_TRUE(reader.until_edges(2)) << row.name;
            EXPECT_EQ(reader.text(), row.edges);
        }
    }
}

TEST(OddDevices, PedalsHaveAxesAlone) {
    Made pedals{"quay pedals", {{EV_ABS, ABS_THROTTLE}, {EV_ABS, ABS_RZ}}};
    Reader reader{{.nodes = {pedals.node()}}};
    ASSERT_TRUE(reader.until([&](const Frame& frame) { return frame.has(DeviceKind::gamepad); }));
    pedals.send(EV_ABS, ABS_THROTTLE, 255).send(EV_ABS, ABS_RZ, 1023).report();
    ASSERT_TRUE(reader.until([&](const Frame& frame) {
        return frame.raw_axis(PadAxisExtra1).now == 1 && frame.raw_axis(PadPullRight).now == 1;
    }));
}

TEST(OddDevices, AnAbsoluteMouseGivesPositions) {
    Made tablet{"quay tablet", {{EV_KEY, BTN_LEFT}, {EV_ABS, ABS_X}, {EV_ABS, ABS_Y}, {EV_REL, REL_WHEEL}}};
    Reader reader{{.nodes = {tablet.node()}, .screen = {1024, 512}}};
    ASSERT_TRUE(reader.until([&](const Frame& frame) { return frame.has(DeviceKind::mouse); }));
    const struct {
        int x, y;
        WindowPoint expected;
    } rows[] = {{0, 0, {512, 256}}, {-32768, 16384, {0, 384}}, {32767, -32768, {1023.984375, 0}}};
    for (const auto& row : rows) {
        tablet.send(EV_ABS, ABS_X, row.x).send(EV_ABS, ABS_Y, row.y).send(EV_KEY, BTN_LEFT, 1).report();
        tablet.send(EV_KEY, BTN_LEFT, 0).report();
        ASSERT_TRUE(reader.until([&](const Frame& frame) { return frame.pointer().position() == row.expected; }))
            << row.x << ' ' << row.y << " gave " << reader.sampler.frame().pointer().position().x << ' '
            << reader.sampler.frame().pointer().position().y;
    }
}

TEST(OddDevices, WhatIsNotReadIsListedWithItsReason) {
    Made pad{"quay touchpad",
             {{EV_KEY, BTN_LEFT}, {EV_KEY, BTN_TOUCH}, {EV_KEY, BTN_TOOL_FINGER}, {EV_ABS, ABS_X}, {EV_ABS, ABS_Y}}};
    Made pen{"quay tablet", {{EV_KEY, BTN_TOUCH}, {EV_KEY, BTN_TOOL_PEN}, {EV_ABS, ABS_X}, {EV_ABS, ABS_Y}}};
    Made lid{"quay lid", {{EV_SW, SW_LID}}};
    Reader reader;
    const auto listed = [&] {
        std::string all;
        for (const EvdevIgnored& one : reader.source->ignored())
            if (one.name.starts_with("quay")) all += one.name + ": " + one.why + "\n";
        return all;
    };
    reader.next();
    EXPECT_EQ(listed(),
              "quay touchpad: it is a touchpad\nquay tablet: it is a pen tablet\n"
              "quay lid: it has neither keys nor axes\n");
    EXPECT_EQ(reader.timeline.desk().counters().unread_devices, 2U);  // nobody plays with a lid
    InputCheck check;
    const char* const problem = check.next_problem(reader.timeline, reader.sampler);
    ASSERT_TRUE(problem);
    EXPECT_NE(std::string{problem}.find("EvdevSource::ignored()"), std::string::npos) << problem;
    Reader pads_alone{{.keyboards = false, .mice = false}};
    pads_alone.next();
    EXPECT_EQ(pads_alone.timeline.desk().counters().unread_devices, 0U) << "who asks for pads misses no touchpad";
    std::string error;
    EXPECT_FALSE(EvdevSource::open({.nodes = {pen.node()}}, error));
    EXPECT_EQ(error, pen.node() + ": it is a pen tablet, which is not read");
    pad.unplug();
    ASSERT_TRUE(reader.until([&](const Frame&) { return listed().find("touchpad") == std::string::npos; }));
    EXPECT_EQ(reader.timeline.desk().counters().unread_devices, 1U);
}

// Two fingers, one of which points; pressure; a palm; the focus goes while a finger is down; unplugging.
TEST(TouchScreen, FingersAreContacts) {
    Made screen{"quay screen",
                {{EV_KEY, BTN_TOUCH},
                 {EV_ABS, ABS_X},
                 {EV_ABS, ABS_Y},
                 {EV_ABS, ABS_MT_SLOT},
                 {EV_ABS, ABS_MT_TRACKING_ID},
                 {EV_ABS, ABS_MT_POSITION_X},
                 {EV_ABS, ABS_MT_POSITION_Y},
                 {EV_ABS, ABS_MT_PRESSURE},
                 {EV_ABS, ABS_MT_TOOL_TYPE}},
                {INPUT_PROP_DIRECT}};
    Reader reader{{.nodes = {screen.node()}, .first_contact_points = true, .screen = {1000, 500}}};
    ASSERT_TRUE(reader.until([&](const Frame&) { return kinds_of(reader, "quay screen") == "touch"; }));
    const auto down = [](const Frame& frame) {
        std::size_t count = 0;
        frame.for_each_contact([&](const ContactReading& it) { count += it.down; });
        return count;
    };
    screen.send(EV_ABS, ABS_MT_SLOT, 0).send(EV_ABS, ABS_MT_TRACKING_ID, 7).send(EV_KEY, BTN_TOUCH, 1);
    screen.send(EV_ABS, ABS_MT_POSITION_X, 500).send(EV_ABS, ABS_MT_POSITION_Y, 250);
    screen.send(EV_ABS, ABS_MT_PRESSURE, 50).report();
    ASSERT_TRUE(reader.until([&](const Frame& frame) { return down(frame) == 1; }));
    reader.sampler.frame().for_each_contact([](const ContactReading& it) {
        EXPECT_EQ(it.contact, 7U);
        EXPECT_EQ(it.position, (WindowPoint{500, 125}));
        EXPECT_DOUBLE_EQ(it.pressure, 0.5);
    });
    EXPECT_EQ(reader.text(), "MouseLeft:press");
    screen.send(EV_ABS, ABS_MT_SLOT, 1).send(EV_ABS, ABS_MT_TRACKING_ID, 8);
    screen.send(EV_ABS, ABS_MT_POSITION_X, 100).report();
    ASSERT_TRUE(reader.until([&](const Frame& frame) { return down(frame) == 2; }));
    screen.send(EV_ABS, ABS_MT_TOOL_TYPE, MT_TOOL_PALM).report();
    ASSERT_TRUE(reader.until([&](const Frame& frame) { return down(frame) == 1; }));
    screen.send(EV_ABS, ABS_MT_TRACKING_ID, -1).send(EV_ABS, ABS_MT_SLOT, 0).send(EV_ABS, ABS_MT_POSITION_X, 600);
    screen.report();
    ASSERT_TRUE(reader.until([](const Frame& frame) { return frame.pointer().position() == WindowPoint{600, 125}; }));
    reader.timeline.desk().lose_focus();
    ASSERT_TRUE(reader.until([&](const Frame& frame) { return down(frame) == 0 && !frame[MouseLeft].down(); }));
    reader.timeline.desk().gain_focus(unknown_state);
    screen.send(EV_ABS, ABS_MT_POSITION_X, 700).report();  // the same finger: it counts once it has been up
    screen.send(EV_ABS, ABS_MT_TRACKING_ID, -1).send(EV_KEY, BTN_TOUCH, 0).report();
    screen.send(EV_ABS, ABS_MT_TRACKING_ID, 9).send(EV_KEY, BTN_TOUCH, 1).report();
    ASSERT_TRUE(reader.until([&](const Frame& frame) { return down(frame) == 1; }));
    EXPECT_EQ(reader.text(), "MouseLeft:press MouseLeft:cancel MouseLeft:press");
    EXPECT_EQ(reader.timeline.desk().counters().strays, 0U);
    screen.unplug();
    ASSERT_TRUE(reader.until([&](const Frame& frame) { return down(frame) == 0 && frame.all_down().empty(); }));
}

TEST(SeveralNodes, OfOneKeyboardAreOneDevice) {
    const CodeList media_keys{{EV_KEY, KEY_PLAYPAUSE}, {EV_KEY, KEY_MUTE}};
    Made keys{"quay keyboard", with_letters({}), {}, "usb-0000:00:14.0-2/input0"};
    Made media{"quay keyboard media", media_keys, {}, "usb-0000:00:14.0-2/input1"};
    Made other{"quay remote", media_keys, {}, "usb-0000:00:14.0-3/input0"};
    Reader reader{{.mice = false}};
    ASSERT_TRUE(reader.until([&](const Frame&) { return kinds_of(reader, "quay remote") == "keyboard"; }));
    EXPECT_EQ(kinds_of(reader, "quay keyboard"), "keyboard");
    EXPECT_EQ(kinds_of(reader, "quay keyboard media"), "");
    const DeviceId id = reader.device_named("quay keyboard");
    EXPECT_TRUE(reader.timeline.find_device(id)->buttons.contains(MediaPlayPause));
    keys.send(EV_KEY, KEY_A, 1).report();
    media.send(EV_KEY, KEY_PLAYPAUSE, 1).report();
    ASSERT_TRUE(reader.until(
        [&](const Frame& frame) { return frame.on(id)[KeyA].down() && frame.on(id)[MediaPlayPause].down(); }));
    media.unplug();  // the other one stays
    ASSERT_TRUE(reader.until([&](const Frame& frame) { return !frame.on(id)[MediaPlayPause].down(); }));
    EXPECT_TRUE(reader.next().on(id)[KeyA].down());
    EXPECT_TRUE(reader.next().is_connected(id));
    Made again{"quay keyboard media", media_keys, {}, "usb-0000:00:14.0-2/input1"};
    again.send(EV_KEY, KEY_MUTE, 1).report();
    ASSERT_TRUE(reader.until([&](const Frame& frame) { return frame.on(id)[AudioVolumeMute].down(); }));
    keys.unplug();
    again.unplug();
    ASSERT_TRUE(reader.until([&](const Frame& frame) { return !frame.is_connected(id); }));
    EXPECT_TRUE(reader.next().all_down().empty());
}

/// A program that takes a device for itself.
class Grabber {
public:
    explicit Grabber(const std::string& node) : descriptor_{open(node.c_str(), O_RDONLY | O_NONBLOCK)} {
        EXPECT_EQ(ioctl(descriptor_, EVIOCGRAB, 1), 0);
    }
    ~Grabber() { close(descriptor_); }

private:
    int descriptor_;
};

TEST(Grab, OfAnotherProgramLeavesNothingStuck) {
    Made pad{"taken pad", pad_codes};
    Reader reader{{.nodes = {pad.node()}}};
    ASSERT_TRUE(reader.until([&](const Frame&) { return kinds_of(reader, "taken pad") == "gamepad"; }));
    pad.send(EV_KEY, BTN_SOUTH, 1).send(EV_ABS, ABS_X, 32767).report();
    ASSERT_TRUE(reader.until_edges(1));
    {
        const Grabber other{pad.node()};
        pad.send(EV_KEY, BTN_SOUTH, 0).send(EV_ABS, ABS_X, 0).report();
        ASSERT_TRUE(reader.until(
            [](const Frame& frame) { return !frame[PadSouth].down() && frame.raw_axis(PadStickLeftX).now == 0; }));
        pad.send(EV_KEY, BTN_EAST, 1).report();  // and is held on
        ASSERT_TRUE(reader.until([](const Frame& frame) { return frame[PadEast].down(); }));
    }
    pad.send(EV_KEY, BTN_EAST, 0).report();
    ASSERT_TRUE(reader.until_edges(4));
    EXPECT_EQ(reader.text(), "PadSouth:press PadSouth:cancel PadEast:adopt PadEast:release");
    EXPECT_EQ(reader.source->overflows(), 0U);
}

TEST(Grab, OfOurOwnIsTriedAgain) {
    Made pad{"wanted pad", pad_codes};
    auto other = std::make_unique<Grabber>(pad.node());
    Reader reader{{.keyboards = false, .mice = false, .grab = true}};
    ASSERT_EQ(reader.source->problems().size(), 1U);
    EXPECT_EQ(reader.source->problems()[0].why, "another program has grabbed it");
    Reader by_name{{.nodes = {pad.node()}, .grab = true}};
    ASSERT_EQ(by_name.source->problems().size(), 1U) << "that is no reason not to open it";
    by_name.source.reset();
    other.reset();
    ASSERT_TRUE(reader.until([&](const Frame&) { return reader.source->problems().empty(); }));
    const int third = open(pad.node().c_str(), O_RDONLY | O_NONBLOCK);
    EXPECT_NE(ioctl(third, EVIOCGRAB, 1), 0) << "it is not ours";
    close(third);
}

TEST(Room, ADeviceTooManyIsTakenWhenAnotherWent) {
    std::vector<std::unique_ptr<Made>> pads;
    for (const char* name : {"pad one", "pad two", "pad three"})
        pads.push_back(std::make_unique<Made>(name, pad_codes));
    Reader reader{{.keyboards = false, .mice = false}, 2};
    reader.next();
    ASSERT_EQ(reader.source->problems().size(), 1U);
    EXPECT_EQ(reader.source->problems()[0].node, pads[2]->node());
    EXPECT_EQ(reader.source->problems()[0].why, "the timeline has room for no more devices");
    EXPECT_EQ(kinds_of(reader, "pad three"), "");
    pads[2]->send(EV_KEY, BTN_SOUTH, 1).report();
    const DeviceId place = reader.device_named("pad one");
    pads[0]->unplug();
    ASSERT_TRUE(reader.until([&](const Frame&) { return kinds_of(reader, "pad three") == "gamepad"; }));
    EXPECT_EQ(reader.device_named("pad three"), place);
    ASSERT_TRUE(reader.until([](const Frame& frame) { return frame[PadSouth].down(); }));
    EXPECT_EQ(reader.text(), "PadSouth:adopt");
    EXPECT_TRUE(reader.source->problems().empty());
}

TEST(Folder, WhatCameWhileTheKernelGaveUpTellingIsFound) {
    const auto set_queue = [](int length) { std::ofstream{"/proc/sys/fs/inotify/max_queued_events"} << length; };
    set_queue(1);
    Reader reader{{.keyboards = false, .mice = false}, 32};
    set_queue(16384);
    std::vector<std::unique_ptr<Made>> pads;
    for (int i = 0; i < 12; ++i) {
        pads.push_back(std::make_unique<Made>("pad of many", pad_codes));
        for (const auto& pad : pads) chmod(pad->node().c_str(), i % 2 == 0 ? 0640 : 0644);
    }
    EXPECT_TRUE(reader.until([&](const Frame& frame) { return frame.count_of(DeviceKind::gamepad) == pads.size(); }))
        << reader.sampler.frame().count_of(DeviceKind::gamepad);
}

}  // namespace
