// The header that the build makes from the demo's profile.

#include <gtest/gtest.h>

#include <fstream>
#include <sstream>
#include <type_traits>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/actions/profile_file.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"
#include "quay_actions.hpp"

namespace {

using namespace cursorum;

TEST(ActionHeader, HasTheHandlesOfTheProfile) {
    static_assert(std::is_same_v<decltype(quay_actions::crane::lift), const AxisAction>);
    std::ifstream file{CURSORUM_SOURCE_DIR "/demo/quay.toml"};
    std::ostringstream text;
    text << file.rdbuf();
    ProfileError error;
    Profile profile = read_profile(text.str(), "quay.toml", error).value();
    EXPECT_TRUE(quay_actions::are_of(profile));
    EXPECT_EQ(profile.find_button("bay_plan.pick_box"), quay_actions::bay_plan::pick_box);

    Timeline timeline;
    Sampler sampler{timeline, {.start = Time{}}};
    ActionReader actions{profile};
    ASSERT_TRUE(actions.open(quay_actions::crane::mode));
    timeline.desk().button(controls::Space, true, Time{Duration{5}});
    actions.read(sampler.advance(Time{Duration{10}}));
    EXPECT_TRUE(actions[quay_actions::crane::lock].pressed());

    std::swap(profile.modes[0].actions[0], profile.modes[0].actions[1]);
    EXPECT_FALSE(quay_actions::are_of(profile));
}

}  // namespace
