// --profile, --overlay and --mode.
#pragma once

#include <string>
#include <vector>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/why/action_explanation.hpp"
#include "cursorum/why/action_rows.hpp"
#include "options.hpp"

namespace cursorum::tool {

/// The text of a file. A UsageError if it cannot be read.
std::string file_text(const std::string& path);

/// --action: the one of that name. A UsageError names the near one of a mistyped one.
ActionPlace action_named(const Profile& profile, const std::string& name);
/// --action: those of the profile that are named, or all. A UsageError names the near one of a mistyped one.
ActionFilter action_option(const Profile& profile, const std::vector<std::string>& names);

struct ProfileOption {
    std::string profile, overlay;
    std::vector<std::string> modes;

    CommandOption add_to(CommandLine command, const char* what);
    /// Both, one laid over the other. A UsageError tells what is wrong with them.
    Profile load() const;

    CommandOption add_modes_to(CommandLine command);
    /// Opens the modes that were named; else, unless the recording says which, those that cover nothing: a profile does
    /// not say with which a game starts. Returns their names.
    std::vector<std::string> open_modes(ActionReader& reader, const Profile& of, bool recording_says) const;
};

}  // namespace cursorum::tool
