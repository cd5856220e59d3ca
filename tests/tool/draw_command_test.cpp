// draw: pictures and pages of recordings, and summary's plot.

#include <gtest/gtest.h>

#include <filesystem>
#include <string>

#include "support/run_command.hpp"

namespace {

using test::read_file;
using test::run_command;
using test::temporary_path;

const std::string demo = CURSORUM_SOURCE_DIR "/demo/", shift = demo + "quay-shift.jsonl ",
                  operators = demo + "two-operators.jsonl ";

/// Width and height in the header of a PNG (ISO/IEC 15948, 11.2.2); "none" if it is not a PNG.
std::string png_size(const std::string& path) {
    const std::string bytes = read_file(path);
    if (bytes.size() < 24 || !bytes.starts_with("\x89PNG\r\n\x1a\n")) return "none";
    const auto number = [&](std::size_t at) {
        unsigned value = 0;
        for (std::size_t i = at; i < at + 4; ++i) value = value << 8 | static_cast<unsigned char>(bytes[i]);
        return std::to_string(value);
    };
    return number(16) + "x" + number(20);
}

TEST(DrawCommand, WritesPictures) {
    const std::string png = temporary_path("a.png"), svg = temporary_path("a.svg");
    struct Row {
        std::string options;
        std::string says, size;
    };
    for (const Row& row : {Row{"draw " + shift + "--rate 24", "1280 by 7", "1280x7"},
                           Row{"draw " + shift + "--rate 24 --size 900x500", "what stands out did not fit", "900x"},
                           Row{"draw " + shift + "--from 4s --to 5s --control KeyW", "1280 by ", "1280x"},
                           Row{"draw " + operators + "--profile " + demo + "quay.toml --pointer", "1280 by ", "1280x"},
                           Row{"draw " + operators + "--control PadStickLeft,PadPullRight", "1280 by ", "1280x"},
                           Row{"draw --sticks " + operators, "1280 by 800 pixels", "1280x800"},
                           Row{"summary " + shift, "1280 by ", "1280x"}}) {
        SCOPED_TRACE(row.options);
        const auto result = run_command("cursorum " + row.options + " -o " + png);
        EXPECT_EQ(result.exit_code, 0) << result.err;
        EXPECT_NE(result.out.find(row.says), std::string::npos) << result.out;
        EXPECT_TRUE(png_size(png).starts_with(row.size)) << png_size(png);
        // The same file again, and as SVG; neither leaves a part behind.
        EXPECT_EQ(run_command("cursorum " + row.options + " -o " + svg).exit_code, 0);
        EXPECT_NE(read_file(svg).find("<svg"), std::string::npos);
        EXPECT_TRUE(read_file(svg).ends_with("</svg>\n"));
        EXPECT_FALSE(std::filesystem::exists(png + ".part") || std::filesystem::exists(svg + ".part"));
    }
}

TEST(DrawCommand, ShowsModesAndPressesWithoutEffect) {
    const std::string svg = temporary_path("menu.svg");
    const auto result = run_command("cursorum draw " + demo + "quay-menu.jsonl --profile " + demo +
                                    "quay-menu.toml --control KeyE,F2,KeyZ,PadSouth -o " + svg);
    EXPECT_EQ(result.exit_code, 0) << result.err;
    EXPECT_NE(result.out.find("KeyZ has no events in this time."), std::string::npos) << result.out;
    const std::string text = read_file(svg);
    for (const char* const expected :
         {"<title>", ">crane</text>", ">menu</text>", ">claim 1</text>", ">everything</text>", "class=\"missed line\"",
          "KeyE went down, but it came 90 ms after the last press that counted",
          "F2 went down, but no action is bound to it", "crane ends, menu begins: cancelled crane.pause",
          "width=\"1280\""})
        EXPECT_NE(text.find(expected), std::string::npos) << expected;
    // An action has no boxes about levels, and what fired is not marked.
    EXPECT_EQ(text.find("crane.pause: found down"), std::string::npos);
    EXPECT_EQ(text.find("PadSouth went down, but the mode"), std::string::npos);
}

TEST(DrawCommand, ManyEventsMakeASmallPicture) {
    std::string many =
        "{\"type\":\"recording\",\"format\":\"cursorum\",\"version\":1}\n"
        "{\"t\":0,\"type\":\"connect\",\"device\":1,\"kind\":\"keyboard\"}\n";
    for (int i = 1; i <= 40'000; ++i)
        many += "{\"t\":" + std::to_string(i * 4'000'000LL) + R"(,"type":"button","device":1,"control":"Key)" +
                static_cast<char>('A' + i / 2 % 4) + R"(","down":)" + (i % 2 == 0 ? "true}\n" : "false}\n");
    const std::string svg = temporary_path("many.svg");
    ASSERT_EQ(run_command("cursorum draw " + test::write_file("many.jsonl", many) + " -o " + svg).exit_code, 0);
    EXPECT_LT(std::filesystem::file_size(svg), 300'000U);
}

TEST(DrawCommand, DrawsTheSameTwice) {
    const std::string first = temporary_path("1.html"), second = temporary_path("2.html");
    for (const std::string& file : {first, second})
        ASSERT_EQ(run_command("cursorum draw " + operators + "-o " + file).exit_code, 0);
    EXPECT_EQ(read_file(first), read_file(second));
    // Whatever a name has in it, it stays data.
    const std::string evil = test::write_file("evil.jsonl", R"({"type":"recording","format":"cursorum","version":1}
{"t":0,"type":"connect","device":1,"kind":"keyboard","name":"<!--<script></script><b>x"}
{"t":5,"type":"button","device":1,"control":"KeyW","down":true}
{"t":9,"type":"disconnect","device":1}
{"t":30000000,"type":"focus","focused":false}
)");
    ASSERT_EQ(run_command("cursorum draw " + evil + " -o " + first).exit_code, 0);
    const std::string page = read_file(first);
    EXPECT_EQ(page.find("</script><b>"), page.npos);
    EXPECT_EQ(page.find("<!--<script>"), page.npos) << "it would hide the rest of the page";
    EXPECT_NE(page.find("\\u003c/script>\\u003cb>x"), page.npos);
}

TEST(DrawCommand, SaysWhatIsWrong) {
    // Eleven days later, one more press.
    const std::string far = test::write_file("far.jsonl", R"({"type":"recording","format":"cursorum","version":1}
{"t":0,"type":"connect","device":1,"kind":"keyboard","name":"k"}
{"t":1000000000000000,"type":"button","device":1,"control":"KeyW","down":true}
)");
    struct Row {
        std::string options;
        const char* expected;
    };
    for (const Row& row :
         {Row{"draw " + shift + "-o x.gif", "ends in .svg, .png or .html"},
          Row{"draw " + shift + "-o /nowhere/x.png", "/nowhere/x.png: cannot be written"},
          Row{"draw " + shift + "-o x.png --size 100x100", "from 400x200 to 16000x16000"},
          Row{"draw " + shift + "-o x.png --from 5s --to 4s", "--to must be later"},
          Row{"draw " + shift + "-o x.png --from 2min", "nothing to draw in that time"},
          Row{"draw " + shift + "-o x.png --control KeyX --sticks", "no stick or trigger moved"},
          Row{"draw " + shift + "-o x.png --control Keyw", "did you mean KeyW?"},
          Row{"draw " + shift + "-o x.html --sticks", "expected -o OUT.svg or OUT.png"},
          Row{"draw " + shift + "-o x.png --action lock", "--profile"}, Row{"draw " + shift, "--output"},
          Row{"draw /nowhere -o x.png", "/nowhere: cannot be opened"},
          Row{"summary " + shift + operators + "-o x.png", "draws one recording"},
          Row{"summary " + shift + "-o x.html", "ends in .svg or .png"}}) {
        SCOPED_TRACE(row.options);
        const auto result = run_command("cd /tmp && cursorum " + row.options);
        EXPECT_EQ(result.exit_code, 2);
        EXPECT_NE(result.err.find(row.expected), std::string::npos) << result.err;
        EXPECT_FALSE(std::filesystem::exists("/tmp/x.png"));
    }
}

}  // namespace
