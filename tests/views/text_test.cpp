#include "cursorum/views/text.hpp"

#include <gtest/gtest.h>

#include <string>
#include <string_view>
#include <type_traits>
#include <utility>

#include "views/csv_row.hpp"
#include "views/shown.hpp"

namespace {

using namespace cursorum;

TEST(Text, TimesAndSpansAreExact) {
    EXPECT_EQ(time_text(nanoseconds_since_zero(1'402'113'000)), "1.402113 s");
    EXPECT_EQ(time_text(nanoseconds_since_zero(5)), "0.000000005 s");
    EXPECT_EQ(time_text(nanoseconds_since_zero(-1'500'000'000)), "-1.500 s");
    EXPECT_EQ(span_text(Duration{13'313'128}), "13.313128 ms");
    EXPECT_EQ(span_text(Duration{400'000'000}), "400 ms");
    EXPECT_EQ(span_text(Duration{2'500'000'000}), "2.5 s");
    EXPECT_EQ(span_text(Duration{870}), "870 ns");
    EXPECT_EQ(span_text(Duration{1'500}), "1.5 us");
    EXPECT_EQ(span_text(Duration{0}), "0 ns");
}

TEST(Text, FieldsOfCsvAreNoFormulas) {
    for (const auto& [text, field] : {std::pair{"left pad", "left pad"},
                                      {"a,b", "\"a,b\""},
                                      {"say \"x\"", "\"say \"\"x\"\"\""},
                                      {"=1+1", "'=1+1"},
                                      {"@x", "'@x"},
                                      {"-2,3", "\"'-2,3\""},
                                      {"+x", "'+x"},
                                      {"", ""}})
        EXPECT_EQ(csv_field(text), field) << text;
}

TEST(Text, ForeignTextIsOneHarmlessLine) {
    const struct {
        const char* what;
        std::string text, expected;
    } rows[] = {
        {"plain", "quay keyboard", "quay keyboard"},
        {"accents and pictures", "Kräne \u2600", "Kräne \u2600"},
        {"colour", "\033[31mred", "\\u001b[31mred"},
        {"concealed", "\033[8mhidden", "\\u001b[8mhidden"},
        {"window title", "\033]0;x\a", "\\u001b]0;x\\u0007"},
        {"line feed", "pad\n9 presses", "pad\\u000a9 presses"},
        {"carriage return, tab", "a\r\tb", "a\\u000d\\u0009b"},
        {"C1", "\302\23331m", "\\u009b31m"},
        {"C1 that is no UTF-8", "\23331m", "\\x9b31m"},
        {"reversed", "\u202Egpj", "\\u202egpj"},
        {"invisible", "a\u200Bb\uFEFFc\U000E0041", "a\\u200bb\\ufeffc\\udb40\\udc41"},
    };
    for (const auto& row : rows) {
        EXPECT_EQ(TerminalText::of(row.text).string(), row.expected) << row.what;
        EXPECT_EQ(Paint{false}(Paint::red, row.text).string(), row.expected) << row.what;
        EXPECT_EQ(shown("{}", row.text).string(), row.expected) << row.what;
        EXPECT_EQ(shown("{:>4}", row.text.c_str()).string(), shown("{:>4}", row.expected).string()) << row.what;
        EXPECT_EQ(CsvRow{}.add(1, row.text).end(), "1," + row.expected + "\n") << row.what;
    }
    EXPECT_EQ(TerminalText::lines_of("a\nb\033").string(), "a\nb\\u001b");
    EXPECT_EQ(shown("{} {}", "\033", Paint{true}("1", "x")).string(), "\\u001b \033[1mx\033[0m");
    EXPECT_EQ(shown("{}{}", 'a', '\n').string(), "a\\u000a");
}

// Foreign text gets into a TerminalText by no other way.
template <typename Foreign>
concept can_be_added = requires(TerminalText text, Foreign foreign) {
    text += foreign;
};
template <typename Foreign>
concept can_be_appended = requires(TerminalText text, Foreign foreign) {
    text + foreign;
};
static_assert(!can_be_added<std::string> && !can_be_added<std::string_view> && !can_be_added<const char*>);
static_assert(!can_be_appended<std::string> && !can_be_appended<std::string_view> && !can_be_appended<const char*>);
static_assert(!std::is_constructible_v<TerminalText, std::string> &&
              !std::is_constructible_v<TerminalText, const char*>);
static_assert(!std::is_assignable_v<TerminalText&, std::string> && !std::is_assignable_v<TerminalText&, const char*>);

TEST(Text, PaintIsOffUnlessOn) {
    EXPECT_EQ(Paint{false}(Paint::red, "x"), "x");
    EXPECT_EQ(Paint{true}(Paint::red, "x"), "\033[91mx\033[0m");
}

}  // namespace
