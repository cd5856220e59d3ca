// The lines that long recordings consist of, read quickly.
#pragma once

#include <memory>
#include <string>
#include <string_view>

#include "cursorum/recording/recording_reader.hpp"

namespace cursorum {

/// Reads lines of the types `button`, `axis`, `motion`, `wheel` and `frame` with the members that the format names, and
/// no others. Everything else, and every line with anything wrong, is left to the thorough reader, which says what it
/// is: the two agree on each line that this one reads.
class QuickLine {
public:
    QuickLine();
    ~QuickLine();
    QuickLine(const QuickLine&) = delete;
    QuickLine& operator=(const QuickLine&) = delete;

    /// Returns false if the line is left to the other; then `line` has any content.
    bool try_read(std::string_view text, RecordingLine& line);

private:
    struct Parser;
    std::unique_ptr<Parser> parser_;
    std::string padded_;
};

}  // namespace cursorum
