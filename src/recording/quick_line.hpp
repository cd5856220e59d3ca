// The lines that long recordings consist of, read quickly. Returns nothing for any line that is not ordinary; the
// thorough reader then reads it.
#pragma once

#include <memory>
#include <string>
#include <string_view>

#include "cursorum/recording/recording_reader.hpp"
#include "recording/line_reader.hpp"

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

    /// Returns false if the line is left to the other; then `line` has any content. `buffered`: complete lines, of
    /// which the text is the first, if they are there: then they are looked through at once, which is faster.
    bool try_read(std::string_view text, RecordingLine& line, const LineReader::Buffered& buffered = {});

private:
    struct Parser;
    bool find(std::string_view text, const LineReader::Buffered& buffered);
    bool read_among(RecordingLine& line);
    bool read_alone(std::string_view text, RecordingLine& line);

    std::unique_ptr<Parser> parser_;
    std::string padded_;
};

}  // namespace cursorum
