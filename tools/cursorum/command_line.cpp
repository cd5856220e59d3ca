#include "command_line.hpp"

#include <fmt/format.h>

#include <charconv>

#include "cursorum/actions/span_text.hpp"

namespace cursorum::tool {

void warn_of_many_frames(std::string_view file, std::uint64_t count) {
    complain(shown("{}: {} frames lie before the next event, and each is worked out; a lower --rate makes fewer", file,
                   count));
}

Duration span_option(const std::string& text, std::string_view option) {
    if (const auto span = parse_span(text)) return *span;
    throw UsageError{
        shown("{}: found \"{}\"; expected a time with its unit, such as 250ms, 0.25s, 40us or 2min", option, text)};
}

std::uint64_t whole_option(const std::string& text, std::string_view option, std::uint64_t most) {
    std::uint64_t value = 0;
    const char* end = text.data() + text.size();
    const auto [parsed, error] = std::from_chars(text.data(), end, value);
    if (error == std::errc{} && parsed == end && value <= most) return value;
    throw UsageError{shown("{}: found \"{}\"; expected a whole number from 0 to {}", option, text, most)};
}

void add_file_and_format(CommandLine command, std::string& file, std::string& format) {
    command.add_option("FILE", file, "The recording; - for standard input")->required();
    add_format_option(command, format);
}

void add_format_option(CommandLine command, std::string& format) {
    command.add_option("--format", format, "table or csv (default table)")
        ->type_name("FORMAT")
        ->one_of({"table", "csv"});
}

Button button_named(const std::string& name) {
    if (const Button button = find_button(name)) return button;
    if (find_control(name)) {
        const std::string stick = name.substr(0, name.size() - 1);
        throw UsageError{shown("\"{}\" is an axis; expected the name of a button: {}{}, {}{}", name, stick,
                               name.back() == 'X' ? "Left" : "Up", stick, name.back() == 'X' ? "Right" : "Down")};
    }
    if (name == "PadStickLeft" || name == "PadStickRight")
        throw UsageError{
            shown("\"{0}\" is a stick; expected the name of a button: {0}Up, {0}Down, {0}Left or {0}Right", name)};
    const std::string_view near = near_control_name(name);
    throw UsageError{
        shown("unknown control \"{}\"; {}", name,
              near.empty() ? std::string{"`cursorum keys` lists all names"} : fmt::format("did you mean {}?", near))};
}

void CutOptions::add_rate_to(CommandLine command) {
    rate_given = command
                     .add_option("--rate", rate,
                                 "Frames per second, as an exact number: 60, 59.94, 30000/1001 (default: the "
                                 "recording's own cuts, or 60 if it has none)")
                     ->type_name("N");
}

void CutOptions::add_to(CommandLine command) {
    add_rate_to(command);
    command.add_option("--repeat-delay", delay, "The time from a press to its first repeat (default 400ms)")
        ->type_name("TIME");
    command.add_option("--repeat-interval", interval, "The time from one repeat to the next (default 50ms)")
        ->type_name("TIME");
    command.add_option("--repeat-cap", cap, "The most repeats of one button in a frame; 0 for no limit (default 2)")
        ->type_name("COUNT");
}

std::optional<ExactRate> CutOptions::exact_rate() const {
    return rate_given->empty() ? std::nullopt : std::optional{rate_option(rate)};
}

Repeat CutOptions::repeat() const {
    Repeat repeat;
    if (!delay.empty()) repeat.delay = span_option(delay, "--repeat-delay");
    if (!interval.empty()) repeat.interval = span_option(interval, "--repeat-interval");
    if (!cap.empty()) repeat.cap = static_cast<std::uint32_t>(whole_option(cap, "--repeat-cap", UINT32_MAX));
    if (!repeat.is_valid()) throw UsageError{"--repeat-delay and --repeat-interval must be more than 0"};
    return repeat;
}

}  // namespace cursorum::tool
