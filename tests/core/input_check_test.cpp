// What a program does wrong, in words, once each.

#include "cursorum/core/input_check.hpp"

#include <gtest/gtest.h>

#include <string>

#include "cursorum/core/controls.hpp"

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
        {"InletCounters::refused", [](Timeline& t, Sampler&) { t.desk().button(Button{}, true, at(1)); }},
    };
    for (const Row& row : rows) {
        Timeline timeline;
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

}  // namespace
