// --profile and --overlay.
#pragma once

#include <CLI/CLI.hpp>
#include <string>

#include "cursorum/actions/profile.hpp"

namespace cursorum::tool {

struct ProfileOption {
    std::string profile, overlay;

    CLI::Option* add_to(CLI::App& command, const char* what);
    /// Both, one laid over the other. A UsageError tells what is wrong with them.
    Profile load() const;
};

}  // namespace cursorum::tool
