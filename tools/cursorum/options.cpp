#include "options.hpp"

#include <CLI/CLI.hpp>

namespace cursorum::tool {

OptionOf OptionOf::required() const { return OptionOf{option_->required()}; }
OptionOf OptionOf::type_name(const char* name) const { return OptionOf{option_->type_name(name)}; }
OptionOf OptionOf::delimiter(char delimiter) const { return OptionOf{option_->delimiter(delimiter)}; }
OptionOf OptionOf::allow_extra_args(bool allowed) const { return OptionOf{option_->allow_extra_args(allowed)}; }
OptionOf OptionOf::needs(OptionOf other) const { return OptionOf{option_->needs(other.option_)}; }
OptionOf OptionOf::excludes(OptionOf other) const { return OptionOf{option_->excludes(other.option_)}; }
OptionOf OptionOf::one_of(std::initializer_list<const char*> values) const {
    return OptionOf{option_->check(CLI::IsMember(std::vector<std::string>(values.begin(), values.end())))};
}
OptionOf OptionOf::within(double least, double most) const { return OptionOf{option_->check(CLI::Range(least, most))}; }
bool OptionOf::empty() const { return option_->empty(); }

CommandLine CommandLine::add_subcommand(const char* name, const char* what) const {
    return CommandLine{app_->add_subcommand(name, what)};
}
OptionOf CommandLine::add_option(const char* name, std::string& value, const std::string& what) const {
    return OptionOf{app_->add_option(name, value, what)};
}
OptionOf CommandLine::add_option(const char* name, std::vector<std::string>& values, const std::string& what) const {
    return OptionOf{app_->add_option(name, values, what)};
}
OptionOf CommandLine::add_option(const char* name, std::optional<int>& value, const std::string& what) const {
    return OptionOf{app_->add_option(name, value, what)};
}
OptionOf CommandLine::add_option(const char* name, double& value, const std::string& what) const {
    return OptionOf{app_->add_option(name, value, what)};
}
OptionOf CommandLine::add_flag(const char* name, bool& value, const std::string& what) const {
    return OptionOf{app_->add_flag(name, value, what)};
}
void CommandLine::footer(const char* text) const { app_->footer(text); }
bool CommandLine::parsed() const { return app_->parsed(); }

}  // namespace cursorum::tool
