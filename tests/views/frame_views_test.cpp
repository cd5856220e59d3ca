#include "cursorum/views/frame_views.hpp"

#include <gtest/gtest.h>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;

Time at(std::int64_t ns) { return nanoseconds_since_zero(ns); }

class FrameViews : public testing::Test {
protected:
    void SetUp() override {
        desk.button(ShiftLeft, true, at(1));
        desk.button(KeyW, true, at(2));
        desk.connect(DeviceId{7}, {.name = "other"}, at(2));
        desk.button(DeviceId{7}, KeyW, true, at(3));
        desk.button(DeviceId{7}, Backspace, true, at(4));
        desk.button(DeviceId{7}, Backspace, false, at(5));
    }
    Timeline timeline;
    Inlet& desk = timeline.desk();
    Sampler sampler{timeline, {.start = Time{}}};
};

std::vector<std::string> controls_of(const std::string& jsonl) {
    std::vector<std::string> names;
    const std::string key = "\"control\":\"", end = "\"edges\"";
    for (std::size_t i = 0; (i = jsonl.find(key, i)) < jsonl.find(end); i += key.size())
        names.push_back(jsonl.substr(i + key.size(), jsonl.find('"', i + key.size()) - i - key.size()));
    return names;
}

TEST_F(FrameViews, ControlsSortByNameAsBytes) {
    const Frame& frame = sampler.advance(at(10));
    EXPECT_EQ(controls_of(frame_as_jsonl(0, frame, timeline, {})),
              (std::vector<std::string>{"Backspace", "KeyW", "ShiftLeft"}));
}

TEST_F(FrameViews, EmptyMembersAreLeftOut) {
    sampler.advance(at(10));
    const Frame& frame = sampler.advance(at(20));
    EXPECT_EQ(frame_as_jsonl(1, frame, timeline, {.controls = {KeyA}, .per_device = false}),
              "{\"frame\":1,\"t0\":10,\"t1\":20,\"controls\":[]}\n");
    EXPECT_EQ(frame_as_jsonl(1, frame, timeline, {}).find("edges"), std::string::npos);
}

TEST_F(FrameViews, PerDeviceByNameThenDevice) {
    const Frame& frame = sampler.advance(at(10));
    const std::string csv =
        frame_as_csv(FramePart::controls, 0, frame, timeline, {.controls = {KeyW, Backspace}, .per_device = true});
    EXPECT_EQ(csv,
              "0,0,10,7,Backspace,blip,1,1,0,0,0,0,1,1\n"
              "0,0,10,1,KeyW,press,1,0,0,0,0,0,8,8\n"
              "0,0,10,7,KeyW,press,1,0,0,0,0,0,7,7\n");
}

TEST_F(FrameViews, TheTableLeavesOutHoldsWithoutNews) {
    const std::string first = frame_as_table(0, sampler.advance(at(10)), timeline, {}, false).string();
    EXPECT_NE(first.find("KeyW"), std::string::npos);
    EXPECT_NE(first.find("Backspace"), std::string::npos);
    EXPECT_EQ(frame_as_table(1, sampler.advance(at(20)), timeline, {}, false), "");
    EXPECT_NE(frame_as_table(1, sampler.advance(at(400'000'002)), timeline, {}, true).string().find("\033["),
              std::string::npos);
}

TEST_F(FrameViews, HeadingAndRowsHaveTheSameWidth) {
    const Frame& frame = sampler.advance(at(10));
    for (const bool per_device : {false, true}) {
        const FrameSelection selection{.controls = {KeyW}, .per_device = per_device};
        const std::string heading = frame_table_heading(selection, false).string();
        const std::string rows = frame_as_table(0, frame, timeline, selection, false).string();
        // The dots that stand for zero are two bytes and one column.
        std::string row = rows.substr(0, rows.find('\n') + 1);
        for (std::size_t i; (i = row.find("·")) != std::string::npos;) row.replace(i, 2, ".");
        EXPECT_EQ(row.size(), heading.size()) << heading << row;
    }
}

}  // namespace
