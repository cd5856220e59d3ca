// cursorum explain --action: why it did not fire.

#include <gtest/gtest.h>

#include <string>
#include <tuple>

#include "support/run_command.hpp"

namespace {

using test::run_command;
using test::write_file;

const std::string shift = "cursorum explain " CURSORUM_SOURCE_DIR "/demo/quay-shift.jsonl";
const std::string quay = " --profile " CURSORUM_SOURCE_DIR "/demo/quay.toml";

/// A recording of one key and a few more, and what a profile makes of it.
struct Case {
    const char* what;
    const char* modes;   // of the profile
    const char* asked;   // options
    const char* answer;  // is in it
};

std::string recording() {
    return write_file("why.jsonl",
                      R"({"type":"recording","format":"cursorum","version":1,"title":"why"}
{"t":0,"type":"connect","device":1,"kind":"keyboard","name":"desk"}
{"t":10000000,"type":"button","device":1,"control":"KeyB","down":true}
{"t":20000000,"type":"button","device":1,"control":"ControlLeft","down":true}
{"t":30000000,"type":"button","device":1,"control":"KeyL","down":true}
{"t":430000000,"type":"button","device":1,"control":"KeyL","down":false}
{"t":440000000,"type":"button","device":1,"control":"ControlLeft","down":false}
{"t":600000000,"type":"button","device":1,"control":"KeyB","down":false}
)");
}

TEST(ExplainAction, SaysWhyItDidNotFire) {
    constexpr const char* chords = R"([mode.crane.action.lock]
kind = "button"
bind = ["KeyL"]
[mode.crane.action.save]
kind = "button"
bind = ["Control+KeyL"]
[mode.crane.action.late]
kind = "button"
bind = ["ControlLeft>KeyB"]
[mode.crane.action.tap]
kind = "button"
bind = ["KeyB"]
gesture = "tap"
[mode.list]
covers = true
[mode.list.action.next]
kind = "button"
bind = ["KeyL"]
[mode.over.action.next]
kind = "button"
bind = ["KeyL"]
)";
    for (const Case& c : {
             Case{"a longer chord", chords, "--action lock --at 30ms --mode crane",
                  "but it completed the longer chord of save."},
             {"an upper mode", chords, "--action lock --at 30ms --mode crane,over",
              "but it went to the mode over, which lies above crane and binds it."},
             {"a cover", chords, "--action lock --at 30ms --mode crane,list", "crane is covered by list"},
             {"no mode", chords, "--action lock --at 30ms --mode list", "crane is not open"},
             {"and who took it", chords, "--action lock --at 30ms --mode list",
              "but the mode crane was not open: it went to list."},
             {"a chord's order", chords, "--action late --at 25ms --mode crane",
              "Its members have to go down in this order."},
             {"a gesture's time", chords, "--action tap --at 600ms --mode crane",
              "A tap: fires when a press ends within 200 ms."},
             {"too long", chords, "--action tap --at 600ms --mode crane",
              "It went down at 0.010 s, but it lasted longer than 200 ms: no tap."},
             {"half a chord", chords, "--action save --at 25ms --mode crane", "The chord lacks KeyL."},
             {"nothing came", chords, "--action lock --at 500ms --mode crane",
              "Nothing more of its controls in this recording."},
             {"too early", chords, "--action lock --frame 0 --mode crane",
              "One of its buttons, in frame 29, at 0.030 s."},
             {"before", chords, "--action lock --at 500ms --mode crane",
              "KeyL went down in frame 29, at 0.030 s, but it completed the longer chord of save."},
         }) {
        SCOPED_TRACE(c.what);
        const std::string profile =
            write_file("why.toml", std::string{"format = \"cursorum-profile\"\nversion = 1\n"} + c.modes);
        const auto result =
            run_command("cursorum explain " + recording() + " --rate 1000 --profile " + profile + " " + c.asked);
        EXPECT_EQ(result.exit_code, 0) << result.err;
        EXPECT_NE(result.out.find(c.answer), std::string::npos) << result.out;
    }
}

TEST(ExplainAction, OfThresholdsTouchesAndSymbols) {
    const std::string file = write_file("pad.jsonl", R"({"type":"recording","format":"cursorum","version":1}
{"t":0,"type":"connect","device":3,"kind":"gamepad","name":"p"}
{"t":1000000,"type":"axis","device":3,"control":"PadPullRight","value":0.2}
{"t":2000000,"type":"contact","device":3,"contact":1,"phase":"begin","x":0.5,"y":0}
)");
    const std::string profile = write_file("pad.toml", R"(format = "cursorum-profile"
version = 1
[mode.crane.action.half]
kind = "button"
bind = [{ button = "PadPullRight", press = 0.25 }, { touch = "contact" }, { symbol = "\u00f6" }]
)");
    const auto result = run_command("cursorum explain " + file + " --profile " + profile + " --action half --frame 0");
    for (const char* line :
         {"PadPullRight: 0.200 shaped, 0.000 before; pressed from 0.25 on, released at 0.2.\n",
          "A finger is on it, at (0.500, 0.000), with a pressure of 1.\n", "No key of the layout has this symbol.\n"})
        EXPECT_NE(result.out.find(line), std::string::npos) << line << "\n" << result.out << result.err;
}

TEST(ExplainAction, TellsWhereItCameFrom) {
    const auto result = run_command(shift + quay + " --action lock --frame 402");
    EXPECT_EQ(result.exit_code, 0) << result.err;
    for (const char* part :
         {"crane.lock in frame 402 of ", ": press (1 press, held for 16.600509 ms)\n",
          "  Space: press, 1 press, held for 16.600509 ms.\n", "  PadSouth: idle.\n", " --frame 402 --control Space\n"})
        EXPECT_NE(result.out.find(part), std::string::npos) << part << result.out;
    EXPECT_NE(
        run_command(shift + quay + " --action travel --at 1s").out.find(": (1.000, 0.000), (1.000, 0.000) before"),
        std::string::npos);
}

TEST(ExplainAction, BadUseAndBadInput) {
    for (const auto& [arguments, code, message] : {
             std::tuple{quay + " --action lokc --at 1s", 2, "did you mean \"lock\"?"},
             {quay + " --at 1s", 2, "--action NAME"},
             {std::string{" --action lock --at 1s"}, 2, "--profile"},
             {quay + " --action lock --control KeyW --at 1s", 2, "excludes"},
             {quay + " --action lock", 2, "which frame?"},
             {quay + " --action lock --frame 40200", 1, "no such frame: it has 2371"},
         }) {
        const auto result = run_command(shift + arguments);
        EXPECT_EQ(result.exit_code, code) << arguments;
        EXPECT_NE((result.out + result.err).find(message), std::string::npos) << result.out << result.err;
    }
}

TEST(ExplainAction, APressInAPauseWasSkipped) {
    const std::string paused = test::write_file("paused.jsonl", R"({"type":"recording","format":"cursorum","version":1}
{"t":0,"type":"connect","device":1,"kind":"keyboard","name":"desk keyboard"}
{"t":16000000,"type":"frame"}
{"t":20000000,"type":"button","device":1,"control":"Space","down":true}
{"t":25000000,"type":"button","device":1,"control":"Space","down":false}
{"t":60000000,"type":"frame","from":18000000,"gap":"paused","begin":50000000}
{"t":76000000,"type":"frame"}
)");
    for (const auto& [at, expected] :
         {std::pair{"55ms", "Space went down at 0.020 s while the game was paused, so it was skipped."},
          {"70ms", "Space went down in frame 1, at 0.020 s while the game was paused"}}) {
        const auto answer = run_command("cursorum explain " + paused +
                                        " --profile " CURSORUM_SOURCE_DIR "/demo/quay.toml --action lock --at " + at);
        EXPECT_NE(answer.out.find(expected), std::string::npos) << answer.out << answer.err;
    }
    const std::string profile = " --profile " CURSORUM_SOURCE_DIR "/demo/quay.toml";
    const auto counts = run_command("cursorum summary " + paused + profile);
    EXPECT_NE(counts.out.find("Space: 1 press; 1 skipped in a pause"), std::string::npos) << counts.out;
    const std::string picture = test::temporary_path("paused.svg");
    EXPECT_EQ(run_command("cursorum draw " + paused + profile + " -o " + picture).exit_code, 0);
    EXPECT_NE(test::read_file(picture).find("Space went down while the game was paused, so it was skipped"),
              std::string::npos);
}

TEST(ExplainAction, WhatTheSystemRepeatsWithoutFocusIsOnePress) {
    const std::string file = test::write_file("without.jsonl", R"({"type":"recording","format":"cursorum","version":1}
{"t":0,"type":"connect","device":1,"kind":"keyboard","name":"desk keyboard","marks_repeats":true}
{"t":10000000,"type":"focus","focused":false}
{"t":20000000,"type":"button","device":1,"control":"Space","down":true}
{"t":520000000,"type":"button","device":1,"control":"Space","down":true,"system_repeat":true}
{"t":553000000,"type":"button","device":1,"control":"Space","down":true,"system_repeat":true}
{"t":600000000,"type":"button","device":1,"control":"Space","down":false}
)");
    const std::string profile = " --profile " CURSORUM_SOURCE_DIR "/demo/quay.toml";
    const auto counts = run_command("cursorum summary " + file + profile);
    EXPECT_NE(counts.out.find("Space: 1 press; 1 ignored without focus"), std::string::npos) << counts.out;
    const auto answer = run_command("cursorum explain " + file + profile + " --action lock --at 0.55s");
    EXPECT_NE(answer.out.find("Space went down in frame 1, at 0.020 s without focus"), std::string::npos) << answer.out;
}

// A buffer and a gesture are decided in a later frame than that of the press.
TEST(ExplainAction, FollowsAPressUntilItIsDecided) {
    const std::string menu = "cursorum explain " CURSORUM_SOURCE_DIR
                             "/demo/quay-menu.jsonl --profile " CURSORUM_SOURCE_DIR "/demo/quay-menu.toml";
    for (const auto& [asked, expected] :
         {std::pair{"lock --frame 41", "It went down, and crane.lock fired, and waits in its buffer.\n"},
          {"lock --frame 43",
           "Space went down in frame 41, at 0.700 s, and crane.lock fired, and waits in its buffer.\n"},
          {"lock --frame 52",
           "0.700 s, and crane.lock fired, and no consume_press() took it from its buffer within 150"},
          {"lock --frame 402", "It went down at 6.709 s, but the mode menu covered crane.\n"},
          {"boost --frame 343", "KeyR went down in frame 335, at 5.600 s, and crane.boost waits for the rest of its"},
          {"boost --at 14s", "KeyR went down in frame 344, at 5.750 s, and crane.boost fired.\n"}}) {
        const auto answer = run_command(menu + " --action " + asked);
        EXPECT_NE(answer.out.find(expected), std::string::npos) << asked << "\n" << answer.out << answer.err;
    }
}

}  // namespace
