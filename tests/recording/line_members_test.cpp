// The members of each type of line, in one list: reader, writer, schema and document are checked against it.

#include <gtest/gtest.h>

#include <algorithm>
#include <fstream>
#include <nlohmann/json.hpp>
#include <set>
#include <sstream>
#include <string>
#include <vector>

#include "cursorum/recording/recording_reader.hpp"
#include "cursorum/recording/recording_writer.hpp"

namespace {

using namespace cursorum;
using Json = nlohmann::ordered_json;

struct Member {
    const char* name;
    const char* good;  // a value that is not as if it were absent
    const char* bad;
    bool is_required = false;
};
struct Line {
    const char* type;
    std::vector<Member> members;
};

constexpr bool required = true;
const Member device{"device", "3", "\"x\"", required};
const std::vector<Line> lines{
    {"connect",
     {device,
      {"kind", "\"gamepad\"", "\"pad\"", required},
      {"name", "\"left pad\"", "7"},
      {"marks_repeats", "true", "1"},
      {"background", "true", "1"},
      {"virtual", "true", "1"},
      {"first_contact_points", "true", "1"},
      {"vendor", "7", "70000"},
      {"product", "8", "-1"},
      {"buttons", R"(["PadSouth"])", "true"},
      {"axes", R"(["PadStickLeftX"])", "true"}}},
    {"disconnect", {device}},
    {"button",
     {device,
      {"control", "\"KeyW\"", "\"KeyV?\"", required},
      {"down", "true", "1", required},
      {"system_repeat", "true", "1"}}},
    {"state",
     {device, {"down", R"(["KeyW"])", "true"}, {"axes", R"({"PadStickLeftX":0.5})", "[]"}, {"adopt", "true", "1"}}},
    {"motion",
     {device,
      {"dx", "1.5", "true"},
      {"dy", "0.5", "true"},
      {"x", "3.5", "true"},
      {"y", "4.5", "true"},
      {"raw_dx", "5.5", "true"},
      {"raw_dy", "6.5", "true"},
      {"warp", "true", "1"}}},
    {"wheel", {device, {"dx", "1", "true", required}, {"dy", "-1", "true", required}}},
    {"axis", {device, {"control", "\"PadPullLeft\"", "\"KeyW\"", required}, {"value", "0.5", "true", required}}},
    {"pointer",
     {device, {"inside", "false", "1"}, {"locked", "false", "1"}, {"kept", "true", "1"}, {"hidden", "true", "1"}}},
    {"contact",
     {device,
      {"contact", "7", "-1", required},
      {"phase", "\"begin\"", "\"start\"", required},
      {"x", "0.5", "true", required},
      {"y", "-0.5", "true", required},
      {"pressure", "0.25", "true"}}},
    {"shaping",
     {device,
      {"sticks", R"({"PadStickLeft":{"dead_zone":0.25}})", "[]"},
      {"pulls", R"({"PadPullLeft":{"dead_zone":0.25}})", "[]"},
      {"press", "0.75", "true"},
      {"release", "0.25", "true"}}},
    {"focus", {{"focused", "false", "1", required}}},
    {"interrupt", {{"reason", "\"sleep\"", "1"}}},
    {"locks", {{"on", R"(["CapsLock"])", "true", required}}},
    {"text",
     {{"text", "\"box\"", "1", required},
      {"control", "\"KeyB\"", "\"PadPullLeft\""},
      {"device", "3", "\"x\""},
      {"phase", "\"change\"", "\"start\""},
      {"caret", "2", "-1"}}},
    {"mode", {{"mode", "\"list\"", "1", required}, {"open", "true", "1", required}, {"reader", "\"left\"", "1"}}},
    {"claim",
     {{"claim", "1", "-1", required},
      {"end", "true", "1"},
      {"everything", "true", "1"},
      {"axes", "true", "1"},
      {"motion", "true", "1"},
      {"wheel", "true", "1"},
      {"buttons", R"(["KeyW"])", "true"},
      {"device", "3", "\"x\""},
      {"reader", "\"left\"", "1"}}},
    {"seat",
     {{"device", "3", "\"x\""},
      {"buttons", R"(["KeyW"])", "true"},
      {"end", "true", "1"},
      {"reader", "\"left\"", "1"}}},
    {"area",
     {{"action", "\"form.edit\"", "1", required},
      {"x", "1.5", "true"},
      {"y", "2.5", "true"},
      {"width", "3.5", "true"},
      {"height", "4.5", "true"},
      {"outside", "true", "1"},
      {"end", "true", "1"},
      {"reader", "\"left\"", "1"}}},
    {"taken", {{"action", "\"crane.lock\"", "1", required}, {"reader", "\"left\"", "1"}}},
    {"belief",
     {{"pressed", R"(["KeyW"])", "true"},
      {"down", R"(["KeyW"])", "true"},
      {"released", R"(["KeyS"])", "true"},
      {"handles", R"(["KeyW","KeyS"])", "true"},
      {"actions", R"({"pressed":["crane.lock"],"down":[]})", "[]"}}},
    {"frame",
     {{"begin", "3", "true"}, {"step", "0.5", "true"}, {"gap", "\"paused\"", "\"lost\""}, {"from", "2", "true"}}},
    {"checkpoint",
     {{"holds", R"([{"device":1,"control":"KeyW","since":0}])", "true", required},
      {"reader", "\"left\"", "1"},
      {"facts", R"({"modes":"crane"})", "[]"}}},
    {"note", {{"text", "\"anything\"", "1", required}}},
    {"rumble",
     {device,
      {"strong", "0.5", "true", required},
      {"weak", "0.25", "true", required},
      {"for", "1000000", "-1", required}}},
};

/// A line with all its members but one, or with another value of it.
std::string text_of(const Line& line, const Member* other = nullptr, const char* value = nullptr) {
    std::string text = R"({"t":5,"type":")" + std::string{line.type} + '"';
    for (const Member& member : line.members) {
        const char* const its = &member == other ? value : member.good;
        if (its) text += std::string{",\""} + member.name + "\":" + its;
    }
    return text + '}';
}

/// The line, or the error. Texts in `line` are good as long as `reader`.
struct Read {
    explicit Read(const std::string& text)
        : in{"{\"type\":\"recording\",\"format\":\"cursorum\",\"version\":1}\n" + text + "\n"}, reader{in, "r"} {
        is_good = reader.read(line);
    }
    std::istringstream in;
    RecordingReader reader;
    RecordingLine line;
    bool is_good = false;
};

std::string written(const RecordingLine& line) {
    std::ostringstream out;
    RecordingWriter writer{out};
    using Kind = RecordingLine::Kind;
    switch (line.kind) {
        case Kind::event: writer.take(line.event); break;
        case Kind::frame: writer.frame(*line.tick); break;
        case Kind::rumble: writer.try_rumble(line.rumble, line.time); break;
        case Kind::mode:
        case Kind::area:
        case Kind::taken:
        case Kind::seat:
        case Kind::claim: writer.call(line.time, line.call); break;
        case Kind::checkpoint: writer.checkpoint(line.time, *line.checkpoint); break;
        case Kind::belief: writer.belief(line.time, *line.belief); break;
        default: writer.note(line.time, "anything"); break;
    }
    return out.str();
}

std::set<std::string> names_of(const Line& line) {
    std::set<std::string> names;
    for (const Member& member : line.members) names.insert(member.name);
    return names;
}

std::string file(const std::string& name) {
    std::ifstream in{std::string{CURSORUM_SOURCE_DIR} + "/docs/" + name};
    std::ostringstream text;
    text << in.rdbuf();
    return text.str();
}

TEST(LineMembers, TheReaderKnowsEachAndItsType) {
    for (const Line& line : lines) {
        ASSERT_TRUE(Read{text_of(line)}.is_good) << text_of(line);
        for (const Member& member : line.members) {
            const Read wrong{text_of(line, &member, member.bad)};
            EXPECT_FALSE(wrong.is_good) << text_of(line, &member, member.bad);
            if (!member.is_required) continue;
            const Read absent{text_of(line, &member)};
            ASSERT_TRUE(absent.reader.error()) << text_of(line, &member);
            EXPECT_EQ(absent.reader.error()->found, "no \"" + std::string{member.name} + '"') << line.type;
        }
    }
}

TEST(LineMembers, TheWriterWritesEach) {
    for (const Line& line : lines) {
        const Read read{text_of(line)};
        std::set<std::string> names;
        const Json object = Json::parse(written(read.line));
        for (const auto& [name, value] : object.items())
            if (name != "t" && name != "type") names.insert(name);
        EXPECT_EQ(names, names_of(line)) << line.type;
    }
}

/// Whether the schema's condition `if` is about this type.
bool is_about(const Json& condition, const std::string& type) {
    const Json& of = condition["properties"]["type"];
    if (of.contains("const")) return of["const"] == type;
    return of.contains("enum") && std::find(of["enum"].begin(), of["enum"].end(), type) != of["enum"].end();
}

TEST(LineMembers, TheSchemaHasEach) {
    const Json schema = Json::parse(file("recording.schema.json"));
    for (const Line& line : lines) {
        std::set<std::string> names, needed;
        for (const Json& rule : schema["allOf"]) {
            if (!rule.contains("if") || !is_about(rule["if"], line.type)) continue;
            const Json& then = rule["then"];
            if (then.contains("properties"))
                for (const auto& [name, value] : then["properties"].items()) names.insert(name);
            if (then.contains("required"))
                for (const Json& name : then["required"]) needed.insert(name.get<std::string>());
        }
        std::set<std::string> expected;
        for (const Member& member : line.members)
            if (member.is_required) expected.insert(member.name);
        EXPECT_EQ(names, names_of(line)) << line.type;
        EXPECT_EQ(needed, expected) << line.type;
    }
}

TEST(LineMembers, TheDocumentNamesEach) {
    const std::string document = file("recording-format.md");
    for (const Line& line : lines) {
        // Its row; cuts and checkpoints have their members described further below.
        const std::size_t row = document.find("\n| `" + std::string{line.type} + "` |");
        ASSERT_NE(row, std::string::npos) << line.type;
        const bool is_further_below = std::string{line.type} == "frame" || std::string{line.type} == "checkpoint";
        const std::string text = is_further_below ? document : document.substr(row, document.find('\n', row + 1) - row);
        for (const Member& member : line.members)
            EXPECT_NE(text.find('`' + std::string{member.name} + '`'), std::string::npos)
                << line.type << ": " << member.name;
    }
}

}  // namespace
