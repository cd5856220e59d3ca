// cursorum actions: on the demo data, in every format, and on bad use.

#include <gtest/gtest.h>

#include <sstream>
#include <string>
#include <tuple>
#include <utility>

#include "support/run_command.hpp"

namespace {

using test::run_command;
using test::write_file;

const std::string shift = CURSORUM_SOURCE_DIR "/demo/quay-shift.jsonl";
const std::string profile = " --profile " CURSORUM_SOURCE_DIR "/demo/quay.toml";
const std::string overlay = " --overlay " CURSORUM_SOURCE_DIR "/demo/quay-left-handed.toml";

TEST(ActionsCommand, TellsARecordingInTheGamesWords) {
    for (const auto& [arguments, line] : {
             std::tuple{"", "    402      6.716666 s  crane.lock           press    1 press, held for 16.600509 ms\n"},
             {"", "     52      0.883333 s  crane.travel         steady   at (1.000, 0.000)\n"},
             {"", "frames, Quay crane; open: crane.\n"},
             {"--format csv",
              "\n402,6700000000,6716666666,lock,crane,button,press,1,0,0,0,0,0,16600509,16600509,,,,,,,,\n"},
             {"--format csv", "\n52,866666666,883333333,travel,crane,vector,,,,,,,,,,1,0,1,0,0.016666667,0,0,0\n"},
             {"--format jsonl", R"({"action":"lock","mode":"crane","state":"press","press_count":1,)"},
             {"--format jsonl",
              R"({"action":"travel","mode":"crane","value":[1,0],"before":[1,0],"integral":[0.016666667,0]})"},
             {"--mode crane,bay_plan", "bay_plan.next_box    press"},
             {"--mode bay_plan", "open: bay_plan.\n"},
         }) {
        const auto result = run_command("cursorum actions " + shift + profile + " " + arguments);
        EXPECT_EQ(result.exit_code, 0) << result.err;
        EXPECT_NE(result.out.find(line), std::string::npos) << arguments << "\nhas no\n" << line;
    }
    const auto covered = run_command("cursorum actions " + shift + profile + " --mode crane,bay_plan");
    EXPECT_EQ(covered.out.find("crane.lock"), std::string::npos);
    const auto other = run_command("cursorum actions " + shift + profile + overlay);
    EXPECT_NE(other.out.find("crane.lock"), std::string::npos);
    EXPECT_EQ(other.out.find("crane.next_job"), std::string::npos) << "next_job is on another key there";
}

TEST(ActionsCommand, MiceAndWheelsAreDistances) {
    const std::string mouse = write_file("mouse.toml",
                                         "format = \"cursorum-profile\"\nversion = 1\n[mode.m.action.look]\n"
                                         "kind = \"vector\"\nbind = [{ motion = \"both\" }]\n");
    const std::string command =
        "cursorum actions " CURSORUM_SOURCE_DIR "/demo/two-operators.jsonl --profile " + mouse + " --format ";
    const auto table = run_command(command + "table");
    EXPECT_NE(table.out.find("m.look               shifts   by (7.273, 2.078) in this frame"), std::string::npos)
        << table.out;
    EXPECT_NE(table.out.find("m.look               rests    after "), std::string::npos) << table.out;
    const auto lines = run_command(command + "jsonl");
    EXPECT_NE(lines.out.find(R"("integral":[0,0],"relative":[7.2734375,2.078125]})"), std::string::npos);
}

/// What the columns integral_x and integral_y of an action add up to.
std::pair<double, double> way_gone(const std::string& action, const std::string& rate) {
    const auto result = run_command("cursorum actions " + shift + profile + " --format csv --rate " + rate);
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

TEST(ActionsCommand, TheWayGoneIsTheSameAtEveryRate) {
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

// The document's profile and overlay can be used, and its line is what the tool prints.
TEST(ActionsCommand, TheDocumentIsTrue) {
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
    const auto result = run_command("cursorum actions " + shift + " --profile " + from + " --overlay " + over);
    EXPECT_EQ(result.exit_code, 0) << result.err;
    const std::string line = block("jsonl", "\"frame\":402");
    ASSERT_FALSE(line.empty());
    EXPECT_NE(run_command("cursorum actions " + shift + profile + " --format jsonl").out.find(line), std::string::npos);
}

TEST(ActionsCommand, BadUseAndBadInput) {
    const std::string wrong = write_file(
        "wrong.toml",
        "format = \"cursorum-profile\"\nversion = 1\n[mode.m.action.a]\nkind = \"button\"\nbind = [\"Spcae\"]\n");
    for (const auto& [arguments, message] : {
             std::tuple{shift, std::string{"--profile is required"}},
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
        const auto result = run_command("cursorum actions " + arguments);
        EXPECT_EQ(result.exit_code, 2) << arguments;
        EXPECT_NE(result.err.find(message), std::string::npos) << result.err;
    }
}

}  // namespace
