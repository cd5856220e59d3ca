#include "cursorum/views/text.hpp"

#include <fmt/format.h>

#include <cstdlib>

namespace cursorum {
namespace {

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

std::string_view style_of(ButtonState state) {
    switch (state) {
        case ButtonState::press:
        case ButtonState::dip: return Paint::green;
        case ButtonState::blip: return Paint::yellow;
        case ButtonState::release: return Paint::cyan;
        default: return Paint::dim;
    }
}

std::string Paint::operator()(std::string_view style, std::string_view text) const {
    return on ? fmt::format("\033[{}m{}\033[0m", style, text) : std::string{text};
}

}  // namespace cursorum
