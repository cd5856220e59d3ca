// What the commands of the tool share: exit codes, messages, options.
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <stdexcept>
#include <string>
#include <string_view>
#include <vector>

#include "cursorum/core/button_set.hpp"
#include "cursorum/core/repeat.hpp"
#include "cursorum/recording/exact_rate.hpp"
#include "cursorum/views/text.hpp"
#include "options.hpp"
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

/// That the output of a command becomes very long, and what to do.
void warn_of_many_frames(std::string_view file, std::uint64_t count);

/// "250ms" and the like; the option's name stands in the message.
Duration span_option(const std::string& text, std::string_view option);
/// A whole number from 0 to `most`.
std::uint64_t whole_option(const std::string& text, std::string_view option, std::uint64_t most = UINT64_MAX);
ExactRate rate_option(const std::string& text);
/// FILE, and --format table or csv: of commands that tell something of a whole recording.
void add_file_and_format(CommandLine command, std::string& file, std::string& format);
void add_format_option(CommandLine command, std::string& format);
/// A button's name, either-side names included.
Button button_named(const std::string& name);

/// --rate, --repeat-delay, --repeat-interval, --repeat-cap.
struct CutOptions {
    std::string rate, delay, interval, cap;
    CommandOption rate_given;

    void add_to(CommandLine command);
    void add_rate_to(CommandLine command);
    std::optional<ExactRate> exact_rate() const;
    Repeat repeat() const;
};

/// A command: adds its options to the app, and runs once they are parsed.
class Command {
public:
    virtual ~Command() = default;
    virtual int run() = 0;
    CommandLine app;
};

std::unique_ptr<Command> add_demo(CommandLine app);
std::unique_ptr<Command> add_draw(CommandLine app);
std::unique_ptr<Command> add_frames(CommandLine app);
std::unique_ptr<Command> add_check(CommandLine app);
std::unique_ptr<Command> add_compare(CommandLine app);
std::unique_ptr<Command> add_explain(CommandLine app);
std::unique_ptr<Command> add_record(CommandLine app);
std::unique_ptr<Command> add_summary(CommandLine app);
std::unique_ptr<Command> add_keys(CommandLine app);
std::unique_ptr<Command> add_watch(CommandLine app);
std::unique_ptr<Command> add_devices(CommandLine app);

}  // namespace cursorum::tool
