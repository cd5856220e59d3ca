// Frames as text: JSON Lines, CSV, and a table for people.
#pragma once

#include <cstdint>
#include <optional>
#include <string>

#include "cursorum/core/frame.hpp"
#include "cursorum/core/timeline.hpp"

namespace cursorum {

/// What of a frame is told.
struct FrameSelection {
    ButtonSet controls;       ///< only these; empty: all. Either-side names are told only when they stand here
    bool per_device = false;  ///< each device's own buttons instead of the merged ones
};

/// One line of the frame format (docs/frame-format.md), line feed included. With `per_device`, each entry of `controls`
/// has a `device` as well.
std::string frame_as_jsonl(std::uint64_t number, const Frame& frame, const Timeline& timeline,
                           const FrameSelection& selection);

/// The heading of the CSV form, and a frame's rows: one for each button that is not idle.
std::string frame_csv_heading(const FrameSelection& selection);
std::string frame_as_csv(std::uint64_t number, const Frame& frame, const Timeline& timeline,
                         const FrameSelection& selection);

/// The heading of the table, and a frame's rows: one for each button of which there is news. A hold that just goes on
/// is no news.
std::string frame_table_heading(const FrameSelection& selection, bool colour);
std::string frame_as_table(std::uint64_t number, const Frame& frame, const Timeline& timeline,
                           const FrameSelection& selection, bool colour);

}  // namespace cursorum
