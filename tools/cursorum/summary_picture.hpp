// A summary as a picture.
#pragma once

#include <string>
#include <vector>

#include "cursorum/views/picture.hpp"
#include "recording_summary.hpp"

namespace cursorum::tool {

/// Lateness in bins of 0 to 1, 1 to 2, 2 to 4 ms and so on; the last has the rest.
struct LatenessBin {
    std::string range;  ///< "4 to 8 ms"
    std::uint64_t count = 0;
};
std::vector<LatenessBin> lateness_bins(const Lengths& lengths);

/// "7.39 ms": for people, three digits.
std::string short_span(Duration span);

/// How long each control was held, on a scale with the frames of usual rates; what a level comparison would lose; how
/// late events reach their cut; how regularly the system repeats and mice report.
Picture summary_picture(const RecordingSummary& summary, const std::string& title, const std::string& rate);

}  // namespace cursorum::tool
