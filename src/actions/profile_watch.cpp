#include "cursorum/actions/profile_watch.hpp"

#include <sys/stat.h>

#include <cerrno>
#include <cstring>
#include <fstream>
#include <sstream>
#include <utility>

namespace cursorum {
namespace {

std::optional<std::string> whole_text(const std::string& path) {
    std::ifstream file{path, std::ios::binary};
    std::ostringstream text;
    if (!file || !(text << file.rdbuf())) return std::nullopt;
    return text.str();
}

}  // namespace

ProfileWatch::ProfileWatch(std::string profile, std::string overlay)
    : profile_{std::move(profile)}, overlay_{std::move(overlay)} {}

ProfileWatch::Stamp ProfileWatch::stamp_of(const std::string& path) {
    struct stat about {};
    if (path.empty() || ::stat(path.c_str(), &about) != 0) return {};
    return {about.st_mtim.tv_sec, about.st_mtim.tv_nsec, about.st_size, about.st_ino};
}

std::optional<Profile> ProfileWatch::poll(std::string& why) {
    why.clear();
    const Stamp of_profile = stamp_of(profile_), of_overlay = stamp_of(overlay_);
    if (has_read_ && of_profile == of_profile_ && of_overlay == of_overlay_) return std::nullopt;
    has_read_ = true;
    of_profile_ = of_profile;
    of_overlay_ = of_overlay;
    const auto text = whole_text(profile_);
    if (!text) {
        why = profile_ + ": " + std::strerror(errno);
        return std::nullopt;
    }
    ProfileError error;
    auto profile = read_profile(*text, profile_, error);
    const auto changes = of_overlay == Stamp{} ? std::nullopt : whole_text(overlay_);
    if (profile && changes && !lay_over(*profile, *changes, overlay_, error, dropped_)) profile.reset();
    if (!profile) why = error.message();
    return profile;
}

}  // namespace cursorum
