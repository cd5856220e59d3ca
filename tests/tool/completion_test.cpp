// The completion for bash knows every command and option that --help knows.

#include <gtest/gtest.h>

#include <sstream>
#include <string>

#include "support/run_command.hpp"

namespace {

using test::run_command;

std::string completions(const std::string& words, const std::string& current) {
    return run_command("source " CURSORUM_SOURCE_DIR
                       "/tools/cursorum/completion.bash\n"
                       "COMP_WORDS=(" +
                       words + " '" + current +
                       "')\nCOMP_CWORD=$((${#COMP_WORDS[@]} - 1))\n"
                       "_cursorum\nprintf '%s\\n' \"${COMPREPLY[@]}\"")
        .out;
}

TEST(Completion, KnowsEveryOption) {
    for (const char* command : {"demo", "frames", "explain", "record", "keys"}) {
        const std::string offered = completions(std::string{"cursorum "} + command, "--");
        std::istringstream options{
            run_command(std::string{"cursorum "} + command + " --help | grep -oE -- '--[a-z-]+' | sort -u").out};
        unsigned count = 0;
        for (std::string option; options >> option; ++count)
            EXPECT_NE(offered.find(option + "\n"), std::string::npos) << command << " " << option;
        EXPECT_GE(count, 1U) << command;
    }
}

TEST(Completion, KnowsCommandsControlsAndFormats) {
    EXPECT_EQ(completions("cursorum", "fr"), "frames\n");
    EXPECT_EQ(completions("cursorum frames x --control", "KeyW"), "KeyW\n");
    EXPECT_EQ(completions("cursorum frames x --format", "js"), "jsonl\n");
}

}  // namespace
