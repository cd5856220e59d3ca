#include "cursorum/views/text.hpp"

#include <gtest/gtest.h>

namespace {

using namespace cursorum;

TEST(Text, SpansTakeUnits) {
    for (const auto& [text, ns] :
         {std::pair{"250ms", 250'000'000L}, std::pair{"0.25s", 250'000'000L}, std::pair{"40us", 40'000L},
          std::pair{"17ns", 17L}, std::pair{"1.5 min", 90'000'000'000L}, std::pair{"2h", 7'200'000'000'000L},
          std::pair{"0", 0L}, std::pair{"0.0000000019s", 1L}, std::pair{".5s", 500'000'000L},
          std::pair{"1.00000000000000000000000000001s", 1'000'000'000L}})
        EXPECT_EQ(parse_span(text), Duration{ns}) << text;
    for (const char* text :
         {"", "5", "-5ms", "ms", "5 parsecs", "1e3ms", "5ms ", "nan", "99999999999999h", "1..2s", "0x5ms"})
        EXPECT_FALSE(parse_span(text)) << text;
}

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
