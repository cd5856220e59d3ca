// Recordings as the input of a recording: merged onto one clock, and cut.
#pragma once

#include <cstdint>
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "chosen_controls.hpp"
#include "cursorum/core/time.hpp"
#include "cursorum/views/text.hpp"

namespace cursorum::tool {

struct MergeOptions {
    std::vector<std::string> files;
    std::optional<Time> from, to;
    /// Called now and then with the bytes read; false ends the merge.
    std::function<bool(std::uint64_t bytes)> goes_on;
};

/// Reads the recordings side by side, by their times, and writes what lies from `from` to `to`, of which `from` is the
/// new zero. Everything goes to `sink`. At a cut, what was so before stands at its beginning: devices,
/// shaping, focus, locks and open modes; what was down or pushed is adopted. A device whose number another file has
/// already gets the next free one. Cuts are kept of one file alone.
/// Returns what is worth knowing, as lines for people, or empty. A UsageError says what is wrong with a file.
TerminalText merge_recordings(const MergeOptions& options, ChosenSink& sink);

}  // namespace cursorum::tool
