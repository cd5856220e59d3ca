// demo, keys, help, version, mistyped words.

#include <gtest/gtest.h>

#include <string>
#include <tuple>

#include "cursorum/core/version.hpp"
#include "support/run_command.hpp"

namespace {

using test::run_command;

TEST(Tool, EveryCommandsHelpHasAnExample) {
    for (const char* command : {"demo", "frames", "explain", "devices", "record", "keys"}) {
        const auto result = run_command(std::string{"cursorum "} + command + " --help");
        EXPECT_EQ(result.exit_code, 0) << command;
        EXPECT_NE(result.out.find(std::string{"\n  cursorum "} + command), std::string::npos) << result.out;
        EXPECT_NE(run_command("cursorum --help").out.find(std::string{"\n  "} + command), std::string::npos);
    }
    EXPECT_NE(
        run_command("cursorum --help").out.find("Exit codes: 0 done, 1 the answer is no, 2 wrong usage or bad input"),
        std::string::npos);
    EXPECT_EQ(run_command("cursorum --version").out, "cursorum " CURSORUM_VERSION "\n");
}

TEST(Tool, MistypedWordsHaveANearOne) {
    for (const auto& [line, err] : {
             std::tuple{"cursorum farmes", "unknown command \"farmes\"; did you mean frames?"},
             std::tuple{"cursorum --verison", "unknown option \"--verison\"; did you mean --version?"},
             std::tuple{"cursorum keys --hepl", "unknown option \"--hepl\"; did you mean --help?"},
             std::tuple{"cursorum explain x --contrl KeyW", "did you mean --control?"},
             std::tuple{"cursorum frames", "FILE"},
         }) {
        const auto result = run_command(line);
        EXPECT_EQ(result.exit_code, 2) << line;
        EXPECT_NE(result.err.find(err), std::string::npos) << line << "\n" << result.err;
    }
    EXPECT_EQ(run_command("cursorum").exit_code, 2);
}

TEST(Tool, AFullDiskIsAnError) {
    const auto result = run_command("cursorum keys >/dev/full");
    EXPECT_EQ(result.exit_code, 2);
    EXPECT_NE(result.err.find("cannot write the output"), std::string::npos);
}

TEST(KeysCommand, ListsControls) {
    const auto all = run_command("cursorum keys");
    for (const char* row : {"KeyW                     26 0x07 0x1A    17  25   0x11 0x57 0x0D   -  letter W",
                            "ControlRight            228 0x07 0xE4    97 105 0xE01D 0xA3 0x3E   -  right Control",
                            "MouseLeft               288 0x09 0x01   272   -      -    -    -   -  mouse: left button",
                            "Shift                   445 -             -   -      -    -    -   -  either Shift key",
                            "PadSouth                304 -           304   -      -    -    -   0  gamepad: lower of",
                            "PadStickLeftX             - 0x01 0x30     0   -      -    -    -   -  gamepad: left stick"})
        EXPECT_NE(all.out.find(row), std::string::npos) << row << "\n" << all.out;
    EXPECT_EQ(run_command("cursorum keys ARROW | wc -l").out,
              "9\n");  // a heading, the arrows, numpad keys that name one
    const auto none = run_command("cursorum keys Spcae");
    EXPECT_EQ(none.exit_code, 1);
    EXPECT_NE(none.err.find("did you mean Space?"), std::string::npos);
}

// Most commands need none of the libraries that take the longest to load; pictures are drawn all the same.
TEST(Tool, StartsWithoutTheLibrariesOfPicturesWindowsAndDevices) {
    const auto linked = run_command("ldd '" CURSORUM_TOOL_PATH "'");
    ASSERT_EQ(linked.exit_code, 0);
    for (const char* library : {"cairo", "ncurses", "libxcb", "libevdev"})
        EXPECT_EQ(linked.out.find(library), std::string::npos) << linked.out;
}

TEST(DemoCommand, TellsTheWholeJob) {
    const auto result = run_command("cursorum demo");
    EXPECT_EQ(result.exit_code, 0) << result.err;
    for (const char* part :
         {"1. Frame by frame, 60 per second", "KeyR dip after", "KeyS cancel", "[focus lost]", "KeyD hold (adopt)",
          "[device 3 disconnected]", "KeyH dip (cancel, press)", "[interruption]", "2. What comparing levels",
          "3. What the system's repeat", "4. How far the trolley got"})
        EXPECT_NE(result.out.find(part), std::string::npos) << part;
    // The exact way got equally far at every rate.
    EXPECT_EQ(
        run_command(
            "cursorum demo | grep -E 'per second +[0-9]+ |uneven, 3' | awk '{ print $(NF - 5) }' | sort -u | wc -l")
            .out,
        "1\n");
    // What it proposes works as it is printed.
    const std::string folder = test::temporary_path("demo");
    const auto proposed = run_command("mkdir '" + folder + "' && cd '" + folder +
                                      "' && cursorum demo | sed -n '/^Try next/,$p' | sed 1d > next && wc -l < next && "
                                      "sh -e next >/dev/null && ls shift.html");
    EXPECT_EQ(proposed.out, "2\nshift.html\n") << proposed.err;
    EXPECT_EQ(run_command("cursorum demo --rate 24").exit_code, 0);
    // The small program that `./run.sh demo` builds first shows the same, and how that script runs the tool.
    const auto small = run_command(CURSORUM_DEMO_PATH);
    const auto without_next = [](const std::string& text) { return text.substr(0, text.find("Try next")); };
    EXPECT_EQ(without_next(small.out), without_next(result.out));
    EXPECT_NE(small.out.find("\n   ./run.sh tool explain "), std::string::npos);
    EXPECT_EQ(run_command(CURSORUM_DEMO_PATH " --rate x").exit_code, 2);
    EXPECT_EQ(run_command("cursorum demo --rate x").exit_code, 2);
}

}  // namespace
