// compare: two recordings, kept frames, one recording at two rates.

#include <gtest/gtest.h>

#include <string>

#include "support/run_command.hpp"

namespace {

using test::run_command;
using test::temporary_path;

const std::string demo = CURSORUM_SOURCE_DIR "/demo/";

TEST(CompareCommand, SaysWhereTwoDiffer) {
    const std::string shift = demo + "quay-shift.jsonl", part = temporary_path("part.jsonl"),
                      frames = temporary_path("kept.frames"), menu = demo + "quay-menu";
    ASSERT_EQ(run_command("cursorum record " + shift + " --control KeyW,Space -o " + part).exit_code, 0);
    ASSERT_EQ(run_command("cursorum frames " + menu + ".jsonl --profile " + menu + ".toml --format jsonl > " + frames)
                  .exit_code,
              0);
    struct Row {
        std::string arguments;
        int exit_code;
        const char* says;
    };
    for (const Row& row : {
             Row{shift + " " + shift, 0, "have the same 2371 frames.\n"},
             {shift + " " + part, 1,
              "differ first in frame 0, which ends at 0.016666666 s, in ShiftLeft.\n  first:  hold, "},
             {part + " " + shift, 1, " more in "},
             {frames + " " + menu + ".jsonl --profile " + menu + ".toml", 0, "have the same 852 frames.\n"},
             {menu + ".jsonl " + frames + " --profile " + demo + "quay.toml", 1, "differ first in frame "},
             {shift + " --rate 24 --other-rate 1000", 0,
              "has the same presses, releases, adopts, cancels and times down of 13 controls"},
             {shift + " --rate 24 --other-rate 1000 --profile " + demo + "quay.toml", 0, " actions at both rates"},
             {shift, 2, "Give SECOND, or --other-rate N"},
             {shift + " " + demo + "quay.toml", 2, "quay.toml:1: found no JSON"},
             {shift + " " + shift + " --profile " + demo + "quay.toml --mode cran", 2, "did you mean \"crane\"?"},
             {shift + " " + shift + " --other-rate 3", 2, "excludes"},
         }) {
        const auto result = run_command("cursorum compare " + row.arguments);
        EXPECT_EQ(result.exit_code, row.exit_code) << row.arguments << "\n" << result.out << result.err;
        EXPECT_NE((result.out + result.err).find(row.says), std::string::npos) << row.arguments << "\n"
                                                                               << result.out << result.err;
    }
}

}  // namespace
