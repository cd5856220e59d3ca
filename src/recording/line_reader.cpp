#include "recording/line_reader.hpp"

#include <streambuf>

namespace cursorum {

LineReader::Result LineReader::next(std::string_view& line) {
    std::size_t searched = begin_;
    for (;;) {
        const std::size_t end = buffer_.find('\n', searched);
        if (end != buffer_.npos || (at_end_ && begin_ < buffer_.size())) {
            unfinished_ = end == buffer_.npos;
            const std::size_t size = (unfinished_ ? buffer_.size() : end) - begin_;
            ++number_;
            if (size > longest_) return Result::too_long;
            line = std::string_view{buffer_}.substr(begin_, size);
            begin_ += size + !unfinished_;
            return Result::line;
        }
        if (at_end_) return failed_ ? Result::failed : Result::end;
        if (buffer_.size() - begin_ > longest_) {
            ++number_;
            return Result::too_long;
        }
        searched = buffer_.size() - begin_;
        buffer_.erase(0, begin_);
        begin_ = 0;
        at_end_ = !fill();
    }
}

bool LineReader::fill() {
    constexpr std::size_t chunk = 65536;
    const std::size_t old = buffer_.size();
    buffer_.resize(old + chunk);
    in_.read(buffer_.data() + old, chunk);
    const auto got = static_cast<std::size_t>(in_.gcount());
    failed_ = in_.bad();
    buffer_.resize(old + got);
    bytes_ += got;
    return got != 0;
}

}  // namespace cursorum
