// The shipped recording: up to date, in the format, and with everything that it should show.

#include <gtest/gtest.h>

#include <string>

#include "support/run_command.hpp"

namespace {

using test::read_file;
using test::run_command;

TEST(DemoData, IsWhatTheGeneratorWrites) {
    const auto made = run_command(CURSORUM_GENERATOR_PATH);
    EXPECT_EQ(made.exit_code, 0);
    EXPECT_TRUE(made.out == read_file(CURSORUM_SOURCE_DIR "/demo/quay-shift.jsonl"))
        << "make_quay_shift > demo/quay-shift.jsonl brings it up to date";
}

TEST(DemoData, ObeysTheSchema) {
    // Debian's python3-jsonschema, whatever other Python stands in PATH.
    const auto result =
        run_command("/usr/bin/python3 " CURSORUM_SOURCE_DIR "/tests/tool/check_schema.py " CURSORUM_SOURCE_DIR
                    "/docs/recording.schema.json " CURSORUM_SOURCE_DIR "/demo/*.jsonl");
    EXPECT_EQ(result.exit_code, 0) << result.out << result.err;
    const std::string bad = test::write_file("bad.jsonl", R"({"type":"recording","format":"cursorum","version":1})"
                                                          "\n"
                                                          R"({"t":-1,"type":"focus","focused":true})"
                                                          "\n");
    EXPECT_EQ(run_command("/usr/bin/python3 " CURSORUM_SOURCE_DIR "/tests/tool/check_schema.py " CURSORUM_SOURCE_DIR
                          "/docs/recording.schema.json " +
                          bad)
                  .exit_code,
              1);
}

TEST(DemoData, ProfilesObeyTheirSchema) {
    const std::string demo = CURSORUM_SOURCE_DIR "/demo/";
    const std::string command = "/usr/bin/python3 " CURSORUM_SOURCE_DIR
                                "/tests/tool/check_schema.py " CURSORUM_SOURCE_DIR "/docs/profile.schema.json ";
    EXPECT_EQ(run_command(command + demo + "quay-mistakes.toml").exit_code, 1);
    const auto result =
        run_command(command + demo + "quay.toml " + demo + "quay-left-handed.toml " + demo + "quay-menu.toml");
    EXPECT_EQ(result.exit_code, 0) << result.out << result.err;
    const std::string head = "format = \"cursorum-profile\"\nversion = 1\n[mode.m.action.a]\n";
    for (const char* bad : {"kind = \"button\"\nbind = [3]\n", "kind = \"axis\"\nbind = []\nriese = \"1s\"\n",
                            "kind = \"button\"\n", "kind = \"vector\"\nbind = [{ stick = \"PadStick\" }]\n"})
        EXPECT_EQ(run_command(command + test::write_file("bad.toml", head + bad)).exit_code, 1) << bad;
}

TEST(DemoData, ShowsEverything) {
    const std::string out = run_command("cursorum frames " CURSORUM_SOURCE_DIR "/demo/quay-shift.jsonl --rate 60").out;
    for (const char* part : {"1 lost release,", "2 stray", "4 ignored"})
        EXPECT_NE(out.find(part), std::string::npos) << out;
    for (const char* state : {"blip", "dip", "press", "hold", "release"})
        EXPECT_NE(out.find(std::string{" "} + state + " "), std::string::npos) << state;
}

TEST(DemoData, ItsFramesAreThoseThatWereKept) {
    const std::string source = CURSORUM_SOURCE_DIR "/";
    for (const std::string name : {"quay-shift", "two-operators"}) {
        const std::string kept = run_command("xz -dc '" + source + "tests/tool/kept/" + name + ".frames.jsonl.xz'").out;
        ASSERT_FALSE(kept.empty()) << name;
        const auto frames = run_command("cursorum frames '" + source + "demo/" + name + ".jsonl' --format jsonl");
        EXPECT_TRUE(frames.out == kept) << name << ": if this is meant, write them anew: cursorum frames demo/" << name
                                        << ".jsonl --format jsonl | xz -9 > tests/tool/kept/" << name
                                        << ".frames.jsonl.xz";
    }
}

}  // namespace
