// A batch allocates nothing while it advances.
#include <gtest/gtest.h>

#include <array>

#include "cursorum/batch/keyboard_batch.hpp"
#include "cursorum/core/controls.hpp"
#include "support/count_allocations.hpp"

namespace {

using namespace cursorum;
using test::allocations;

TEST(Allocation, NoneWhileABatchAdvances) {
    KeyboardBatch batch{{.players = 100, .start = Time{}, .events = 1000}};
    std::array<BatchEvent, 200> events;
    std::uint64_t sum = 0;
    const unsigned long allocated = allocations;
    for (std::int64_t frame = 1; frame < 300; ++frame) {
        for (std::uint32_t i = 0; i < events.size(); ++i)
            events[i] = {nanoseconds_since_zero(frame * 100 + i), i % 100,
                         Button{static_cast<std::uint16_t>(4 + i % 7)},
                         (frame + i) % 3 == 0 ? BatchEventKind::up : BatchEventKind::down};
        batch.advance(nanoseconds_since_zero(frame * 100 + 99), events);
        for (std::uint32_t i = 0; i < 100; ++i)
            sum += batch[i][controls::KeyA].press_count() + batch[i].pressed().size();
    }
    EXPECT_EQ(allocations, allocated);
    EXPECT_GT(sum, 0U);
}

}  // namespace
