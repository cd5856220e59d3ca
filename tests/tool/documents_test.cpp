// The documents are run: the README's code is a program of the tests, its commands are run, and its pictures are there.

#include <gtest/gtest.h>

#include <algorithm>
#include <filesystem>
#include <sstream>
#include <string>
#include <string_view>
#include <tuple>
#include <utility>
#include <vector>

#include "support/run_command.hpp"

namespace {

using test::read_file;
using test::run_command;

const std::string source = CURSORUM_SOURCE_DIR "/";

/// The fenced blocks of a Markdown file that are marked with `language`; those with a name apart.
struct Block {
    std::string text, name{};
};
std::vector<Block> all_blocks(const std::string& file, const std::string& language) {
    std::vector<Block> found;
    std::istringstream lines{read_file(source + file)};
    bool inside = false;
    std::string name;
    constexpr std::string_view mark = "<!-- snippet: ";
    for (std::string line; std::getline(lines, line);) {
        if (line == "```" + language) {
            inside = true;
            found.push_back({"", std::exchange(name, {})});
        } else if (line.starts_with("```")) {
            inside = false;
            name.clear();
        } else if (inside) {
            found.back().text += line + '\n';
        } else if (line.starts_with(mark)) {
            name = line.substr(mark.size(), line.find(' ', mark.size()) - mark.size());
        }
    }
    return found;
}
std::vector<std::string> blocks(const std::string& file, const std::string& language) {
    std::vector<std::string> texts;
    for (const Block& block : all_blocks(file, language)) texts.push_back(block.text);
    return texts;
}

std::string without_indentation(const std::string& text) {
    std::string joined;
    std::istringstream lines{text};
    for (std::string line; std::getline(lines, line);)
        joined += line.substr(std::min(line.find_first_not_of(' '), line.size())) + '\n';
    return joined;
}

TEST(Readme, ShowsWhatTheFirstProgramPrints) {
    EXPECT_EQ(run_command("'" CURSORUM_HELLO "'").out, blocks("README.md", "text")[0]);
    for (const Block& block : all_blocks("README.md", "cpp")) EXPECT_NE(block.name, "") << "is not run: " << block.text;
}

TEST(Readme, ItsCommandsRun) {
    unsigned commands = 0;
    for (const std::string& block : blocks("README.md", "sh")) {
        std::istringstream lines{block};
        for (std::string line; std::getline(lines, line);) {
            if (line.rfind("cursorum ", 0) != 0 || line.find("record") != line.npos) continue;
            ++commands;
            const auto result = run_command("cd '" + source + "' && " + line + " >/dev/null");
            EXPECT_EQ(result.exit_code, 0) << line << "\n" << result.err;
        }
    }
    EXPECT_GE(commands, 4U);
}

TEST(Documents, TheirLinksLead) {
    unsigned links = 0;
    std::vector<std::string> documents{"README.md", "CONTRIBUTING.md"};
    for (const auto& file : std::filesystem::recursive_directory_iterator{source + "docs"})
        if (file.path().extension() == ".md")
            documents.push_back(file.path().lexically_relative(source).string());
    for (const std::string& document : documents) {
        std::string text = read_file(source + document);
        for (const std::string& block : blocks(document, "cpp")) text.erase(text.find(block), block.size());
        const auto folder = std::filesystem::path{source + document}.parent_path();
        for (std::size_t i = 0; (i = text.find("](", i)) != text.npos; ++i) {
            std::string target = text.substr(i + 2, text.find(')', i) - i - 2);
            if (target.rfind("http", 0) == 0) continue;
            target = target.substr(0, target.find('#'));
            ++links;
            EXPECT_TRUE(std::filesystem::exists(folder / target)) << document << ": " << target;
        }
    }
    EXPECT_GE(links, 40U);
}

// Whatever a page says to type, but for live input, and for a program that does not exist yet.
TEST(Documents, TheirCommandsRun) {
    unsigned commands = 0;
    for (const char* document : {"docs/seeing.md", "docs/why.md"})
        for (const std::string& block : blocks(document, "sh")) {
            if (block.find("--source") != block.npos) continue;
            ++commands;
            const auto result = run_command("cd '" + source + "' && set -e\n" + block);
            EXPECT_EQ(result.exit_code, 0) << document << "\n" << block << result.err;
        }
    EXPECT_GE(commands, 3U);
}

TEST(Readme, IsShortEnoughToBeRead) {
    const std::string text = read_file(source + "README.md");
    EXPECT_LE(std::count(text.begin(), text.end(), '\n'), 150);
}

TEST(Readme, EveryCommandIsInItsTable) {
    const std::string text = read_file(source + "README.md");
    for (const char* command :
         {"demo", "frames", "draw", "explain", "summary", "compare", "devices", "record", "watch", "keys", "check"})
        EXPECT_NE(text.find(std::string{"| `cursorum "} + command), text.npos) << command;
}

// A whole folder of recordings, one row for each, added up by a database.
TEST(Recipes, ItsCommandsRunAndItsRowsAddUp) {
    const auto commands = blocks("docs/guide/recipes.md", "sh"), shown = blocks("docs/guide/recipes.md", "text");
    ASSERT_EQ(commands.size(), 2U);
    ASSERT_EQ(shown.size(), 1U);
    const auto report = run_command("cd '" + source + "' && set -e\n" + commands[0]);
    EXPECT_EQ(report.exit_code, 0) << report.err;
    const auto folded = run_command("cd '" + source + "' && export -f cursorum && shopt -s expand_aliases && PATH='" +
                                    std::filesystem::path{CURSORUM_TOOL_PATH}.parent_path().string() + "':$PATH\n" +
                                    commands[1]);
    EXPECT_TRUE(folded.out.starts_with(shown[0])) << folded.out << folded.err;
    // The same figures as of the recordings one by one.
    std::size_t presses = 0;
    for (const auto& file : std::filesystem::directory_iterator{source + "demo"}) {
        if (file.path().extension() != ".jsonl") continue;
        const auto row = run_command("cursorum summary --format jsonl " + file.path().string());
        const std::size_t at = row.out.find("{\"control\":\"MouseLeft\",\"presses\":");
        if (at != row.out.npos) presses += std::stoul(row.out.substr(at + 33));
    }
    EXPECT_NE(folded.out.find("MouseLeft         2         " + std::to_string(presses) + " "), folded.out.npos)
        << presses;
}

TEST(Headers, TheUmbrellaNamesAllOfThem) {
    const std::string text = read_file(source + "include/cursorum/cursorum.hpp");
    for (const auto& file : std::filesystem::recursive_directory_iterator{source + "include/cursorum"}) {
        const auto path = file.path().lexically_relative(source + "include/cursorum").string();
        if (file.path().extension() != ".hpp" || path.find("detail/") != path.npos || path == "cursorum.hpp") continue;
        EXPECT_NE(text.find(file.path().filename().string()), text.npos) << path;
    }
}

TEST(Formats, TheirExamplesAreReadByTheTool) {
    const auto recordings = blocks("docs/recording-format.md", "jsonl");
    ASSERT_FALSE(recordings.empty());
    const std::string file = test::write_file("documented.jsonl", recordings[0]);
    const auto result = run_command("cursorum frames " + file + " --strict --format jsonl");
    EXPECT_EQ(result.exit_code, 0) << result.err;
    EXPECT_EQ(run_command("/usr/bin/python3 " + source + "tests/tool/check_schema.py " + source +
                          "docs/recording.schema.json " + file)
                  .out,
              "");
    // The documented frame is what the tool makes of the documented recording.
    const auto frames = blocks("docs/frame-format.md", "jsonl");
    ASSERT_EQ(frames.size(), 2U);
    const std::string input = test::write_file("frames.jsonl", frames[0]);
    EXPECT_EQ(run_command("cursorum frames " + input + " --rate 60 --format jsonl | tail -n 1").out, frames[1]);
}

// Those with a name move or fire something: they are run, at all rates.
TEST(Guide, ItsSnippetsAreThoseThatAreCompiledOrRun) {
    const std::string measured = read_file(source + "tests/snippets/measured_test.cpp") +
                                 read_file(source + "tests/snippets/going_back_test.cpp") +
                                 read_file(source + "tests/snippets/recipes_test.cpp");
    for (const auto& [document, program, path] :
         {std::tuple{"docs/guide/from-hand-written-code.md", "examples/live_snippets.cpp", ""},
          {"docs/drop-in.md", "examples/live_snippets.cpp", ""},
          {"docs/threads-and-time.md", "examples/guide_snippets.cpp", CURSORUM_GUIDE_SNIPPETS},
          {"docs/going-back.md", "examples/guide_snippets.cpp", ""},
          {"docs/pointer-pads-and-seats.md", "examples/desk_snippets.cpp", CURSORUM_DESK_SNIPPETS},
          {"docs/why.md", "examples/why_snippets.cpp", CURSORUM_WHY_SNIPPETS},
          {"docs/seeing.md", "examples/seeing_snippets.cpp", CURSORUM_SEEING_SNIPPETS},
          {"docs/profile-format.md", "examples/profile_snippets.cpp", ""},
          {"docs/live-sources.md", "examples/live_snippets.cpp", ""},    // its sources have tests of their own
          {"docs/your-own-pump.md", "examples/pumps.hpp", ""},
          {"docs/x-core-events.md", "examples/x_core_keys.hpp", ""}}) {  // run by the X server's tests
        const std::string compiled = without_indentation(read_file(source + program));
        const auto snippets = all_blocks(document, "cpp");
        EXPECT_GE(snippets.size(), 1U) << document;
        for (const auto& [text, name] : snippets)
            if (name.empty())
                EXPECT_NE(compiled.find(without_indentation(text)), std::string::npos) << text;
            else
                EXPECT_NE(measured.find("#include \"" + name + ".inc\"\n"), std::string::npos) << name;
        if (*path != 0) {
            EXPECT_EQ(run_command(path).exit_code, 0) << program;
        }
    }
}

}  // namespace
