#include "cursorum/core/frame.hpp"

#include <gtest/gtest.h>

#include "cursorum/core/controls.hpp"
#include "support/script.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using test::ScriptRun;

TEST(Frame, KnowsItsCutsAndLevels) {
    ScriptRun script;
    script.run("3+W |10 12+S 14-W |25");
    const Frame& frame = script.sampler.frame();
    EXPECT_EQ(frame.start(), nanoseconds_since_zero(10));
    EXPECT_EQ(frame.end(), nanoseconds_since_zero(25));
    EXPECT_EQ(frame.length(), Duration{15});
    EXPECT_EQ(frame.previous(), (Snapshot{nanoseconds_since_zero(10), {KeyW}}));
    EXPECT_EQ(frame.current(), (Snapshot{nanoseconds_since_zero(25), {KeyS}}));
}

TEST(Frame, ActiveAreTheButtonsThatAreNotIdle) {
    ScriptRun script;
    script.run("3+W 4-Q 5+A 6-A |10");
    EXPECT_EQ(script.sampler.frame().active(), (ButtonSet{KeyW, KeyA}));
    script.run("|20");
    EXPECT_EQ(script.sampler.frame().active(), ButtonSet{KeyW});
    script.run("21-W |30 |40");
    EXPECT_TRUE(script.sampler.frame().active().empty());
}

}  // namespace
