// Lines of a stream in one buffer, from which a view of each line is handed out without copying. A line longer than the
// limit ends the reading with its number.
#include "recording/line_reader.hpp"

#include <cstring>
#include <streambuf>

namespace cursorum {

LineReader::Result LineReader::next(std::string_view& line) {
    std::size_t searched = begin_;
    for (;;) {
        const void* const found = std::memchr(buffer_.data() + searched, '\n', size_ - searched);
        if (found || (at_end_ && begin_ < size_)) {
            unfinished_ = !found;
            const std::size_t end =
                found ? static_cast<std::size_t>(static_cast<const char*>(found) - buffer_.data()) : size_;
            const std::size_t size = end - begin_;
            ++number_;
            if (size > longest_) return Result::too_long;
            line = std::string_view{buffer_}.substr(begin_, size);
            line_ = begin_;
            begin_ = end + !unfinished_;
            return Result::line;
        }
        if (at_end_) return failed_ ? Result::failed : Result::end;
        if (size_ - begin_ > longest_) {
            ++number_;
            return Result::too_long;
        }
        searched = size_ - begin_;
        std::memmove(buffer_.data(), buffer_.data() + begin_, searched);
        size_ = searched;
        begin_ = 0;
        at_end_ = !fill();
    }
}

LineReader::Buffered LineReader::buffered() const noexcept {
    return {last_ > line_ ? std::string_view{buffer_}.substr(line_, last_ - line_) : std::string_view{}, fills_};
}

bool LineReader::fill() {
    constexpr std::size_t chunk = 65536;
    if (buffer_.size() < size_ + chunk + padding) buffer_.resize(size_ + chunk + padding);
    in_.read(buffer_.data() + size_, chunk);
    const auto got = static_cast<std::size_t>(in_.gcount());
    failed_ = in_.bad();
    size_ += got;
    bytes_ += got;
    ++fills_;
    last_ = size_;
    while (last_ > 0 && buffer_[last_ - 1] != '\n') --last_;
    return got != 0;
}

}  // namespace cursorum
