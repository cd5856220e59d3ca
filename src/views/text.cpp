#include "cursorum/views/text.hpp"

#include <fmt/format.h>

#include <array>
#include <cstdlib>

namespace cursorum {
namespace {

__extension__ using Wide = __int128;

/// value / 10^digits as a decimal with at least `least` places.
std::string decimal(std::int64_t value, int digits, int least) {
    std::uint64_t scale = 1;
    for (int i = 0; i < digits; ++i) scale *= 10;
    const auto magnitude = static_cast<std::uint64_t>(value < 0 ? -value : value);
    std::string places = digits > 0 ? fmt::format("{:0{}}", magnitude % scale, digits) : std::string{};
    while (static_cast<int>(places.size()) > least && places.back() == '0') places.pop_back();
    return fmt::format("{}{}{}{}", value < 0 ? "-" : "", magnitude / scale, places.empty() ? "" : ".", places);
}

}  // namespace

std::string time_text(Time time) { return decimal(nanoseconds(time), 9, 3) + " s"; }

std::string span_text(Duration span) {
    const std::int64_t ns = span.count();
    const std::int64_t magnitude = std::abs(ns);
    if (magnitude >= 1'000'000'000) return decimal(ns, 9, 0) + " s";
    if (magnitude >= 1'000'000) return decimal(ns, 6, 0) + " ms";
    if (magnitude >= 1'000) return decimal(ns, 3, 0) + " us";
    return decimal(ns, 0, 0) + " ns";
}

std::optional<Duration> parse_span(std::string_view text) {
    struct Unit {
        std::string_view name;
        Wide nanoseconds;
    };
    constexpr std::array units{Unit{"ns", 1},
                               Unit{"us", 1'000},
                               Unit{"ms", 1'000'000},
                               Unit{"s", 1'000'000'000},
                               Unit{"min", 60'000'000'000},
                               Unit{"h", 3'600'000'000'000}};
    Wide digits = 0, scale = 1;
    bool any = false, behind_point = false;
    std::size_t i = 0;
    for (; i < text.size(); ++i) {
        if (text[i] == '.' && !behind_point) {
            behind_point = true;
            continue;
        }
        if (text[i] < '0' || text[i] > '9') break;
        any = true;
        if (digits > Wide{1} << 80) return std::nullopt;
        if (behind_point && scale > 1'000'000'000'000'000) continue;  // finer than a nanosecond in any unit
        digits = digits * 10 + (text[i] - '0');
        if (behind_point) scale *= 10;
    }
    if (!any) return std::nullopt;
    while (i < text.size() && text[i] == ' ') ++i;
    const std::string_view unit = text.substr(i);
    if (unit.empty()) return digits == 0 ? std::optional{Duration{0}} : std::nullopt;
    for (const Unit& known : units) {
        if (known.name != unit) continue;
        const Wide span = digits * known.nanoseconds / scale;
        if (span > nanoseconds(latest_time)) return std::nullopt;
        return Duration{static_cast<std::int64_t>(span)};
    }
    return std::nullopt;
}

std::string Paint::operator()(std::string_view style, std::string_view text) const {
    return on ? fmt::format("\033[{}m{}\033[0m", style, text) : std::string{text};
}

}  // namespace cursorum
