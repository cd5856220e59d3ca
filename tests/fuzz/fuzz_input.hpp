// A fuzzer's bytes, read as numbers; and a check that stays in every build.
#pragma once

#include <algorithm>
#include <cstdint>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <span>

namespace test {

class FuzzInput {
public:
    FuzzInput(const std::uint8_t* data, std::size_t size) : left_{data, size} {}

    bool is_empty() const { return left_.empty(); }
    std::span<const std::uint8_t> rest() const { return left_; }
    /// Zeros once the bytes are used up.
    template <typename Number>
    Number take() {
        Number number{};
        const std::size_t size = std::min(sizeof number, left_.size());
        if (size != 0) std::memcpy(&number, left_.data(), size);
        left_ = left_.subspan(size);
        return number;
    }
    unsigned below(unsigned bound) { return take<std::uint8_t>() % bound; }

private:
    std::span<const std::uint8_t> left_;
};

/// Ends the program with the place and the condition, as a fuzzer wants it.
inline void require(bool holds, const char* what) {
    if (holds) return;
    std::fprintf(stderr, "does not hold: %s\n", what);
    std::abort();
}

}  // namespace test
