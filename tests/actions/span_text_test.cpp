#include "cursorum/actions/span_text.hpp"

#include <gtest/gtest.h>

namespace {

using namespace cursorum;

TEST(SpanText, TakesUnits) {
    for (const auto& [text, ns] :
         {std::pair{"250ms", 250'000'000LL}, std::pair{"0.25s", 250'000'000LL}, std::pair{"40us", 40'000LL},
          std::pair{"17ns", 17LL}, std::pair{"1.5 min", 90'000'000'000LL}, std::pair{"2h", 7'200'000'000'000LL},
          std::pair{"0", 0LL}, std::pair{"0.0000000019s", 1LL}, std::pair{".5s", 500'000'000LL},
          std::pair{"1.00000000000000000000000000001s", 1'000'000'000LL}})
        EXPECT_EQ(parse_span(text), Duration{ns}) << text;
    for (const char* text :
         {"", "5", "-5ms", "ms", "5 parsecs", "1e3ms", "5ms ", "nan", "99999999999999h", "1..2s", "0x5ms"})
        EXPECT_FALSE(parse_span(text)) << text;
}

}  // namespace
