// Frames as lines, and where two sequences of them differ: for tests of a game's own.
#pragma once

#include <cstdint>
#include <functional>
#include <iosfwd>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "cursorum/core/export.hpp"
#include "cursorum/core/repeat.hpp"
#include "cursorum/recording/exact_rate.hpp"
#include "cursorum/views/text.hpp"
#include "cursorum/why/action_rows.hpp"

namespace cursorum {

struct FrameLineOptions {
    /// Frames per second; if absent, the recording's own cuts are used, or 60 where `uses_own_cuts` is false.
    std::optional<ExactRate> rate{};
    bool uses_own_cuts = true;
    Repeat repeat{};
    /// Frames of its actions instead of controls. It must outlive the lines.
    const Profile* profile = nullptr;
    /// The open modes, from the bottom up. Empty: those that the recording opens, or, if it opens none, all that cover
    /// nothing.
    std::vector<std::string> modes{};
};

/// The frames of a recording, one line for each, as `cursorum frames FILE --format jsonl` prints them.
class CURSORUM_API FrameLines {
public:
    FrameLines(std::istream& recording, std::string name, const FrameLineOptions& options = {});
    ~FrameLines();
    FrameLines(const FrameLines&) = delete;
    FrameLines& operator=(const FrameLines&) = delete;

    /// The next frame's line, without its line feed. Returns false at the end, and after an error.
    bool next(std::string& line);
    /// What is wrong with the recording, or an unknown mode; empty if nothing is.
    const std::string& error() const noexcept;

private:
    struct Parts;
    std::unique_ptr<Parts> parts_;
};

/// Lines that were kept, as `cursorum frames FILE --format jsonl` printed them.
class CURSORUM_API KeptFrames {
public:
    /// The stream must outlive it. `name` is used in messages.
    KeptFrames(std::istream& kept, std::string name);
    ~KeptFrames();
    KeptFrames(const KeptFrames&) = delete;
    KeptFrames& operator=(const KeptFrames&) = delete;

    /// The next line, without its line feed. Returns false at the end, and after an error.
    bool next(std::string& line);
    /// What is wrong with the file: it cannot be read on, or a line has over 16 MiB; empty if nothing is.
    const std::string& error() const noexcept;

private:
    struct Parts;
    std::unique_ptr<Parts> parts_;
};

/// Where two sequences of frames differ.
struct FrameComparison {
    std::uint64_t frames = 0;     ///< that both have
    std::uint64_t differing = 0;  ///< of these
    std::uint64_t only_in_first = 0, only_in_second = 0;
    struct Difference {
        std::uint64_t frame = 0;
        Time end;                   ///< of that frame
        std::string what;           ///< a control, an action, "pointer" and the like
        std::string first, second;  ///< what each has of it: "press, press_count 1, held_for 13.313128 ms"
    };
    std::optional<Difference> first;            ///< in the first frame that differs, the first by name
    std::map<std::string, std::uint64_t> by{};  ///< in how many frames each of these differs

    bool is_same() const noexcept { return differing + only_in_first + only_in_second == 0; }
};

/// Compares lines from FrameLines::next() or KeptFrames::next(); each function returns false at its end. A line that is
/// not a frame is compared as a whole. Cost: that of comparing the texts; frames that differ are taken apart.
CURSORUM_API FrameComparison compare_frame_lines(const std::function<bool(std::string&)>& first,
                                                 const std::function<bool(std::string&)>& second);

/// What a comparison found, in sentences of which the first begins with the names of the two. Complete lines.
CURSORUM_API TerminalText comparison_text(const FrameComparison& comparison, std::string_view first,
                                          std::string_view second);

/// For a test of a game's own: replays a recording through its profile and compares the frames with those that were
/// kept, by `cursorum frames shift.jsonl --profile game.toml --format jsonl > shift.frames`. Returns nothing if they
/// are the same, else where they differ, or what cannot be read:
///
///     EXPECT_EQ(difference_from_kept("shift.frames", "shift.jsonl", {.profile = &profile}), "");
CURSORUM_API std::string difference_from_kept(const std::string& kept_frames, const std::string& recording,
                                              FrameLineOptions options = {});

}  // namespace cursorum
