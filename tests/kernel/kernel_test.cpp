// Event devices of a real kernel: a USB keyboard whose keys QEMU presses, and pads and mice that the test makes by
// uinput. Runs as root in a machine of its own, see boot.py. Each case compares frames with what was done.

#include <fcntl.h>
#include <gtest/gtest.h>
#include <libevdev/libevdev-uinput.h>
#include <libevdev/libevdev.h>
#include <linux/uinput.h>
#include <poll.h>
#include <sys/ioctl.h>
#include <sys/stat.h>
#include <unistd.h>

#include <array>
#include <atomic>
#include <chrono>
#include <cstdio>
#include <functional>
#include <memory>
#include <string>
#include <thread>
#include <vector>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/rumble.hpp"
#include "cursorum/core/sampler.hpp"
#include "cursorum/sources/evdev_source.hpp"
#include "cursorum/sources/hid_source.hpp"
#include "kernel/made_devices.hpp"
#include "support/script.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using namespace cursorum::kernel;

/// Asks the machine's owner; see boot.py.
void monitor(const std::string& command) {
    std::printf("@qmp %s\n", command.c_str());
    std::fflush(stdout);
}
void key(const char* name, bool down) {
    monitor(std::string{R"({"execute":"input-send-event","arguments":{"events":[{"type":"key","data":{"down":)"} +
            (down ? "true" : "false") + R"(,"key":{"type":"qcode","data":")" + name + R"("}}}]}})");
}

TEST(UsbKeyboard, RepeatsUnplugsAndComesBack) {
    Reader reader;
    ASSERT_TRUE(
        reader.until([&](const Frame&) { return reader.device_named("QEMU QEMU USB Keyboard") != DeviceId{}; }));
    // What is typed while the machine still sets the keyboard up is lost in it.
    for (int i = 0; i < 20 && reader.edges.size() < 2; ++i) {
        key("z", true);
        key("z", false);
        reader.until([&](const Frame&) { return reader.edges.size() >= 2; }, std::chrono::seconds{1});
    }
    ASSERT_GE(reader.edges.size(), 2U) << "the keyboard does not work";
    reader.next();
    reader.edges.clear();
    const Time before = Clock::now();
    key("a", true);
    ASSERT_TRUE(reader.until([&](const Frame&) { return reader.repeats >= 3; }))
        << "held until the kernel repeats it: " << reader.text() << ", " << reader.repeats;
    EXPECT_EQ(reader.text(), "KeyA:press");
    EXPECT_GE(reader.edges[0].time, before);
    key("b", true);
    key("b", false);
    key("a", false);
    ASSERT_TRUE(reader.until_edges(4));
    EXPECT_EQ(reader.text(), "KeyA:press KeyB:press KeyB:release KeyA:release");
    for (std::size_t i = 1; i < reader.edges.size(); ++i) EXPECT_GE(reader.edges[i].time, reader.edges[i - 1].time);
    key("a", true);
    ASSERT_TRUE(reader.until_edges(5));
    const DeviceId id = reader.edges[4].device;
    monitor(R"({"execute":"device_del","arguments":{"id":"kbd"}})");
    ASSERT_TRUE(reader.until([&](const Frame& frame) { return !frame.is_connected(id); }));
    EXPECT_FALSE(reader.sampler.frame()[KeyA].down()) << "whether the kernel's release was read or not";
    monitor(R"({"execute":"device_add","arguments":{"driver":"usb-kbd","id":"kbd"}})");
    ASSERT_TRUE(reader.until([&](const Frame& frame) { return frame.is_connected(id); }))
        << "its number is its own again";
    const std::size_t count = reader.edges.size();
    for (int i = 0; i < 20 && reader.edges.size() < count + 2; ++i) {
        key("c", true);
        key("c", false);
        reader.until([&](const Frame&) { return reader.edges.size() >= count + 2; }, std::chrono::seconds{1});
    }
    ASSERT_GE(reader.edges.size(), count + 2);
    EXPECT_TRUE(reader.edges[count].button == KeyC && reader.edges[count].kind == EdgeKind::press);
    EXPECT_EQ(reader.timeline.desk().counters().strays, 0U);
}

TEST(Pad, SticksTriggersHatAndButtonsBeyondTheSpecification) {
    Made pad{"west pad", pad_codes};
    Reader reader{{.nodes = {pad.node()}}};
    ASSERT_TRUE(reader.until([&](const Frame& frame) { return frame.has(DeviceKind::gamepad); }));
    const auto info = reader.timeline.find_device(reader.device_named("west pad"));
    ASSERT_TRUE(info);
    EXPECT_EQ(info->vendor, 0xFFF1);
    EXPECT_EQ(info->axes, 0x7F);
    EXPECT_TRUE(info->buttons.contains(PadSouth) && info->buttons.contains(PadHatUp));
    pad.send(EV_KEY, BTN_SOUTH, 1).send(EV_ABS, ABS_X, 32767).send(EV_ABS, ABS_Z, 1023).report();
    pad.send(EV_ABS, ABS_HAT0X, -1).send(EV_KEY, BTN_C, 1).report();
    pad.send(EV_ABS, ABS_HAT0X, 1).report();
    ASSERT_TRUE(reader.until_edges(5));
    EXPECT_EQ(reader.text(), "PadSouth:press PadHatLeft:press PadExtra1:press PadHatLeft:release PadHatRight:press");
    const Frame& frame = reader.next();
    EXPECT_EQ(frame.raw_axis(PadStickLeftX).now, 1);
    EXPECT_EQ(frame.raw_axis(PadPullLeft).now, 1);
    pad.send(EV_ABS, ABS_X, -32768).send(EV_ABS, ABS_Z, 0).report();
    ASSERT_TRUE(reader.until(
        [](const Frame& f) { return f.raw_axis(PadStickLeftX).now == -1 && f.raw_axis(PadPullLeft).now == 0; }));
    pad.send(EV_ABS, ABS_X, 0).report();
    ASSERT_TRUE(reader.until([](const Frame& f) { return f.raw_axis(PadStickLeftX).now == 0; }));
    pad.send(EV_ABS, ABS_THROTTLE, 255).report();
    ASSERT_TRUE(reader.until([](const Frame& f) { return f.raw_axis(PadAxisExtra1).now == 1; }));
    pad.send(EV_ABS, ABS_THROTTLE, 128).report();
    ASSERT_TRUE(reader.until([](const Frame& f) { return f.raw_axis(PadAxisExtra1).now == 0; }));
    pad.send(EV_ABS, ABS_Y, 20000).report();
    ASSERT_TRUE(reader.until([](const Frame& f) { return f.raw_axis(PadStickLeftY).now > 0.5; }));
    reader.edges.clear();
    pad.unplug();
    ASSERT_TRUE(
        reader.until([](const Frame& f) { return f.raw_axis(PadStickLeftY).now == 0 && !f.has(DeviceKind::gamepad); }));
    EXPECT_TRUE(reader.next().all_down().empty());
}

TEST(Pad, ThatIsPluggedInLaterIsFoundAndComesBackToItsPlace) {
    Reader reader{{.keyboards = false, .mice = false}};
    Made pad{"late pad", pad_codes};
    ASSERT_TRUE(reader.until([&](const Frame& frame) { return frame.has(DeviceKind::gamepad); }));
    const DeviceId id = reader.device_named("late pad");
    pad.send(EV_KEY, BTN_EAST, 1).report();
    ASSERT_TRUE(reader.until_edges(1));
    pad.unplug();
    ASSERT_TRUE(reader.until([&](const Frame& frame) { return !frame.is_connected(id); }));
    Made again{"late pad", pad_codes};
    ASSERT_TRUE(reader.until([&](const Frame& frame) { return frame.is_connected(id); }));
    EXPECT_FALSE(reader.next()[PadEast].down());
}

TEST(Pad, WhatIsHeldWhenFocusComesBackIsAdopted) {
    Made pad{"held pad", pad_codes};
    Reader reader{{.nodes = {pad.node()}}};
    Timeline of_window;
    Inlet &window = of_window.desk(), &inlet = reader.timeline.desk();
    pad.send(EV_KEY, BTN_SOUTH, 1).send(EV_ABS, ABS_X, 32767).report();
    ASSERT_TRUE(reader.until([](const Frame& frame) { return frame[PadSouth].down(); }));
    reader.edges.clear();
    for (const bool focused : {false, true}) {
        focused ? window.gain_focus(unknown_state) : window.lose_focus();
        reader.source->deliver(inlet, window);
        ASSERT_TRUE(reader.until([&](const Frame& frame) {
            return frame[PadSouth].down() == focused && frame.raw_axis(PadStickLeftX).now == (focused ? 1 : 0);
        }));
    }
    EXPECT_EQ(reader.text(), "PadSouth:cancel PadSouth:adopt");
}

TEST(Pad, WhosePermissionsComeLateIsOpenedThen) {
    Made pad{"shy pad", pad_codes};
    ASSERT_EQ(chmod(pad.node().c_str(), 0), 0);
    ASSERT_EQ(setegid(65534), 0);
    ASSERT_EQ(seteuid(65534), 0);
    Reader reader{{.keyboards = false, .mice = false}};
    ASSERT_EQ(seteuid(0), 0);
    ASSERT_EQ(setegid(0), 0);
    const auto problem = [&] {
        for (const EvdevProblem& one : reader.source->problems())
            if (one.node == pad.node()) return one.why + "; " + one.hint;
        return std::string{};
    };
    EXPECT_EQ(problem(),
              "Permission denied; only the superuser may read it; docs/live-sources.md has a rule that opens gamepads "
              "to whoever "
              "sits at the machine");
    ASSERT_EQ(chmod(pad.node().c_str(), 0666), 0);
    ASSERT_TRUE(reader.until([&](const Frame& frame) { return frame.has(DeviceKind::gamepad); }));
    EXPECT_EQ(problem(), "");
}

TEST(Mouse, MovesAndItsWheelTurnsInFractions) {
    Made mouse{"quay mouse",
               {{EV_REL, REL_X},
                {EV_REL, REL_Y},
                {EV_REL, REL_WHEEL},
                {EV_REL, REL_WHEEL_HI_RES},
                {EV_KEY, BTN_LEFT},
                {EV_KEY, BTN_SIDE}}};
    Reader reader{{.nodes = {mouse.node()}}};
    ASSERT_TRUE(reader.until([&](const Frame& frame) { return frame.has(DeviceKind::mouse); }));
    Distance moved, wheel;
    mouse.send(EV_REL, REL_X, 5).send(EV_REL, REL_Y, -3).report();
    mouse.send(EV_REL, REL_WHEEL_HI_RES, 60).report();
    mouse.send(EV_REL, REL_WHEEL_HI_RES, 60).send(EV_REL, REL_WHEEL, 1).report();
    mouse.send(EV_KEY, BTN_LEFT, 1).report();
    mouse.send(EV_KEY, BTN_SIDE, 1).report();
    ASSERT_TRUE(reader.until([&](const Frame& frame) {
        moved.x += frame.pointer().motion().x, moved.y += frame.pointer().motion().y;
        wheel.y += frame.pointer().wheel().y;
        return reader.edges.size() >= 2;
    }));
    EXPECT_EQ(moved, (Distance{5, -3}));
    EXPECT_EQ(wheel.y, 1);
    EXPECT_EQ(reader.text(), "MouseLeft:press MouseBack:press");
}

TEST(SlowReader, IsHealedWhenTheKernelsBufferOverflowed) {
    Made pad{"busy pad", pad_codes};
    Reader reader{{.nodes = {pad.node()}}};
    ASSERT_TRUE(reader.until([&](const Frame& frame) { return frame.has(DeviceKind::gamepad); }));
    pad.send(EV_KEY, BTN_EAST, 1).report();
    ASSERT_TRUE(reader.until_edges(1));
    std::vector<std::array<int, 3>> events{{EV_KEY, BTN_EAST, 0}, {EV_SYN, SYN_REPORT, 0}};
    for (int i = 0; i < 3000; ++i) {
        events.push_back({EV_ABS, ABS_X, i % 2 == 0 ? 10000 + i : -10000 - i});
        events.push_back({EV_SYN, SYN_REPORT, 0});
    }
    events.push_back({EV_KEY, BTN_SOUTH, 1});
    events.push_back({EV_SYN, SYN_REPORT, 0});
    pad.burst(events);
    ASSERT_TRUE(reader.until([](const Frame& frame) { return frame[PadSouth].down(); }));
    EXPECT_GE(reader.source->overflows(), 1U);
    EXPECT_FALSE(reader.sampler.frame()[PadEast].down());
    EXPECT_LE(reader.sampler.frame()[PadSouth].press_count(), 1U) << "found down and adopted, or read after all";
    EXPECT_LT(reader.sampler.frame().raw_axis(PadStickLeftX).now, -0.3);
    EXPECT_EQ(reader.timeline.desk().counters().strays, 0U);
}

/// A pad that can rumble: by uinput itself, because its maker has to answer each effect that is uploaded.
class RumblingPad {
public:
    RumblingPad() : descriptor_{open("/dev/uinput", O_RDWR | O_NONBLOCK | O_CLOEXEC)} {
        ioctl(descriptor_, UI_SET_EVBIT, EV_KEY), ioctl(descriptor_, UI_SET_KEYBIT, BTN_SOUTH);
        ioctl(descriptor_, UI_SET_EVBIT, EV_FF), ioctl(descriptor_, UI_SET_FFBIT, FF_RUMBLE);
        uinput_setup setup{};
        std::snprintf(setup.name, sizeof setup.name, "rumbling pad");
        setup.ff_effects_max = 4;
        ioctl(descriptor_, UI_DEV_SETUP, &setup), ioctl(descriptor_, UI_DEV_CREATE);
        answers_ = std::jthread{[this](std::stop_token stop) { answer(stop); }};
    }
    ~RumblingPad() {
        answers_ = {};
        close(descriptor_);
    }
    std::atomic<int> strong{-1}, weak{-1}, length{-1}, played{0}, stopped{0};

private:
    void answer(std::stop_token stop) {
        while (!stop.stop_requested()) {
            input_event event{};
            if (read(descriptor_, &event, sizeof event) != sizeof event) {
                pollfd waiting{descriptor_, POLLIN, 0};
                poll(&waiting, 1, 5);
            } else if (event.type == EV_UINPUT && event.code == UI_FF_UPLOAD) {
                uinput_ff_upload upload{};
                upload.request_id = static_cast<std::uint32_t>(event.value);
                ioctl(descriptor_, UI_BEGIN_FF_UPLOAD, &upload);
                strong = upload.effect.u.rumble.strong_magnitude, weak = upload.effect.u.rumble.weak_magnitude;
                length = upload.effect.replay.length;
                ioctl(descriptor_, UI_END_FF_UPLOAD, &upload);
            } else if (event.type == EV_UINPUT && event.code == UI_FF_ERASE) {
                uinput_ff_erase erase{};
                erase.request_id = static_cast<std::uint32_t>(event.value);
                ioctl(descriptor_, UI_BEGIN_FF_ERASE, &erase);
                ioctl(descriptor_, UI_END_FF_ERASE, &erase);
            } else if (event.type == EV_FF && event.code < 16) {
                ++(event.value != 0 ? played : stopped);
            }
        }
    }
    int descriptor_;
    std::jthread answers_;
};

TEST(Pad, RumblesAndStopsOnFocusLoss) {
    RumblingPad pad;
    Reader reader{{.keyboards = false, .mice = false}};
    ASSERT_TRUE(reader.until([&](const Frame&) { return reader.device_named("rumbling pad") != DeviceId{}; }));
    const DeviceId id = reader.device_named("rumbling pad");
    Rumble rumble;
    RumbleCarrier carrier{rumble, reader.timeline.desk(), *reader.source};
    rumble.ask({id, 1, 0.5, std::chrono::milliseconds{300}});
    EXPECT_EQ(carrier.carry_out(Clock::now()), 1U);
    ASSERT_TRUE(reader.until([&](const Frame&) { return pad.played == 1; }));
    EXPECT_EQ(pad.strong, 65535);
    EXPECT_EQ(pad.weak, 32768);
    EXPECT_EQ(pad.length, 300);
    reader.timeline.desk().lose_focus();
    EXPECT_EQ(carrier.carry_out(Clock::now()), 1U);
    ASSERT_TRUE(reader.until([&](const Frame&) { return pad.stopped == 1; }));
    EXPECT_EQ(rumble.counters().unable, 0U);
    EXPECT_FALSE(reader.source->try_rumble({DeviceId{999}, 1, 1, Duration{1}}, Time{}));
}

TEST(UsbKeyboard, AsRawReportsToo) {
    std::string error;
    std::unique_ptr<HidSource> source;
    for (int i = 0; i < 8 && !source; ++i)  // its number may have changed when it was plugged in again
        source = HidSource::open({.path = "/dev/hidraw" + std::to_string(i)}, error);
    ASSERT_TRUE(source) << error;
    Timeline timeline{{.desk_devices = false}};
    Sampler sampler{timeline, {.start = Time{}}};
    std::string edges;
    const auto until = [&](std::string_view expected) {
        const auto end = std::chrono::steady_clock::now() + std::chrono::seconds{20};
        while (edges != expected && std::chrono::steady_clock::now() < end) {
            for (const Edge edge :
                 sampler.advance(std::max(source->deliver(timeline.desk()), timeline.desk().latest())).edges())
                edges += std::string{name_of(edge.button)} + ":" + std::string{name_of(edge.kind)} + " ";
            poll(nullptr, 0, 1);
        }
        return edges == expected;
    };
    source->deliver(timeline.desk());  // asks the keyboard what is down, before it has anything to say
    key("d", true);
    key("d", false);
    EXPECT_TRUE(until("KeyD:press KeyD:release ")) << edges;
}

// At 60 and fewer pictures a second, the kernel's buffers would overflow many times.
TEST(OwnThread, LosesNothingBetweenTwoPictures) {
    Made pad{"fast pad", pad_codes};
    Timeline timeline{{.inlets = 2}};
    Sampler sampler{timeline, {.start = Time{}}};
    std::string error;
    const auto source = EvdevSource::open({.nodes = {pad.node()}}, error);
    ASSERT_TRUE(source) << error;
    source->deliver(timeline.inlet(1));
    constexpr unsigned taps = 400;
    unsigned presses = 0;
    for (unsigned picture = 0; picture < 20; ++picture) {
        for (unsigned i = 0; i < taps / 20; ++i) {
            // Eight events a tap; a thread that has something to read gets its turn meanwhile.
            for (const int down : {1, 0}) {
                pad.send(EV_ABS, ABS_X, static_cast<int>(i))
                    .send(EV_ABS, ABS_Y, down)
                    .send(EV_KEY, BTN_SOUTH, down)
                    .report();
                poll(nullptr, 0, 1);
            }
        }
        presses += sampler.advance(source->deliver(timeline.inlet(1)))[PadSouth].press_count();
    }
    EXPECT_EQ(presses, taps);
    EXPECT_EQ(source->overflows(), 0U);
    EXPECT_EQ(sampler.counters().late, 0U);
}

}  // namespace
