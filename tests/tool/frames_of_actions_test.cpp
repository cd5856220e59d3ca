// cursorum frames --profile: on the demo data, in every format, and on bad use.

#include <gtest/gtest.h>

#include <algorithm>
#include <map>
#include <sstream>
#include <string>
#include <tuple>
#include <utility>
#include <vector>

#include "support/run_command.hpp"

namespace {

using test::run_command;
using test::write_file;

const std::string shift = CURSORUM_SOURCE_DIR "/demo/quay-shift.jsonl";
const std::string profile = " --profile " CURSORUM_SOURCE_DIR "/demo/quay.toml";
const std::string overlay = " --overlay " CURSORUM_SOURCE_DIR "/demo/quay-left-handed.toml";

TEST(FramesOfActions, TellsARecordingInTheGamesWords) {
    for (const auto& [arguments, line] : {
             std::tuple{"", "  402   6.716666  crane.lock         press   1 press, held for 16.600509 ms\n"},
             {"", "   52   0.883333  crane.travel       steady  at (1.000, 0.000)\n"},
             {"", " shown. Quay crane; open: crane.\n"},
             {"--format csv",
              "\n402,6700000000,6716666666,lock,crane,button,press,1,0,0,0,0,0,16600509,16600509,,,,,,,,\n"},
             {"--format csv", "\n52,866666666,883333333,travel,crane,vector,,,,,,,,,,1,0,1,0,0.016666667,0,0,0\n"},
             {"--format jsonl", R"({"action":"lock","mode":"crane","state":"press","press_count":1,)"},
             {"--format jsonl",
              R"({"action":"travel","mode":"crane","value":[1,0],"before":[1,0],"integral":[0.016666667,0]})"},
             {"--mode crane,bay_plan", "bay_plan.next_box  press"},
             {"", "  456   7.616666  crane.horn         release 1 release, 7 repeats, held for 700.157282 ms\n"},
             {"--every-repeat", "  438   7.316666  crane.horn         hold    1 repeat, held for 414.759905 ms\n"},
             // One table: the same columns for both, and one heading.
             {"--show actions,controls", "frame  ends at s  what               state   details\n"},
             {"--show actions,controls",
              "  402   6.716666  Space              press   1 press, held for 16.600509 ms\n"},
             {"--show actions,controls",
              "  390   6.516666  KeyF               release 1 release, 19 repeats, held for 1.300582593 s, 25 system "
              "repeats\n"},
             {"--mode bay_plan", "open: bay_plan.\n"},
         }) {
        const auto result = run_command("cursorum frames " + shift + profile + " " + arguments);
        EXPECT_EQ(result.exit_code, 0) << result.err;
        EXPECT_NE(result.out.find(line), std::string::npos) << arguments << "\nhas no\n" << line;
    }
    const auto covered = run_command("cursorum frames " + shift + profile + " --mode crane,bay_plan");
    EXPECT_EQ(covered.out.find("crane.lock"), std::string::npos);
    const auto other = run_command("cursorum frames " + shift + profile + overlay);
    EXPECT_NE(other.out.find("crane.lock"), std::string::npos);
    EXPECT_EQ(other.out.find("crane.next_job"), std::string::npos) << "next_job is on another key there";
}

TEST(FramesOfActions, MiceAndWheelsAreDistances) {
    const std::string mouse = write_file("mouse.toml",
                                         "format = \"cursorum-profile\"\nversion = 1\n[mode.m.action.look]\n"
                                         "kind = \"vector\"\nbind = [{ motion = \"both\" }]\n");
    const std::string command =
        "cursorum frames " CURSORUM_SOURCE_DIR "/demo/two-operators.jsonl --profile " + mouse + " --format ";
    const auto table = run_command(command + "table");
    EXPECT_NE(table.out.find("m.look            shifts  by (7.273, 2.078) in this frame"), std::string::npos)
        << table.out;
    EXPECT_NE(table.out.find("m.look            rests   after "), std::string::npos) << table.out;
    const auto lines = run_command(command + "jsonl");
    EXPECT_NE(lines.out.find(R"("integral":[0,0],"relative":[7.2734375,2.078125]})"), std::string::npos);
}

// The left half is unplugged while both hands hold on, and comes back.
TEST(FramesOfActions, TwoHalfPadsAreOnePadInTwoHands) {
    const std::string demo = CURSORUM_SOURCE_DIR "/demo/half-pads.";
    const auto table = run_command("cursorum frames " + demo + "jsonl --profile " + demo + "toml --rate 10");
    for (const char* const line : {"6   0.700000  winches.bow_grip    cancel  1 cancel",
                                   "8   0.900000  winches.stern_heave steady  at 0.250",
                                   "9   1.000000  winches.stern_grip  release 1 release", "held for 600 ms",
                                   "10   1.100000  winches.signal      press   1 press"})
        EXPECT_NE(table.out.find(line), std::string::npos) << line << "\n" << table.out;
}

/// What the columns integral_x and integral_y of an action add up to.
std::pair<double, double> way_gone(const std::string& action, const std::string& rate) {
    const auto result = run_command("cursorum frames " + shift + profile + " --format csv --rate " + rate);
    EXPECT_EQ(result.exit_code, 0) << result.err;
    std::pair<double, double> way;
    std::istringstream lines{result.out};
    for (std::string line; std::getline(lines, line);) {
        if (line.find("," + action + ",") == std::string::npos) continue;
        std::vector<std::string> cells;
        std::istringstream row{line};
        for (std::string cell; std::getline(row, cell, ',');) cells.push_back(cell);
        way.first += std::stod(cells.at(19));
        way.second += std::stod(cells.at(20));
    }
    return way;
}

TEST(FramesOfActions, TheWayGoneIsTheSameAtEveryRate) {
    const auto travel = way_gone("travel", "60"), lift = way_gone("lift", "60");
    EXPECT_NE(travel.first, 0);
    EXPECT_NE(travel.second, 0);
    EXPECT_NE(lift.first, 0);
    for (const char* rate : {"10", "24", "144", "1000", "59.94"}) {
        EXPECT_NEAR(way_gone("travel", rate).first, travel.first, 1e-6) << rate;
        EXPECT_NEAR(way_gone("travel", rate).second, travel.second, 1e-6) << rate;
        EXPECT_NEAR(way_gone("lift", rate).first, lift.first, 1e-6) << rate;
    }
}

TEST(FramesOfActions, MayBeChosenAndShownWithControls) {
    const auto chosen = run_command("cursorum frames " + shift + profile + " --action lock --from 6.6s --to 8s");
    EXPECT_NE(chosen.out.find("crane.lock"), std::string::npos);
    EXPECT_EQ(chosen.out.find("crane.lift"), std::string::npos);
    const auto both = run_command("cursorum frames " + shift + profile +
                                  " --show actions,edges --from 6.7s --to 6.71s --format jsonl --action lock");
    EXPECT_EQ(both.out.find("\"controls\""), std::string::npos) << both.out;
    EXPECT_NE(both.out.find(R"("actions":[{"action":"lock")"), std::string::npos) << both.out;
    EXPECT_NE(both.out.find(R"(],"edges":[{"t":6700066157,)"), std::string::npos) << both.out;
}

// The document's profile and overlay can be used, and its line is what the tool prints.
TEST(FramesOfActions, TheDocumentIsTrue) {
    const std::string document = test::read_file(CURSORUM_SOURCE_DIR "/docs/profile-format.md");
    const auto block = [&](const std::string& language, const std::string& with) {
        for (std::size_t at = 0; (at = document.find("```" + language + "\n", at)) != std::string::npos;) {
            at += language.size() + 4;
            const std::string text = document.substr(at, document.find("```", at) - at);
            if (text.find(with) != std::string::npos) return text;
        }
        return std::string{};
    };
    const std::string from = write_file("document.toml", block("toml", "cursorum-profile"));
    const std::string over = write_file("overlay.toml", block("toml", "cursorum-overlay"));
    const auto result = run_command("cursorum frames " + shift + " --profile " + from + " --overlay " + over);
    EXPECT_EQ(result.exit_code, 0) << result.err;
    const std::string line = block("jsonl", "\"frame\":402");
    ASSERT_FALSE(line.empty());
    EXPECT_NE(run_command("cursorum frames " + shift + profile + " --format jsonl").out.find(line), std::string::npos);
}

// Of Escape and Space within one frame, the second belongs to the menu: in frames, in a replay of what the game called,
// and in explanations.
TEST(FramesOfActions, ModesAreThoseOfTheRecording) {
    const std::string menu = write_file("menu.toml", R"(format = "cursorum-profile"
version = 1
[mode.crane.action.pause]
kind = "button"
bind = ["Escape"]
opens = "menu"
[mode.crane.action.lock]
kind = "button"
bind = ["Space"]
[mode.menu]
covers = true
[mode.menu.action.choose]
kind = "button"
bind = ["Space"]
)");
    const std::string recording = write_file("menu.jsonl", R"({"type":"recording","format":"cursorum","version":1}
{"t":0,"type":"connect","device":1,"kind":"keyboard"}
{"t":0,"type":"mode","mode":"crane","open":true}
{"t":20000000,"type":"button","device":1,"control":"Escape","down":true}
{"t":40000000,"type":"button","device":1,"control":"Space","down":true}
{"t":60000000,"type":"button","device":1,"control":"Space","down":false}
{"t":150000000,"type":"mode","mode":"menu","open":false}
{"t":160000000,"type":"claim","claim":7,"buttons":["Space"]}
{"t":220000000,"type":"button","device":1,"control":"Space","down":true}
{"t":330000000,"type":"claim","claim":7,"end":true}
{"t":360000000,"type":"button","device":1,"control":"Space","down":false}
{"t":420000000,"type":"button","device":1,"control":"Space","down":true}
{"t":500000000,"type":"mode","mode":"gone","open":true}
{"t":610000000,"type":"button","device":1,"control":"Space","down":false}
)");
    const std::string of = recording + " --profile " + menu + " --rate 10";
    const auto frames = run_command("cursorum frames " + of + " --action lock,choose");
    EXPECT_EQ(frames.out.substr(frames.out.find('\n') + 1),
              "    0   0.100000  menu.choose       blip    1 press, 1 release, held for 20 ms\n"
              "    4   0.500000  crane.lock        press   1 press, held for 80 ms\n"
              "    6   0.700000  crane.lock        release 1 release, held for 190 ms\n"
              "7 frames at 10 per second; 3 shown. " +
                  menu + "; open: as recorded.\n");
    EXPECT_NE(frames.err.find("opens the mode \"gone\", which"), std::string::npos) << frames.err;
    const auto why = [&](const std::string& rest) { return run_command("cursorum explain " + of + rest).out; };
    const std::string covered = why(" --action lock --frame 0"), claimed = why(" --action lock --frame 2");
    EXPECT_NE(covered.find("crane is covered by menu"), std::string::npos) << covered;
    EXPECT_NE(covered.find("At 0.020 s, the press of crane.pause opened menu"), std::string::npos) << covered;
    EXPECT_NE(covered.find("but the mode menu covered crane."), std::string::npos) << covered;
    EXPECT_NE(claimed.find("but it went to a claim"), std::string::npos) << claimed;
    EXPECT_NE(run_command("cursorum frames " + of + " --mode crane").out.find("open: crane."), std::string::npos);
}

TEST(CheckCommand, ListsEveryFault) {
    const std::string demo = CURSORUM_SOURCE_DIR "/demo/";
    const std::string wrong = write_file("wrong.toml",
                                         "format = \"cursorum-profile\"\nversion = 1\n[mode.m.action.a]\nkind = "
                                         "\"button\"\nbind = [\"Spcae\"]\ngesture = \"tapp\"\n");
    for (const auto& [arguments, exit_code, text] : {
             std::tuple{demo + "quay.toml", 0, demo + "quay.toml: no fault.\n"},
             {demo + "quay.toml " + demo + "quay-left-handed.toml", 0, "no fault."},
             {wrong, 1,
              wrong + ":5: found the control \"Spcae\"\n    expected the name of a button\n    did you mean Space?\n" +
                  wrong + ":6: found \"tapp\"\n    expected one of "},
             {wrong, 1, "2 faults."},
             {demo + "quay.toml " + demo + "quay-left-handed.toml " + demo + "quay-left-handed.toml", 1,
              "keys that only one of two players at a keyboard has"},
         }) {
        const auto result = run_command("cursorum check " + arguments);
        EXPECT_EQ(result.exit_code, exit_code) << arguments << result.err;
        EXPECT_NE(result.out.find(text), std::string::npos) << result.out;
    }
    EXPECT_EQ(run_command("cursorum check /nowhere.toml").exit_code, 2);
    EXPECT_NE(run_command("cursorum check " + wrong + " " + demo + "quay-left-handed.toml").err.find("not checked"),
              std::string::npos);
}

TEST(FramesOfActions, BadUseAndBadInput) {
    const std::string wrong = write_file(
        "wrong.toml",
        "format = \"cursorum-profile\"\nversion = 1\n[mode.m.action.a]\nkind = \"button\"\nbind = [\"Spcae\"]\n");
    for (const auto& [arguments, message] : {
             std::tuple{shift + " --action lock", std::string{"--action requires --profile"}},
             {profile, "which recording?"},
             {shift + " --profile /nowhere.toml", "/nowhere.toml: cannot be read"},
             {shift + " --profile " + wrong,
              wrong + ":5: found the control \"Spcae\"; expected the name of a button; did you mean Space?"},
             {shift + profile + " --mode carne",
              "--mode: found \"carne\"; expected the name of a mode; did you mean \"crane\"?"},
             {shift + profile + " --mode crane,crane", "--mode: found \"crane\" twice"},
             {shift + profile + " --overlay " CURSORUM_SOURCE_DIR "/demo/quay.toml",
              "found \"cursorum-profile\"; expected \"cursorum-overlay\""},
             {"/nowhere.jsonl" + profile, "/nowhere.jsonl"},
         }) {
        const auto result = run_command("cursorum frames " + arguments);
        EXPECT_EQ(result.exit_code, 2) << arguments;
        EXPECT_NE(result.err.find(message), std::string::npos) << result.err;
    }
}

TEST(FramesOfActions, ShowsEventsWithOutcomesAndVerdicts) {
    const std::string of = std::string{CURSORUM_SOURCE_DIR} + "/demo/quay-menu.jsonl";
    const std::string of_menu = " --profile " + std::string{CURSORUM_SOURCE_DIR} + "/demo/quay-menu.toml";
    const auto table = run_command("cursorum frames " + of + of_menu + " --show events --from 2.4s --to 2.51s");
    EXPECT_EQ(
        table.out.substr(0, table.out.find("151 frames")),
        "frame  ends at s              at  event and what became of it\n"
        "  149   2.500000         2.500 s  KeyH down, device 1 \"desk keyboard\": down while up: a press\n"
        "  149   2.500000         2.500 s  KeyH: crane.horn fired\n"
        "  150   2.516666         2.503 s  KeyH up, device 1 \"desk keyboard\": up while down: a release\n"
        "  150   2.516666         2.505 s  KeyH down, device 1 \"desk keyboard\": down while up: a press\n"
        "  150   2.516666         2.508 s  KeyH up, device 1 \"desk keyboard\": up while down: a release\n"
        "  150   2.516666         2.511 s  KeyH down, device 1 \"desk keyboard\": down while up: a press\n"
        "  150   2.516666         2.505 s  KeyH: nothing counts within 20 ms of the edge before it: debouncing\n"
        "  150   2.516666         2.511 s  KeyH: nothing counts within 20 ms of the edge before it: debouncing\n");
    const auto json = run_command("cursorum frames " + of + of_menu +
                                  " --show events --format jsonl --control KeyH --from 2.49s --to 2.5s");
    EXPECT_NE(json.out.find(R"("events":[{"line":)"), std::string::npos) << json.out;
    EXPECT_NE(json.out.find(R"("verdicts":[{"t":2500000000,"device":1,"control":"KeyH","rule":"fired","action":"crane.horn"}]})"),
              std::string::npos)
        << json.out;
    EXPECT_EQ(run_command("cursorum frames " + of + " --show events --format csv").exit_code, 2);
}

}  // namespace
