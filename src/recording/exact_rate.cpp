// Frames per second as a fraction, read exactly from a decimal number, so that 59.94 is 2997/50 and cut n is a whole
// number of nanoseconds without a sum.
#include "cursorum/recording/exact_rate.hpp"

#include <algorithm>
#include <charconv>
#include <numeric>

namespace cursorum {
namespace {

__extension__ using Wide = __int128;

constexpr Wide second = 1'000'000'000;
constexpr std::uint64_t most = 1'000'000'000;

/// A decimal number without sign as digits * 10^-decimals.
struct Decimal {
    std::uint64_t digits = 0;
    int decimals = 0;
};

std::optional<Decimal> parse_decimal(std::string_view text) noexcept {
    // Zeros behind the last decimal say nothing.
    if (text.find('.') != text.npos && text.find_first_of("eE") == text.npos) {
        const std::size_t last = text.find_last_not_of('0');
        if (last != text.npos) text = text.substr(0, text[last] == '.' ? std::max<std::size_t>(last, 1) : last + 1);
    }
    Decimal result;
    bool any = false, behind_point = false;
    std::size_t i = 0;
    for (; i < text.size(); ++i) {
        const char c = text[i];
        if (c == '.' && !behind_point) {
            behind_point = true;
            continue;
        }
        if (c < '0' || c > '9') break;
        if (result.digits > (UINT64_MAX - 9) / 10) return std::nullopt;
        result.digits = result.digits * 10 + static_cast<unsigned>(c - '0');
        result.decimals += behind_point;
        any = true;
    }
    if (!any) return std::nullopt;
    if (i < text.size() && (text[i] == 'e' || text[i] == 'E')) {
        int exponent = 0;
        const char* first = text.data() + i + 1;
        if (first != text.data() + text.size() && *first == '+') ++first;
        const auto [end, error] = std::from_chars(first, text.data() + text.size(), exponent);
        if (error != std::errc{} || end != text.data() + text.size() || exponent > 40 || exponent < -40)
            return std::nullopt;
        result.decimals -= exponent;
    } else if (i != text.size()) {
        return std::nullopt;
    }
    while (result.decimals > 0 && result.digits % 10 == 0 && result.digits != 0) {
        result.digits /= 10;
        --result.decimals;
    }
    for (; result.decimals < 0; ++result.decimals) {
        if (result.digits > UINT64_MAX / 10) return std::nullopt;
        result.digits *= 10;
    }
    return result;
}

}  // namespace

std::optional<ExactRate> ExactRate::parse(std::string_view text) noexcept {
    const std::size_t slash = text.find('/');
    const auto over = parse_decimal(text.substr(0, slash));
    const auto under = slash == text.npos ? Decimal{1, 0} : parse_decimal(text.substr(slash + 1));
    if (!over || !under || over->decimals > 9 || under->decimals > 9) return std::nullopt;
    Wide count = over->digits, per = under->digits;
    for (int i = over->decimals; i < under->decimals; ++i) count *= 10;
    for (int i = under->decimals; i < over->decimals; ++i) per *= 10;
    if (count <= 0 || per <= 0 || count > per * Wide{most} || per > count * Wide{most}) return std::nullopt;
    // At most 1e9 to 1: then no product in cut() leaves 128 bits.
    Wide a = count, b = per;
    while (b != 0) std::swap(a %= b, b);
    count /= a;
    per /= a;
    if (count > Wide{most} * Wide{most} || per > Wide{most}) return std::nullopt;
    return ExactRate{static_cast<std::uint64_t>(count), static_cast<std::uint64_t>(per)};
}

Time ExactRate::cut(std::uint64_t number) const noexcept {
    // (number + 1) * second * per / count, whole turns of `count` first.
    const Wide ends = Wide{number} + 1;
    const Wide turns = ends / count_, rest = ends % count_;
    const Wide limit = nanoseconds(latest_time);
    if (turns > limit / (second * per_)) return latest_time;
    const Wide time = turns * second * per_ + rest * per_ * second / count_;
    return nanoseconds_since_zero(static_cast<std::int64_t>(std::min(time, limit)));
}

std::uint64_t ExactRate::frame_of(Time time) const noexcept {
    const Wide t = nanoseconds(time);
    if (t <= 0) return 0;
    // floor(k * second * per / count) >= t, k = number + 1, so k >= t * count / (second * per).
    const Wide length = second * per_;
    const Wide whole = t / length, rest = t % length;
    const Wide k = whole * count_ + (rest * count_ + length - 1) / length;
    return static_cast<std::uint64_t>(k > 0 ? k - 1 : 0);
}

}  // namespace cursorum
