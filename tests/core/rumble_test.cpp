// Requests to gamepads, and who carries them out.

#include <gtest/gtest.h>

#include <limits>
#include <string>
#include <vector>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/event.hpp"
#include "cursorum/core/rumble.hpp"
#include "cursorum/core/sampler.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;

constexpr DeviceId west{3}, east{4};
Time at(std::int64_t ns) { return nanoseconds_since_zero(ns); }

struct Motors final : RumbleSink {
    bool try_rumble(const RumbleRequest& request, Time) override {
        requests.push_back(request);
        return able;
    }
    std::vector<RumbleRequest> requests;
    bool able = true;
};

TEST(Rumble, TheLastRequestIsCarriedOut) {
    Timeline timeline;
    Rumble rumble;
    Motors motors, recording;
    {
        RumbleCarrier carrier{rumble, timeline.desk(), motors, &recording};
        EXPECT_EQ(carrier.carry_out(at(0)), 0U);
        rumble.ask({west, 0.25, 0.5, std::chrono::milliseconds{100}});
        rumble.ask({west, 1, 7, Duration{1}});
        rumble.ask({east, 0, 0.5, std::chrono::hours{1}});
        EXPECT_EQ(carrier.carry_out(at(1)), 2U);
        EXPECT_EQ(motors.requests[0], (RumbleRequest{west, 1, 1, std::chrono::milliseconds{1}}));
        EXPECT_EQ(motors.requests[1].length, std::chrono::seconds{65});
        EXPECT_NEAR(motors.requests[1].weak, 0.5, 1e-4);
        EXPECT_EQ(recording.requests, motors.requests);
        EXPECT_EQ(carrier.carry_out(at(2)), 0U);
        motors.able = false;
    }
    EXPECT_EQ(motors.requests.size(), 4U) << "at the end all stop";
    EXPECT_TRUE(motors.requests.back().stops());
    const double nan = std::numeric_limits<double>::quiet_NaN();
    EXPECT_FALSE(rumble.ask({west, nan, 0, Duration{1}}));
    EXPECT_FALSE(rumble.ask({west, 1, 0, Duration{-1}}));
    for (std::uint32_t i = 0; i < 40; ++i) rumble.stop(DeviceId{100 + i});
    const RumbleCounters c = rumble.counters();
    EXPECT_EQ(c.carried_out, 2U);
    EXPECT_EQ(c.unable, 2U);
    EXPECT_EQ(c.replaced, 1U);
    EXPECT_EQ(c.refused, 2U + 10U);
}

TEST(Rumble, StopsOnFocusLossAndInterruption) {
    Timeline timeline;
    Inlet& desk = timeline.desk();
    Rumble rumble;
    Motors motors;
    RumbleCarrier carrier{rumble, desk, motors};
    std::int64_t now = 0;
    // What the motors were asked last, if anything new.
    const auto round = [&](bool asks) {
        if (asks) rumble.ask({west, 1, 1, Duration{1}});
        if (carrier.carry_out(at(++now)) == 0) return "nothing";
        return motors.requests.back().stops() ? "stop" : "go";
    };
    EXPECT_STREQ(round(true), "go");
    desk.post(Event::interrupt(at(++now)));
    EXPECT_STREQ(round(false), "stop");
    EXPECT_STREQ(round(true), "go");
    desk.lose_focus(at(++now));
    EXPECT_STREQ(round(false), "stop");
    EXPECT_STREQ(round(true), "stop") << "without focus nothing is carried out";
    desk.gain_focus(unknown_state, at(++now));
    EXPECT_STREQ(round(false), "nothing") << "nor later";
    EXPECT_STREQ(round(true), "go");
    desk.lose_focus(at(++now));
    desk.gain_focus(unknown_state, at(++now));
    EXPECT_STREQ(round(false), "stop") << "lost and back between two rounds";
}

}  // namespace
