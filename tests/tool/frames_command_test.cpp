#include <fcntl.h>
#include <gtest/gtest.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <sstream>
#include <string>

#include "support/run_command.hpp"
#include "support/sanitizers.hpp"

namespace {

using test::run_command;
using test::write_file;

const std::string demo = CURSORUM_SOURCE_DIR "/demo/quay-shift.jsonl";
const std::string header = R"({"type":"recording","format":"cursorum","version":1})"
                           "\n";
const std::string keyboard = R"({"t":0,"type":"connect","device":1,"kind":"keyboard"})"
                             "\n";
const std::string tap = header + keyboard + R"({"t":5000000,"type":"button","device":1,"control":"KeyW","down":true}
{"t":9000000,"type":"button","device":1,"control":"KeyW","down":false}
{"t":20000000,"type":"button","device":1,"control":"ShiftLeft","down":true}
)";

struct Row {
    const char* line;
    int exit_code;
    const char* out;  // a part of it; whole if it ends with a line feed
    const char* err;
};

void expect(const Row& row) {
    const auto result = run_command(row.line);
    EXPECT_EQ(result.exit_code, row.exit_code) << row.line << "\n" << result.out << result.err;
    EXPECT_NE(result.out.find(row.out), std::string::npos) << row.line << "\n" << result.out;
    EXPECT_NE(result.err.find(row.err), std::string::npos) << row.line << "\n" << result.err;
}

TEST(FramesCommand, JsonlIsTheFormat) {
    const std::string file = write_file("tap.jsonl", tap);
    const auto result = run_command("cursorum frames " + file + " --format jsonl");
    EXPECT_EQ(result.exit_code, 0);
    EXPECT_EQ(
        result.out,
        R"({"frame":0,"t0":0,"t1":16666666,"controls":[{"control":"KeyW","state":"blip","press_count":1,"release_count":1,"adopt_count":0,"cancel_count":0,"repeat_count":0,"system_repeat_count":0,"held_for_ns":4000000,"down_span_ns":4000000}],"edges":[{"t":5000000,"device":1,"control":"KeyW","edge":"press"},{"t":9000000,"device":1,"control":"KeyW","edge":"release"}]})"
        "\n"
        R"({"frame":1,"t0":16666666,"t1":33333333,"controls":[{"control":"ShiftLeft","state":"press","press_count":1,"release_count":0,"adopt_count":0,"cancel_count":0,"repeat_count":0,"system_repeat_count":0,"held_for_ns":13333333,"down_span_ns":13333333}],"edges":[{"t":20000000,"device":1,"control":"ShiftLeft","edge":"press"}]})"
        "\n");
    EXPECT_EQ(result.err, "");
}

TEST(FramesCommand, TakesWhatItIsGiven) {
    const std::string file = write_file("tap.jsonl", tap);
    const std::string f = "cursorum frames " + file + " ";
    for (const Row& row : {
             Row{"--rate 60 --format csv", 0, "0,0,16666666,KeyW,blip,1,1,0,0,0,0,4000000,4000000\n", ""},
             Row{"--rate 200 --format jsonl", 0,
                 R"("frame":1,"t0":5000000,"t1":10000000,"controls":[{"control":"KeyW","state":"release")", ""},
             Row{"--rate 59.94 --format jsonl", 0, R"("t1":16683350,)", ""},
             Row{"--control Shift --format jsonl", 0, R"("controls":[{"control":"Shift","state":"press")", ""},
             Row{"--control KeyW,KeyA", 0, "KeyW", "KeyA was never down"},
             Row{"--per-device --format csv", 0, "frame,t0,t1,device,control,state", ""},
             Row{"--per-device --format jsonl", 0, R"({"device":1,"control":"KeyW","state":"blip")", ""},
             Row{"--from 0.02s --format csv", 0, "\n1,16666666,33333333,ShiftLeft,press", ""},
             Row{"--rate 1000 --repeat-delay 1ms --repeat-interval 1ms --repeat-cap 0 --control KeyW --format csv", 0,
                 "\n6,6000000,7000000,KeyW,hold,0,0,0,0,1,0,2000000,1000000\n", ""},
             Row{"--control KeyW,ShiftLeft --format csv --rate 60", 0, "ShiftLeft,press", ""},
             Row{"", 0, "2 frames at 60 per second; 2 shown.\n4 events", ""},
         })
        expect({(f + row.line).c_str(), row.exit_code, row.out, row.err});
    EXPECT_EQ(run_command(f + "--from 20ms --format csv | grep -c KeyW").out, "0\n");
    EXPECT_EQ(run_command(f + "--to 10ms --format csv | grep -c ShiftLeft").out, "0\n");
}

TEST(FramesCommand, StandardInputIsADash) {
    const std::string file = write_file("tap.jsonl", tap);
    EXPECT_EQ(run_command("cursorum frames --format csv --control KeyW,KeyA " + file).out,
              run_command("cursorum frames " + file + " --control KeyW,KeyA --format csv").out);
    EXPECT_EQ(run_command("cursorum frames - --format jsonl < " + file).out,
              run_command("cursorum frames " + file + " --format jsonl").out);
    EXPECT_EQ(run_command("cat " + file + " | cursorum frames - --format jsonl --rate 60").out,
              run_command("cursorum frames " + file + " --format jsonl").out);
}

TEST(FramesCommand, OwnCutsComeBeforeSixtyASecond) {
    const std::string file = write_file("cuts.jsonl", tap + R"({"t":21000000,"type":"frame"})"
                                                            "\n");
    EXPECT_EQ(run_command("cursorum frames " + file + " --format csv | cut -d, -f1-5 | tail -n +2").out,
              "0,0,21000000,KeyW,blip\n0,0,21000000,ShiftLeft,press\n");
    expect({("cursorum frames " + file).c_str(), 0, "1 frame at the recording's own cuts", ""});
    EXPECT_EQ(run_command("cat " + file + " | cursorum frames - --format csv | wc -l").out, "3\n");
}

TEST(FramesCommand, BadInputIsToldAndExitIsTwo) {
    const std::string broken = write_file("broken.jsonl", tap + "{\"t\":1,\n" + tap);
    const std::string unknown =
        write_file("unknown.jsonl", header + keyboard +
                                        R"({"t":5,"type":"button","device":1,"control":"Keyw","down":true})"
                                        "\n");
    const std::string negative = write_file("negative.jsonl", header + R"({"t":-5,"type":"focus","focused":true})"
                                                                       "\n");
    const std::string huge = write_file("huge.jsonl", header + R"({"t":1e300,"type":"focus","focused":true})"
                                                               "\n");
    const std::string empty = write_file("empty.jsonl", "");
    const std::string weather = write_file("weather.jsonl", tap + R"({"t":1,"type":"weather"})"
                                                                  "\n");
    const std::string cut_off = write_file("cut_off.jsonl", tap + R"({"t":99,"ty)");
    struct Bad {
        std::string line;
        int exit_code;
        std::string err;
    };
    const std::vector<Bad> rows{
        {"cursorum frames /nowhere.jsonl", 2, {"/nowhere.jsonl: cannot be opened: No such file"}},
        {"cursorum frames /tmp", 2, {"/tmp: found a directory; expected a recording"}},
        {("cursorum frames " + empty), 2, {"the file is empty"}},
        {("cursorum frames " + broken), 2, broken + ":6: found no JSON"},
        {("cursorum frames " + unknown), 2,
         unknown + ":3: found control \"Keyw\"; expected the name of a button; did you mean KeyW?"},
        {("cursorum frames " + negative), 2, {":2: found \"t\": -5"}},
        {("cursorum frames " + huge), 2, {"146 years"}},
        {"head -c 100000 /dev/urandom | cursorum frames -", 2, {"standard input:1: found"}},
        {"head -c 100000000 /dev/zero | tr '\\0' x | cursorum frames -", 2, {"a line of over 1048576 bytes"}},
        {("cursorum frames --strict " + weather), 2, weather + ":6: found a line of type \"weather\""},
        {("cursorum frames " + weather), 0, {"skipped 1 line of unknown type"}},
        {("cursorum frames --strict " + cut_off), 2, {"the last line is cut off"}},
        {("cursorum frames " + cut_off), 0, cut_off + ":6: the last line is cut off; the rest was used"},
    };
    for (const auto& [line, exit_code, err] : rows) {
        const auto result = run_command(line);
        EXPECT_EQ(result.exit_code, exit_code) << line << "\n" << result.err;
        EXPECT_NE(result.err.find(err), std::string::npos) << line << "\n" << result.err;
    }
}

TEST(FramesCommand, BadUseIsToldAndExitIsTwo) {
    const std::string f = "cursorum frames " + demo + " ";
    for (const auto& [options, err] : {
             std::pair{"--rate 0", "--rate: found \"0\"; expected frames per second, from 1e-9"},
             std::pair{"--rate -3", "--rate"},
             std::pair{"--rate ''", "--rate: found \"\""},
             std::pair{"--rate 1e-10", "from 1e-9 to 1e9"},
             std::pair{"--control PadStickLeft", "is a stick; expected the name of a button: PadStickLeftUp"},
             std::pair{"--control ctrl", "did you mean Control?"},
             std::pair{"--control return", "did you mean Enter?"},
             std::pair{"--rate fast", "--rate: found \"fast\""},
             std::pair{"--control Keyw", "unknown control \"Keyw\"; did you mean KeyW?"},
             std::pair{"--control PadStickLeftX",
                       "is an axis; expected the name of a button: PadStickLeftLeft, PadStickLeftRight"},
             std::pair{"--repeat-delay 400", "--repeat-delay: found \"400\"; expected a time with its unit"},
             std::pair{"--repeat-delay 0ms", "must be more than 0"},
             std::pair{"--repeat-cap -1", "--repeat-cap"},
             std::pair{"--from 5s --to 4s", "--to must be later than --from"},
             std::pair{"--from later", "--from: found \"later\""},
             std::pair{"--format xml", "--format"},
             std::pair{"--formt csv", "unknown option \"--formt\"; did you mean --format?"},
         }) {
        const auto result = run_command(f + options);
        EXPECT_EQ(result.exit_code, 2) << options;
        EXPECT_NE(result.err.find(err), std::string::npos) << options << "\n" << result.err;
    }
}

// What a device, a file or a command line is called does not control the terminal, wherever it is shown.
TEST(Output, LetsNoControlCharacterThrough) {
    const std::string name = R"(\u001b]0;x\u0007\u009b31m\u202e\u007f)",
                      profile = write_file("esc.toml",
                                           "title=\"\\u001b[31m\"\nformat = \"cursorum-profile\"\nversion = "
                                           "1\n[mode.\"\\u001b[31m\".action.a]\nkind=\"button\"\nbind=[\"KeyW\"]\n");
    const std::string file =
        write_file("esc.jsonl", header + R"({"t":0,"type":"connect","device":1,"kind":"gamepad","name":")" + name +
                                    "\"}\n" + R"({"t":1,"type":"axis","device":1,"control":"PadStickLeftX","value":0.5}
{"t":2,"type":"button","device":1,"control":"KeyW","down":true}
)");
    const std::string bad = write_file(
        "escbad.jsonl", header + R"({"t":1,"type":"button","device":1,"control":"KeyW","\u001bdown":true})" + "\n");
    for (const std::string& command :
         {"frames " + file + " --show all", "frames --show devices --format csv " + file, "devices " + file,
          "frames --show all --format jsonl " + file, "devices --format csv " + file, "devices --rest " + file,
          "explain --control KeyW --frame 0 " + file, "frames " + bad, "frames --profile " + profile + " " + file,
          std::string{"frames --control $'\\e[31m\\xc2\\x9b' "} + file, std::string{"frames $'/\\e]0;x\\a'"}}) {
        const auto result = run_command("bash -c \"" + std::string{CURSORUM_TOOL_PATH} + " " + command + "\"");
        for (const std::string& text : {result.out, result.err})
            for (std::size_t i = 0; i < text.size(); ++i) {
                const auto c = static_cast<unsigned char>(text[i]);
                const bool is_c1 = c == 0xC2 && i + 1 < text.size() && static_cast<unsigned char>(text[i + 1]) < 0xA0;
                ASSERT_FALSE((c < 0x20 && c != '\n' && c != '\t') || c == 0x7F || is_c1) << command << "\n" << text;
                ASSERT_NE(text.substr(i, 3), "\xE2\x80\xAE") << command;
            }
    }
}

TEST(Output, OfATimeThatWasPrintedTheSameFrameIsExplained) {
    const std::string table =
        run_command("cursorum frames " + demo + " --control KeyW | awk '/blip/ { print $2 }'").out;
    std::istringstream times{table};
    unsigned count = 0;
    for (std::string time; times >> time; ++count)
        EXPECT_NE(run_command("cursorum explain " + demo + " --control KeyW --at " + time + "s").out.find(": blip"),
                  std::string::npos)
            << time;
    EXPECT_GE(count, 3U);
}

TEST(Output, IsAtMostAHundredColumnsWide) {
    for (const char* options : {"", "--seats 2 --offer KeyW,PadSouth", "--per-device"}) {
        const std::string file = CURSORUM_SOURCE_DIR "/demo/two-operators.jsonl";
        const auto result =
            run_command("cursorum frames " + file + " --show controls,clicks,devices,sticks " + options);
        std::istringstream lines{result.out};
        for (std::string line; std::getline(lines, line);) {
            const auto columns = std::count_if(line.begin(), line.end(), [](char c) { return (c & 0xC0) != 0x80; });
            EXPECT_LE(columns, 100) << line;
        }
    }
}

TEST(FramesCommand, JumpsOverEmptyTimeAndReadsEveryNumber) {
    const std::string far = write_file("far.jsonl", header + R"({"t":-0,"type":"connect","device":1,"kind":"keyboard"}
{"t":1e18,"type":"button","device":1,"control":"KeyW","down":true}
)");
    const std::string profile = CURSORUM_SOURCE_DIR "/demo/quay.toml";
    expect({("cursorum frames " + far + " | grep -c 'KeyW .*press'").c_str(), 0, "1\n", ""});
    expect({("cursorum frames --rate 1e9 " + far + " | grep -c 'KeyW .*press'").c_str(), 0, "1\n", ""});
    expect({("cursorum frames --profile " + profile + " " + far).c_str(), 0, "60000000000 frames", ""});
    EXPECT_EQ(run_command("cursorum frames --profile " + profile + " " + far).err, "") << "it is quick: no warning";
    expect({("cursorum explain --control KeyW --at 1000000000s " + far).c_str(), 0, ": press", ""});
    expect({("cursorum explain --control KeyW --at 5s " + far).c_str(), 0, "frame 299", ""});
    expect({("cursorum frames --format jsonl " + far).c_str(), 2, "", "found 59999999999 frames between this event"});
    const std::string later =
        write_file("later.jsonl", header + R"({"t":0,"type":"connect","device":1,"kind":"keyboard"}
{"t":1000000000000000,"type":"button","device":1,"control":"KeyW","down":true}
)");
    expect({("cursorum frames --format jsonl " + later + " | head -n 1").c_str(), 0, "{\"frame\":0,",
            "frames lie before the next event"});
    // What nobody releases has no end either.
    const std::string held = write_file("held.jsonl", tap + R"({"t":4611686018427387903,"type":"focus","focused":false}
)");
    for (const char* command : {"summary", "frames", "compare --rate 60 --other-rate 24"})
        expect({("cursorum " + std::string{command} + " " + held).c_str(), 2, "", "expected at most 100000000"});
    expect({("cursorum frames --from 99s " + demo).c_str(), 0, "0 shown", "lies beyond the recording, which ends at"});
    const std::string deep =
        write_file("deep.jsonl", header + "{\"type\":" + std::string(500'000, '[') + std::string(500'000, ']') + "}\n");
    expect({("cursorum frames " + deep).c_str(), 2, "", "nested more than 32 deep"});
}

TEST(Output, AClosedOrFullOneIsNoCrash) {
    EXPECT_EQ(run_command("cursorum frames /nowhere 2>&-").exit_code, 2);
    EXPECT_EQ(run_command("cursorum frames /nowhere 2>/dev/full").exit_code, 2);
    EXPECT_EQ(run_command("cursorum --help >/dev/full").exit_code, 2);
    EXPECT_EQ(run_command("cursorum frames --help >/dev/full").exit_code, 2);
    EXPECT_EQ(run_command("cursorum keys >/dev/full").exit_code, 2);
    EXPECT_EQ(run_command("cursorum help frames").exit_code, 0);
    EXPECT_NE(run_command("cursorum help frames").out.find("Usage: cursorum frames"), std::string::npos);
}

TEST(FramesCommand, TheDemoTellsWhatHappened) {
    const auto result = run_command("cursorum frames " + demo + " --rate 60");
    EXPECT_EQ(result.exit_code, 0);
    EXPECT_NE(result.out.find("2371 frames at 60 per second"), std::string::npos);
    EXPECT_EQ(result.out.find('\033'), std::string::npos) << "colour without a terminal";
    EXPECT_EQ(run_command("cursorum frames " + demo + " --format jsonl --rate 60 | wc -l").out, "2371\n");
}

TEST(FramesCommand, MemoryDoesNotGrowWithTheFile) {
    // Taps of one key, few and many: kept in memory, the many would take tens of megabytes.
    const auto write_taps = [](int events) {
        std::string text = header + keyboard;
        for (int i = 0; i < events; ++i)
            text += R"({"t":)" + std::to_string(i * 1'000'000LL) +
                    R"(,"type":"button","device":1,"control":"KeyW","down":)" + (i % 2 == 0 ? "true}\n" : "false}\n");
        return write_file("taps-" + std::to_string(events) + ".jsonl", text);
    };
    const auto peak_kilobytes = [](const std::string& file) {
        const pid_t child = fork();
        if (child == 0) {
            const int nowhere = open("/dev/null", O_WRONLY);
            dup2(nowhere, STDOUT_FILENO);
            execl(CURSORUM_TOOL_PATH, "cursorum", "frames", file.c_str(), "--rate", "60", "--format", "jsonl", nullptr);
            _exit(127);
        }
        int status = 0;
        rusage usage{};
        wait4(child, &status, 0, &usage);
        EXPECT_TRUE(WIFEXITED(status) && WEXITSTATUS(status) == 0);
        return usage.ru_maxrss;
    };
    if (test::under_any_sanitizer) GTEST_SKIP() << "sanitizers keep freed memory for a while";
    const std::string few_taps = write_taps(2'000), many_taps = write_taps(300'000);
    const long few = peak_kilobytes(few_taps), many = peak_kilobytes(many_taps);
    EXPECT_LT(many, few + 4'000);
}

}  // namespace
