// Kept frames, as a game's own test uses them.

#include "cursorum/why/frame_lines.hpp"

#include <gtest/gtest.h>
#include <unistd.h>

#include <filesystem>
#include <fstream>
#include <sstream>
#include <string>
#include <utility>

#include "cursorum/actions/profile_file.hpp"

namespace {

using namespace cursorum;

const std::string demo = CURSORUM_SOURCE_DIR "/demo/";

std::string text_of(const std::string& path) {
    std::ifstream file{path, std::ios::binary};
    std::ostringstream text;
    text << file.rdbuf();
    return text.str();
}

Profile menu_profile() {
    ProfileError error;
    return read_profile(text_of(demo + "quay-menu.toml"), "quay-menu.toml", error).value();
}

/// The frames of the menu's recording, as they are kept: written once, by the tool or like this.
class KeptFrames : public testing::Test {
protected:
    void SetUp() override {
        std::ifstream in{demo + "quay-menu.jsonl"};
        FrameLines lines{in, "quay-menu.jsonl", {.uses_own_cuts = false, .profile = &profile}};
        for (std::string line; lines.next(line);) kept += line + "\n";
        ASSERT_EQ(lines.error(), "");
    }
    void TearDown() override { std::filesystem::remove(path); }
    std::string difference(const std::string& frames) {
        std::ofstream{path, std::ios::binary} << frames;
        return difference_from_kept(path, demo + "quay-menu.jsonl", {.profile = &profile});
    }

    Profile profile = menu_profile();
    std::string kept,
        path = std::filesystem::temp_directory_path() / ("kept-" + std::to_string(::getpid()) + ".frames");
};

TEST(KeptLines, AreReadWithLimits) {
    std::istringstream kept{"{\"frame\":0," + std::string(1'000'000, '[') + "\n"},
        too_long{std::string(17'000'000, 'x')};
    cursorum::KeptFrames lines{kept, "kept"}, long_lines{too_long, "kept"};
    bool has_frame = true;
    const FrameComparison comparison = compare_frame_lines([&](std::string& line) { return lines.next(line); },
                                                           [&](std::string& line) {
                                                               line = R"({"frame":0,"t0":0,"t1":1,"controls":[]})";
                                                               return std::exchange(has_frame, false);
                                                           });
    EXPECT_EQ(comparison.differing, 1U);
    std::string line;
    EXPECT_FALSE(long_lines.next(line));
    EXPECT_NE(long_lines.error().find("kept:1: found a line of over 16 MiB"), std::string::npos) << long_lines.error();
}

TEST_F(KeptFrames, TheMenuPlaysAsBefore) { EXPECT_EQ(difference(kept), ""); }

TEST_F(KeptFrames, AnotherBindingIsADifferenceWithItsFrameAndAction) {
    profile.modes[0].actions[1].bindings.clear();
    ASSERT_EQ(profile.modes[0].actions[1].name, "lock");
    const std::string text = difference(kept);
    EXPECT_NE(text.find("differ first in frame 41, which ends at 0.700 s, in crane.lock.\n"
                        "  first:  press, press_count 1\n  second: nothing\n"),
              std::string::npos)
        << text;
    EXPECT_NE(text.find("852 frames compared, "), std::string::npos) << text;
}

TEST_F(KeptFrames, OtherLinesAreDifferencesToo) {
    const std::size_t first = kept.find('\n') + 1;
    EXPECT_NE(difference(kept.substr(0, kept.size() / 2)).find(" more in "), std::string::npos);
    EXPECT_NE(difference(kept.substr(first)).find("in its times"), std::string::npos) << "one frame is left out";
    EXPECT_NE(difference("3\n" + kept.substr(first)).find("in the line"), std::string::npos);
    EXPECT_NE(difference("no frame\n" + kept.substr(first)).find("in the line"), std::string::npos);
    EXPECT_EQ(difference("{ " + kept.substr(1)), "") << "the same in other words";
}

TEST(FrameLines, SayWhatCannotBeRead) {
    const Profile profile = menu_profile();
    EXPECT_EQ(difference_from_kept("/nowhere/a", demo + "quay-menu.jsonl").substr(0, 12), "/nowhere/a: ");
    std::istringstream in{"{}"};
    FrameLines broken{in, "x"};
    std::string line;
    EXPECT_FALSE(broken.next(line));
    EXPECT_EQ(broken.error().substr(0, 4), "x:1:");
    std::ifstream file{demo + "quay-menu.jsonl"};
    FrameLines unknown{file, "x", {.uses_own_cuts = false, .profile = &profile, .modes = {"cran"}}};
    EXPECT_FALSE(unknown.next(line));
    EXPECT_NE(unknown.error().find("did you mean \"crane\"?"), std::string::npos) << unknown.error();
}

}  // namespace
