// Profiles as files: TOML, as docs/profile-format.md says.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

#include "cursorum/actions/profile.hpp"

namespace cursorum {

struct ProfileError {
    std::string file;
    std::uint64_t line = 0;  ///< from 1; 0 when it concerns the whole file
    std::string found, expected;
    std::string hint;  ///< may be empty

    /// "FILE:LINE: found …; expected …; hint".
    std::string message() const;
};

/// A profile from the text of a file; `name` is for messages. Nothing, and `error`, if the text is no TOML or says what
/// no profile can say. Members nobody knows are errors, since a mistyped option would be silence. Allocates.
std::optional<Profile> read_profile(std::string_view text, std::string_view name, ProfileError& error);

/// Lays the player's changes over a profile: a file of the same form (`format = "cursorum-overlay"`), which names what
/// it changes. An action's members that stand there take the place of the profile's; modes and actions that the profile
/// does not have are errors, with the near name. False, and `profile` as it was, if it cannot be used.
bool lay_over(Profile& profile, std::string_view text, std::string_view name, ProfileError& error);

}  // namespace cursorum
