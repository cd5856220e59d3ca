// Durations as texts such as "250ms" and "1.5 min", read exactly: digits are scaled as whole numbers, never as floating
// point.
#include "cursorum/actions/span_text.hpp"

#include <array>

namespace cursorum {

namespace {
__extension__ using Wide = __int128;
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

}  // namespace cursorum
