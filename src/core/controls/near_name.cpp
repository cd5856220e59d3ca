// The known name that is nearest to a mistyped one: by the number of letters that differ, are missing or swapped, if
// that is few enough for the name's length.
#include "cursorum/core/near_name.hpp"

#include <algorithm>
#include <array>
#include <cstddef>

namespace cursorum {
namespace {

constexpr std::size_t longest = 48;
constexpr unsigned slip = 2;  // in half slips

constexpr char lower(char c) noexcept { return c >= 'A' && c <= 'Z' ? static_cast<char>(c - 'A' + 'a') : c; }

constexpr unsigned exchange_cost(char left, char right) noexcept {
    if (left == right) return 0;
    return lower(left) == lower(right) ? 1 : slip;
}

}  // namespace

// Optimal string alignment distance, three rows at a time.
unsigned typing_distance(std::string_view left, std::string_view right) noexcept {
    if (left.size() > longest || right.size() > longest) return slip * longest + 1;
    using Row = std::array<unsigned, longest + 1>;
    Row before{}, above{}, row{};
    for (std::size_t j = 0; j <= right.size(); ++j) above[j] = slip * static_cast<unsigned>(j);
    for (std::size_t i = 1; i <= left.size(); ++i) {
        row[0] = slip * static_cast<unsigned>(i);
        for (std::size_t j = 1; j <= right.size(); ++j) {
            row[j] =
                std::min({above[j] + slip, row[j - 1] + slip, above[j - 1] + exchange_cost(left[i - 1], right[j - 1])});
            if (i > 1 && j > 1 && left[i - 1] == right[j - 2] && left[i - 2] == right[j - 1])
                row[j] = std::min(row[j], before[j - 2] + slip);
        }
        before = above;
        above = row;
    }
    return above[right.size()];
}

std::string_view near_name(std::string_view mistyped, std::span<const std::string_view> candidates) noexcept {
    std::string_view best;
    unsigned least = slip * longest + 1;
    for (const std::string_view candidate : candidates) {
        const unsigned distance = typing_distance(mistyped, candidate);
        if (distance < least) {
            least = distance;
            best = candidate;
        }
    }
    const auto bound = std::max<std::size_t>(slip, slip * best.size() / 3);
    return least <= bound ? best : std::string_view{};
}

}  // namespace cursorum
