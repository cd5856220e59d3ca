// Which presses no reader receives: rows of events and what the inlet made of them.
#include "cursorum/views/missed_presses.hpp"

#include <gtest/gtest.h>

#include <optional>
#include <string>
#include <vector>

#include "cursorum/core/controls.hpp"
#include "support/script.hpp"

namespace {

using namespace cursorum;
using test::at;

struct Step {
    std::int64_t time;
    unsigned device;
    bool down, marked;
    Outcome outcome;
};

std::string missed(const std::vector<Step>& steps, const std::optional<Tick>& tick = {}) {
    MissedPresses presses;
    std::string times;
    if (tick) {
        RecordingLine cut;
        cut.kind = RecordingLine::Kind::frame;
        cut.tick = tick;
        EXPECT_EQ(presses.why(cut, Outcome::taken), "");
    }
    for (const Step& step : steps) {
        RecordingLine line;
        line.kind = RecordingLine::Kind::event;
        line.time = at(step.time);
        line.event = Event::button(line.time, DeviceId{step.device}, controls::Space, step.down, step.marked);
        if (!presses.why(line, step.outcome).empty()) times += std::to_string(step.time) + " ";
    }
    return times;
}

TEST(MissedPresses, WhatIsRepeatedIsOnePress) {
    constexpr Outcome ignored = Outcome::ignored, press = Outcome::press, release = Outcome::release;
    EXPECT_EQ(missed({{1, 1, true, false, ignored}, {2, 1, true, true, ignored}, {3, 1, true, true, ignored}}), "1 ");
    EXPECT_EQ(missed({{1, 1, true, false, ignored}, {2, 1, true, false, ignored}}), "1 ") << "nor without marks";
    EXPECT_EQ(missed({{1, 1, true, true, ignored}, {2, 1, true, true, ignored}}), "") << "it began before";
    EXPECT_EQ(missed({{1, 1, true, false, ignored}, {2, 1, false, false, ignored}, {3, 1, true, false, ignored}}),
              "1 3 ");
    EXPECT_EQ(missed({{1, 1, true, false, ignored}, {2, 2, true, false, ignored}}), "1 2 ") << "on another device";
    EXPECT_EQ(missed({{1, 1, true, false, ignored},
                      {2, 1, true, false, press},
                      {3, 1, false, false, release},
                      {4, 1, true, false, ignored}}),
              "1 4 ");
    EXPECT_EQ(missed({{1, 1, true, false, Outcome::stray_device}, {2, 1, true, true, Outcome::system_repeat}}), "1 ");
}

TEST(MissedPresses, ACutSaysWhichFellIntoAPause) {
    const Tick paused{.gap_from = at(20), .begin = at(50), .end = at(60), .gap = Tick::Gap::paused};
    const std::vector<Step> presses{{15, 1, true, false, Outcome::press},
                                    {18, 1, false, false, Outcome::release},
                                    {25, 1, true, false, Outcome::press},
                                    {26, 1, false, false, Outcome::release},
                                    {55, 1, true, false, Outcome::press}};
    EXPECT_EQ(missed(presses, paused), "25 ");
    EXPECT_EQ(missed(presses), "");
}

}  // namespace
