// Devices that come and go.

#include <gtest/gtest.h>

#include <string>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"
#include "support/pads.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using test::at;
using test::pad;
using test::Pads;

TEST(Devices, WhatTheyReportAboutThemselvesIsKept) {
    Pads p;
    p.inlet.disconnect(pad, at(1));
    p.inlet.connect(
        pad, {.kind = DeviceKind::gamepad, .vendor = 0xFFF1, .product = 7, .buttons = {PadSouth}, .axes = 0x30}, at(2));
    const auto status = p.timeline.find_device(pad);
    ASSERT_TRUE(status);
    EXPECT_EQ(status->vendor, 0xFFF1);
    EXPECT_EQ(status->product, 7);
    EXPECT_EQ(status->buttons, ButtonSet{PadSouth});
    EXPECT_EQ(status->axes, 0x30);
}

// Levels at both cuts, as of each sampler's frame, whatever was posted since.
TEST(Devices, AreThereOrNotAtBothCuts) {
    Pads p;
    p.sampler.advance(at(5));
    p.inlet.disconnect(pad, at(7));
    p.inlet.connect(pad, {.kind = DeviceKind::gamepad}, at(17));
    const auto levels = [](const Frame& frame) {
        return std::string{frame.was_connected(pad) ? "+" : "-"} + (frame.is_connected(pad) ? "+" : "-");
    };
    EXPECT_EQ(levels(p.sampler.advance(at(6))), "++");
    const auto saved = p.sampler.save();
    EXPECT_EQ(levels(p.sampler.advance(at(10))), "+-");
    EXPECT_EQ(levels(p.sampler.advance(at(12))), "--");
    EXPECT_EQ(levels(p.sampler.peek(at(20))), "-+");
    Sampler second{p.timeline, {.start = at(11)}};
    EXPECT_EQ(levels(second.frame()), "--") << "as of its start";
    EXPECT_EQ(levels(second.advance(at(20))), "-+");
    p.sampler.restore(saved);
    EXPECT_EQ(levels(p.sampler.advance(at(8))), "+-");
    EXPECT_FALSE(p.sampler.frame().is_connected(DeviceId{99}));
    // More than the history of such occasions: the present is right.
    for (int i = 0; i < 400; ++i) {
        p.inlet.disconnect(pad, at(30 + 2 * i));
        p.inlet.connect(pad, {.kind = DeviceKind::gamepad}, at(31 + 2 * i));
    }
    p.inlet.disconnect(pad, at(900));
    EXPECT_EQ(levels(p.sampler.advance(at(1000))), "--");
    EXPECT_GT(p.sampler.counters().overruns, 0U);
}

}  // namespace
