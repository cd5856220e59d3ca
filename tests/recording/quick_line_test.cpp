#include "recording/quick_line.hpp"

#include <gtest/gtest.h>

#include <bit>
#include <map>
#include <sstream>
#include <vector>

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
    text.insert(text.find('{') + 1, "\"arrived\":5.0,");
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
             R"({"t":5,"t":6,"type":"button","device":1,"control":"KeyW","down":true})",
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
             R"({"t":5,"type":"butt\u006fn","device":1,"control":"KeyW","down":true})",
             R"({"t":5,"type":"button","device":1,"control":"Key\u0057","down":true})",
             R"({"t":5,"type":"button","device":1,"control":"","down":true})",
             R"({"t":5,"type":"","device":1,"control":"KeyW","down":true})",
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
    // As other programs write numbers: with more digits than are needed, or than 64 bits hold.
    constexpr const char* formats[] = {"%.20f", "%.17g", "%.30e", "%.3f", "%g", "%.19f", "%.60f"};
    const auto numeral = [&formats](Random& random) {
        const double number = (static_cast<double>(random.below(2'000'001)) / 1e6 - 1) * (random.one_in(9) ? 1e9 : 1);
        char text[128];
        std::snprintf(text, sizeof text, formats[random.below(std::size(formats))], number);
        return std::string{text};
    };
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
                    "\":" + (random.one_in(3) ? numeral(random) : values[random.below(std::size(values))]);
        text += '}';
        for (std::uint64_t i = random.one_in(3) ? random.below(3) : 0; i > 0; --i) {
            constexpr std::string_view bytes = "{}[]\",:.-+0123456789eE \t\\tnf";
            const std::size_t at = random.below(text.size() + 1);
            switch (const char byte = bytes[random.below(bytes.size())]; random.below(3)) {
                case 0: text.insert(at, 1, byte); break;
                case 1: text.erase(std::min(at, text.size() - 1), 1); break;
                default: text.replace(std::min(at, text.size() - 1), 1, 1, byte);
            }
        }
        RecordingLine line;
        if (!quick.try_read(text, line)) continue;
        ++count;
        ASSERT_EQ(shown(line), thoroughly(text)) << "seed " << seed << ": " << text;
    }
    EXPECT_GT(count, 1000U);
}

/// What each line alone is: its event, "skipped", "blank", or "error".
std::string alone(const std::string& text) {
    std::istringstream in{"{\"type\":\"recording\",\"format\":\"cursorum\",\"version\":1}\n" + text + "\n"};
    RecordingReader reader{in, "r"};
    RecordingLine line;
    return reader.read(line) ? shown(line) : reader.error() ? "error" : "end";
}

// Recordings of several buffers, with lines of every sort among each other: each line is what it is alone, up to the
// first that is wrong.
TEST(QuickLine, ManyLinesAtOnceAreWhatEachIsAlone) {
    const auto ordinary = [](Random& random) {
        const std::string t = std::to_string(random.below(1'000'000'000));
        switch (random.below(5)) {
            case 0: return R"({"t":)" + t + R"(,"type":"button","device":1,"control":"KeyW","down":true})";
            case 1: return R"({"t":)" + t + R"(,"type":"motion","device":2,"dx":0.25,"dy":-)" + t + "}";
            case 2: return R"({"t":)" + t + R"(,"type":"axis","device":3,"control":"PadStickLeftX","value":0.5})";
            case 3: return R"({"t":)" + t + R"(,"type":"wheel","device":2,"dx":0,"dy":1})";
            default: return R"({"t":)" + t + R"(,"type":"frame"})";
        }
    };
    const std::string odd[] = {
        "",
        "   \t",
        R"({"t":5,"type":"note","text":"a } \" { b"})",
        R"({"t":5,"type":"focus","focused":false})",
        R"({"t":5,"type":"later","with":[{"t":1,"type":"frame"}]})",
        R"( {"t":5,"type":"frame"}  )",
        "{\"t\":5,\"type\":\"frame\"}\r",
        R"({"t":5,"type":"wheel","device":2,"dx":0,"dy":0.125,"by":"hand"})",
        R"({"t":5,"type":"text","text":"\u00e9\n"})",
        "{\"t\":5,\"type\":\"note\",\"text\":\"" + std::string(70'000, 'x') + "\"}",
    };
    const std::string wrong[] = {
        R"({"t":5,"type":"frame"}{"t":6,"type":"frame"})",
        R"({"t":5,"type":"frame"} 7)",
        R"({"t":5,"type":"frame"}garbage})",
        R"({"t":5,"type":"frame"}})",
        R"(x{"t":5,"type":"frame"})",
        "{\"t\":5,\n\"type\":\"frame\"}",
        "{\"t\":5,\"type\":\"note\",\"text\":{}\n}",
        R"({"t":5,"type":"frame)",
        R"({"t":5,"type":"note","text":"a})",
        "}",
        "\"",
        "{\"t\":5,\"type\":\"note\",\"text\":\"\xff\"}",
        R"([{"t":5,"type":"frame"}])",
        R"({"t":5,"type":"frame",})",
        R"({"t":5,"type":"button","device":1,"control":"Keyw","down":true})",
        "{\"t\":5,\"type\":\"frame\"}\x0c",
    };
    std::map<std::string, std::string> odd_ones;  // what they are alone
    for (const std::string& text : odd) odd_ones[text] = alone(text);
    QuickLine quick;
    for (std::uint64_t seed = 1; seed <= 52; ++seed) {
        SCOPED_TRACE("seed " + std::to_string(seed));
        Random random{seed};
        std::string text = "{\"type\":\"recording\",\"format\":\"cursorum\",\"version\":1}\n";
        const std::uint64_t count = 500 + random.below(2500), bad = random.below(2 * count);
        std::vector<std::string> expected;
        for (std::uint64_t i = 0; i < count; ++i) {
            std::string line = ordinary(random);
            if (random.one_in(40)) line = odd[random.below(std::size(odd) - (random.one_in(10) ? 0 : 1))];
            if (i == bad) line = wrong[seed % std::size(wrong)];
            text += line + '\n';
            if (!expected.empty() && expected.back() == "error") continue;
            RecordingLine read;
            const std::string first = line.substr(0, line.find('\n'));
            expected.push_back(odd_ones.contains(first)      ? odd_ones[first]
                               : quick.try_read(first, read) ? shown(read)
                                                             : alone(first));
        }
        std::istringstream in{text};
        RecordingReader reader{in, "r"};
        std::vector<std::string> found;
        for (RecordingLine line; reader.read(line);) found.push_back(shown(line));
        if (reader.error()) found.emplace_back("error");
        ASSERT_EQ(found.size(), expected.size());
        for (std::size_t i = 0; i < found.size(); ++i) ASSERT_EQ(found[i], expected[i]) << "line " << i + 2;
    }
}

}  // namespace
