// The part of the command line's library that commands use: including all of it costs each file several seconds.
#pragma once

#include <initializer_list>
#include <optional>
#include <string>
#include <vector>

namespace CLI {
class App;
class Option;
}  // namespace CLI

namespace cursorum::tool {

/// An option that was added. Each function changes it and returns it, as those of CLI::Option do.
class CommandOption {
public:
    CommandOption() = default;
    explicit CommandOption(CLI::Option* option) : option_{option} {}
    const CommandOption* operator->() const { return this; }

    CommandOption required() const;
    CommandOption type_name(const char* name) const;
    CommandOption delimiter(char delimiter) const;
    CommandOption allow_extra_args(bool allowed) const;
    CommandOption needs(CommandOption other) const;
    CommandOption excludes(CommandOption other) const;
    CommandOption one_of(std::initializer_list<const char*> values) const;
    CommandOption within(double least, double most) const;
    /// Whether it was not given.
    bool empty() const;

private:
    CLI::Option* option_ = nullptr;
};

/// The tool's command line, or a command's. A handle.
class CommandLine {
public:
    CommandLine() = default;
    explicit CommandLine(CLI::App* app) : app_{app} {}
    const CommandLine* operator->() const { return this; }
    const CommandLine& operator*() const { return *this; }

    CommandLine add_subcommand(const char* name, const char* what) const;
    CommandOption add_option(const char* name, std::string& value, const std::string& what) const;
    CommandOption add_option(const char* name, std::vector<std::string>& values, const std::string& what) const;
    CommandOption add_option(const char* name, std::optional<int>& value, const std::string& what) const;
    CommandOption add_option(const char* name, double& value, const std::string& what) const;
    CommandOption add_flag(const char* name, bool& value, const std::string& what) const;
    void footer(const char* text) const;
    /// Takes whatever follows without a complaint.
    void allow_extras() const;
    /// Whether it is the command that was given.
    bool parsed() const;

private:
    CLI::App* app_ = nullptr;
};

}  // namespace cursorum::tool
