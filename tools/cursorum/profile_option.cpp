#include "profile_option.hpp"

#include <fmt/format.h>

#include <fstream>
#include <sstream>

#include "command_line.hpp"
#include "cursorum/actions/profile_file.hpp"

namespace cursorum::tool {

namespace {

std::string text_of(const std::string& path) {
    std::ifstream file{path, std::ios::binary};
    std::ostringstream text;
    if (!file || !(text << file.rdbuf())) throw UsageError{fmt::format("{}: cannot be read; is the name right?", path)};
    return text.str();
}

}  // namespace

CLI::Option* ProfileOption::add_to(CLI::App& command, const char* what) {
    CLI::Option* const option = command.add_option("--profile", profile, what)->type_name("FILE");
    command.add_option("--overlay", overlay, "The player's changes, laid over it")->type_name("FILE")->needs(option);
    return option;
}

Profile ProfileOption::load() const {
    ProfileError error;
    auto read = read_profile(text_of(profile), profile, error);
    if (!read || (!overlay.empty() && !lay_over(*read, text_of(overlay), overlay, error)))
        throw UsageError{error.message()};
    return std::move(*read);
}

}  // namespace cursorum::tool
