#include "recording/quick_line.hpp"

#include <gtest/gtest.h>

#include <bit>
#include <sstream>

#include "core/random_events.hpp"

namespace {

using namespace cursorum;
using test::Random;

std::string shown(const RecordingLine& line) {
    std::ostringstream out;
    const Event& e = line.event;
    out << static_cast<int>(line.kind) << ' ' << nanoseconds(line.time);
    if (line.kind != RecordingLine::Kind::event) return out.str();
    out << ' ' << name_of(e.type) << ' ' << static_cast<std::uint32_t>(e.device) << ' ' << e.control.number << e.down
        << e.system_repeat << ' ' << unsigned{e.axis.number} << ' ' << e.has_motion << e.has_position << e.has_raw
        << e.warp;
    for (const double number : {e.value, e.dx, e.dy, e.x, e.y, e.raw_dx, e.raw_dy})
        out << ' ' << std::bit_cast<std::uint64_t>(number);
    return out.str();
}

/// As the thorough reader has it: the quick one leaves whole numbers that are written as fractions to it.
std::string thoroughly(std::string text) {
    text.insert(text.rfind('}'), ",\"arrived\":5.0");
    std::istringstream in{"{\"type\":\"recording\",\"format\":\"cursorum\",\"version\":1}\n" + text + "\n"};
    RecordingReader reader{in, "r"};
    RecordingLine line;
    return reader.read(line) ? shown(line) : "error";
}

TEST(QuickLine, ReadsOrdinaryLines) {
    QuickLine quick;
    for (const char* text : {
             R"({"t":5,"type":"button","device":1,"control":"KeyW","down":true})",
             R"({"t":5,"type":"button","device":4294967295,"control":"PadSouth","down":false,"system_repeat":false})",
             R"({"type":"axis","control":"PadStickLeftX","value":-0.25,"device":3,"t":4611686018427387903})",
             R"({"t":5,"type":"motion","device":2,"dx":1,"dy":-2.5})",
             R"({"t":5,"type":"motion","device":2,"x":1e3,"y":0,"raw_dx":3,"raw_dy":4,"warp":true})",
             R"( { "t" : 5 , "type" : "wheel", "device":2,"dx":0,"dy":0.125 } )",
             R"({"t":5,"type":"frame"})",
             R"({"t":5,"t":6,"type":"butt\u006fn","device":1,"control":"KeyW","down":true})",
         }) {
        RecordingLine line;
        ASSERT_TRUE(quick.try_read(text, line)) << text;
        EXPECT_EQ(shown(line), thoroughly(text)) << text;
    }
}

TEST(QuickLine, LeavesEverythingElseToTheOther) {
    QuickLine quick;
    for (const char* text : {
             "",
             "nothing",
             R"([{"t":5,"type":"frame"}])",
             R"({"t":5,"type":"frame"} x)",
             R"({"t":5,"type":"frame")",
             R"({"t":5,"type":"frame","more":nul})",
             R"({"t":5,"type":"wheel","device":2,"dx":0,"dy":0.125,"by":"hand","more":[{}]})",
             R"({"t":5 "type":"frame"})",
             R"({"t":5,"type":"frame",})",
             R"({"t":5x,"type":"frame"})",
             R"({"t":5,"type":"frame}")",
             R"({"t":5,"type":"button","device":1,"control":"KeyW","down":truee})",
             R"({"t":5,"type":"axis","device":1,"control":"PadStickLeftX","value":1.})",
             R"({"t":-5,"type":"frame"})",
             R"({"t":5.0,"type":"frame"})",
             R"({"t":4611686018427387904,"type":"frame"})",
             R"({"type":"frame"})",
             R"({"t":5})",
             R"({"t":5,"type":"focus","focused":true})",
             R"({"t":5,"type":"button","device":1,"control":"KeyW"})",
             R"({"t":5,"type":"button","device":1,"control":"Keyw","down":true})",
             R"({"t":5,"type":"button","device":1,"control":"Shift","down":true})",
             R"({"t":5,"type":"button","device":1,"control":"PadStickLeftUp","down":true})",
             R"({"t":5,"type":"button","device":1,"control":"PadPullLeft","down":true})",
             R"({"t":5,"type":"button","device":4294967296,"control":"KeyW","down":true})",
             R"({"t":5,"type":"button","device":1,"control":"KeyW","down":1})",
             R"({"t":5,"type":"axis","device":1,"control":"KeyW","value":1})",
             R"({"t":5,"type":"axis","device":1,"control":"PadStickLeftX","value":1e999})",
             R"({"t":5,"type":"axis","device":1,"control":"PadStickLeftX","value":-0.0})",
             R"({"t":5,"type":"motion","device":2})",
             R"({"t":5,"type":"motion","device":2,"dx":1})",
             R"({"t":5,"type":"wheel","device":2,"dx":1})",
             "{\"t\":5,\"type\":\"frame\",\"a\":\"\xff\"}",
         }) {
        RecordingLine line;
        EXPECT_FALSE(quick.try_read(text, line)) << text;
    }
}

// Lines with members taken away, doubled and given odd values: what the quick reader reads, the other reads as the
// same.
TEST(QuickLine, AgreesWithTheThoroughReader) {
    constexpr const char* types[] = {"\"button\"", "\"axis\"",  "\"motion\"", "\"wheel\"",
                                     "\"frame\"",  "\"locks\"", "3"};
    constexpr const char* names[] = {"t", "device", "control", "down",   "system_repeat", "value",   "dx",  "dy",
                                     "x", "y",      "raw_dx",  "raw_dy", "warp",          "unknown", "type"};
    constexpr const char* values[] = {
        "0",         "1",    "7",    "true",     "false", "\"KeyW\"", "\"PadStickLeftX\"",     "\"PadSouth\"",
        "\"Shift\"", "-0.0", "0.1",  "1e-310",   "null",  "[]",       "123456789012345678901", "-3",
        "0.1e1",     "2.5",  "1e21", "{\"a\":1}"};
    QuickLine quick;
    unsigned count = 0;
    for (std::uint64_t seed = 1; seed <= 20000; ++seed) {
        Random random{seed};
        const std::string type = types[random.below(std::size(types))];
        std::string text = R"({"t":5,"type":)" + type;
        if (random.one_in(2))
            text += R"(,"device":1,"control":)" + std::string{random.one_in(2) ? "\"KeyW\"" : "\"PadPullRight\""};
        if (random.one_in(2)) text += R"(,"down":true,"value":0.3,"dx":1,"dy":2)";
        for (std::uint64_t i = random.below(4); i > 0; --i)
            text += ",\"" + std::string{names[random.below(std::size(names))]} +
                    "\":" + values[random.below(std::size(values))];
        text += '}';
        RecordingLine line;
        if (!quick.try_read(text, line)) continue;
        ++count;
        ASSERT_EQ(shown(line), thoroughly(text)) << "seed " << seed << ": " << text;
    }
    EXPECT_GT(count, 1000U);
}

}  // namespace
