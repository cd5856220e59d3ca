// Keys, mice and pads that are polled.

#include <gtest/gtest.h>

#include <array>
#include <cmath>
#include <span>

#include "core/random_events.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/polled_state.hpp"
#include "cursorum/core/sampler.hpp"
#include "support/pads.hpp"
#include "support/script.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using test::at;
using test::edges_text;
using test::pad;
using test::Pads;
using test::Random;
using test::text;

TEST(PolledStates, HealAndDoubleNothingBesideEvents) {
    Pads p;
    PolledPad state;
    state.down = {PadSouth};
    state.left = {1, 0};
    EXPECT_EQ(post(p.inlet, pad, PolledPad{}, at(1)), Outcome::state_adopted);
    p.inlet.button(pad, PadSouth, true, at(5));  // the event, and then the poll that says the same
    EXPECT_EQ(post(p.inlet, pad, state, at(6)), Outcome::state_taken);
    EXPECT_EQ(text(p.cut(10)[PadSouth].figures()), "press 1000 5 5");
    EXPECT_EQ(text(p.sampler.frame()[PadStickLeftRight].figures()), "press 1000 4 4");
    state.down = {PadNorth};
    post(p.inlet, pad, state, at(15));  // the release was never reported
    EXPECT_EQ(edges_text(p.cut(20)), "15 3 PadSouth release; 15 3 PadNorth press");
    PolledMouse mouse{.down = {MouseLeft}, .x = 10, .y = 10};
    post(p.inlet, DeviceId{2}, mouse, at(25));
    mouse = {.down = {}, .x = 14, .y = 7};
    post(p.inlet, DeviceId{2}, mouse, at(26));
    const Frame& frame = p.cut(30);
    EXPECT_EQ(frame.pointer().motion(), (Distance{4, -3}));
    EXPECT_EQ(text(frame[MouseLeft].figures()), "blip 0110 1 1") << "the mouse's first state is adopted";
}

TEST(PolledStates, KeysFromBitsAndBytesByAnyNumbering) {
    for (unsigned seed = 1; seed < 300; ++seed) {
        std::array<std::uint8_t, 256> bytes{};
        std::array<std::uint8_t, 32> bits{};
        ButtonSet by_usage, by_code;
        std::uint64_t state = seed;
        for (unsigned key = 0; key < 256; ++key) {
            state = state * 6364136223846793005ULL + 1442695040888963407ULL;
            if (state >> 60 != 0) {
                bytes[key] = static_cast<std::uint8_t>(state >> 40 & 0x7F);  // arbitrary values in the other bits
                continue;
            }
            bytes[key] = 0x80;
            bits[key / 8] = static_cast<std::uint8_t>(bits[key / 8] | 1U << key % 8);
            const Button usage = button_of_hid_usage(0x07, key), code = button_of_linux_code(key);
            if (can_be_posted(usage)) by_usage.insert(usage);
            if (can_be_posted(code)) by_code.insert(code);
        }
        EXPECT_EQ(keys_from_bits(bits), by_usage) << seed;
        EXPECT_EQ(keys_from_bytes(bytes, 0x80), by_usage) << seed;
        EXPECT_EQ(keys_from_bits(bits, numbering_of(KeyTable::linux_code)), by_code) << seed;
        EXPECT_EQ(keys_from_bytes(bytes, 0x80, numbering_of(KeyTable::linux_code)), by_code) << seed;
    }
}

/// A pad whose sticks and triggers hover about their thresholds.
PolledPad random_pad(Random& random) {
    const auto part = [&] { return static_cast<double>(random.below(17)) / 8 - 1; };
    PolledPad polled{.left = {part(), part()},
                     .right = {part(), part()},
                     .pull_left = std::abs(part()),
                     .pull_right = std::abs(part())};
    for (const Button button : {PadSouth, PadStart, PadHatLeft}) polled.down.set(button, random.one_in(2));
    return polled;
}

// The previous and the current state without a timeline are what a timeline's frames have.
TEST(PolledStates, WithoutATimelineAreTheSameAsWithOne) {
    for (std::uint64_t seed = 1; seed <= 40; ++seed) {
        Random random{seed};
        Pads p;
        DeviceShaping shaping;
        shaping.thresholds = {.press = 0.6, .release = 0.3};
        shaping.sticks[0].directions = StickDirections::eight;
        p.inlet.set_shaping(pad, shaping, at(0));
        post(p.inlet, pad, PolledPad{}, at(1));  // the first state is adopted
        DeviceSnapshot before = snapshot_of(PolledPad{}, {}, at(1), shaping);
        p.cut(1);
        for (std::int64_t t = 2; t < 60; ++t) {
            const PolledPad polled = random_pad(random);
            post(p.inlet, pad, polled, at(t));
            const Frame& frame = p.cut(t);
            const DeviceFrame of_pad = frame.on(pad);
            const DeviceSnapshot now = snapshot_of(polled, before, at(t), shaping);
            const DeviceSnapshotFrame changes = compare(before, now);
            ASSERT_EQ(of_pad.previous().down, before.down) << seed << ' ' << t;
            ASSERT_EQ(of_pad.current().down, now.down) << seed << ' ' << t;
            ASSERT_EQ(of_pad.current().sticks, now.sticks) << seed << ' ' << t;
            ASSERT_EQ(of_pad.current().pulls, now.pulls) << seed << ' ' << t;
            for (unsigned i = 0; i < control_count(); ++i)
                if (const Button button = find_button(control(i).name); button) {
                    const ButtonFigures polled_only = changes[button];
                    ASSERT_EQ(polled_only.pressed(), of_pad[button].pressed()) << control(i).name << seed << ' ' << t;
                    ASSERT_EQ(polled_only.ended(), of_pad[button].ended()) << control(i).name << seed << ' ' << t;
                    ASSERT_EQ(polled_only.state(), of_pad[button].state()) << control(i).name << seed << ' ' << t;
                }
            for (const Stick stick : {PadStickLeft, PadStickRight}) {
                ASSERT_EQ(changes.stick(stick).now, of_pad.stick(stick).now);
                ASSERT_EQ(changes.stick(stick).before, of_pad.stick(stick).before);
                ASSERT_EQ(changes.stick(stick).mean, of_pad.stick(stick).mean) << "the new value is as of the poll";
            }
            ASSERT_EQ(changes.trigger(PadPullLeft).now, of_pad.trigger(PadPullLeft).now);
            ASSERT_EQ(changes.raw_axis(PadStickRightY).now, of_pad.raw_axis(PadStickRightY).now);
            ASSERT_EQ(changes.raw_axis(PadStickRightY).least, of_pad.raw_axis(PadStickRightY).least);
            before = now;
        }
    }
    EXPECT_EQ(compare(DeviceSnapshot{}, DeviceSnapshot{}).stick(Stick{9}), StickReading{});
    Pads p;
    p.inlet.button(pad, PadSouth, true, at(1));
    EXPECT_EQ(p.cut(2).on(Origin::person).current(), DeviceSnapshot{.time = at(2)}) << "no single device";
    EXPECT_EQ(p.sampler.frame().on(DeviceId{99}).current(), DeviceSnapshot{.time = at(2)});
}

TEST(PadSlots, ComeAndGoWithTheirPads) {
    constexpr DeviceId slot{20};
    Timeline timeline{{.start = at(0)}};
    Sampler sampler{timeline, {.start = at(0)}};
    const std::array<float, 6> at_rest{0, 0, 0, 0, 0, 0}, pushed{0.5F, -1, 0, 0, 0, 1};
    const auto poll = [&](bool is_there, std::uint64_t buttons, std::span<const float> axes, std::int64_t t) {
        const PadSlot polled{.is_connected = is_there, .buttons = buttons, .axes = axes, .name = "west pad"};
        return post(timeline.desk(), slot, polled, standard_pad_numbering(), at(t));
    };
    EXPECT_EQ(poll(false, 1, pushed, 1), Outcome::unchanged) << "an empty slot";
    EXPECT_EQ(timeline.desk().counters().events, 0U);
    EXPECT_EQ(poll(true, 1, at_rest, 2), Outcome::state_adopted) << "what is down when it connects was not pressed";
    EXPECT_EQ(text(sampler.advance(at(5))[PadSouth].figures()), "hold 0010 3 3");
    EXPECT_EQ(sampler.frame().device(DeviceKind::gamepad, 0), slot);
    EXPECT_EQ(timeline.find_device(slot).value_or(DeviceStatus{}).name(), "west pad");
    poll(true, 0b1'0000'0000'0000'0011, pushed, 6);
    const Frame& frame = sampler.advance(at(10));
    EXPECT_TRUE(frame[PadEast].pressed() && frame[PadMode].pressed() && !frame[PadSouth].pressed());
    EXPECT_EQ(frame.raw_axis(PadStickLeftX).now, 0.5);
    EXPECT_TRUE(frame[PadStickLeftUp].pressed());
    EXPECT_EQ(frame.trigger(PadPullRight).now, 1);
    poll(false, 0, {}, 11);
    poll(false, 0, {}, 12);
    EXPECT_EQ(text(sampler.advance(at(15))[PadEast].figures()), "cancel 0001 5 1");
    EXPECT_EQ(timeline.desk().counters().strays, 0U);
    EXPECT_FALSE(timeline.desk().is_connected(slot) || timeline.desk().is_connected(DeviceId{77}));
    EXPECT_TRUE(timeline.desk().is_connected(desk_mouse));

    // Other orders, and other ranges.
    PadNumbering numbering;
    numbering.buttons[5] = PadNorth;
    numbering.axes[2] = {PadStickLeftY, 32767, -32768};  // up is positive
    numbering.axes[3] = {PadPullLeft, -1, 1};
    const std::array<float, 5> axes{9, 9, 32767, -1, 9};
    const std::array<std::uint8_t, 7> bytes{1, 1, 0, 0, 0, 1, 0};
    post(timeline.desk(), slot, {true, bits_of_bytes(bytes), axes, "east pad"}, numbering, at(20));
    EXPECT_EQ(sampler.advance(at(21)).on(slot).current().down, (ButtonSet{PadNorth, PadStickLeftUp}));
    EXPECT_EQ(sampler.frame().raw_axis(PadStickLeftY).now, -1);
    EXPECT_EQ(sampler.frame().raw_axis(PadPullLeft).now, 0);
}

}  // namespace
