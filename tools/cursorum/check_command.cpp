// cursorum check: all that is wrong with a profile and with players' changes to it.

#include <fmt/format.h>

#include <fstream>
#include <sstream>

#include "command_line.hpp"
#include "cursorum/actions/profile_file.hpp"
#include "profile_option.hpp"

namespace cursorum::tool {
namespace {

constexpr const char* check_footer =
    R"(Each fault has its file and line, what was found, what was expected, and a hint. Errors are all that would keep the
profile from being read; without errors, it is checked for what is hardly meant: a control that two actions of one mode
bind, a chord of which a member fires another action on the way, an action without a binding. Several overlays are those
of players at one keyboard: keys that two of them bind are faults.

Exit codes: 0 no fault, 1 faults, 2 a file cannot be read.

Examples:
  cursorum check demo/quay.toml
  cursorum check demo/quay.toml demo/quay-left-handed.toml
  cursorum check demo/quay-mistakes.toml)";

class CheckCommand final : public Command {
public:
    explicit CheckCommand(CommandLine parent) {
        app = parent.add_subcommand("check", "Finds everything that is wrong with a profile and with overlays");
        app->add_option("PROFILE", profile_, "The profile (TOML)")->required();
        app->add_option("OVERLAY", overlays_, "Players' changes to it");
        app->footer(check_footer);
    }

    int run() override {
        const std::string text = file_text(profile_);
        std::size_t count = show(check_profile(text, profile_));
        ProfileError error;
        const auto profile = read_profile(text, profile_, error);
        std::vector<std::pair<std::string, Profile>> players;
        for (const std::string& overlay : overlays_) {
            const std::string changes = file_text(overlay);
            if (!profile) continue;  // what it changes is not known
            count += show(check_overlay(*profile, changes, overlay));
            Profile changed = *profile;
            if (apply_overlay(changed, changes, overlay, error)) players.emplace_back(overlay, std::move(changed));
        }
        for (std::size_t i = 0; i < players.size(); ++i)
            for (std::size_t k = 0; k < i; ++k)
                count += show(check_seats(players[i].second, players[i].first, players[k].second, players[k].first));
        if (!profile && !overlays_.empty()) complain("the overlays were not checked, since the profile cannot be read");
        print(count == 0 ? shown("{}: no fault.\n", profile_) : shown("{}.\n", plural_text(count, "fault")));
        return count == 0 ? done : answer_is_no;
    }

private:
    static std::size_t show(const std::vector<ProfileError>& faults) {
        for (const ProfileError& fault : faults) {
            print(shown("{}{}: found {}\n", fault.file, fault.line != 0 ? fmt::format(":{}", fault.line) : "",
                        fault.found));
            if (!fault.expected.empty()) print(shown("    expected {}\n", fault.expected));
            if (!fault.hint.empty()) print(shown("    {}\n", fault.hint));
        }
        return faults.size();
    }

    std::string profile_;
    std::vector<std::string> overlays_;
};

}  // namespace

std::unique_ptr<Command> add_check(CommandLine app) { return std::make_unique<CheckCommand>(app); }

}  // namespace cursorum::tool
