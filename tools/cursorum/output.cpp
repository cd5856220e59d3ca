#include "output.hpp"

#include <fmt/format.h>
#include <unistd.h>

#include <cstdio>
#include <cstdlib>

namespace cursorum::tool {

bool wants_colour() {
    const char* no_colour = std::getenv("NO_COLOR");
    return isatty(STDOUT_FILENO) != 0 && (no_colour == nullptr || *no_colour == '\0');
}

namespace {

void write_out(std::string_view text) {
    if (std::fwrite(text.data(), 1, text.size(), stdout) != text.size()) throw UsageError{"cannot write the output"};
}

}  // namespace

void print(const TerminalText& text) { write_out(text); }
void print_data(std::string_view text) { write_out(printable_text(text)); }

void finish_output() {
    if (std::fflush(stdout) != 0) throw UsageError{"cannot write the output"};
}

// Standard error may be closed or full: then there is nobody to tell.
void print_error(const TerminalText& text) { std::fputs(text.string().c_str(), stderr); }

void complain(const TerminalText& text) { print_error("cursorum: " + text + "\n"); }

void show_progress(const TerminalText& text) {
    std::fputs(("\r\033[K" + text).string().c_str(), stderr);
    std::fflush(stderr);
}

ExactRate rate_option(const std::string& text) {
    if (const auto rate = ExactRate::parse(text)) return *rate;
    throw UsageError{
        shown("--rate: found \"{}\"; expected frames per second, from 1e-9 to 1e9 with at most nine decimals, such "
              "as 60, 59.94 or 30000/1001",
              text)};
}

std::string shell_word(const std::string& text) {
    return text.find_first_of(" '\"$\\") == std::string::npos ? text : "'" + text + "'";
}

}  // namespace cursorum::tool
