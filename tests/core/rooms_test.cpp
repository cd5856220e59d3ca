// The core's rooms stand on each other: none includes one that stands on it.
#include <gtest/gtest.h>

#include <algorithm>
#include <filesystem>
#include <fstream>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace {

/// From below: a file includes headers of its own room and of those before it. Behind the last one: the core's own
/// files, beside all rooms.
const std::vector<std::string> rooms{"rings",   "controls",  "rules",  "buttons", "axes",  "motion",
                                     "devices", "occasions", "text",   "ledger",  "inlet", "frame", "sampler"};

std::optional<std::size_t> level_of(const std::string& path) {
    const std::size_t slash = path.find('/');
    if (slash == std::string::npos) return rooms.size();
    const auto found = std::find(rooms.begin(), rooms.end(), path.substr(0, slash));
    if (found == rooms.end()) return std::nullopt;
    return static_cast<std::size_t>(found - rooms.begin());
}

/// What is wrong with one line of a file; both paths are from `src/core`.
std::string fault_of(const std::string& file, const std::string& line) {
    constexpr std::string_view begin = "#include \"core/";
    if (!line.starts_with(begin)) return {};
    const std::string included = line.substr(begin.size(), line.find('"', begin.size()) - begin.size());
    const auto from = level_of(file), to = level_of(included);
    if (!from || !to) return "no such room";
    return *to > *from ? file + " includes " + included + ", which stands on it" : std::string{};
}

TEST(Rooms, AFaultIsSeen) {
    EXPECT_EQ(fault_of("inlet/inlet.cpp", "#include \"core/rules/merging.hpp\""), "");
    EXPECT_EQ(fault_of("seats.cpp", "#include \"core/frame/frame_core.hpp\""), "");
    EXPECT_EQ(fault_of("rules/merging.hpp", "#include \"core/buttons/cell.hpp\""),
              "rules/merging.hpp includes buttons/cell.hpp, which stands on it");
    EXPECT_EQ(fault_of("frame/frame_core.hpp", "#include \"core/belief_row.hpp\""),
              "frame/frame_core.hpp includes belief_row.hpp, which stands on it");
    EXPECT_EQ(fault_of("attic/box.cpp", "#include \"core/rules/merging.hpp\""), "no such room");
}

/// Calls `visit` with each line that includes a header of the core, of all files below a folder of `src`, and the
/// file's path from there.
template <typename Visit>
void for_each_include(const std::string& folder, Visit&& visit) {
    const std::filesystem::path root = std::filesystem::path{CURSORUM_SOURCE_DIR} / "src" / folder;
    for (const auto& entry : std::filesystem::recursive_directory_iterator{root}) {
        if (!entry.is_regular_file()) continue;
        std::ifstream in{entry.path()};
        for (std::string line; std::getline(in, line);)
            if (line.starts_with("#include \"core/"))
                visit(std::filesystem::relative(entry.path(), root).generic_string(), line);
    }
}

TEST(Rooms, NoneIncludesWhatStandsOnIt) {
    unsigned count = 0;
    for_each_include("core", [&](const std::string& file, const std::string& line) {
        EXPECT_EQ(fault_of(file, line), "") << file;
        ++count;
    });
    EXPECT_GT(count, 100U);
}

// What makes frames stays inside: inlets, samplers, and what a frame is. Actions have one door, explanations another.
TEST(Rooms, FloorsAboveSeeFramesThroughADoor) {
    unsigned count = 0;
    for (const char* floor : {"actions", "batch", "recording", "sources", "views", "why"})
        for_each_include(floor, [&](const std::string& file, const std::string& line) {
            const bool is_inside = line.find("core/inlet/") != line.npos || line.find("core/sampler/") != line.npos ||
                                   line.find("core/frame/") != line.npos;
            const bool is_door =
                line.find("core/frame/frame_input.hpp") != line.npos ||
                (std::string_view{floor} == "why" && line.find("core/frame/frame_levels.hpp") != line.npos);
            EXPECT_TRUE(!is_inside || is_door) << floor << '/' << file << ": " << line;
            count += is_door;
        });
    EXPECT_GT(count, 0U);
}

}  // namespace
