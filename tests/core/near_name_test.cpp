#include "cursorum/core/near_name.hpp"

#include <gtest/gtest.h>

#include <string>

namespace {

using cursorum::near_name;
using cursorum::typing_distance;

TEST(NearName, CountsSlipsInHalves) {
    EXPECT_EQ(typing_distance("frames", "frames"), 0U);
    EXPECT_EQ(typing_distance("frame", "frames"), 2U);
    EXPECT_EQ(typing_distance("framse", "frames"), 2U);  // two letters exchanged
    EXPECT_EQ(typing_distance("Frames", "frames"), 1U);  // upper case
    EXPECT_EQ(typing_distance("grames", "frames"), 2U);
    EXPECT_EQ(typing_distance("", "abc"), 6U);
}

TEST(NearName, TakesTheNearestIfNearEnough) {
    constexpr std::string_view words[] = {"frames", "explain", "record", "keys"};
    EXPECT_EQ(near_name("farmes", words), "frames");
    EXPECT_EQ(near_name("explian", words), "explain");
    EXPECT_EQ(near_name("recrod", words), "record");
    EXPECT_EQ(near_name("kye", words), "");
    EXPECT_EQ(near_name("upside", words), "");
    EXPECT_EQ(near_name(std::string(1000, 'x'), words), "");
    EXPECT_EQ(near_name("frames", {}), "");
}

}  // namespace
