#include "sources/x11_clock.hpp"

#include <gtest/gtest.h>

#include "sources/x11_pointer.hpp"

namespace {

using namespace cursorum;

constexpr std::int64_t ms = 1'000'000;
constexpr std::int64_t turn = std::int64_t{1} << 32;  // milliseconds

Time at(std::int64_t milliseconds) { return nanoseconds_since_zero(milliseconds * ms); }

TEST(X11Clock, BringsAStampToTheTurnOfThePresent) {
    const X11Clock clock;
    for (const std::int64_t now : {std::int64_t{5000}, turn - 1, turn, turn + 1, 3 * turn + 77, 1000 * turn + 12345}) {
        for (const std::int64_t ago : {0, 1, 40, 1999}) {
            const auto server = static_cast<std::uint32_t>(now - ago);
            EXPECT_EQ(clock.convert(server, at(now)), at(now - ago)) << now << " less " << ago;
        }
        // A stamp may be of the same millisecond, and later than a present that was read before.
        EXPECT_EQ(clock.convert(static_cast<std::uint32_t>(now + 3), at(now)), at(now + 3));
    }
}

TEST(X11Clock, AnotherMachinesClockIsBroughtToOurs) {
    const std::int64_t ours = 7'000'000, theirs = 123'456;
    const X11Clock clock{static_cast<std::uint32_t>(theirs), at(ours)};
    EXPECT_EQ(clock.convert(static_cast<std::uint32_t>(theirs + 500), at(ours + 510)), at(ours + 500));
    // A small difference is the way there and back, and the clock is the same.
    const X11Clock same{static_cast<std::uint32_t>(ours - 2), at(ours)};
    EXPECT_EQ(same.convert(static_cast<std::uint32_t>(ours - 2), at(ours)), at(ours - 2));
}

TEST(X11Clock, ThePresentMillisecondIsNotComplete) {
    const X11Clock clock;
    EXPECT_EQ(clock.complete(nanoseconds_since_zero(5 * ms + 999'999)), nanoseconds_since_zero(5 * ms - 1));
    EXPECT_EQ(clock.complete(nanoseconds_since_zero(5 * ms)), nanoseconds_since_zero(5 * ms - 1));
}

TEST(X11SmoothWheel, CountsFractionsFromWhereItStood) {
    x11::SmoothWheel wheel;
    wheel.add({.number = 3, .horizontal = false, .increment = 15});
    wheel.add({.number = 2, .horizontal = true, .increment = -10});
    const auto at = [](unsigned number, double value) {
        x11::Valuators valuators;
        valuators.mask = 1U << number;
        valuators.values[number] = value;
        return valuators;
    };
    EXPECT_EQ(wheel.turned_to(at(3, 400)), Distance{}) << "it may have turned elsewhere";
    EXPECT_EQ(wheel.turned_to(at(3, 407.5)), (Distance{0, -0.5})) << "down is toward the person";
    EXPECT_EQ(wheel.turned_to(at(2, 5)), Distance{});
    EXPECT_EQ(wheel.turned_to(at(2, 0)), (Distance{0.5, 0}));
    wheel.forget();
    EXPECT_EQ(wheel.turned_to(at(3, 900)), Distance{});
    EXPECT_EQ(wheel.turned_by(at(3, -15)), (Distance{0, 1})) << "raw events have differences";
}

}  // namespace
