#include "cursorum/recording/exact_rate.hpp"

#include <gtest/gtest.h>

namespace {

using namespace cursorum;

TEST(ExactRate, CutsAreFloorsOfExactFractions) {
    struct Row {
        const char* rate;
        std::uint64_t frame;
        std::int64_t cut;
    };
    for (const Row& row :
         {Row{"60", 0, 16'666'666}, Row{"60", 4, 83'333'333}, Row{"60", 59, 1'000'000'000},
          Row{"59.94", 5993, 100'000'000'000}, Row{"59.94", 0, 16'683'350}, Row{"30000/1001", 29999, 1001'000'000'000},
          Row{"0.5", 0, 2'000'000'000}, Row{"1e3", 0, 1'000'000}, Row{"144", 143, 1'000'000'000}, Row{"1e9", 6, 7},
          Row{"000060.000", 0, 16'666'666}, Row{"0.000000001", 0, 1'000'000'000'000'000'000},
          Row{"2.5e-1", 0, 4'000'000'000}}) {
        const auto rate = ExactRate::parse(row.rate);
        ASSERT_TRUE(rate) << row.rate;
        EXPECT_EQ(nanoseconds(rate->cut(row.frame)), row.cut) << row.rate;
    }
}

TEST(ExactRate, RefusesWhatIsNoRate) {
    for (const char* text :
         {"",     "0",     "-60",  "+60", "sixty", "60fps", "60/", "/60",          "60/0",
          "1e10", "1e-10", "nan",  "inf", "1.2.3", "60 ",   " 60", "0.0000000001", "99999999999999999999999",
          "1e",   "0x10",  "1/3/5"})
        EXPECT_FALSE(ExactRate::parse(text)) << text;
}

TEST(ExactRate, FindsTheFrameOfATime) {
    for (const char* text : {"60", "59.94", "144", "30000/1001", "0.7", "1e9"}) {
        const ExactRate rate = *ExactRate::parse(text);
        for (const std::int64_t t : {0L, 1L, 16'666'666L, 16'666'667L, 999'999'999L, 123'456'789'012L}) {
            const std::uint64_t frame = rate.frame_of(nanoseconds_since_zero(t));
            EXPECT_GE(nanoseconds(rate.cut(frame)), t) << text;
            if (frame > 0) {
                EXPECT_LT(nanoseconds(rate.cut(frame - 1)), t) << text;
            }
        }
    }
}

TEST(ExactRate, StopsAtTheEndOfTime) { EXPECT_EQ(ExactRate{1}.cut(UINT64_MAX), latest_time); }

}  // namespace
