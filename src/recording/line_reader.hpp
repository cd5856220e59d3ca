// Lines of a stream, each of bounded length, with room behind each for parsers that read in large steps. The text is
// valid until the next line is read.
#pragma once

#include <cstddef>
#include <cstdint>
#include <istream>
#include <string>
#include <string_view>

#include "cursorum/core/export.hpp"

namespace cursorum {

/// Reads a stream line by line through a buffer of its own; memory is bounded by the longest line allowed.
class CURSORUM_API LineReader {
public:
    enum class Result { line, end, too_long, failed };

    LineReader(std::istream& in, std::size_t longest) : in_{in}, longest_{longest} {}

    /// The next line without its line feed, good until the next call. An empty last line does not count as a line.
    Result next(std::string_view& line);

    /// The complete lines in the buffer, starting with the line read last; `padding` bytes after them may be read.
    /// Good until `fills` changes, in a call of next().
    struct Buffered {
        std::string_view lines;
        std::uint64_t fills = 0;
    };
    static constexpr std::size_t padding = 64;
    Buffered buffered() const noexcept;

    /// Returns true if the line read last was at the end, without a line feed.
    bool is_unfinished() const noexcept { return unfinished_; }
    std::uint64_t number() const noexcept { return number_; }
    std::uint64_t bytes() const noexcept { return bytes_; }

private:
    bool fill();

    std::istream& in_;
    std::size_t longest_;
    std::string buffer_;                                      // longer than its content
    std::size_t begin_ = 0, size_ = 0, line_ = 0, last_ = 0;  // of the line read last; after the last line feed
    std::uint64_t number_ = 0, bytes_ = 0, fills_ = 0;
    bool at_end_ = false, unfinished_ = false, failed_ = false;
};

}  // namespace cursorum
