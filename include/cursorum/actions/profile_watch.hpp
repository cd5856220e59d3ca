// Reloading a profile and its overlay while the game runs.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "cursorum/actions/profile_file.hpp"
#include "cursorum/core/export.hpp"

namespace cursorum {

/// Watches the files of a profile and of the player's overlay.
///
///     ProfileWatch files{"quay.toml", "player.toml"};
///     …
///     std::string why;                                    // every second or so
///     if (const auto profile = files.poll(why)) actions.rebind(*profile, &why);
///     if (!why.empty()) show(why);                        // a broken file: the old profile stays
///
/// Costs two calls of the system for each poll() without a change. Threads: one at a time.
class CURSORUM_API ProfileWatch {
public:
    /// `overlay` may be empty, or a file that does not exist (yet): then there are no changes.
    explicit ProfileWatch(std::string profile, std::string overlay = {});

    /// The profile with the overlay laid over it, if a file changed since the last call; always the first time. Nothing
    /// if none did, or if what changed cannot be used: then `why` has the error. Allocates.
    std::optional<Profile> poll(std::string& why);
    /// What the last overlay had that does not fit the profile: it was left out.
    const std::vector<ProfileError>& dropped() const noexcept { return dropped_; }

private:
    struct Stamp {
        std::int64_t seconds = 0, nanoseconds = 0, size = -1;
        std::uint64_t file = 0;
        friend bool operator==(const Stamp&, const Stamp&) = default;
    };
    static Stamp stamp_of(const std::string& path);

    std::string profile_, overlay_;
    Stamp of_profile_, of_overlay_;
    bool has_read_ = false;
    std::vector<ProfileError> dropped_;
};

}  // namespace cursorum
