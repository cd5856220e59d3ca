#include "cursorum/recording/recording_reader.hpp"
#include "cursorum/core/event.hpp"

#include <gtest/gtest.h>

#include <sstream>
#include <tuple>

#include "cursorum/core/controls.hpp"

namespace {

using namespace cursorum;

const std::string header = R"({"type":"recording","format":"cursorum","version":1})"
                           "\n";

/// Reads all lines; returns the error's message, or "".
std::string read_all(const std::string& text, std::vector<RecordingLine>* lines = nullptr,
                     const RecordingReaderOptions& options = {}) {
    std::istringstream in{text};
    RecordingReader reader{in, "f.jsonl", options};
    RecordingLine line;
    while (reader.read(line))
        if (lines) lines->push_back(line);
    return reader.error() ? reader.error()->message() : "";
}

struct BadRow {
    const char* line;     // the second of the file
    const char* message;  // a part of it
};

const BadRow bad_rows[] = {
    {R"({"t":1,"type":"button","device":1,"control":"Keyw","down":true})",
     "f.jsonl:2: found control \"Keyw\"; expected the name of a button; did you mean KeyW?"},
    {R"({"t":1,"type":"button","device":1,"control":"Shift","down":true})", "a device has ShiftLeft and ShiftRight"},
    {R"({"t":1,"type":"button","device":1,"control":"PadStickLeftX","down":true})", "which is an axis"},
    {R"({"t":1,"type":"button","device":1,"control":7,"down":true})", "found control 7"},
    {R"({"t":1,"type":"button","device":1,"down":true})", "found no \"control\""},
    {R"({"t":1,"type":"button","device":1,"control":"KeyW","donw":true})", "there is \"donw\""},
    {R"({"t":1,"type":"button","device":1,"control":"KeyW","down":1})", "expected true or false"},
    {R"({"t":1,"type":"button","device":-1,"control":"KeyW","down":true})",
     "\"device\": -1; expected a device's number"},
    {R"({"t":1,"type":"button","device":4294967296,"control":"KeyW","down":true})", "4294967295"},
    {R"({"t":-5,"type":"focus","focused":true})", "\"t\": -5; expected whole nanoseconds"},
    {R"({"t":1.5,"type":"focus","focused":true})", "\"t\": 1.5"},
    {R"({"t":9223372036854775807,"type":"focus","focused":true})", "146 years"},
    {R"({"t":1e30,"type":"focus","focused":true})", "146 years"},
    {R"({"t":99999999999999999999999,"type":"focus","focused":true})", "146 years"},
    {R"({"t":"1","type":"focus","focused":true})", "\"t\": \"1\""},
    {R"({"type":"focus","focused":true})", "found no \"t\""},
    {R"({"t":1})", "found no \"type\""},
    {R"({"t":1,"type":7})", "\"type\": 7"},
    {R"({"t":1,"type":"connect","device":1})", "found no \"kind\""},
    {R"({"t":1,"type":"connect","device":1,"kind":"keybord"})", "\"kind\": \"keybord\"; expected \"keyboard\""},
    {R"({"t":1,"type":"connect","device":1,"kind":"mouse","marks_repeats":"yes"})", "expected true or false"},
    {R"({"t":1,"type":"state","device":1,"down":"KeyW"})", "expected an array"},
    {R"({"t":1,"type":"state","device":1,"down":["KeyW","KeyWW"]})", "did you mean KeyW?"},
    {R"({"t":1,"type":"state","device":1,"axes":{"KeyW":1}})", "which is a button"},
    {R"({"t":1,"type":"state","device":1,"axes":{"PadStickLeftX":"far"}})", "expected a number"},
    {R"({"t":1,"type":"axis","device":1,"control":"PadStickLeftZ","value":1})", "did you mean PadStickLeftX?"},
    {R"({"t":1,"type":"axis","device":1,"control":"PadStickLeftX","value":1e999})", "f.jsonl:2: "},
    {R"({"t":1,"type":"shaping","device":1,"sticks":{"PadStickLeftX":{}}})", "expected an object with PadStickLeft"},
    {R"({"t":1,"type":"shaping","device":1,"sticks":{"PadStickLeft":{"zone":"round"}}})", "\"radial\" or \"axial\""},
    {R"({"t":1,"type":"shaping","device":1,"sticks":{"PadStickLeft":{"directions":6}}})", "expected 4 or 8"},
    {R"({"t":1,"type":"shaping","device":1,"pulls":{"PadPullLeft":{"centre":"0"}}})",
     "\"centre\": \"0\"; expected a number"},
    {R"({"t":1,"type":"motion","device":1})", "one pair or both"},
    {R"({"t":1,"type":"motion","device":1,"dx":1})", "found no \"dy\""},
    {R"({"t":1,"type":"wheel","device":1,"dx":1})", "found no \"dy\""},
    {R"({"t":1,"type":"locks","on":"CapsLock"})", "expected an array"},
    {R"({"t":1,"type":"text"})", "found no \"text\""},
    {R"({"t":1,"type":"note"})", "found no \"text\""},
    {R"({"type":"recording","format":"cursorum","version":1})", "a second header"},
    {"[1,2]", "found an array; expected one JSON object a line"},
    {"{\"t\":1,", "f.jsonl:2: found no JSON: {\"t\":1,"},
    {"\x01\x02\xff\xfe", "found no JSON: ????"},
    {"{\"t\":1,\"type\":\"text\",\"text\":\"\xff\"}", "no JSON"},
};

TEST(RecordingReader, ErrorsSayWhereWhatAndWhatWasExpected) {
    for (const BadRow& row : bad_rows) {
        const std::string message = read_all(header + row.line + "\n" +
                                             R"({"t":9,"type":"focus","focused":true})"
                                             "\n");
        EXPECT_NE(message.find(row.message), message.npos) << row.line << "\n  said " << message;
        EXPECT_EQ(message.rfind("f.jsonl:2: found ", 0), 0U) << message;
    }
}

TEST(RecordingReader, WholeNumbersMayBeWrittenAsTheyAre) {
    std::vector<RecordingLine> lines;
    ASSERT_EQ(read_all(header + R"({"t":1e9,"type":"focus","focused":true})"
                                "\n"
                                R"({"t":5.0,"type":"disconnect","device":2.0})"
                                "\n",
                       &lines),
              "");
    EXPECT_EQ(lines[0].time, nanoseconds_since_zero(1'000'000'000));
    EXPECT_EQ(lines[1].event.device, DeviceId{2});
}

TEST(RecordingReader, AHeaderIsNeeded) {
    EXPECT_EQ(read_all(""),
              "f.jsonl: found nothing; expected {\"type\":\"recording\",\"format\":\"cursorum\",\"version\":1} "
              "in the first line; the file is empty");
    for (const char* first :
         {"\n", "hello\n", "{\"t\":1,\"type\":\"focus\",\"focused\":true}\n", "{\"type\":\"recording\"}\n",
          "{\"type\":\"recording\",\"format\":\"other\",\"version\":1}\n", "{"})
        EXPECT_EQ(read_all(first).rfind("f.jsonl:1: found ", 0), 0U) << first;
    EXPECT_NE(
        read_all(R"({"type":"recording","format":"cursorum","version":2})").find("\"version\": 2; expected version 1"),
        std::string::npos);
}

TEST(RecordingReader, ReadsEveryKindOfLine) {
    std::vector<RecordingLine> lines;
    ASSERT_EQ(
        read_all(
            header +
                R"({"t":0,"type":"connect","device":1,"kind":"keyboard","name":"desk","marks_repeats":true,"background":true,"virtual":true}
{"t":1200000,"type":"button","device":1,"control":"KeyW","down":true,"arrived":1300000}
{"t":251200000,"type":"button","device":1,"control":"KeyW","down":true,"system_repeat":true}
{"t":300000000,"type":"motion","device":2,"dx":1.5,"dy":0,"x":410.5,"y":220}
{"t":300000000,"type":"wheel","device":2,"dx":0,"dy":-1}
{"t":310000000,"type":"axis","device":3,"control":"PadStickLeftX","value":-0.25}
{"t":320000000,"type":"state","device":1,"down":["ShiftLeft"],"adopt":true}
{"t":325000000,"type":"state","device":3,"axes":{"PadStickLeftX":0}}
{"t":330000000,"type":"focus","focused":false}
{"t":335000000,"type":"interrupt","reason":"sleep"}
{"t":340000000,"type":"locks","on":["CapsLock"]}
{"t":345000000,"type":"text","text":"é"}
{"t":350000000,"type":"disconnect","device":3}
{"t":366666666,"type":"frame"}
{"t":366666666,"type":"note","text":"anything","more":[1,{"a":null}]}
)",
            &lines),
        "");
    ASSERT_EQ(lines.size(), 15U);
    EXPECT_EQ(lines[0].event.type, EventType::connect);
    EXPECT_TRUE(lines[0].event.info.marks_repeats && lines[0].event.info.background && lines[0].event.info.is_virtual);
    EXPECT_EQ(lines[1].event.control, controls::KeyW);
    EXPECT_EQ(lines[1].arrived, nanoseconds_since_zero(1'300'000));
    EXPECT_TRUE(lines[2].event.system_repeat);
    EXPECT_EQ(lines[3].event.dx, 1.5);
    EXPECT_EQ(lines[3].event.y, 220);
    EXPECT_EQ(lines[4].event.dy, -1);
    EXPECT_EQ(lines[5].event.value, -0.25);
    EXPECT_EQ(lines[6].event.down_set, ButtonSet{controls::ShiftLeft});
    EXPECT_TRUE(lines[6].event.adopt);
    EXPECT_FALSE(lines[7].event.has_down_set);
    EXPECT_FALSE(lines[8].event.focused);
    EXPECT_EQ(lines[9].event.type, EventType::interrupt);
    EXPECT_EQ(lines[13].kind, RecordingLine::Kind::frame);
    EXPECT_EQ(lines[13].time, nanoseconds_since_zero(366'666'666));
    EXPECT_EQ(lines[14].kind, RecordingLine::Kind::note);
    EXPECT_EQ(lines[14].number, 16U);
}

TEST(RecordingReader, SkipsWhatItDoesNotKnowUnlessStrict) {
    const std::string text = header + R"({"type":"weather","wind":"NW"})"
                                      "\n\n"
                                      R"({"t":1,"type":"focus","focused":true})"
                                      "\r\n";
    std::istringstream in{text};
    RecordingReader reader{in, "f.jsonl"};
    RecordingLine line;
    unsigned lines = 0;
    while (reader.read(line)) ++lines;
    EXPECT_FALSE(reader.error());
    EXPECT_EQ(lines, 3U);
    EXPECT_EQ(reader.skipped_lines(), 2U);
    const RecordingReaderOptions strict{.strict = true};
    EXPECT_NE(read_all(text, nullptr, strict).find("f.jsonl:2: found a line of type \"weather\""), std::string::npos);
}

TEST(RecordingReader, ATruncatedLastLineIsToldAndTheRestUsed) {
    const std::string text = header + R"({"t":1,"type":"focus","focused":true})"
                                      "\n"
                                      R"({"t":2,"type":"foc)";
    std::istringstream in{text};
    RecordingReader reader{in, "f.jsonl"};
    RecordingLine line;
    EXPECT_TRUE(reader.read(line));
    EXPECT_FALSE(reader.read(line));
    EXPECT_FALSE(reader.error());
    EXPECT_EQ(reader.truncated_line(), 3U);
    EXPECT_NE(read_all(text, nullptr, {.strict = true}).find("the last line is cut off"), std::string::npos);
    // A last line that is whole needs no line feed.
    std::vector<RecordingLine> lines;
    EXPECT_EQ(read_all(header + R"({"t":1,"type":"focus","focused":true})", &lines), "");
    EXPECT_EQ(lines.size(), 1U);
}

TEST(RecordingReader, LinesHaveABound) {
    EXPECT_NE(
        read_all(header + std::string(3'000'000, ' ') + "\n").find("f.jsonl:2: found a line of over 1048576 bytes"),
        std::string::npos);
    EXPECT_NE(read_all(std::string(3'000'000, '[')).find("f.jsonl:1: "), std::string::npos);
    EXPECT_NE(
        read_all(header + std::string(500'000, '[') + "\n").find("f.jsonl:2: found values nested more than 32 deep"),
        std::string::npos);
}

TEST(RecordingReader, RandomDamageNeverCrashes) {
    const std::string whole = header + R"({"t":0,"type":"connect","device":1,"kind":"keyboard","name":"desk"}
{"t":5,"type":"button","device":1,"control":"KeyW","down":true}
{"t":9,"type":"state","device":1,"down":["KeyW"],"axes":{"PadPullLeft":0.5}}
)";
    std::uint64_t state = 5;
    unsigned refused = 0;
    for (int i = 0; i < 20'000; ++i) {
        std::string damaged = whole;
        for (int n = 0; n < 3; ++n) {
            state = state * 6364136223846793005ULL + 1442695040888963407ULL;
            damaged[(state >> 33) % damaged.size()] = static_cast<char>(state >> 25);
        }
        refused += !read_all(damaged).empty();
    }
    EXPECT_GT(refused, 10'000U);
}

TEST(RecordingReader, InletsAreThoseOfTheHeader) {
    const auto with = [](const char* inlets, const char* inlet) {
        return R"({"type":"recording","format":"cursorum","version":1,"inlets":)" + std::string{inlets} +
               "}\n"
               R"({"t":1,"type":"focus","focused":true,"inlet":)" +
               inlet + "}\n";
    };
    std::vector<RecordingLine> lines;
    EXPECT_EQ(read_all(with("3", "2"), &lines), "");
    ASSERT_EQ(lines.size(), 1U);
    EXPECT_EQ(lines[0].inlet, 2U);
    for (const auto& [inlets, inlet, message] :
         {std::tuple{"0", "0", "f.jsonl:1: found \"inlets\": 0; expected how many inlets there were, 1 to 32"},
          std::tuple{"33", "0", "found \"inlets\": 33"}, std::tuple{"\"2\"", "0", "found \"inlets\": \"2\""},
          std::tuple{"2", "2",
                     "f.jsonl:2: found \"inlet\": 2; expected an inlet's number, below the header's \"inlets\""},
          std::tuple{"1", "1", "found \"inlet\": 1"}, std::tuple{"1", "-1", "found \"inlet\": -1"}})
        EXPECT_NE(read_all(with(inlets, inlet)).find(message), std::string::npos) << read_all(with(inlets, inlet));
}

}  // namespace
