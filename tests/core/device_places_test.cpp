// Lasting ids of devices that come and go.

#include <gtest/gtest.h>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/device_places.hpp"
#include "cursorum/core/sampler.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;

Time at(std::int64_t ns) { return nanoseconds_since_zero(ns); }

TEST(DevicePlaces, AReturningPadGetsItsPlaceBack) {
    DevicePlaces places{DeviceId{10}, 4};
    const DeviceInfo pad{.kind = DeviceKind::gamepad, .name = "pad", .vendor = 1, .product = 2};
    const DeviceInfo stranger{.kind = DeviceKind::gamepad, .name = "another", .vendor = 3, .product = 4};
    const DeviceInfo mice{.kind = DeviceKind::mouse, .name = "mouse"};
    EXPECT_EQ(places.came(pad, "a", at(1)), DeviceId{10});
    EXPECT_EQ(places.came(pad, "b", at(2)), DeviceId{11});
    EXPECT_EQ(places.came(mice, "", at(3)), DeviceId{12});
    places.went(DeviceId{10}, at(4));
    places.went(DeviceId{11}, at(5));
    EXPECT_EQ(places.came(pad, "b", at(6)), DeviceId{11}) << "by its serial number";
    places.went(DeviceId{11}, at(7));
    EXPECT_EQ(places.came(pad, "c", at(8)), DeviceId{10}) << "of two alike, the one that waits longest";
    EXPECT_EQ(places.came(stranger, "", at(9)), DeviceId{11}) << "a borrowed pad takes the place that waits";
    places.went(DeviceId{12}, at(10));
    EXPECT_EQ(places.came(stranger, "", at(11)), DeviceId{13}) << "not a mouse's";
    EXPECT_EQ(places.came(stranger, "", at(12)), std::nullopt);
    EXPECT_EQ(places.came(mice, "x", at(13)), DeviceId{12});
    places.went(DeviceId{99}, at(14));  // nobody
}

}  // namespace
