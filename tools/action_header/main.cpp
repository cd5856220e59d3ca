// Makes a header of handles from a profile, so that an unknown action is a compile error:
//
//   cursorum-action-header PROFILE NAMESPACE OUTPUT
//
// Builds call it through cursorum_action_header() of CursorumActionHeader.cmake.

#include <algorithm>
#include <array>
#include <cctype>
#include <cstdio>
#include <sstream>
#include <string>

#include "cursorum/actions/profile_file.hpp"

namespace {

using namespace cursorum;

bool is_identifier(std::string_view name) {
    const auto fits = [](char c) { return c == '_' || std::isalnum(static_cast<unsigned char>(c)) != 0; };
    return !name.empty() && std::isdigit(static_cast<unsigned char>(name[0])) == 0 &&
           std::all_of(name.begin(), name.end(), fits);
}

std::string_view type_of(ActionKind kind) {
    constexpr std::array<std::string_view, 3> types{"ButtonAction", "AxisAction", "VectorAction"};
    return types[static_cast<unsigned>(kind)];
}

/// Empty, and a message, if a name is none that C++ could have.
std::string header_of(const Profile& profile, const std::string& name_space, const std::string& path) {
    const auto complain = [&path](const std::string& name, const char* what) {
        std::fprintf(stderr, "%s: found the %s \"%s\"; expected a name that C++ can have: letters, digits, _\n",
                     path.c_str(), what, name.c_str());
        return std::string{};
    };
    std::ostringstream text;
    text << "// Made from " << path << ": do not edit.\n#pragma once\n\n#include <cstdint>\n\n"
         << "#include \"cursorum/actions/profile.hpp\"\n\nnamespace " << name_space << " {\n\n"
         << "/// Of the profile: overlays change none of this.\ninline constexpr std::uint32_t numbering = "
         << profile.numbering() << "U;\n";
    unsigned mode_number = 0, number = 0;
    for (const Mode& mode : profile.modes) {
        if (!is_identifier(mode.name) || mode.name == "numbering" || mode.name == "are_of")
            return complain(mode.name, "mode");
        text << "\nnamespace " << mode.name << " {\ninline constexpr cursorum::ModeHandle mode{" << mode_number++
             << ", " << profile.numbering() << "U};\n";
        for (const Action& action : mode.actions) {
            if (!is_identifier(action.name) || action.name == "mode") return complain(action.name, "action");
            text << "inline constexpr cursorum::" << type_of(action.kind) << ' ' << action.name << '{' << number++
                 << ", " << profile.numbering() << "U};\n";
        }
        text << "}  // namespace " << mode.name << '\n';
    }
    text << "\n/// These are the handles of `profile`: it has the same modes and actions in the same order.\n"
            "inline bool are_of(const cursorum::Profile& profile) { return profile.numbering() == numbering; }\n\n"
            "}  // namespace "
         << name_space << '\n';
    return text.str();
}

}  // namespace

int main(int argc, char** argv) {
    const bool asks_for_help = argc == 2 && std::string_view{argv[1]} == "--help";
    if (asks_for_help || argc != 4 || !is_identifier(argv[2])) {
        std::fprintf(asks_for_help ? stdout : stderr,
                     "Makes a C++ header of handles from a profile, so that an unknown action does not compile.\n"
                     "Usage: cursorum-action-header PROFILE NAMESPACE OUTPUT\n"
                     "Example: cursorum-action-header demo/quay.toml quay_actions quay_actions.hpp\n");
        return asks_for_help ? 0 : 2;
    }
    const std::string path = argv[1];
    std::string why;
    const auto text = read_file_whole(path, why);
    if (!text) {
        std::fprintf(stderr, "%s\n", why.c_str());
        return 2;
    }
    ProfileError error;
    const auto profile = read_profile(*text, path, error);
    if (!profile) {
        std::fprintf(stderr, "%s\n", error.message().c_str());
        return 2;
    }
    const std::string header = header_of(*profile, argv[2], path);
    if (header.empty()) return 2;
    if (!write_file_whole(argv[3], header, why)) {
        std::fprintf(stderr, "%s\n", why.c_str());
        return 2;
    }
    return 0;
}
