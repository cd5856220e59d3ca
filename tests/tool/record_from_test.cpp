// record --from: recordings cut, merged and thinned.

#include <gtest/gtest.h>

#include <set>
#include <sstream>
#include <string>

#include "support/run_command.hpp"

namespace {

using test::read_file;
using test::run_command;
using test::temporary_path;
using test::write_file;

const std::string folder = CURSORUM_SOURCE_DIR "/demo/",
                  header = R"({"type":"recording","format":"cursorum","version":1})";

/// Presses and releases of buttons, "TIME DEVICE,CONTROL,EDGE", from a time on, with that as zero.
std::multiset<std::string> edges_of(const std::string& file, long long from) {
    const auto result = run_command("cursorum frames " + file + " --rate 60 --format csv --show edges");
    EXPECT_EQ(result.exit_code, 0) << result.err;
    std::multiset<std::string> edges;
    std::istringstream lines{result.out};
    std::string line;
    for (std::getline(lines, line); std::getline(lines, line);) {
        std::istringstream fields{line};
        std::string frame, t0, t1, time, rest;
        for (std::string* field : {&frame, &t0, &t1, &time}) std::getline(fields, *field, ',');
        std::getline(fields, rest);
        const bool is_persons = rest.ends_with(",press") || rest.ends_with(",release");
        if (const long long t = std::stoll(time) - from; is_persons && t >= 0)
            edges.insert(std::to_string(t) + " " + rest);
    }
    return edges;
}

TEST(RecordFrom, AStretchHasThePressesAndReleasesOfTheWhole) {
    for (const char* demo : {"quay-shift.jsonl", "two-operators.jsonl"})
        for (const int second : {1, 4, 5, 8, 11}) {
            const std::string part = temporary_path("part.jsonl");
            const auto result =
                run_command("cursorum record " + folder + demo + " --from " + std::to_string(second) + "s -o " + part);
            ASSERT_EQ(result.exit_code, 0) << result.err;
            const auto expected = edges_of(folder + demo, second * 1'000'000'000LL);
            EXPECT_EQ(edges_of(part, 0), expected) << demo << " from " << second << " s";
            EXPECT_GE(expected.size(), 1U);
            EXPECT_EQ(run_command("cursorum frames --strict " + part).exit_code, 0);
        }
}

TEST(RecordFrom, WhatWasSoBeforeStandsAtTheBeginning) {
    const std::string file = write_file("whole.jsonl", header + R"(
{"t":0,"type":"connect","device":1,"kind":"keyboard","name":"k","marks_repeats":true}
{"t":0,"type":"connect","device":3,"kind":"gamepad","name":"p"}
{"t":1,"type":"shaping","device":3,"press":0.75}
{"t":1,"type":"locks","on":["CapsLock"]}
{"t":2,"type":"mode","mode":"crane","open":true}
{"t":2,"type":"mode","mode":"menu","open":true}
{"t":3,"type":"mode","mode":"menu","open":false}
{"t":4,"type":"button","device":1,"control":"KeyW","down":true}
{"t":5,"type":"axis","device":3,"control":"PadPullLeft","value":0.5}
{"t":6,"type":"contact","device":3,"contact":2,"phase":"begin","x":0.5,"y":0}
{"t":7,"type":"connect","device":4,"kind":"mouse","name":"gone"}
{"t":8,"type":"disconnect","device":4}
{"t":20,"type":"button","device":1,"control":"KeyW","down":false}
{"t":25,"type":"frame","from":20,"gap":"paused","begin":24}
{"t":30,"type":"text","text":"a"}
{"t":40,"type":"button","device":1,"control":"KeyS","down":true}
)");
    const auto result = run_command("cursorum record " + file + " --from 10ns --to 30ns -o -");
    EXPECT_EQ(result.out.substr(result.out.find('\n') + 1),
              R"({"t":0,"type":"connect","device":1,"kind":"keyboard","name":"k","marks_repeats":true}
{"t":0,"type":"state","device":1,"down":["KeyW"],"adopt":true}
{"t":0,"type":"connect","device":3,"kind":"gamepad","name":"p"}
{"t":0,"type":"shaping","device":3,"press":0.75}
{"t":0,"type":"state","device":3,"down":[],"axes":{"PadPullLeft":0.5},"adopt":true}
{"t":0,"type":"contact","device":3,"contact":2,"phase":"begin","x":0.5,"y":0}
{"t":0,"type":"locks","on":["CapsLock"]}
{"t":0,"type":"mode","mode":"crane","open":true}
{"t":10,"type":"button","device":1,"control":"KeyW","down":false}
{"t":15,"type":"frame","from":10,"gap":"paused","begin":14}
{"t":20,"type":"text","text":"a"}
)");
    const auto thinned = run_command("cursorum record " + file + " --control KeyS -o -");
    EXPECT_EQ(thinned.out.find("KeyW"), std::string::npos);
    EXPECT_EQ(thinned.out.find("text"), std::string::npos);
    EXPECT_NE(thinned.out.find("KeyS"), std::string::npos);
}

TEST(RecordFrom, SeveralAreMergedByTime) {
    const auto file_of = [](const char* name, const std::string& lines) {
        return write_file(name, header + "\n" + lines);
    };
    const std::string a = file_of("a.jsonl", R"({"t":0,"type":"connect","device":1,"kind":"keyboard","name":"a"}
{"t":5,"type":"button","device":1,"control":"KeyW","down":true}
{"t":9,"type":"frame"}
)"),
                      b = file_of("b.jsonl", R"({"t":1,"type":"connect","device":1,"kind":"keyboard","name":"b"}
{"t":3,"type":"button","device":1,"control":"KeyW","down":true}
{"t":5,"type":"button","device":1,"control":"KeyW","down":false}
)");
    const auto result = run_command("cursorum record " + a + " " + b + " -o -");
    EXPECT_EQ(result.out.substr(result.out.find('\n') + 1),
              R"({"t":0,"type":"connect","device":1,"kind":"keyboard","name":"a"}
{"t":1,"type":"connect","device":2,"kind":"keyboard","name":"b"}
{"t":3,"type":"button","device":2,"control":"KeyW","down":true}
{"t":5,"type":"button","device":1,"control":"KeyW","down":true}
{"t":5,"type":"button","device":2,"control":"KeyW","down":false}
)");
    EXPECT_NE(result.err.find("Device 1 of " + b + " is device 2 in the result.\n1 cut left out"), std::string::npos)
        << result.err;
}

// What is not named is nowhere in the result, whatever line it stood in.
TEST(RecordFrom, KeepsNothingOfOtherControls) {
    const std::string file =
        write_file("private.jsonl", R"({"type":"recording","format":"cursorum","version":1,"title":"secret"}
{"t":0,"type":"connect","device":1,"kind":"keyboard","name":"k"}
{"t":1,"type":"button","device":1,"control":"KeyS","down":true}
{"t":1,"type":"button","device":1,"control":"Space","down":true}
{"t":2,"type":"state","device":1,"down":["KeyS","Space"]}
{"t":3,"type":"interrupt","reason":"secret"}
{"t":4,"type":"belief","handles":["KeyS","Space"],"pressed":["KeyS","Space"],"down":["KeyS"],"released":["KeyS"],"actions":{"pressed":["chat.secret"],"down":[]}}
{"t":4,"type":"frame"}
{"t":5,"type":"mode","mode":"secret","open":true}
{"t":5,"type":"claim","claim":1,"buttons":["KeyS"]}
{"t":6,"type":"note","text":"secret"}
{"t":6,"type":"text","text":"secret"}
{"t":6,"type":"locks","on":["CapsLock"]}
{"t":7,"type":"checkpoint","holds":[{"device":1,"control":"KeyS","since":1}],"facts":{"owner/KeyS":"mode secret"}}
{"t":7,"type":"frame"}
{"t":8,"type":"what comes later","secret":"KeyS"}
)");
    for (const char* how : {"--control Space", "--control Space --from 0s", "--control Space --from 7ns"}) {
        const auto result = run_command("cursorum record " + file + " -o - " + how);
        EXPECT_EQ(result.exit_code, 0) << result.err;
        for (const char* secret : {"secret", "KeyS", "CapsLock", "mode", "claim", "checkpoint"})
            EXPECT_EQ(result.out.find(secret), std::string::npos) << how << ": " << result.out;
    }
    const auto result = run_command("cursorum record " + file + " -o - --control Space");
    EXPECT_NE(result.out.find(R"("type":"belief","handles":["Space"],"pressed":["Space"],"down":[],"released":[]})"),
              std::string::npos)
        << result.out;
    EXPECT_NE(result.out.find(R"("title":"private.jsonl")"), std::string::npos) << "without its folder";
    // A layer that handles none of them had no belief about them.
    const auto other = run_command("cursorum record " + file + " -o - --control KeyQ");
    EXPECT_EQ(other.out.find("belief"), std::string::npos) << other.out;
}

TEST(RecordFrom, WhatOthersMayNotReadStaysSo) {
    const std::string file = write_file("mine.jsonl", read_file(folder + "quay-shift.jsonl"));
    for (const char* mode : {"600", "644"}) {
        const auto result =
            run_command("umask 022; chmod " + std::string{mode} + " " + file + "; cd $(dirname " + file +
                        "); for form in svg html png; do cursorum draw mine.jsonl -o p.$form && stat -c %a "
                        "p.$form; done | grep -v p; cursorum summary mine.jsonl -o s.svg >/dev/null; stat "
                        "-c %a s.svg");
        EXPECT_EQ(result.out, std::string{mode} + "\n" + mode + "\n" + mode + "\n" + mode + "\n") << result.err;
        run_command("cd $(dirname " + file + "); rm p.* s.svg");
    }
}

TEST(RecordFrom, SaysWhatIsWrongAndLeavesNoFile) {
    EXPECT_EQ(run_command("cursorum record " + folder + "quay-shift.jsonl -o - >/dev/full").exit_code, 2);
    EXPECT_EQ(run_command("cursorum record " + folder + "quay-shift.jsonl -o ''").exit_code, 2);

    const std::string bad = write_file("broken.jsonl", header + "\n{\"t\":1,\"type\":\"button\"}\n"),
                      out = temporary_path("none.jsonl");
    for (const auto& [arguments, message] :
         {std::pair{bad, "broken.jsonl:2: found no \"device\""},
          {folder + "quay-shift.jsonl " + bad, "broken.jsonl:2: found no \"device\""},
          {folder + "nothing.jsonl", "cannot be opened"},
          {folder + "quay-shift.jsonl --from 2s --to 1s", "--to must not be before --from"},
          {folder + "quay-shift.jsonl --source x11", "excludes"},
          {folder + "quay-shift.jsonl --control KeyWW", "did you mean KeyW?"},
          {std::string{}, "give --source SOURCE for live input"}}) {
        const auto result = run_command("cursorum record " + arguments + " -o " + out);
        EXPECT_EQ(result.exit_code, 2) << arguments;
        EXPECT_NE(result.err.find(message), std::string::npos) << arguments << ": " << result.err;
        EXPECT_NE(run_command("ls " + out + " " + out + ".part").exit_code, 0) << "a file is left";
    }
}

}  // namespace
