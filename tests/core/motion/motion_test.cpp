// Motion, to the last 65536th.

#include <gtest/gtest.h>

#include "core/random_events.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"
#include "support/script.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using test::at;

TEST(Motion, AnOverrunLosesNoDistance) {
    Timeline timeline{{.motion_history = 64}};
    Sampler sampler{timeline, {.start = at(0)}};
    timeline.desk().wheel(0, 3, at(1));
    for (int i = 0; i < 1000; ++i) timeline.desk().motion(0.25, -1, at(2 + i));
    const Frame& frame = sampler.advance(at(5000));
    EXPECT_EQ(frame.pointer().motion(), (Distance{250, -1000}));
    EXPECT_EQ(frame.pointer().wheel(), (Distance{0, 3}));
    EXPECT_EQ(sampler.counters().overruns, 1U);
    EXPECT_EQ(sampler.counters().lost, 1001U - 64U);
    EXPECT_FALSE(sampler.advance(at(6000)).pointer().moved());
}

TEST(Motion, IsRoundedToTheNearestTiesToEven) {
    struct Row {
        double dx, expected;  // in 1/65536
    };
    const Row rows[] = {{0.5, 0},  {1.5, 2},   {2.5, 2},    {-0.5, 0},          {-1.5, -2},
                        {0.75, 1}, {-0.25, 0}, {1e-300, 0}, {131072.25, 131072}};
    for (const Row& row : rows) {
        Timeline timeline;
        Sampler sampler{timeline, {.start = at(0)}};
        timeline.desk().motion(row.dx / 65536, 0, at(1));
        EXPECT_EQ(sampler.advance(at(2)).pointer().motion().x * 65536, row.expected) << row.dx;
    }
}

TEST(Motion, ANewSamplerCountsFromItsStart) {
    Timeline timeline{{.motion_history = 64}};
    for (int i = 0; i < 200; ++i) timeline.desk().motion(1, 0, at(i));
    Sampler from_there{timeline, {.start = at(189)}}, from_before{timeline, {.start = at(0)}};
    EXPECT_EQ(from_there.advance(at(500)).pointer().motion().x, 10);
    EXPECT_EQ(from_before.advance(at(500)).pointer().motion().x, 63);  // as much as the history still has
}

}  // namespace
