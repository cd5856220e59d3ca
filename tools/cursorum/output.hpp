// What the programs of the tool share: exit codes, output, messages.
#pragma once

#include <stdexcept>
#include <string>
#include <string_view>
#include <utility>

#include "cursorum/recording/exact_rate.hpp"
#include "cursorum/views/text.hpp"
#include "views/shown.hpp"

namespace cursorum::tool {

enum ExitCode : int { done = 0, answer_is_no = 1, bad_use = 2 };

/// Bad use or bad input: main prints it and exits with 2.
struct UsageError : std::runtime_error {
    explicit UsageError(TerminalText why) : std::runtime_error{why.string()}, text{std::move(why)} {}
    explicit UsageError(TerminalText::Literal why) : UsageError{TerminalText{why}} {}
    TerminalText text;
};

/// Colour on standard output: only on a terminal, never with NO_COLOR set.
bool wants_colour();

/// Writes to standard output; a UsageError if that fails (a full disk).
void print(const TerminalText& text);
/// The same for tables of data and help, where what would control a terminal is made visible (printable_text).
void print_data(std::string_view text);
/// Flushes it, with the same check.
void finish_output();
/// Writes to standard error; a failure is ignored.
void print_error(const TerminalText& text);
/// "cursorum: TEXT" to standard error.
void complain(const TerminalText& text);
/// Replaces the last line on a terminal's standard error; an empty text clears it.
void show_progress(const TerminalText& text);
inline void print(TerminalText::Literal text) { print(TerminalText{text}); }
inline void print_error(TerminalText::Literal text) { print_error(TerminalText{text}); }
inline void complain(TerminalText::Literal text) { complain(TerminalText{text}); }
inline void show_progress(TerminalText::Literal text) { show_progress(TerminalText{text}); }

/// Frames per second, as a person writes them.
ExactRate rate_option(const std::string& text);
/// As a shell reads it as one word.
std::string shell_word(const std::string& text);

}  // namespace cursorum::tool
