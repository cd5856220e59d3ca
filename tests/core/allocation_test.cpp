// Posting, advancing and reading allocate nothing: operator new is counted.

#include <gtest/gtest.h>

#include <new>

#include "core/random_events.hpp"
#include "cursorum/cursorum.hpp"
#include "support/count_allocations.hpp"

namespace {

using namespace cursorum;
using test::allocations;

TEST(Allocation, TheCounterCounts) {
    const unsigned long before = allocations;
    ::operator delete(::operator new(1));
    EXPECT_EQ(allocations - before, 1U);
}

TEST(Allocation, NoneWhilePostingAdvancingAndReading) {
    Timeline timeline{{.devices = 5, .desk_devices = false}};
    Sampler sampler{timeline, {.start = Time{}}}, seldom{timeline, {.start = Time{}}};
    TickClock ticks{hertz(60), at_most(5), Time{}};
    test::RandomEvents events{7};
    std::uint64_t sum = 0;
    const unsigned long before = allocations;
    for (int i = 0; i < 20'000; ++i) {
        timeline.desk().post(events.next());
        if (i % 4 != 0) continue;
        const Frame& frame = sampler.advance(nanoseconds_since_zero(events.now()));
        for (const Button button : test::random_buttons) {
            sum += frame[button].pressed() + frame[button].steps() + frame[button].figures().adopt_count();
            sum += frame.on(DeviceId{2})[button].down();
        }
        for (const Edge edge : frame.edges()) sum += static_cast<std::uint64_t>(edge.kind);
        sum += frame.any({controls::KeyW, controls::KeyS}).down() + frame.active().size();
        sum += compare(frame.previous(), frame.current())[controls::KeyW].pressed();
        const Sampler::State saved = sampler.save();
        sampler.restore(saved);
        sampler.set_repeat(controls::KeyW, {Duration{5}, Duration{3}, 1});
        while (ticks.next(frame.end())) ++sum;
        sum += timeline.device(0).down.size() + find_button("KeyW").number + near_control_name("Keyw").size();
    }
    seldom.advance(nanoseconds_since_zero(events.now()));  // overrun, and healed
    EXPECT_EQ(allocations, before);
    EXPECT_GT(seldom.counters().overruns, 0U);
    EXPECT_GT(sum, 0U);
}

}  // namespace
