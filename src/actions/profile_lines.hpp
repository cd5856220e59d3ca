// Reading profile files with all their errors, for loading and for checking: the first error of the list is the one
// that loading reports.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "cursorum/actions/profile_file.hpp"

namespace cursorum::detail {

/// The lines of modes ("crane") and actions ("crane.lock") in a file.
using ProfileLines = std::vector<std::pair<std::string, std::uint64_t>>;

/// Reads a profile, or lays an overlay over one. Returns the errors, in the order in which they are
/// found; none: it can be used. `dropped`: of an overlay, what does not fit the profile is left out, and stands there.
std::vector<ProfileError> read_profile_file(Profile& profile, bool is_overlay, std::string_view text,
                                            std::string_view name, ProfileLines& lines,
                                            std::vector<ProfileError>* dropped = nullptr);

}  // namespace cursorum::detail
