// What a program does wrong, in words, once each.

#include "cursorum/core/input_check.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <string>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/tick_clock.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;

Time at(std::int64_t ns) { return nanoseconds_since_zero(ns); }

TEST(InputCheck, DescribesEachProblemOnce) {
    constexpr std::int64_t second = 1'000'000'000;
    struct Row {
        const char* part;
        void (*make)(Timeline&, Sampler&);
    };
    const Row rows[] = {
        {"InletCounters::ahead",
         [](Timeline& t, Sampler&) { t.desk().set_ahead_limit(Duration{}), t.desk().button(KeyW, true, latest_time); }},
        {"SamplerCounters::held_back",
         [](Timeline& t, Sampler& s) { t.desk().button(KeyW, true, at(5 * second)), s.advance(at(1)); }},
        {"Timeline::silent_count()", [](Timeline& t, Sampler&) { t.complete_until(Clock::now()); }},
        {"SamplerCounters::late",
         [](Timeline& t, Sampler& s) {
             for (int i = 0; i < 20; ++i) s.advance(at(100 + i)), t.desk().button(KeyW, i % 2 == 0, at(i));
             s.advance(at(1000));
         }},
        {"SamplerCounters::overruns",
         [](Timeline& t, Sampler& s) {
             for (int i = 0; i < 5000; ++i) t.desk().button(KeyW, i % 2 == 0, at(i));
             s.advance(at(9999));
         }},
        {"SamplerCounters::went_back", [](Timeline&, Sampler& s) { s.advance(at(2)), s.advance(at(1)); }},
        {"InletCounters::clamped", [](Timeline& t, Sampler&) { t.desk().button(KeyW, true, Time::max()); }},
        {"InletCounters::refused", [](Timeline& t, Sampler&) { t.desk().motion(std::nan(""), 0, at(1)); }},
        {"InletCounters::source_overflows", [](Timeline& t, Sampler&) { t.desk().set_source_losses(1, 0); }},
        {"InletCounters::unread_devices", [](Timeline& t, Sampler&) { t.desk().set_source_losses(0, 2); }},
        {"InletCounters::unknown", [](Timeline& t, Sampler&) { t.desk().button(DeviceId{7}, PadSouth, true, at(1)); }},
        {"Outcome::stray_inlet",
         [](Timeline& t, Sampler&) { t.inlet(1).connect(DeviceId{1}, {.kind = DeviceKind::keyboard}, at(1)); }},
        {"SamplerCounters::unplaced",
         [](Timeline& t, Sampler& s) {
             (void)s.frame().pointer().position();  // nothing has moved yet: nothing wrong
             EXPECT_EQ(s.counters().unplaced, 0U);
             t.desk().motion(3, 0, at(1));
             EXPECT_FALSE(s.advance(at(2)).pointer().target({0, 0, 5000, 5000}).hovered);
         }},
        {"more than a second", [](Timeline&, Sampler& s) { s.advance(at(1'000'000'002)); }},
    };
    for (const Row& row : rows) {
        Timeline timeline{{.inlets = 2}};
        Sampler sampler{timeline, {.start = at(0)}};
        timeline.desk().button(KeyS, true, at(0));
        timeline.desk().button(KeyS, false, at(0));
        sampler.advance(at(0));
        InputCheck check;
        ASSERT_EQ(check.next_problem(timeline, sampler), nullptr) << row.part;
        row.make(timeline, sampler);
        const char* const problem = check.next_problem(timeline, sampler);
        ASSERT_NE(problem, nullptr) << row.part;
        EXPECT_NE(std::string{problem}.find(row.part), std::string::npos) << problem;
        EXPECT_EQ(check.next_problem(timeline, sampler), nullptr) << row.part;
    }
}

/// One iteration of a loop each 16 ms: events come while it pumps, 1 ms after its beginning.
struct Loop {
    Timeline timeline{{.start = at(0)}};
    Sampler sampler{timeline, {.start = at(0)}};
    PictureClock pictures{at(0)};
    TickClock ticks{hertz(60), at_most(5), at(0)};
    InputCheck check{};
    bool cuts_before_pump = false, has_ticks = false;
    std::int64_t ms = 0;

    std::string run(int iterations) {
        std::string said;
        for (int i = 0; i < iterations; ++i) {
            ms += 16 + i % 2;
            const Time before = at(ms * 1'000'000), after = at((ms + 2) * 1'000'000);
            timeline.desk().button(KeyW, i % 2 == 0, at((ms + 1) * 1'000'000));
            const Time cut = cuts_before_pump ? before : after;
            if (has_ticks) {
                while (const auto tick = ticks.next(cut)) sampler.advance(*tick);
            } else if (const auto tick = pictures.next(cut)) {
                sampler.advance(*tick);
            }
            while (const char* problem = check.next_problem(timeline, sampler)) said += problem;
        }
        return said;
    }
};

TEST(InputCheck, NoticesACutBeforeThePumpAndNothingElse) {
    EXPECT_EQ(Loop{}.run(200), "");
    Loop early{.cuts_before_pump = true};
    EXPECT_EQ(early.run(5), "") << "it may be chance";
    EXPECT_NE(early.run(20).find("not before"), std::string::npos);
    EXPECT_EQ(early.run(20), "") << "once";
    EXPECT_EQ(Loop{.has_ticks = true}.run(200), "") << "what comes after the last tick is left for the next one";
    Loop reports;
    reports.timeline.desk().set_complete_until(at(1));
    reports.cuts_before_pump = true;  // it cuts at a time that was reported as complete
    EXPECT_EQ(reports.run(200), "");
}

TEST(InputCheck, AKeyWithoutANameIsNoProblem) {
    Timeline timeline{{.start = at(0)}};
    Sampler sampler{timeline, {.start = at(0)}};
    timeline.desk().button(Button{}, true, at(1));
    EXPECT_EQ(timeline.desk().count(Outcome::refused_control), 1U);
    EXPECT_EQ(timeline.desk().count(Outcome{200}), 0U);
    sampler.advance(at(2));
    EXPECT_EQ(InputCheck{}.next_problem(timeline, sampler), nullptr);
}

}  // namespace
