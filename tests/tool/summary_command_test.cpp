// summary: figures of whole recordings, against what stands in them.

#include <gtest/gtest.h>

#include <string>

#include "support/run_command.hpp"

namespace {

using test::run_command;
using test::squeezed;
using test::write_file;

const std::string demo = CURSORUM_SOURCE_DIR "/demo/";

/// Two holds of 10 and 30 ms, one of them within a frame; repeats after 250 ms, every 30 ms and once 40; a mouse of
/// 1,000 reports per second that rests for a while; a key that is found down.
const std::string small = R"({"type":"recording","format":"cursorum","version":1}
{"t":0,"type":"connect","device":1,"kind":"keyboard","name":"desk","marks_repeats":true}
{"t":0,"type":"connect","device":2,"kind":"mouse","name":"m"}
{"t":0,"type":"state","device":1,"down":["KeyA"]}
{"t":1000000,"arrived":3000000,"type":"button","device":1,"control":"KeyW","down":true}
{"t":11000000,"arrived":12000000,"type":"button","device":1,"control":"KeyW","down":false}
{"t":20000000,"type":"button","device":1,"control":"KeyW","down":true}
{"t":50000000,"type":"button","device":1,"control":"KeyW","down":false}
{"t":60000000,"type":"motion","device":2,"dx":1,"dy":0}
{"t":61000000,"type":"motion","device":2,"dx":1,"dy":0}
{"t":62000000,"type":"motion","device":2,"dx":1,"dy":0}
{"t":900000000,"type":"motion","device":2,"dx":1,"dy":0}
{"t":1000000000,"type":"button","device":1,"control":"KeyS","down":true}
{"t":1250000000,"type":"button","device":1,"control":"KeyS","down":true,"system_repeat":true}
{"t":1280000000,"type":"button","device":1,"control":"KeyS","down":true,"system_repeat":true}
{"t":1310000000,"type":"button","device":1,"control":"KeyS","down":true,"system_repeat":true}
{"t":1350000000,"type":"button","device":1,"control":"KeyS","down":true,"system_repeat":true}
{"t":1400000000,"type":"focus","focused":false}
)";

TEST(SummaryCommand, AddsUpWhatStandsInTheRecording) {
    const std::string file = write_file("small.jsonl", small);
    const auto table = run_command("cursorum summary --lost " + file);
    EXPECT_EQ(table.exit_code, 0) << table.err;
    for (const char* line : {
             ": 1.400 s, 2 devices, 17 events, 84 frames at 60 frames per second",
             "KeyA 0 - - - 0 0 0 0\n",
             "KeyW 2 10 ms 20 ms 30 ms 0 1 2 0\n",
             "KeyS 1 400 ms 400 ms 400 ms 0 0 0 1\n",
             "device 1 \"desk\": first after 250 ms (250 ms to 250 ms), then every 30 ms (30 ms to 40 ms); 4 in all\n",
             "device 2 \"m\": 4 events, every 1 ms, 1000 per second",
             "least 1 ms, median 1.5 ms, 99 % within 1.99 ms, most 2 ms\n",
             "It would lose 1 press and make up 1.\n",
             "frame 0, up to 0.016666 s KeyA made up: found down, not pressed\n",
             "frame 0, up to 0.016666 s KeyW 1 press lost\n",
         })
        EXPECT_NE(squeezed(table.out).find(squeezed(line)), std::string::npos) << line << "\nis not in\n" << table.out;
    const auto json = run_command("cursorum summary --format jsonl " + file + " " + file);
    EXPECT_NE(
        json.out.find(
            R"({"control":"KeyW","presses":2,"cancelled":0,"holds":{"count":2,"least_ns":10000000,"median_ns":20000000,"p99_ns":29800000,"greatest_ns":30000000,"bins":[0,0,0,0,0,0,0,1,0,0,1]},"shorter_than_a_frame_at_144":0,"shorter_than_a_frame_at_60":1,"shorter_than_a_frame_at_30":2})"),
        std::string::npos)
        << json.out;
    EXPECT_EQ(json.out.substr(0, json.out.find('\n') + 1) + json.out.substr(0, json.out.find('\n') + 1), json.out)
        << "one line for each file";
}

TEST(SummaryCommand, CountsWhatTheFramesOfTheDemoSay) {
    const auto at_60 = run_command("cursorum summary " + demo + "quay-shift.jsonl");
    EXPECT_NE(at_60.out.find("2371 frames at 60 frames per second"), std::string::npos) << at_60.out;
    EXPECT_NE(at_60.out.find("It would lose 9 presses and make up 3. --lost lists them."), std::string::npos)
        << at_60.out;
    const auto at_24 = run_command("cursorum summary --lost --rate 24 " + demo + "quay-shift.jsonl");
    EXPECT_NE(squeezed(at_24.out).find("frame 720, up to 30.041666 s KeyS 2 presses lost\n"), std::string::npos)
        << at_24.out;
    EXPECT_EQ(run_command("cursorum summary " + demo + "nothing.jsonl").exit_code, 2);
    EXPECT_EQ(run_command("cursorum summary").exit_code, 2);
}

// With a profile, the summary counts the presses of each control by their verdicts, and those without focus.
TEST(SummaryCommand, SaysWhereEachPressWent) {
    const auto menu = run_command("cursorum summary " + demo + "quay-menu.jsonl --profile " + demo + "quay-menu.toml");
    for (const char* line :
         {"  KeyE: 6 presses; 4 within min_interval, 2 fired crane.step\n",
          "  KeyH: 3 presses; 2 debounced, 1 fired crane.horn\n",
          "  KeyL: 2 presses; 1 fired crane.lamp, 1 switched off crane.lamp\n", "  F2: 1 press; 1 unbound\n",
          "  PadSouth: 3 presses; 1 fired crane.lock, 1 fired menu.choose, 1 taken by claim\n"})
        EXPECT_NE(menu.out.find(line), std::string::npos) << menu.out;
    const auto json =
        run_command("cursorum summary " + demo + "quay-shift.jsonl --format jsonl --profile " + demo + "quay.toml");
    EXPECT_NE(json.out.find(R"("KeyH":{"fired crane.horn":4,"ignored without focus":1})"), std::string::npos)
        << json.out;
}

// A press that fired counts as fired, whatever else its other bindings say of it.
TEST(SummaryCommand, CountsAPressOfSeveralBindingsOnce) {
    const std::string profile = write_file("two.toml", R"(format = "cursorum-profile"
version = 1
title = "two"
[mode.crane.action.twice]
kind = "button"
bind = ["KeyW"]
gesture = "double_tap"
[mode.crane.action.once]
kind = "button"
bind = ["KeyW"]
buffer = "20 ms"
[mode.crane.action.again]
kind = "button"
bind = ["KeyW"]
)");
    const auto counts = run_command("cursorum summary " + write_file("small.jsonl", small) + " --profile " + profile);
    const std::string line =
        "  KeyW: 2 presses; 1 fired crane.again and crane.once, "
        "1 fired crane.twice and crane.again and crane.once\n";
    EXPECT_NE(counts.out.find(line), std::string::npos) << counts.out << counts.err;
}

}  // namespace
