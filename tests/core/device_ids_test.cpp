// Lasting ids of devices that come and go.

#include <gtest/gtest.h>

#include <vector>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/device_ids.hpp"
#include "cursorum/core/inlet_sink.hpp"
#include "cursorum/core/sampler.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;

Time at(std::int64_t ns) { return nanoseconds_since_zero(ns); }

TEST(DeviceIds, AForgottenPlaceIsFreeForOthers) {
    DeviceIds places{DeviceId{1}, 2};
    const DeviceInfo pad{.kind = DeviceKind::gamepad, .name = "pad"},
        keyboard{.kind = DeviceKind::keyboard, .name = "keys"};
    EXPECT_EQ(places.connect(pad, "a", Time{}), DeviceId{1});
    EXPECT_EQ(places.connect(pad, "b", Time{}), DeviceId{2});
    places.disconnect(DeviceId{1}, Time{});
    EXPECT_FALSE(places.connect(keyboard, "", Time{})) << "it is kept for a pad";
    places.forget(DeviceId{1});
    EXPECT_EQ(places.connect(keyboard, "", Time{}), DeviceId{1});
}

TEST(SourceDevices, ADeviceThatTheInletRefusedIsNotedAndMayComeAgain) {
    Timeline timeline{{.devices = 1, .desk_devices = false}};
    SourceDevices devices;
    InletSink sink{timeline.desk(), devices};
    const DeviceInfo pad{.kind = DeviceKind::gamepad};
    sink.take(Event::connect(Time{}, DeviceId{21}, pad));
    EXPECT_TRUE(devices.take_refused().empty());
    sink.take(Event::connect(Time{}, DeviceId{22}, pad));
    sink.take(Event::disconnect(Time{}, DeviceId{23}));
    EXPECT_EQ(devices.take_refused(), std::vector<DeviceId>{DeviceId{22}});
    EXPECT_TRUE(devices.take_refused().empty());
    sink.take(Event::connect(Time{}, DeviceId{22}, pad));
    EXPECT_EQ(devices.take_refused().size(), 1U) << "each time that it tries";
}

TEST(SourceDevices, OfASourceThatIsOpenedAnewComeBack) {
    Timeline timeline{{.devices = 3, .desk_devices = false}};
    const DeviceInfo keyboard{.kind = DeviceKind::keyboard, .name = "quay keyboard"};
    const DeviceInfo pad{.kind = DeviceKind::gamepad, .name = "pad", .vendor = 1, .product = 2};
    const auto open_source = [&](const DeviceInfo& second) {
        SourceDevices devices;
        InletSink sink{timeline.desk(), devices};
        sink.take(Event::connect(Time{}, DeviceId{11}, keyboard));
        sink.take(Event::connect(Time{}, DeviceId{12}, second));
        const std::vector<DeviceId> numbers{devices.in_inlet(DeviceId{11}), devices.in_inlet(DeviceId{12})};
        sink.take(Event::disconnect(Time{}, DeviceId{11}));
        sink.take(Event::disconnect(Time{}, DeviceId{12}));
        return numbers;
    };
    for (int i = 0; i < 5; ++i) EXPECT_EQ(open_source(pad), (std::vector<DeviceId>{DeviceId{11}, DeviceId{12}}));
    // Another device does not get the number, whatever it differs in.
    for (const DeviceInfo& other : {DeviceInfo{.kind = DeviceKind::mouse, .name = "pad", .vendor = 1, .product = 2},
                                    DeviceInfo{.kind = DeviceKind::gamepad, .name = "pad 2", .vendor = 1, .product = 2},
                                    DeviceInfo{.kind = DeviceKind::gamepad, .name = "pad", .vendor = 1, .product = 3}})
        EXPECT_EQ(timeline.desk().free_device(DeviceId{12}, other), DeviceId{1012});
    timeline.desk().connect(DeviceId{12}, pad);
    EXPECT_EQ(timeline.desk().free_device(DeviceId{12}, pad), DeviceId{1012}) << "it is there";
}

TEST(DeviceIds, AReturningPadGetsItsPlaceBack) {
    DeviceIds places{DeviceId{10}, 4};
    const DeviceInfo pad{.kind = DeviceKind::gamepad, .name = "pad", .vendor = 1, .product = 2};
    const DeviceInfo stranger{.kind = DeviceKind::gamepad, .name = "another", .vendor = 3, .product = 4};
    const DeviceInfo mice{.kind = DeviceKind::mouse, .name = "mouse"};
    EXPECT_EQ(places.connect(pad, "a", at(1)), DeviceId{10});
    EXPECT_EQ(places.connect(pad, "b", at(2)), DeviceId{11});
    EXPECT_EQ(places.connect(mice, "", at(3)), DeviceId{12});
    places.disconnect(DeviceId{10}, at(4));
    places.disconnect(DeviceId{11}, at(5));
    EXPECT_EQ(places.connect(pad, "b", at(6)), DeviceId{11}) << "by its serial number";
    places.disconnect(DeviceId{11}, at(7));
    EXPECT_EQ(places.connect(pad, "c", at(8)), DeviceId{10}) << "of two alike, the one that waits longest";
    EXPECT_EQ(places.connect(stranger, "", at(9)), DeviceId{11}) << "a borrowed pad takes the place that waits";
    places.disconnect(DeviceId{12}, at(10));
    EXPECT_EQ(places.connect(stranger, "", at(11)), DeviceId{13}) << "not a mouse's";
    EXPECT_EQ(places.connect(stranger, "", at(12)), std::nullopt);
    EXPECT_EQ(places.connect(mice, "x", at(13)), DeviceId{12});
    places.disconnect(DeviceId{99}, at(14));  // nobody
}

}  // namespace
