// Times, numbers and foreign texts as they are printed: the same words in tables, pictures and messages. Numbers are
// the shortest that read back the same.
#include "cursorum/views/text.hpp"

#include <fmt/format.h>

#include <iterator>

#include <algorithm>
#include <cstdlib>

#include "views/shown.hpp"

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

namespace {

struct CodePoint {
    char32_t value = 0;
    std::size_t size = 0;  // 0: no UTF-8
};

CodePoint code_point_at(std::string_view text, std::size_t at) {
    const auto byte = [&](std::size_t i) { return static_cast<unsigned char>(text[at + i]); };
    const unsigned char lead = byte(0);
    if (lead < 0x80) return {lead, 1};
    const std::size_t size = lead >= 0xF0 ? 4 : lead >= 0xE0 ? 3 : 2;
    if (lead < 0xC2 || lead > 0xF4 || at + size > text.size()) return {};
    char32_t value = lead & (0x7FU >> size);
    for (std::size_t i = 1; i < size; ++i) {
        if ((byte(i) & 0xC0U) != 0x80U) return {};
        value = value << 6U | (byte(i) & 0x3FU);
    }
    const bool is_overlong = (size == 3 && value < 0x800) || (size == 4 && value < 0x10000);
    if (is_overlong || value > 0x10FFFF || (value >= 0xD800 && value < 0xE000)) return {};
    return {value, size};
}

bool is_harmless(char32_t c) {
    if (c < 0x20 || (c >= 0x7F && c < 0xA0)) return false;
    const bool is_bidirectional_mark =
        c == 0x061C || c == 0x200E || c == 0x200F || (c >= 0x202A && c <= 0x202E) || (c >= 0x2066 && c <= 0x2069);
    // Joiners are kept, since scripts and emoji need them.
    const bool is_invisible = c == 0x00AD || c == 0x180E || c == 0x200B || (c >= 0x2060 && c <= 0x2064) ||
                              (c >= 0x206A && c <= 0x206F) || c == 0xFEFF || (c >= 0xFFF9 && c <= 0xFFFB) ||
                              (c >= 0xE0000 && c <= 0xE007F);
    return !is_bidirectional_mark && !is_invisible && c != 0x2028 && c != 0x2029;
}

/// `kept`: control characters that are kept.
std::string printable_text(std::string_view text, std::string_view kept) {
    const auto is_kept = [kept](char c) { return kept.find(c) != kept.npos; };
    // Nearly all texts are plain ASCII.
    const auto is_plain = [&](char c) { return (c >= 0x20 && c < 0x7F) || is_kept(c); };
    if (std::all_of(text.begin(), text.end(), is_plain)) return std::string{text};
    std::string result;
    result.reserve(text.size());
    for (std::size_t at = 0; at < text.size();) {
        const CodePoint c = code_point_at(text, at);
        if (c.size == 0)
            result += fmt::format("\\x{:02x}", static_cast<unsigned char>(text[at]));
        else if (is_harmless(c.value) || is_kept(text[at]))
            result += text.substr(at, c.size);
        else if (c.value <= 0xFFFF)
            result += fmt::format("\\u{:04x}", static_cast<std::uint32_t>(c.value));
        else  // as JSON has it
            result += fmt::format("\\u{:04x}\\u{:04x}", static_cast<std::uint32_t>(0xD7C0 + (c.value >> 10U)),
                                  static_cast<std::uint32_t>(0xDC00 + (c.value & 0x3FFU)));
        at += std::max<std::size_t>(c.size, 1);
    }
    return result;
}

}  // namespace

std::string printable_text(std::string_view text) { return printable_text(text, "\n\t"); }

TerminalText TerminalText::of(std::string_view foreign) {
    return TerminalTextMaker::trust(printable_text(foreign, {}));
}
TerminalText TerminalText::lines_of(std::string_view foreign) {
    return TerminalTextMaker::trust(printable_text(foreign, "\n"));
}

std::string cut_text(Time time) {
    const std::int64_t ns = nanoseconds(time);
    const std::int64_t micro = ns / 1000 - (ns % 1000 < 0);
    return fmt::format("{}{}.{:06}", micro < 0 ? "-" : "", std::abs(micro) / 1'000'000, std::abs(micro) % 1'000'000);
}

std::string csv_field(std::string_view text) {
    std::string field = printable_text(text, {});
    // A spreadsheet would evaluate a field that begins like a formula.
    if (!field.empty() && std::string_view{"=+-@"}.find(field.front()) != std::string_view::npos)
        field.insert(0, 1, '\'');
    if (field.find_first_of(",\"") == field.npos) return field;
    std::string quoted = "\"";
    for (const char c : field) quoted += c == '"' ? "\"\"" : std::string{c};
    return quoted + '"';
}

std::string plural_text(std::uint64_t count, std::string_view one) {
    const std::string_view ending = count == 1 ? "" : one.ends_with("s") ? "es" : "s";
    return fmt::format("{} {}{}", count, one, ending);
}

std::string_view style_of(ButtonState state) {
    switch (state) {
        case ButtonState::press: return Paint::green;
        case ButtonState::dip:
        case ButtonState::blip: return Paint::yellow;
        case ButtonState::cancel: return Paint::red;
        case ButtonState::release: return Paint::cyan;
        default: return Paint::dim;
    }
}

TerminalText Paint::operator()(std::string_view style, const TerminalText& text) const {
    return on ? TerminalTextMaker::trust(fmt::format("\033[{}m{}\033[0m", style, text.string())) : text;
}
TerminalText Paint::operator()(std::string_view style, std::string_view text) const {
    return (*this)(style, TerminalText::of(text));
}

std::string news_text(const ButtonFigures& f) { return news_text(f, f.repeat_count()); }

std::string news_text(const ButtonFigures& f, std::uint64_t repeats) {
    std::string text;
    const auto add = [&text](std::uint64_t count, const char* one, const char* many) {
        if (count == 0) return;
        fmt::format_to(std::back_inserter(text), "{}{} {}", text.empty() ? "" : ", ", count, count == 1 ? one : many);
    };
    add(f.press_count(), "press", "presses");
    add(f.release_count(), "release", "releases");
    add(f.adopt_count(), "adopt", "adopts");
    add(f.cancel_count(), "cancel", "cancels");
    add(repeats, "repeat", "repeats");
    if (!text.empty()) text += ", held for " + span_text(f.held_for());
    return text;
}

}  // namespace cursorum
