#include "profile_option.hpp"

#include <fmt/format.h>

#include "command_line.hpp"
#include "cursorum/actions/profile_file.hpp"
#include "cursorum/core/control.hpp"
#include "cursorum/why/action_explanation.hpp"

namespace cursorum::tool {

std::string file_text(const std::string& path) {
    std::string why;
    const auto text = read_file_whole(path, why);
    if (!text) throw UsageError{TerminalText::of(why)};
    return *text;
}

ActionPlace action_named(const Profile& profile, const std::string& name) {
    std::string why;
    const auto place = find_action(profile, name, &why);
    if (place) return *place;
    if (find_control(name) || find_axis(name))
        throw UsageError{
            shown("--action: found the control \"{}\"; expected the name of an action that the profile "
                  "has; --control, without --profile, is for controls",
                  name)};
    throw UsageError{shown("--action: {}", why)};
}

ActionFilter action_option(const Profile& profile, const std::vector<std::string>& names) {
    ActionFilter filter;
    for (const std::string& name : names) filter.shown.insert(action_named(profile, name).name());
    return filter;
}

CommandOption ProfileOption::add_to(CommandLine command, const char* what) {
    const CommandOption option = command.add_option("--profile", profile, what)->type_name("FILE");
    command.add_option("--overlay", overlay, "The player's changes to the profile")->type_name("FILE")->needs(option);
    return option;
}

Profile ProfileOption::load() const {
    ProfileError error;
    auto read = read_profile(file_text(profile), profile, error);
    if (!read || (!overlay.empty() && !apply_overlay(*read, file_text(overlay), overlay, error)))
        throw UsageError{TerminalText::of(error.message())};
    return std::move(*read);
}

CommandOption ProfileOption::add_modes_to(CommandLine command) {
    return command.add_option("--mode", modes, "The open modes, from the bottom up")
        ->type_name("NAME")
        ->delimiter(',')
        ->allow_extra_args(false);
}

std::vector<std::string> ProfileOption::open_modes(ActionReader& reader, const Profile& of, bool recording_says) const {
    std::vector<std::string> open = modes;
    if (modes.empty() && !recording_says)
        for (const Mode& mode : of.modes)
            if (!mode.is_covering()) open.push_back(mode.name);
    for (const std::string& name : open) {
        std::string why;
        const auto mode = reader.find_mode(name, &why);
        if (!mode) throw UsageError{shown("--mode: {}", why)};
        if (!reader.open(*mode)) throw UsageError{shown("--mode: found \"{}\" twice", name)};
    }
    return open;
}

}  // namespace cursorum::tool
