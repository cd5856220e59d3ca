// Profiles as files in TOML; docs/profile-format.md describes the format.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "cursorum/actions/profile.hpp"
#include "cursorum/core/export.hpp"

namespace cursorum {

/// No profile or overlay is longer, in bytes: a longer text is refused. (One with 512 actions takes some 100 KB.)
inline constexpr std::size_t profile_text_capacity = std::size_t{4} << 20;

struct CURSORUM_API ProfileError {
    std::string file;
    std::uint64_t line = 0;  ///< from 1; 0 if it concerns the whole file
    std::string found, expected;
    std::string hint;  ///< may be empty

    /// "FILE:LINE: found …; expected …; hint".
    std::string message() const;
};

/// Reads a profile from the text of a file; `name` is used in messages. Returns nothing and sets `error` if the text is
/// not TOML or not a valid profile. Unknown members are errors, since a mistyped option would fail silently. Allocates.
CURSORUM_API std::optional<Profile> read_profile(std::string_view text, std::string_view name, ProfileError& error);

/// The same from a file; a file that cannot be read is an error, too.
CURSORUM_API std::optional<Profile> load_profile(const std::string& path, ProfileError& error);

/// Applies a player's changes to a profile: a file of the same form (`format = "cursorum-overlay"`) that contains only
/// what it changes. Its members replace those of the profile's actions; modes and actions that the profile does not
/// have are errors, with a near name. Returns false and leaves `profile` unchanged if the file cannot be used.
CURSORUM_API bool apply_overlay(Profile& profile, std::string_view text, std::string_view name, ProfileError& error);

/// The same, but what does not fit the profile (any more) is left out, and stands in `dropped`: an unknown mode or
/// action, an action of another kind by now, a binding that does not exist. So a player's changes stay good when the
/// shipped profile gains, renames (`formerly`) or loses actions.
CURSORUM_API bool apply_overlay(Profile& profile, std::string_view text, std::string_view name, ProfileError& error,
                                std::vector<ProfileError>& dropped);

/// The overlay that makes `changed` of `shipped`: only what differs. Both have the same modes and actions.
CURSORUM_API std::string overlay_text(const Profile& shipped, const Profile& changed);
/// The text of a file, for read_profile() and apply_overlay(). Returns nothing and says why if it cannot be read, is a
/// folder, or has more than profile_text_capacity bytes.
CURSORUM_API std::optional<std::string> read_file_whole(const std::string& path, std::string& why);
/// Writes a file so that at any moment, also after a power cut, either its old or its new text is there: to PATH.new,
/// to the disk, and then renamed. Returns false, says why and leaves the old one if that fails.
CURSORUM_API bool write_file_whole(const std::string& path, std::string_view text, std::string& why);

/// All that is wrong with a profile's file, by line: every error that read_profile() would find, one after the other. A
/// profile without errors is checked for what can be read but is hardly meant: a control that two actions of one mode
/// bind (other than by different gestures), a chord of which a member fires another action on the way, an action
/// without a binding.
CURSORUM_API std::vector<ProfileError> check_profile(std::string_view text, std::string_view name);
/// The same of a player's changes to `profile`, of which only what they bind is checked.
CURSORUM_API std::vector<ProfileError> check_overlay(const Profile& profile, std::string_view text,
                                                     std::string_view name);
/// The controls of keyboards and mice that two players' profiles both bind, for two players at one keyboard. `other` is
/// named in the message.
CURSORUM_API std::vector<ProfileError> check_seats(const Profile& profile, std::string_view name, const Profile& other,
                                                   std::string_view other_name);

}  // namespace cursorum
