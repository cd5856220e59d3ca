#include "options.hpp"

#include <CLI/CLI.hpp>

namespace cursorum::tool {

CommandOption CommandOption::required() const { return CommandOption{option_->required()}; }
CommandOption CommandOption::type_name(const char* name) const { return CommandOption{option_->type_name(name)}; }
CommandOption CommandOption::delimiter(char delimiter) const { return CommandOption{option_->delimiter(delimiter)}; }
CommandOption CommandOption::allow_extra_args(bool allowed) const {
    return CommandOption{option_->allow_extra_args(allowed)};
}
CommandOption CommandOption::needs(CommandOption other) const { return CommandOption{option_->needs(other.option_)}; }
CommandOption CommandOption::excludes(CommandOption other) const {
    return CommandOption{option_->excludes(other.option_)};
}
CommandOption CommandOption::one_of(std::initializer_list<const char*> values) const {
    return CommandOption{option_->check(CLI::IsMember(std::vector<std::string>(values.begin(), values.end())))};
}
CommandOption CommandOption::within(double least, double most) const {
    return CommandOption{option_->check(CLI::Range(least, most))};
}
bool CommandOption::empty() const { return option_->empty(); }

CommandLine CommandLine::add_subcommand(const char* name, const char* what) const {
    return CommandLine{app_->add_subcommand(name, what)};
}
CommandOption CommandLine::add_option(const char* name, std::string& value, const std::string& what) const {
    return CommandOption{app_->add_option(name, value, what)};
}
CommandOption CommandLine::add_option(const char* name, std::vector<std::string>& values,
                                      const std::string& what) const {
    return CommandOption{app_->add_option(name, values, what)};
}
CommandOption CommandLine::add_option(const char* name, std::optional<int>& value, const std::string& what) const {
    return CommandOption{app_->add_option(name, value, what)};
}
CommandOption CommandLine::add_option(const char* name, double& value, const std::string& what) const {
    return CommandOption{app_->add_option(name, value, what)};
}
CommandOption CommandLine::add_flag(const char* name, bool& value, const std::string& what) const {
    return CommandOption{app_->add_flag(name, value, what)};
}
void CommandLine::footer(const char* text) const { app_->footer(text); }
void CommandLine::allow_extras() const { app_->allow_extras(); }
bool CommandLine::parsed() const { return app_->parsed(); }

}  // namespace cursorum::tool
