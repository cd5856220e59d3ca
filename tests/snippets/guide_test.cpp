// The programs of the guide, each as it stands: at 10 to 1,000 pictures per second, with keys held at the start, over a
// stop of three seconds, and with the focus lost and back while keys are down. They move equally far, and each press
// counts once.

#include <gtest/gtest.h>
#include <time.h>

#include <algorithm>
#include <cstdio>
#include <fstream>
#include <iterator>
#include <set>
#include <sstream>
#include <string>
#include <vector>

#include "snippets/world.hpp"

// Each program's main() under a name of its own.
#define main guide_1
#include "guide/1_hold_and_press.cpp"
#undef main
#define main guide_2
#include "guide/2_direction_and_repeat.cpp"
#undef main
#define main guide_3
#include "guide/3_sticks.cpp"
#undef main
#define main guide_4
#include "guide/4_mouse.cpp"
#undef main
#define main guide_5
#include "guide/5_names.cpp"
#undef main
#define main guide_6
#include "guide/6_rebinding.cpp"
#undef main
#define main guide_7
#include "guide/7_two_players.cpp"
#undef main
#define main guide_8
#include "guide/8_replay.cpp"
#undef main

// Their sleep takes no time: the clock is that of world.cpp.
extern "C" int nanosleep(const timespec* length, timespec*) {
    test::present += length->tv_sec * 1'000'000'000 + length->tv_nsec;
    return 0;
}

namespace {

using Program = int (*)(int, char**);

/// What it prints, run in the folder in which a person runs it.
std::string output_of(Program program, int rate, const std::string& script) {
    EXPECT_EQ(chdir(CURSORUM_SOURCE_DIR), 0);
    std::vector<std::string> words{"guide", "--rate", std::to_string(rate)};
    if (!script.empty()) words.insert(words.end(), {"--script", script});
    std::vector<char*> arguments;
    for (std::string& word : words) arguments.push_back(word.data());
    testing::internal::CaptureStdout();
    const int code = program(static_cast<int>(arguments.size()), arguments.data());
    std::fflush(stdout);
    std::string text = testing::internal::GetCapturedStdout();
    EXPECT_EQ(code, 0) << text;
    return text;
}

/// The last picture's words: "box 100.0, locked 1 times".
std::string last_words(const std::string& output) {
    const std::size_t line = output.rfind(" s  ");
    const std::size_t words = output.find("  ", line + 4);
    return output.substr(words + 2, output.find('\n', words) - words - 2);
}

/// The numbers among them.
std::vector<double> numbers_of(const std::string& words) {
    std::vector<double> numbers;
    for (std::size_t i = 0; i < words.size(); ++i) {
        const bool begins = (i == 0 || words[i - 1] == ' ') && (std::isdigit(words[i]) || words[i] == '-');
        if (begins) numbers.push_back(std::stod(words.substr(i)));
    }
    return numbers;
}

struct Row {
    const char* what;
    Program program;
    std::string script;    // empty: its own
    std::string words;     // its last ones
    double per_frame = 0;  // how far it may be off for each second that a frame lasts: a stop begins in one
};

TEST(Guide, GoesEquallyFarAtEachRateAndEachPressCountsOnce) {
    const std::string held = "-1 KeyD down, -1 Space down, 0.5 KeyD up, 0.6 Space up";
    const std::string stopped = "0.5 KeyD down, 1 stop 3, 4.5 KeyD up, 4.6 Space down, 4.601 Space up";
    const std::string away =
        "0.5 KeyD down, 0.7 Space down, 1 focus away, 1.2 KeyD up, 2 KeyD down, 2.5 focus back, 3 KeyD "
        "up, 3.1 Space up";
    const Row rows[] = {
        {"1", guide_1, "", "box 100.0, locked 1 times"},
        {"1, held at the start", guide_1, held, "box 50.0, locked 0 times"},
        {"1, a stop", guide_1, stopped, "box 125.0, locked 1 times", 100},
        {"1, the focus", guide_1, away, "box 100.0, locked 1 times"},
        {"2", guide_2, "", "box 85.4, height 35.4, job 8"},
        {"2, held at the start", guide_2, "-1 KeyD down, -1 PageDown down, 1 KeyD up, 1 PageDown up",
         "box 100.0, height 0.0, job 0"},
        {"2, a stop", guide_2, stopped, "box 125.0, height 0.0, job 0", 100},
        {"2, the focus", guide_2, away, "box 100.0, height 0.0, job 0"},
        {"3", guide_3, "", "box 150.0, locked 1 times; plug the pad in again"},
        {"3, by keys", guide_3, away, "box 100.0, locked 1 times"},
        {"3, plugged in with the stick held", guide_3,
         "0.5 pad on, 1 stick 1 0, 1.5 pad off, 2 pad on, 2.1 stick 1 0, 3 stick 0 0", "box 140.0, locked 0 times"},
        {"4", guide_4, "", "pointer 300.0, horn 1 times, zoom -2, dragged 180.0"},
        {"4, the focus is lost over a press", guide_4,
         "0.1 at 20 10, 0.5 MouseLeft down, 0.6 focus away, 0.7 MouseLeft up, 1 focus back, 1.5 wheel 0.5, 1.6 wheel "
         "0.5",
         "pointer 20.0, horn 0 times, zoom 1, dragged 0.0"},
        {"4, a click within a frame", guide_4, "0.1 at 20 10, 0.501 MouseLeft down, 0.502 MouseLeft up",
         "pointer 20.0, horn 1 times, zoom 0, dragged 0.0"},
        {"5", guide_5, "", "box 150.0, locked 1 times"},
        {"5, held at the start", guide_5, held, "box 50.0, locked 0 times"},
        {"5, a stop", guide_5, stopped, "box 125.0, locked 1 times", 100},
        {"5, the focus", guide_5, away, "box 100.0, locked 1 times"},
        {"5, two menus, and a press in the same frame", guide_5,
         "0.501 Escape down, 0.502 Space down, 0.503 Space up, 0.504 Escape up, 1.501 Escape down, 1.502 Space down",
         "box 0.0, locked 1 times"},
        {"6", guide_6, "", "locked 2 times by KeyL"},
        {"6, Escape changes nothing", guide_6,
         "0.5 F2 down, 0.6 F2 up, 1 Escape down, 1.1 Escape up, 1.5 Space down, 1.6 Space up",
         "locked 1 times by Space"},
        {"6, the focus is lost meanwhile", guide_6,
         "0.5 F2 down, 0.6 F2 up, 0.8 focus away, 1 KeyL down, 1.5 focus back, 2 KeyL up, 2.5 KeyL down, 2.6 KeyL up, "
         "3 "
         "KeyL down, 3.1 KeyL up",
         "locked 1 times by KeyL"},
        {"7", guide_7, "", "player 1 at 200.0, player 2 at 50.0; a player's pad is unplugged"},
        {"7, held at the start joins nobody", guide_7, "-1 Space down, -1 KeyD down, 1 Space up, 1 KeyD up",
         "player 1 at 100.0, player 2 at 100.0"},
        {"8", guide_8, "", "box 100.0, locked 1 times"},
        {"8, held at the start", guide_8, held, "box 50.0, locked 0 times"},
        {"8, a stop", guide_8, stopped, "box 125.0, locked 1 times", 100},
        {"8, the focus", guide_8, away, "box 100.0, locked 1 times"},
    };
    for (const Row& row : rows)
        for (const int rate : {10, 24, 60, 144, 1000}) {
            SCOPED_TRACE(std::string{row.what} + ", " + std::to_string(rate) + " pictures per second");
            const std::string output = output_of(row.program, rate, row.script), words = last_words(output);
            const std::vector<double> numbers = numbers_of(words), wanted = numbers_of(row.words);
            ASSERT_EQ(numbers.size(), wanted.size()) << output;
            const double off = 0.06 + row.per_frame / rate;
            for (std::size_t i = 0; i < numbers.size(); ++i)
                EXPECT_NEAR(numbers[i], wanted[i], row.words[0] == 'b' && i == 0 ? off : 0.06) << words;
            const auto without_numbers = [](std::string text) {
                std::erase_if(text, [](char c) { return std::isdigit(c) != 0 || c == '.' || c == '-'; });
                return text;
            };
            EXPECT_EQ(without_numbers(words), without_numbers(row.words));
            if (row.program == guide_8) {
                EXPECT_NE(output.find(": the same\n"), output.npos) << output;
            }
        }
}

std::string file_text(const std::string& path) {
    std::ifstream in{CURSORUM_SOURCE_DIR "/" + path};
    EXPECT_TRUE(in) << path;
    std::ostringstream text;
    text << in.rdbuf();
    return text.str();
}

/// A step's program, and what it adds.
struct Step {
    const char* name;
    Program program;
};
constexpr Step steps[] = {{"1_hold_and_press", guide_1}, {"2_direction_and_repeat", guide_2},
                          {"3_sticks", guide_3},         {"4_mouse", guide_4},
                          {"5_names", guide_5},          {"6_rebinding", guide_6},
                          {"7_two_players", guide_7},    {"8_replay", guide_8}};

std::vector<std::string> lines_of(const std::string& text) {
    std::vector<std::string> lines;
    std::istringstream in{text};
    for (std::string line; std::getline(in, line);)
        lines.push_back(line.substr(std::min(line.find_first_not_of(' '), line.size())));
    return lines;
}

/// The parts of a program that its page shows.
std::vector<std::string> shown_of(const std::vector<std::string>& program) {
    std::vector<std::string> shown;
    bool is_shown = false;
    for (const std::string& line : program) {
        if (line.starts_with("// ["))
            is_shown = line.starts_with("// [snippet");
        else if (is_shown)
            shown.push_back(line);
    }
    return shown;
}

/// The fenced blocks of the page in that language, joined for each of its steps ("## 3 …").
std::vector<std::string> blocks_of_steps(const std::string& page, const std::string& language) {
    std::vector<std::string> blocks;
    bool is_inside = false;
    std::istringstream in{page};
    for (std::string line; std::getline(in, line);) {
        if (line.starts_with("## ") && std::isdigit(line[3]) != 0) blocks.emplace_back();
        if (line.starts_with("```"))
            is_inside = line == "```" + language;
        else if (is_inside && !blocks.empty())
            blocks.back() += line + "\n";
    }
    return blocks;
}

TEST(Guide, ItsPageShowsThePrograms) {
    const std::string page = file_text("docs/guide/README.md");
    const auto code = blocks_of_steps(page, "cpp"), output = blocks_of_steps(page, "text");
    ASSERT_EQ(code.size(), std::size(steps));
    for (std::size_t i = 0; i < std::size(steps); ++i) {
        SCOPED_TRACE(steps[i].name);
        EXPECT_EQ(lines_of(code[i]),
                  shown_of(lines_of(file_text("examples/guide/" + std::string{steps[i].name} + ".cpp"))));
        EXPECT_EQ(output[i], output_of(steps[i].program, 60, ""));
        EXPECT_NE(page.find("./run.sh guide " + std::to_string(i + 1)), page.npos);
    }
}

// What a step shows that no earlier program has. Not new: what only gets another value, and brackets.
TEST(Guide, NoStepHasMoreThanEightNewLines) {
    std::set<std::string> known;
    for (const Step& step : steps) {
        const std::vector<std::string> program =
            lines_of(file_text("examples/guide/" + std::string{step.name} + ".cpp"));
        const auto begin_of = [](const std::string& line) {
            return line.substr(0, std::min({line.find("  //"), line.find(" = "), line.find(" += "), line.find("{{")}));
        };
        const auto code_of = [&](const std::string& line) {
            const std::string code = line.substr(0, line.find("  //"));
            return code.ends_with(';') || code.ends_with(')') ? begin_of(line) : std::string{};
        };
        unsigned added = 0;
        std::string all;
        for (const std::string& line : shown_of(program)) {
            const std::string code = code_of(line);
            if (code.empty() || code == "};" || known.contains(code) || code.starts_with("const auto update")) continue;
            ++added;
            all += code + "\n";
        }
        EXPECT_LE(added, 8U) << step.name << ":\n" << all;
        for (const std::string& line : program) known.insert(begin_of(line));
    }
}

}  // namespace
