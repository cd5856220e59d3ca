// Lock keys' states.

#include <gtest/gtest.h>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"
#include "support/script.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using test::at;

TEST(Locks, AreKnownToNewAndToOverrunSamplers) {
    Timeline timeline{{.occasion_history = 512}};
    Inlet& inlet = timeline.desk();
    Sampler sampler{timeline, {.start = at(0)}};
    inlet.button(CapsLock, true, at(1));
    EXPECT_TRUE(sampler.advance(at(5)).locks().empty()) << "the key alone turns nothing on";
    EXPECT_EQ(inlet.locks({CapsLock, KeyW}, at(10)), Outcome::taken);
    inlet.lose_focus(at(12));
    EXPECT_EQ(inlet.locks({CapsLock, NumLock}, at(20)), Outcome::taken) << "without focus, too";
    EXPECT_EQ(sampler.advance(at(15)).locks(), ButtonSet{CapsLock});
    EXPECT_EQ((Sampler{timeline, {.start = at(15)}}.frame().locks()), ButtonSet{CapsLock});
    EXPECT_EQ((Sampler{timeline, {.start = at(25)}}.frame().locks()), (ButtonSet{CapsLock, NumLock}));
    for (int i = 0; i < 3000; ++i) inlet.locks(i % 2 == 0 ? ButtonSet{ScrollLock} : ButtonSet{}, at(30 + i));
    inlet.locks({ScrollLock, CapsLock}, at(5000));
    EXPECT_EQ(sampler.advance(at(6000)).locks(), (ButtonSet{ScrollLock, CapsLock}));
    EXPECT_EQ(sampler.counters().lost, 0U) << "events themselves were all seen";
    EXPECT_EQ(sampler.advance(at(6001)).previous_locks(), (ButtonSet{ScrollLock, CapsLock}));
}

TEST(Locks, AnInletThatReportedNoneChangesNothing) {
    Timeline timeline{{.inlets = 2, .occasion_history = 512}};
    Sampler sampler{timeline, {.start = at(0)}};
    timeline.desk().locks({CapsLock}, at(10));
    sampler.advance(at(20));
    Inlet& other = timeline.inlet(1);
    for (int i = 0; i < 4000; ++i)
        i % 2 == 0 ? other.connect(DeviceId{50}, {}, at(30 + i)) : other.disconnect(DeviceId{50}, at(30 + i));
    sampler.advance(at(5000));
    EXPECT_GT(sampler.counters().overruns, 0U) << "of the other inlet";
    EXPECT_EQ(sampler.frame().locks(), ButtonSet{CapsLock});
}

}  // namespace
