#include <gtest/gtest.h>

#include <algorithm>
#include <string>

#include "support/run_command.hpp"

namespace {

using test::run_command;

const std::string demo = "cursorum explain " CURSORUM_SOURCE_DIR "/demo/quay-shift.jsonl ";

struct Row {
    const char* options;
    int exit_code;
    std::vector<const char*> parts;
};

const Row rows[] = {
    {"--control KeyW --at 4.41s",
     0,
     {": blip", "down while up: a press", "up while down: a release", "It would have lost 1 press and 1 release."}},
    {"--control KeyR --frame 493 --rate 60", 0, {": dip", "down before, down now: held"}},
    {"--control KeyD --at 17s", 0, {": hold", "adopt on device 1", "a press, which nobody made"}},
    {"--control KeyS --at 15.3s", 0, {": cancel", "focus lost", "cancel on device 1", "a release, which nobody made"}},
    {"--control KeyF --at 22.7s", 0, {": cancel", "disconnect, device 3", "cancel on device 3"}},
    {"--control KeyW --at 24.6s", 0, {"interruption (sleep)", "everything on every device is cancelled"}},
    {"--control KeyH --at 28.21s", 0, {"a release was lost", "cancel on device 1, press on device 1"}},
    {"--control KeyQ --at 33.5s", 0, {": idle", "up while up: stray", "No edge."}},
    {"--control KeyH --at 16.01s", 0, {": idle", "without focus: ignored"}},
    {"--control KeyR --at 19.31s", 0, {"Edges on devices: 1; of the merged button: 0."}},
    {"--control KeyW --at 3.205s",
     0,
     {": hold", "Down since", "system repeat", "Our own repeat: first 400 ms after the press"}},
    {"--control KeyZ --at 1s", 0, {": idle", "no event of this recording concerns KeyZ"}},
    {"--control Space --at 1s", 0, {"What comes next", "Space down"}},
    {"--control Shift --at 29.61s", 0, {"Shift in frame", "press on device 1 (ShiftLeft)"}},
    {"--control KeyW --at 0s", 0, {"KeyW in frame 0"}},
    {"--control KeyW --at 5000s", 1, {"has no frame at 5000.000 s"}},
    {"--control KeyW --frame 99999999", 1, {"has no frame 99999999: it has frames 0 to"}},
    {"--control KeyW", 2, {"Give --frame N or --at TIME"}},
    {"--control Keyw --frame 1", 2, {"did you mean KeyW?"}},
    {"--frame 1", 2, {"--control"}},
    {"--control KeyW --frame 1 --at 1s", 2, {"--at"}},
    {"--control KeyW --frame -1", 2, {"--frame"}},
    {"--control KeyW --frame 99999999999999999999999", 2, {"--frame"}},
};

TEST(ExplainCommand, SaysWhy) {
    for (const Row& row : rows) {
        const auto result = run_command(demo + row.options);
        EXPECT_EQ(result.exit_code, row.exit_code) << row.options << "\n" << result.out << result.err;
        for (const char* part : row.parts)
            EXPECT_NE((result.out + result.err).find(part), std::string::npos)
                << row.options << "\nlacks " << part << "\n"
                << result.out << result.err;
    }
}

TEST(ExplainCommand, TellsHowFarAStickWasWhenNothingFired) {
    const std::string operators = CURSORUM_SOURCE_DIR "/demo/two-operators.jsonl";
    const auto idle =
        run_command("cursorum explain " + operators + " --control PadStickRightDown --frame 180 --rate 60");
    EXPECT_NE(idle.out.find("PadStickRightY at 0.398438, device 3 \"west pad\"\n      the stick, shaped: 0.031, 0.311, "
                            "0.313 from its centre; down from 0.5 up, up again at 0.4: no change.\n      No edge."),
              std::string::npos)
        << idle.out;
    const auto press =
        run_command("cursorum explain " + operators + " --control PadStickRightDown --frame 181 --rate 60");
    EXPECT_NE(
        press.out.find("0.569 from its centre; down from 0.5 up, up again at 0.4.\n      Edge: press on device 3."),
        std::string::npos)
        << press.out;
}

TEST(ExplainCommand, OfOneDevice) {
    const std::string operators = "cursorum explain " CURSORUM_SOURCE_DIR "/demo/two-operators.jsonl ";
    const auto own = run_command(operators + "--control PadSouth --device 3 --frame 168 --rate 60");
    EXPECT_EQ(own.exit_code, 0) << own.err;
    EXPECT_NE(own.out.find("PadSouth on device 3 in frame 168"), std::string::npos) << own.out;
    EXPECT_NE(own.out.find("Edge: press on device 3."), std::string::npos) << own.out;
    const auto other = run_command(operators + "--control PadSouth --device 4 --frame 168 --rate 60");
    EXPECT_NE(other.out.find("No event concerns it."), std::string::npos) << other.out;
    EXPECT_EQ(run_command(operators + "--control PadSouth --device x --frame 168").exit_code, 2);
}

TEST(ExplainCommand, AsJson) {
    const auto button = run_command(demo + "--control KeyW --at 4.62s --format json");
    EXPECT_NE(button.out.find(R"({"control":"KeyW","frame":277,"t0":4616666666,"t1":4633333333,"state":"blip",)"),
              std::string::npos)
        << button.out;
    EXPECT_NE(
        button.out.find(R"("events":[{"line":86,"t":4620395468,"effective":4620395468,"event":"KeyW down, device 1 )"
                        R"(\"desk keyboard\"","rule":"down while up: a press","edges":[{"t":4620395468,"device":1,)"
                        R"("control":"KeyW","edge":"press"}]})"),
        std::string::npos)
        << button.out;
    const auto action =
        run_command(demo + "--profile " CURSORUM_SOURCE_DIR "/demo/quay.toml --action lock --frame 402 --format json");
    EXPECT_NE(action.out.find(R"({"action":"crane.lock","frame":402,)"), std::string::npos) << action.out;
    EXPECT_NE(action.out.find(R"({"title":"Its mode","lines":["crane is open and not covered."]})"), std::string::npos);
    for (const std::string& out : {button.out, action.out}) {
        EXPECT_EQ(std::count(out.begin(), out.end(), '\n'), 1);
        const std::string file = test::write_file("why.json", out);
        EXPECT_EQ(run_command("/usr/bin/python3 -m json.tool " + file).exit_code, 0);
    }
}

TEST(ExplainCommand, ExplainsAnAxisOnEachDevice) {
    const std::string operators = CURSORUM_SOURCE_DIR "/demo/two-operators.jsonl";
    const auto at = run_command("cursorum explain " + operators + " --control PadStickLeftX --at 1.7s");
    EXPECT_EQ(at.exit_code, 0) << at.err;
    for (const char* const expected : {"PadStickLeftX in frame 101 of ", "as reported", "\"west pad\": reported", "shaped",
                                       "with a dead zone of 0.15 for PadStickLeft", "\"east pad\": reported",
                                       "The last one before that", "What comes next"})
        EXPECT_NE(at.out.find(expected), std::string::npos) << expected << " in\n" << at.out;
    // A frame in which nothing moved says what came before and after.
    const auto quiet = run_command("cursorum explain " + operators + " --control PadStickRightX --at 11s");
    EXPECT_NE(quiet.out.find("None: it stayed where it was."), std::string::npos) << quiet.out;
    EXPECT_EQ(run_command("cursorum explain " + operators + " --control PadStickLeftX --at 1h").exit_code, 1);
    EXPECT_EQ(run_command("cursorum explain " + operators + " --control PadStickLeftX --at 1s --format json").exit_code, 2);
    // An action of a stick: near its motion, too.
    const auto action = run_command("cursorum explain " + operators + " --profile " CURSORUM_SOURCE_DIR
                                    "/demo/quay.toml --action travel --at 2.8s");
    EXPECT_NE(action.out.find("What came before\n  PadStickLeft"), std::string::npos) << action.out;
    EXPECT_NE(action.out.find("One of its axes, in frame "), std::string::npos) << action.out;
}

}  // namespace
