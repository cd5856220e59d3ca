#include "cursorum/views/text.hpp"

#include <gtest/gtest.h>

namespace {

using namespace cursorum;

TEST(Text, TimesAndSpansAreExact) {
    EXPECT_EQ(time_text(nanoseconds_since_zero(1'402'113'000)), "1.402113 s");
    EXPECT_EQ(time_text(nanoseconds_since_zero(5)), "0.000000005 s");
    EXPECT_EQ(time_text(nanoseconds_since_zero(-1'500'000'000)), "-1.500 s");
    EXPECT_EQ(span_text(Duration{13'313'128}), "13.313128 ms");
    EXPECT_EQ(span_text(Duration{400'000'000}), "400 ms");
    EXPECT_EQ(span_text(Duration{2'500'000'000}), "2.5 s");
    EXPECT_EQ(span_text(Duration{870}), "870 ns");
    EXPECT_EQ(span_text(Duration{1'500}), "1.5 us");
    EXPECT_EQ(span_text(Duration{0}), "0 ns");
}

TEST(Text, PaintIsOffUnlessOn) {
    EXPECT_EQ(Paint{false}(Paint::red, "x"), "x");
    EXPECT_EQ(Paint{true}(Paint::red, "x"), "\033[91mx\033[0m");
}

}  // namespace
