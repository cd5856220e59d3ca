// What the commands of the tool share: options, and what they mean.
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
#include "output.hpp"

namespace cursorum::tool {

/// That the output of a command becomes very long, and what to do.
void warn_of_many_frames(std::string_view file, std::uint64_t count);

/// "250ms" and the like; the option's name stands in the message.
Duration span_option(const std::string& text, std::string_view option);
/// A whole number from 0 to `most`.
std::uint64_t whole_option(const std::string& text, std::string_view option, std::uint64_t most = UINT64_MAX);
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
