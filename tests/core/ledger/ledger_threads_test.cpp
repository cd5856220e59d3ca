// A ledger is read, and names are taken away in it, while its inlet goes on writing and overwrites the oldest.
#include <gtest/gtest.h>

#include <atomic>
#include <thread>

#include "core/frame/frame_levels.hpp"
#include "core/ledger/ledger.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/timeline.hpp"

namespace {

using namespace cursorum;

TEST(LedgerThreads, WhatIsReadIsWhole) {
    Timeline timeline{{.ledger = 1U << 14}};
    detail::Ledger& ledger = *detail::ledger_of(timeline, 0);
    ledger.keep({controls::KeyW, controls::KeyA});
    std::atomic<bool> is_enough{false};
    std::thread producer{[&] {
        Inlet& desk = timeline.desk();
        for (int i = 1; !is_enough; ++i) {
            const Time when{Duration{i}};
            if (i % 500 == 0) std::this_thread::yield();  // so that a single processor does both
            if (i % 3 == 0)
                desk.motion(i, 0.1 * i, when);  // one value that fits in 32 bits, and one that does not
            else if (i % 50 == 1)
                desk.state(desk_keyboard, ButtonSet{controls::KeyW}, when);
            else
                desk.button(controls::KeyA, i % 2 == 0, when);
        }
    }};
    std::uint64_t position = 0, read = 0;
    detail::LedgerEvent it;
    while (read < 50'000) {
        if (position == ledger.end()) {
            std::this_thread::yield();
            continue;
        }
        const detail::Ledger::Glance glance = ledger.glance(position);
        if (!ledger.still_has(position) || !ledger.read(position, it)) {
            position = ledger.end();  // overrun
            continue;
        }
        const auto number = nanoseconds(it.event.time);
        EXPECT_EQ(glance.stamp, number);
        switch (it.event.type) {
            case EventType::motion:
                EXPECT_EQ(it.event.dx, static_cast<double>(number));
                EXPECT_EQ(it.event.dy, 0.1 * static_cast<double>(number));
                break;
            case EventType::state: EXPECT_EQ(it.event.down_set, ButtonSet{controls::KeyW}); break;
            default: EXPECT_EQ(it.event.control, controls::KeyA);
        }
        if (number % 7 == 0) ledger.take_names(position, {controls::KeyA});
        position = glance.next;
        ++read;
    }
    is_enough = true;
    producer.join();
}

}  // namespace
