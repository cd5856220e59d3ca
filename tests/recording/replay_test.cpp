#include "cursorum/recording/replay.hpp"

#include <gtest/gtest.h>

#include <sstream>

#include "cursorum/core/controls.hpp"

namespace {

using namespace cursorum;
using controls::KeyW;

/// A recording of one keyboard from short words: "5+" KeyW down at 5, "8-" up, "|9" a cut at 9, "7q" a stray.
std::string recording(const std::string& words) {
    std::string text = R"({"type":"recording","format":"cursorum","version":1})"
                       "\n"
                       R"({"t":0,"type":"connect","device":1,"kind":"keyboard"})"
                       "\n";
    std::istringstream in{words};
    for (std::string word; in >> word;) {
        if (word[0] == '|') {
            text += R"({"t":)" + word.substr(1) +
                    R"(,"type":"frame"})"
                    "\n";
            continue;
        }
        const char what = word.back();
        word.pop_back();
        text += R"({"t":)" + word + R"(,"type":"button","device":1,"control":")" + (what == 'q' ? "KeyQ" : "KeyW") +
                R"(","down":)" + (what == '+' ? "true" : "false") + "}\n";
    }
    return text;
}

/// "number:t0-t1 state" for each frame.
std::string frames(const std::string& text, ReplayOptions options) {
    std::istringstream in{text};
    Replay replay{in, "r", std::move(options)};
    std::string out;
    while (const Frame* frame = replay.next()) {
        out += std::to_string(replay.frame_number()) + ":" + std::to_string(nanoseconds(frame->start())) + "-" +
               std::to_string(nanoseconds(frame->end())) + " " + std::string{name_of((*frame)[KeyW].state())} + "\n";
    }
    if (replay.error()) out += replay.error()->message();
    return out;
}

// 100,000,000 a second: a frame is 10 ns.
const ReplayOptions tens{.rate = ExactRate{100'000'000}, .skip_idle = false};

TEST(Replay, ByRateUntilTheFrameThatTakesTheLastEvent) {
    EXPECT_EQ(frames(recording("5+ 25-"), tens), "0:0-10 press\n1:10-20 hold\n2:20-30 release\n");
    EXPECT_EQ(frames(recording("10+ 20-"), tens), "0:0-10 press\n1:10-20 release\n");
    EXPECT_EQ(frames(recording("25q"), tens), "0:0-10 idle\n1:10-20 idle\n2:20-30 idle\n");  // a stray is an event
    EXPECT_EQ(frames(recording("5+ 25- |99"), tens), "0:0-10 press\n1:10-20 hold\n2:20-30 release\n");
}

TEST(Replay, ALaterLineHoldsBackThoseBelowIt) {
    EXPECT_EQ(frames(recording("25q 5+"), tens), "0:0-10 idle\n1:10-20 idle\n2:20-30 press\n");
}

TEST(Replay, NoEventNoFrame) {
    const std::string empty = R"({"type":"recording","format":"cursorum","version":1})"
                              "\n";
    EXPECT_EQ(frames(empty, tens), "");
    EXPECT_EQ(frames(empty + R"({"t":5,"type":"frame"})"
                             "\n",
                     {}),
              "");
    EXPECT_EQ(frames(empty + R"({"t":5,"type":"note","text":"x"})"
                             "\n",
                     tens),
              "");
}

TEST(Replay, ByOwnCutsAndNothingAfterTheLast) {
    EXPECT_EQ(frames(recording("5+ |10 |20 25- |31 35+"), {}), "0:0-10 press\n1:10-20 hold\n2:20-31 release\n");
    EXPECT_EQ(frames(recording("5+ 15- |10 |20"), {}),
              "0:0-10 press\n1:10-20 release\n");                                    // not taken yet at the first
    EXPECT_EQ(frames(recording("|10 5+ |20"), {}), "0:0-10 idle\n1:10-20 press\n");  // below the cut: late
    EXPECT_EQ(frames(recording("5+ |10 8- |10 |12"), {}), "0:0-10 press\n1:10-10 release\n2:10-12 idle\n");
}

TEST(Replay, CutsAboveTheFirstEventStandAboveIt) {
    const std::string text = R"({"type":"recording","format":"cursorum","version":1})"
                             "\n"
                             R"({"t":10,"type":"frame"})"
                             "\n"
                             R"({"t":20,"type":"frame"})"
                             "\n"
                             R"({"t":5,"type":"connect","device":1,"kind":"keyboard"})"
                             "\n"
                             R"({"t":6,"type":"button","device":1,"control":"KeyW","down":true})"
                             "\n"
                             R"({"t":30,"type":"frame"})"
                             "\n";
    EXPECT_EQ(frames(text, {}), "0:0-10 idle\n1:10-20 idle\n2:20-30 press\n");
}

TEST(Replay, ACutThatGoesBackIsPassedOver) {
    std::istringstream in{recording("5+ |10 |7 15- |20")};
    Replay replay{in, "r"};
    EXPECT_TRUE((*replay.next())[KeyW].pressed());
    EXPECT_TRUE((*replay.next())[KeyW].released());
    EXPECT_EQ(replay.next(), nullptr);
    EXPECT_EQ(replay.frame_number(), 1U);
    EXPECT_EQ(replay.sampler().counters().went_back, 1U);
}

TEST(Replay, SkippingIdleFramesKeepsTheirNumbers) {
    ReplayOptions skip = tens;
    skip.skip_idle = true;
    EXPECT_EQ(frames(recording("5+ 25- 1000000000005+ 1000000000008-"), skip),
              "0:0-10 press\n1:10-20 hold\n2:20-30 release\n100000000000:1000000000000-1000000000010 blip\n");
    EXPECT_EQ(frames(recording("1000000000005+"), skip).substr(0, 60),
              "0:0-10 idle\n100000000000:1000000000000-1000000000010 press\n");
}

TEST(Replay, MemoryDoesNotBoundAFrame) {
    // Ten times more events in one frame than the history holds.
    std::string words;
    for (int i = 0; i < 20'000; ++i) words += std::to_string(2 * i) + "+ " + std::to_string(2 * i + 1) + "- ";
    std::istringstream in{recording(words)};
    Replay replay{in, "r", {.rate = ExactRate{1}}};
    const Frame* frame = replay.next();
    ASSERT_NE(frame, nullptr);
    EXPECT_EQ((*frame)[KeyW].press_count(), 20'000U);
    EXPECT_EQ(replay.sampler().counters().lost, 0U);
    EXPECT_EQ(replay.next(), nullptr);
}

TEST(Replay, AnErrorEndsIt) {
    EXPECT_EQ(
        frames(recording("5+ 25-") + "oops\n", tens),
        "0:0-10 press\n1:10-20 hold\nr:5: found no JSON: oops (broken at byte 1); expected one JSON object a line");
}

TEST(Replay, FindsOutWhetherThereAreCuts) {
    std::istringstream with{recording("5+ |10 6-")}, without{recording("5+ 6-")},
        named{recording("5+") + R"({"t":5,"type":"note","text":"frame"})"
                                "\n"};
    EXPECT_TRUE(has_own_cuts(with));
    EXPECT_FALSE(has_own_cuts(without));
    EXPECT_FALSE(has_own_cuts(named));
}

TEST(Replay, TellsOfEachLineAsItIsPosted) {
    std::istringstream in{recording("5+ 7+ 8-")};
    std::vector<Outcome> outcomes;
    Replay replay{in, "r", {.rate = ExactRate{1}, .on_line = [&](const RecordingLine& line, Outcome outcome) {
                                EXPECT_EQ(line.number, outcomes.size() + 2);
                                outcomes.push_back(outcome);
                            }}};
    while (replay.next()) {
    }
    EXPECT_EQ(outcomes, (std::vector{Outcome::connected, Outcome::press, Outcome::system_repeat, Outcome::release}));
}

TEST(Replay, EndsWhereItWouldTakeForEver) {
    const std::string text = R"({"type":"recording","format":"cursorum","version":1}
{"t":0,"type":"connect","device":1,"kind":"keyboard"}
{"t":5,"type":"button","device":1,"control":"KeyW","down":true}
{"t":4611686018427387903,"type":"button","device":1,"control":"KeyW","down":false}
)";
    for (const bool skips : {false, true}) {
        std::istringstream in{text};
        ReplayOptions options;
        options.rate = ExactRate{60};
        options.skip_idle = skips;
        Replay replay{in, "held", options};
        unsigned frames = 0;
        while (replay.next() != nullptr) ASSERT_LT(++frames, 10U);
        ASSERT_TRUE(replay.error());
        EXPECT_NE(replay.error()->message().find("held:4: found 27670116110"), std::string::npos)
            << replay.error()->message();
    }
    // What passes over it does not care how long it is.
    std::istringstream in{text};
    ReplayOptions options;
    options.rate = ExactRate::parse("0.000001");
    Replay replay{in, "held", options};
    while (replay.next() != nullptr) {
    }
    EXPECT_FALSE(replay.error());
}

// Each inlet has a focus and devices of its own; an event after a cut holds back those behind it on its inlet alone.
TEST(Replay, InletsAreApart) {
    EXPECT_EQ(frames(R"({"type":"recording","format":"cursorum","version":1,"inlets":2}
{"t":0,"type":"connect","device":1,"kind":"keyboard"}
{"t":0,"type":"connect","device":2,"kind":"keyboard","inlet":1}
{"t":2,"type":"focus","focused":false}
{"t":3,"type":"button","device":1,"control":"KeyW","down":true}
{"t":30,"type":"focus","focused":true}
{"t":8,"type":"button","device":2,"control":"KeyW","down":true,"inlet":1}
{"t":9,"type":"button","device":2,"control":"KeyW","down":false,"inlet":1}
{"t":10,"type":"frame"}
{"t":20,"type":"frame"}
)",
                     {}),
              "0:0-10 blip\n1:10-20 idle\n");
}

}  // namespace
