// What a device sends allocates nothing on its way into an inlet.

#include <gtest/gtest.h>
#include <linux/input-event-codes.h>

#include "cursorum/core/inlet_sink.hpp"
#include "cursorum/core/sampler.hpp"
#include "sources/evdev_decoder.hpp"
#include "support/count_allocations.hpp"

namespace {

using namespace cursorum;

TEST(SourceAllocation, NoneForEachEventOfADevice) {
    Timeline timeline{{.desk_devices = false}};
    Sampler sampler{timeline, {.start = Time{}}};
    InletSink sink{timeline.desk()};
    timeline.desk().connect(DeviceId{1}, {.kind = DeviceKind::gamepad}, Time{});
    EvdevDecoder decoder{DeviceId{1}, DeviceKind::gamepad};
    double sum = 0;
    const unsigned long before = test::allocations;
    for (std::int32_t i = 0; i < 20'000; ++i) {
        decoder.take({i, EV_KEY, BTN_SOUTH, i % 2}, sink);
        decoder.take({i, EV_ABS, ABS_X, i % 32'000}, sink);
        decoder.take({i, EV_ABS, ABS_HAT0X, i % 3 - 1}, sink);
        decoder.take({i, EV_REL, REL_X, 3}, sink);
        const std::uint16_t end = i % 999 == 0 ? SYN_DROPPED : SYN_REPORT;
        decoder.take({i, EV_SYN, end, 0}, sink);
        if (i % 50 == 0) sum += sampler.advance(nanoseconds_since_zero(i)).raw_axis(controls::PadStickLeftX).now;
    }
    EXPECT_EQ(test::allocations, before);
    EXPECT_GT(sum, 0);
}

}  // namespace
