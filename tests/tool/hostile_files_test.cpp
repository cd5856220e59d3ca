// Files that nobody meant well with, through the real command: each ends with one of its exit codes, and neither output
// carries anything that could control a terminal. Under the address sanitizer, as all of these tests are in CI, a
// mistake in reading them ends the command with another code.

#include <gtest/gtest.h>

#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "support/run_command.hpp"

namespace {

using namespace std::string_literals;
using test::CommandResult;
using test::run_command;
using test::write_file;

const std::string header = "{\"type\":\"recording\",\"format\":\"cursorum\",\"version\":1}\n";
const std::string keyboard = "{\"t\":0,\"type\":\"connect\",\"device\":1,\"kind\":\"keyboard\",\"name\":\"quay\"}\n";
const std::string press = "{\"t\":5,\"type\":\"button\",\"device\":1,\"control\":\"KeyW\",\"down\":true}\n";

std::string repeated(std::string_view text, std::size_t count) {
    std::string all;
    all.reserve(text.size() * count);
    for (; count != 0; --count) all += text;
    return all;
}

/// Colour, a cleared screen, a window's title, C1, DEL, marks of direction, invisible characters, line feeds.
const std::string evil =
    R"(\u001b[31m\u001b[2J\u001b]0;x\u0007\u009b31m\u007f\u202egpj\u2066\u2028\u061c\u200b\ufeff\ndevice 9\r)";

struct HostileFile {
    const char* name;
    std::string content;
    bool is_number = false;  // one of many that are much alike: not for every command
};

std::vector<HostileFile> hostile_files() {
    std::vector<HostileFile> files{
        {"empty", ""},
        {"header alone", header},
        {"no line feed", header.substr(0, header.size() - 1)},
        {"two headers", header + header},
        {"another version", "{\"type\":\"recording\",\"format\":\"cursorum\",\"version\":1e9}\n"},
        {"deep", header + "{\"t\":1,\"type\":" + repeated("[", 100'000) + repeated("]", 100'000) + "}\n"},
        {"deep in an unknown type", header + "{\"t\":1,\"type\":\"x\",\"a\":" + repeated("[", 100'000) + "\n"},
        {"deep header", header.substr(0, header.size() - 2) + ",\"x\":" + repeated("{\"a\":", 100'000) + "\n"},
        {"deep frames", "{\"frame\":0,\"t0\":0,\"t1\":5,\"x\":" + repeated("[", 100'000) + "\n"},
        {"long line", header + "{\"t\":1,\"type\":\"note\",\"text\":\"" + repeated("x", 2 << 20) + "\"}\n"},
        {"zeros", header + std::string(5000, '\0')},
        {"zero in a text", header + "{\"t\":1,\"type\":\"note\",\"text\":\"a\0b\"}\n"s},
        {"zero in a name",
         header + "{\"t\":0,\"type\":\"connect\",\"device\":1,\"kind\":\"mouse\",\"name\":\"a\\u0000b\"}\n"},
        {"byte order mark", "\xEF\xBB\xBF" + header + keyboard + press},
        {"half of a pair",
         header + "{\"t\":0,\"type\":\"connect\",\"device\":1,\"kind\":\"mouse\",\"name\":\"\\ud800x\"}\n"},
        {"no UTF-8",
         header + "{\"t\":0,\"type\":\"connect\",\"device\":1,\"kind\":\"mouse\",\"name\":\"\xFF\xC0\xAF\"}\n"},
        {"carriage returns", header + keyboard + "\r\n" + press + "\r"},
        {"junk behind an object", header + keyboard + press.substr(0, press.size() - 1) + " x\n"},
        {"held for ever", header + keyboard + press +
                              "{\"t\":4611686018427387903,\"type\":\"button\",\"device\":1,\"control\":\"KeyW\","
                              "\"down\":false}\n"},
        {"time that goes down",
         header + keyboard + "{\"t\":9,\"type\":\"frame\"}\n{\"t\":1,\"type\":\"frame\"}\n" + press},
        {"many devices", header},
        {"evil names",
         header + "{\"t\":0,\"type\":\"connect\",\"device\":1,\"kind\":\"gamepad\",\"name\":\"" + evil +
             "\"}\n{\"t\":1,\"type\":\"axis\",\"device\":1,\"control\":\"PadStickLeftX\",\"value\":0.8}\n" +
             "{\"t\":2,\"type\":\"interrupt\",\"reason\":\"" + evil + "\"}\n" + press},
        {"evil title", "{\"type\":\"recording\",\"format\":\"cursorum\",\"version\":1,\"title\":\"" + evil + "\"}\n" +
                           keyboard + press + "{\"t\":9,\"type\":\"mode\",\"mode\":\"" + evil + "\",\"open\":true}\n"},
        {"evil type", header + "{\"t\":1,\"type\":\"" + evil + "\"}\n" + keyboard + press},
        {"evil control",
         header + keyboard + "{\"t\":1,\"type\":\"button\",\"device\":1,\"control\":\"" + evil + "\",\"down\":true}\n"},
        {"evil member",
         header + keyboard + "{\"t\":1,\"type\":\"state\",\"device\":1,\"axes\":{\"" + evil + "\":1}}\n"},
    };
    for (int i = 1; i <= 200; ++i)
        for (HostileFile& file : files)
            if (file.name == std::string_view{"many devices"})
                file.content += "{\"t\":" + std::to_string(i) +
                                ",\"type\":\"connect\",\"device\":" + std::to_string(i) +
                                ",\"kind\":\"gamepad\",\"name\":\"p\"}\n";
    for (const char* number :
         {"1e999", "-0", "18446744073709551616", "NaN", "01", ".5", "1e-400", "null", "[]", "\"5\""})
        for (const auto& [name, line] :
             {std::pair{"a time", "{\"t\":@,\"type\":\"button\",\"device\":1,\"control\":\"KeyW\",\"down\":true}\n"},
              {"a distance", "{\"t\":5,\"type\":\"motion\",\"device\":1,\"dx\":@,\"dy\":@}\n"},
              {"a shaping", "{\"t\":5,\"type\":\"shaping\",\"device\":1,\"press\":@,\"release\":@}\n"},
              {"a hold",
               "{\"t\":5,\"type\":\"checkpoint\",\"holds\":[{\"control\":\"KeyW\",\"device\":1,\"since\":@}]}\n"}}) {
            std::string filled = line;
            for (std::size_t at; (at = filled.find('@')) != std::string::npos;) filled.replace(at, 1, number);
            files.push_back({name, header + keyboard + filled + press + "{\"t\":9,\"type\":\"frame\"}\n", true});
        }
    return files;
}

/// The first of what must not be there, and what is around it.
std::string controls_in(const std::string& text) {
    for (std::size_t i = 0; i < text.size(); ++i) {
        const auto byte = static_cast<unsigned char>(text[i]);
        const std::string_view rest = std::string_view{text}.substr(i);
        const bool is_c1 = byte == 0xC2 && rest.size() > 1 && static_cast<unsigned char>(rest[1]) < 0xA0;
        const bool is_hidden = rest.starts_with("\xE2\x80\xAE") || rest.starts_with("\xE2\x81\xA6") ||
                               rest.starts_with("\xE2\x80\x8B") || rest.starts_with("\xEF\xBB\xBF");
        if ((byte < 0x20 && byte != '\n' && byte != '\t') || byte == 0x7F || is_c1 || is_hidden)
            return "byte " + std::to_string(i) + " of: " + text.substr(i < 60 ? 0 : i - 60, 120);
    }
    return {};
}

void expect_harmless(const std::string& line, const char* name) {
    const CommandResult result = run_command(line);
    EXPECT_TRUE(result.exit_code >= 0 && result.exit_code <= 2)
        << name << ": " << line << " ended with " << result.exit_code << '\n'
        << result.err.substr(0, 2000);
    EXPECT_EQ(result.err.find("unexpected"), std::string::npos) << name << ": " << result.err;
    EXPECT_EQ(controls_in(result.out) + controls_in(result.err), "") << name << ": " << line;
}

TEST(HostileFiles, EndWithAnExitCodeAndControlNoTerminal) {
    const std::string page = test::temporary_path("hostile.html");
    for (const HostileFile& file : hostile_files()) {
        const std::string path = write_file("hostile.jsonl", file.content);
        const std::vector<std::string> commands{"frames @ --rate 60 --format jsonl --show all",
                                                "summary @ --format jsonl",
                                                "devices @",
                                                "record @ -o -",
                                                "compare @ @",
                                                "draw @ -o " + page};
        for (const std::string& command : commands) {
            if (file.is_number && &command - commands.data() > 1) break;
            std::string line = "cursorum " + command;
            for (std::size_t at; (at = line.find('@')) != std::string::npos;) line.replace(at, 1, path);
            expect_harmless(line, file.name);
        }
    }
}

TEST(HostileFiles, AsProfilesAndShapingFiles) {
    const std::string demo = std::string{CURSORUM_SOURCE_DIR} + "/demo/quay-shift.jsonl";
    const std::string profile = std::string{CURSORUM_SOURCE_DIR} + "/demo/quay-menu.toml";
    const std::vector<HostileFile> files{
        {"empty", ""},
        {"a recording", header + keyboard},
        {"deep", "a = " + repeated("[", 50'000)},
        {"deep keys", repeated("a.", 50'000) + "b = 1\n"},
        {"no end of a text", "title = \"\"\"" + repeated("x", 100'000)},
        {"evil", "title = \"" + evil + "\"\n[modes.\"" + evil + "\"]\nx = 1\n"},
        {"zeros", std::string(5000, '\0')},
        {"many actions", repeated("[[modes.crane.actions]]\nname = \"a\"\nkind = \"button\"\n", 2000)},
    };
    for (const HostileFile& file : files) {
        const std::string path = write_file("hostile.toml", file.content);
        for (const std::string& line :
             {"cursorum check " + path, "cursorum check " + profile + " " + path,
              "cursorum frames " + demo + " --profile " + path, "cursorum frames " + demo + " --shaping " + path}) {
            expect_harmless(line, file.name);
        }
    }
}

}  // namespace
