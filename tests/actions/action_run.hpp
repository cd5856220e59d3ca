// Scripts of events, cuts, modes and claims, shown as actions.
#pragma once

#include <gtest/gtest.h>

#include <map>
#include <string>
#include <string_view>
#include <vector>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/actions/profile_file.hpp"
#include "support/script.hpp"

namespace test {

/// A profile from the text below its first lines.
inline Profile profile_of(const std::string& modes) {
    ProfileError error;
    const auto profile = read_profile("format = \"cursorum-profile\"\nversion = 1\n" + modes, "profile.toml", error);
    if (!profile) throw std::runtime_error{error.message()};
    return *profile;
}

/// As ScriptRun; what is shown at each cut is the action named, or those that the cut names. Additional words:
/// open:MODE close:MODE claim:LETTERS claim:* end:LETTERS end:* (the claim of these letters ends).
class ActionRun {
public:
    explicit ActionRun(const Profile& of, std::string action)
        : profile{of}, reader{profile}, action_{std::move(action)} {
        script_.on_cut = [this](const Frame& frame) {
            reader.read(frame);
            if (on_read) on_read();
        };
        script_.show = [this](const Frame&) { return view ? view() : shown(action_); };
        script_.on_view = [this](const std::string& name) { return shown(name); };
        script_.on_word = [this](std::string_view word) { obey(word); };
    }

    std::vector<std::string> run(std::string_view script) { return script_.run(script); }

    /// A button action as text() shows figures; an axis "VALUE INTEGRAL", a vector "X,Y X,Y", integrals in nanoseconds.
    std::string shown() const { return shown(action_); }
    std::string shown(const std::string& name) const {
        if (const auto button = profile.find_button(name)) return text(reader[*button].figures());
        const auto round = [](double value) {
            char digits[32];
            std::snprintf(digits, sizeof digits, "%.6g", value == 0 ? 0.0 : value);
            return std::string{digits};
        };
        if (const auto axis = profile.find_axis(name))
            return round(reader[*axis].value) + " " + round(reader[*axis].integral * 1e9);
        const VectorActionReading v = reader[profile.find_vector(name).value()];
        return round(v.value.x) + "," + round(v.value.y) + " " + round(v.integral.x * 1e9) + "," +
               round(v.integral.y * 1e9);
    }

    Profile profile;
    ActionReader reader;
    Inlet& desk() { return script_.timeline.desk(); }
    Timeline& timeline() { return script_.timeline; }
    Sampler& sampler() { return script_.sampler; }
    std::map<std::string, ClaimId, std::less<>> claims;
    /// After each frame; and what is shown of it in place of the action.
    std::function<void()> on_read{};
    std::function<std::string()> view{};
    /// A test's own words, VERB:WHAT.
    std::function<bool(std::string_view verb, const std::string& what)> more{};

private:
    void obey(std::string_view word) {
        const std::size_t colon = word.find(':');
        const std::string_view verb = word.substr(0, colon), what = word.substr(colon + 1);
        if (verb == "open" || verb == "close") {
            const ModeHandle mode = profile.find_mode(what).value();
            EXPECT_TRUE(verb == "open" ? reader.open(mode) : reader.close(mode)) << word;
        } else if (verb == "claim") {
            Claim claim{.everything = what == "*"};
            for (const char c : what)
                if (c != '*') claim.buttons.insert(letter(c));
            claims.emplace(what, reader.claim(claim).value());
        } else if (verb == "end") {
            reader.end_claim(claims.at(std::string{what}));
            claims.erase(claims.find(what));
        } else {
            EXPECT_TRUE(more && more(verb, std::string{what})) << word;
        }
    }

    ScriptRun script_;
    std::string action_;
};

}  // namespace test
