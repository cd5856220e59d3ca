#include "cursorum/views/text.hpp"

#include <gtest/gtest.h>

#include <utility>

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

TEST(Text, FieldsOfCsvAreNoFormulas) {
    for (const auto& [text, field] : {std::pair{"left pad", "left pad"},
                                      {"a,b", "\"a,b\""},
                                      {"say \"x\"", "\"say \"\"x\"\"\""},
                                      {"=1+1", "'=1+1"},
                                      {"@x", "'@x"},
                                      {"-2,3", "\"'-2,3\""},
                                      {"+x", "'+x"},
                                      {"", ""}})
        EXPECT_EQ(csv_field(text), field) << text;
}

TEST(Text, PaintIsOffUnlessOn) {
    EXPECT_EQ(Paint{false}(Paint::red, "x"), "x");
    EXPECT_EQ(Paint{true}(Paint::red, "x"), "\033[91mx\033[0m");
}

}  // namespace
