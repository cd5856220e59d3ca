#include "cursorum/views/explanation.hpp"

#include <gtest/gtest.h>

#include <sstream>

#include "cursorum/core/controls.hpp"

namespace {

using namespace cursorum;

const std::string start = R"({"type":"recording","format":"cursorum","version":1}
{"t":0,"type":"connect","device":1,"kind":"keyboard","marks_repeats":true}
)";

std::string why(const std::string& lines, const WhyQuestion& question) {
    std::istringstream in{start + lines};
    // Frames of 10 ns.
    return explain(in, "r", {.rate = ExactRate{100'000'000}}, question).text.string();
}

TEST(Explanation, TellsOfLateEvents) {
    const std::string text = why(R"({"t":8,"type":"button","device":1,"control":"KeyQ","down":false}
{"t":5,"type":"button","device":1,"control":"KeyW","down":true}
)",
                                 {.control = controls::KeyW, .frame = 0, .at = {}});
    EXPECT_NE(text.find("Late: behind something stamped later, so it takes effect at 0.000000008 s"), text.npos)
        << text;
}

TEST(Explanation, TellsOfSystemRepeats) {
    std::string lines = R"({"t":1,"type":"button","device":1,"control":"KeyW","down":true})"
                        "\n";
    for (int t = 11; t < 40; t += 4)
        lines += R"({"t":)" + std::to_string(t) +
                 R"(,"type":"button","device":1,"control":"KeyW","down":true,"system_repeat":true})"
                 "\n";
    const std::string text = why(lines, {.control = controls::KeyW, .frame = 3, .at = {}});
    EXPECT_NE(text.find("and 5 system repeats in earlier frames, none of them a press"), text.npos) << text;
    EXPECT_NE(text.find("Key-down messages taken for presses would have fired 3 times more"), text.npos) << text;
    EXPECT_NE(text.find("down before, down now: held. The same."), text.npos) << text;
}

TEST(Explanation, AnEmptyRecordingHasNoFrames) {
    std::istringstream in{R"({"type":"recording","format":"cursorum","version":1})"};
    const WhyAnswer answer =
        explain(in, "r", {.rate = ExactRate{60}}, {.control = controls::KeyW, .frame = 0, .at = {}});
    EXPECT_FALSE(answer.found);
    EXPECT_FALSE(answer.error);
    EXPECT_EQ(answer.text, "r has no frames: no event is in it.\n");
}

TEST(Explanation, ErrorsBeforeTheFrameAreErrors) {
    std::istringstream in{start + "oops\n"};
    EXPECT_TRUE(explain(in, "r", {.rate = ExactRate{60}}, {.control = controls::KeyW, .frame = 0, .at = {}}).error);
}

}  // namespace
