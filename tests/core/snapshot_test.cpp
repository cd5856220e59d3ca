#include "cursorum/core/snapshot.hpp"

#include <gtest/gtest.h>

#include "cursorum/core/controls.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;

TEST(Snapshot, TwoMakeAFrame) {
    const Snapshot before{nanoseconds_since_zero(10), {KeyW, KeyS}}, after{nanoseconds_since_zero(30), {KeyS, KeyD}};
    const SnapshotFrame frame = compare(before, after);
    EXPECT_EQ(frame[KeyW].state(), ButtonState::release);
    EXPECT_TRUE(frame[KeyW].released());
    EXPECT_TRUE(frame[KeyW].ended());
    EXPECT_EQ(frame[KeyW].down_span(), Duration{20});
    EXPECT_EQ(frame[KeyW].released_after(), Duration{20});
    EXPECT_EQ(frame[KeyS].state(), ButtonState::hold);
    EXPECT_TRUE(frame[KeyS].held());
    EXPECT_EQ(frame[KeyS].down_share(), 1.0);
    EXPECT_EQ(frame[KeyD].state(), ButtonState::press);
    EXPECT_EQ(frame[KeyD].press_count(), 1U);
    EXPECT_EQ(frame[KeyD].down_span(), Duration{0});
    EXPECT_EQ(frame[KeyA].state(), ButtonState::idle);
    EXPECT_EQ(frame.start(), before.time);
    EXPECT_EQ(frame.end(), after.time);
    EXPECT_EQ(frame.previous(), before);
    EXPECT_EQ(frame.current(), after);
}

TEST(Snapshot, AnyOfSeveral) {
    const SnapshotFrame frame = compare(Snapshot{Time{}, {KeyW}}, {nanoseconds_since_zero(10), {KeyS}});
    EXPECT_EQ(frame.any({KeyW, KeyS}).state(), ButtonState::hold);
    EXPECT_EQ(frame.any({KeyA, KeyS}).state(), ButtonState::press);
    EXPECT_EQ(frame.any({KeyA}).state(), ButtonState::idle);
}

TEST(Snapshot, ABackwardsPairHasNoLength) {
    const SnapshotFrame frame = compare(Snapshot{nanoseconds_since_zero(10), {KeyW}}, {Time{}, {KeyW}});
    EXPECT_EQ(frame[KeyW].down_span(), Duration{0});
    EXPECT_EQ(frame[KeyW].down_share(), 0.0);
}

}  // namespace
