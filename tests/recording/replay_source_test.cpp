// Recordings played as if they happened now.

#include "cursorum/recording/replay_source.hpp"

#include <gtest/gtest.h>

#include <set>
#include <string>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/inlet_sink.hpp"
#include "cursorum/core/sampler.hpp"
#include "support/run_command.hpp"
#include "support/script.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;

const std::string header = R"({"type":"recording","format":"cursorum","version":1})"
                           "\n";
const std::string lines = header + R"({"t":0,"type":"connect","device":1,"kind":"keyboard"}
{"t":1000,"type":"button","device":1,"control":"KeyW","down":true}
{"t":1500,"type":"frame"}
{"t":3000,"type":"button","device":1,"control":"KeyW","down":false}
)";

TEST(ReplaySource, PlaysAtItsSpeed) {
    const std::string file = test::write_file("source.jsonl", lines);
    for (const double speed : {1.0, 2.0}) {
        std::string error;
        const auto source = ReplaySource::open({.file = file, .speed = speed}, error);
        ASSERT_TRUE(source) << error;
        Timeline timeline{{.desk_devices = false}};
        Sampler sampler{timeline, {.start = nanoseconds_since_zero(50'000)}};
        InletSink sink{timeline.desk()};
        const auto edges_at = [&](std::int64_t ns) {
            const Time now = nanoseconds_since_zero(50'000 + ns);
            EXPECT_EQ(source->deliver(sink, now), now);
            return test::edges_text(sampler.advance(now));
        };
        EXPECT_EQ(edges_at(0), "");
        if (speed == 1) {
            EXPECT_EQ(edges_at(999), "");
            EXPECT_EQ(edges_at(1000), "51000 1 KeyW press");
            EXPECT_EQ(edges_at(5000), "53000 1 KeyW release");
        } else {
            EXPECT_EQ(edges_at(1000), "50500 1 KeyW press");
            EXPECT_EQ(edges_at(5000), "51500 1 KeyW release");
        }
        EXPECT_FALSE(source->is_open());
        EXPECT_EQ(sampler.counters().late, 0U);
    }
}

TEST(ReplaySource, BeginsAnewAndLetsGo) {
    std::string error;
    const std::string file =
        test::write_file("again.jsonl", lines.substr(0, lines.rfind("{\"t\":1500")));  // KeyW stays down
    const auto source = ReplaySource::open({.file = file, .repeats = true}, error);
    ASSERT_TRUE(source) << error;
    Timeline timeline{{.desk_devices = false}};
    Sampler sampler{timeline, {.start = Time{}}};
    InletSink sink{timeline.desk()};
    source->deliver(sink, Time{});
    source->deliver(sink, nanoseconds_since_zero(2500));
    EXPECT_EQ(test::edges_text(sampler.advance(nanoseconds_since_zero(2500))),
              "1000 1 KeyW press; 1000 1 KeyW cancel; 2000 1 KeyW press; 2000 1 KeyW cancel");
    EXPECT_TRUE(source->is_open());
}

// A recording beside the desk's own devices, whose numbers it has as well, and beside itself.
TEST(ReplaySource, ItsDevicesGetNumbersThatAreFree) {
    Timeline timeline{{.inlets = 3}};
    Sampler sampler{timeline};
    std::string error;
    const ReplaySourceOptions options{.file = CURSORUM_SOURCE_DIR "/demo/two-operators.jsonl", .speed = 1000};
    const auto first = ReplaySource::open(options, error), second = ReplaySource::open(options, error);
    ASSERT_TRUE(first && second) << error;
    timeline.desk().button(KeyA, true);
    timeline.desk().set_complete_until(latest_time);
    std::uint64_t presses_of_first = 0, presses_of_second = 0;
    constexpr DeviceId pad{3};
    while (first->is_open() || second->is_open()) {
        first->deliver(timeline.inlet(1));
        second->deliver(timeline.inlet(2));
        const Frame& frame = sampler.advance(timeline.complete_until(Clock::now()));
        presses_of_first += frame.on(first->device(pad))[PadSouth].press_count();
        presses_of_second += frame.on(second->device(pad))[PadSouth].press_count();
    }
    EXPECT_EQ(first->device(pad), pad) << "it was free";
    EXPECT_EQ(second->device(pad), DeviceId{1003});
    std::set<DeviceId> numbers{DeviceId{1}, DeviceId{2}};
    for (const ReplaySource* source : {first.get(), second.get()})
        for (std::uint32_t recorded = 1; recorded <= 4; ++recorded)
            ASSERT_TRUE(numbers.insert(source->device(DeviceId{recorded})).second) << recorded;
    for (unsigned i = 0; i < 3; ++i) {
        const InletCounters counters = timeline.inlet(i).counters();
        EXPECT_EQ(counters.refused, 0U) << i;
        EXPECT_LE(counters.strays, 8U) << i << ": those that the recording has itself";
    }
    EXPECT_TRUE(sampler.frame()[KeyA].down()) << "nobody else has the desk's keyboard";
    EXPECT_GT(presses_of_first, 0U);
    EXPECT_EQ(presses_of_first, presses_of_second);
}

TEST(ReplaySource, SaysWhatIsWrong) {
    for (const auto& [text, speed, message] :
         {std::tuple{std::string{"nothing"}, 1.0, ":1: "},
          {header + "{\"t\":1,\"type\":\"button\",\"device\":1,\"control\":\"Keyw\",\"down\":true}\n", 1.0, "KeyW"},
          {lines, 0.0, "the speed must be from 0.01 to 1000"}}) {
        std::string error;
        EXPECT_EQ(ReplaySource::open({.file = test::write_file("wrong.jsonl", text), .speed = speed}, error), nullptr);
        EXPECT_NE(error.find(message), std::string::npos) << error;
    }
}

TEST(LiveCommands, TakeARecordingInPlaceOfADevice) {
    const std::string file = test::write_file("played.jsonl", lines), out = test::write_file("out.jsonl", "");
    EXPECT_NE(test::run_command("cursorum devices --source replay:" + file).out.find("device 1  keyboard"),
              std::string::npos);
    const auto result = test::run_command("cursorum record --source replay:" + file + " --control KeyW -o " + out);
    EXPECT_EQ(result.exit_code, 0) << result.err;
    EXPECT_NE(result.err.find("2 events kept"), std::string::npos) << result.err;
    EXPECT_NE(test::run_command("cursorum frames " + out).out.find("KeyW"), std::string::npos);
    EXPECT_EQ(test::run_command("cursorum devices").exit_code, 2);
    EXPECT_EQ(test::run_command("cursorum devices " + file + " --source x11").exit_code, 2);
}

}  // namespace
