// Reloading a profile and its overlay while the game runs.
#pragma once

#include <cstdint>
#include <string>

#include "cursorum/actions/player_profile.hpp"
#include "cursorum/core/export.hpp"

namespace cursorum {

/// Watches the files of a profile and of the player's changes, and gives both to a PlayerProfile.
///
///     PlayerProfile player;
///     ProfileWatch files{"quay.toml", "player.toml"};
///     …
///     std::string why;                                    // every second or so
///     if (files.poll(player, why)) actions.rebind(player.profile(), &why);
///     if (!why.empty()) show(why);                        // a broken file: what the player had stays
///
/// Costs two calls of the system for each poll() without a change. Threads: one at a time.
class CURSORUM_API ProfileWatch {
public:
    /// `overlay` may be empty: then the player's changes are left alone. Of a file that does not exist (yet) they are
    /// none.
    explicit ProfileWatch(std::string profile, std::string overlay = {});

    /// Reads what changed since the last call, and everything the first time. Returns whether that changed
    /// `player.profile()`. What cannot be used is left as it was, and `why` has the error, once. What the overlay has
    /// that does not fit the profile is in `player.dropped()`. Changes that the player made and nobody wrote to the
    /// overlay stay when the profile changes. Allocates.
    bool poll(PlayerProfile& player, std::string& why);

private:
    struct Stamp {
        std::int64_t time = 0, size = 0;
        std::uint64_t file = 0;
        bool is_known = false, exists = false;
        friend bool operator==(const Stamp&, const Stamp&) = default;
    };
    static Stamp stamp_of(const std::string& path);

    std::string profile_, overlay_;
    Stamp of_profile_, of_overlay_;
    std::string changes_;  // the overlay's text
};

}  // namespace cursorum
