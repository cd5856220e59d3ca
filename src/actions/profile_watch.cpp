// Reads a profile and its overlays again when a file has changed. A broken file changes nothing and is reported once,
// until it changes again.
#include "cursorum/actions/profile_watch.hpp"

#include <utility>

#include "actions/files.hpp"

namespace cursorum {

ProfileWatch::ProfileWatch(std::string profile, std::string overlay)
    : profile_{std::move(profile)}, overlay_{std::move(overlay)} {}

ProfileWatch::Stamp ProfileWatch::stamp_of(const std::string& path) {
    const detail::FileStamp found = detail::stamp_of_file(path);
    return {static_cast<std::int64_t>(found.time), static_cast<std::int64_t>(found.size), found.number, true,
            found.exists};
}

bool ProfileWatch::poll(PlayerProfile& player, std::string& why) {
    why.clear();
    const Stamp of_profile = stamp_of(profile_), of_overlay = overlay_.empty() ? of_overlay_ : stamp_of(overlay_);
    if (of_profile == of_profile_ && of_overlay == of_overlay_) return false;
    const bool is_first = !of_profile_.is_known;
    const Profile before = player.profile();
    ProfileError error;
    if (of_profile != std::exchange(of_profile_, of_profile)) {
        const auto text = read_file_whole(profile_, why);
        if (!text) return false;
        auto shipped = read_profile(*text, profile_, error);
        if (!shipped) {
            why = error.message();
            return false;
        }
        // If they equal the file's, those that do not fit now may fit the next profile.
        PlayerProfile as_in_file{player.shipped()};
        const bool is_written = !changes_.empty() && as_in_file.set_overlay(changes_, overlay_, error) &&
                                as_in_file.profile() == player.profile();
        player.set_shipped(std::move(*shipped));
        if (is_written) player.set_overlay(changes_, overlay_, error);
    }
    if (of_overlay != std::exchange(of_overlay_, of_overlay)) {
        const auto text = of_overlay.exists ? read_file_whole(overlay_, why) : std::string{};
        if (text && player.set_overlay(*text, overlay_, error))
            changes_ = *text;
        else if (text)
            why = error.message();
    }
    return is_first || player.profile() != before;
}

}  // namespace cursorum
