// Times, lengths and other values as text for people.
#pragma once

#include <cstddef>
#include <cstdint>
#include <string>
#include <string_view>
#include <utility>

#include "cursorum/core/button_reading.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/time.hpp"

namespace cursorum {

/// "1.402113 s": seconds, exact, at least three decimals, no trailing zeros beyond.
CURSORUM_API std::string time_text(Time time);

/// "13.313128 ms", "400 ms", "2.5 s", "870 ns": exact, in the largest unit that leaves at least one whole.
CURSORUM_API std::string span_text(Duration span);

/// The text without what would control a terminal or change the order in which it is read: control characters (but line
/// feeds and tabs), DEL, C1 controls, bidirectional marks and invisible characters become `\u001b` and the like, as in
/// JSON; bytes that are not UTF-8 become `\x9b` and the like.
CURSORUM_API std::string printable_text(std::string_view text);

/// Text that is safe to print on a terminal. It consists of the program's own literals, of colours (Paint), and of
/// foreign text (from a file, a device or the command line), which is made harmless when it is added: a name can
/// neither colour nor hide what follows, nor add a line. No other text can be added. It converts to any string.
class CURSORUM_API TerminalText {
public:
    /// A string literal.
    class Literal {
    public:
        template <std::size_t size>
        consteval Literal(const char (&text)[size]) noexcept : text_{text, size - 1} {}  // NOLINT: meant to be implicit
        constexpr std::string_view text() const noexcept { return text_; }

    private:
        std::string_view text_;
    };

    TerminalText() = default;
    TerminalText(Literal literal) : text_{literal.text()} {}  // NOLINT: likewise
    /// Foreign text as printable_text() returns it, but in one line: line feeds and tabs are escaped as well.
    static TerminalText of(std::string_view foreign);
    /// The same, with its line feeds: for a message that consists of lines.
    static TerminalText lines_of(std::string_view foreign);

    TerminalText& operator+=(const TerminalText& more) { return text_ += more.text_, *this; }
    TerminalText& operator+=(Literal more) { return text_ += more.text(), *this; }
    friend TerminalText operator+(TerminalText left, const TerminalText& right) { return std::move(left += right); }
    friend TerminalText operator+(TerminalText left, Literal right) { return std::move(left += right); }
    friend TerminalText operator+(Literal left, const TerminalText& right) { return TerminalText{left} + right; }
    friend bool operator==(const TerminalText& text, std::string_view other) noexcept { return text.text_ == other; }
    operator std::string_view() const noexcept { return text_; }  // NOLINT: likewise
    operator std::string() const { return text_; }                // NOLINT: likewise
    const std::string& string() const noexcept { return text_; }
    bool empty() const noexcept { return text_.empty(); }

private:
    friend class TerminalTextMaker;
    friend struct Paint;
    std::string text_;
};

/// A time in seconds with six decimals, cut off instead of rounded, so that a frame's end printed this way is still
/// within the frame.
CURSORUM_API std::string cut_text(Time time);

/// A text as a field of CSV (RFC 4180): quoted if it has a comma or a quote in it, harmless as TerminalText::of() makes
/// it. What begins like a formula of a spreadsheet (`=`, `+`, `-`, `@`) gets an apostrophe in front. For texts: numbers
/// need none of it.
CURSORUM_API std::string csv_field(std::string_view text);

/// "1 frame", "2 frames", "0 presses".
CURSORUM_API std::string plural_text(std::uint64_t count, std::string_view one);

/// What happened to a button in a frame: "2 presses, 1 repeat, held for 16.5 ms"; empty if a hold just goes on.
CURSORUM_API std::string news_text(const ButtonFigures& figures);
/// The same with that many repeats instead of its own: all those of a hold that ended.
CURSORUM_API std::string news_text(const ButtonFigures& figures, std::uint64_t repeats);

/// Colours of a terminal; the text alone when `on` is false.
struct CURSORUM_API Paint {
    bool on = false;
    TerminalText operator()(std::string_view style, const TerminalText& text) const;
    /// Of foreign text.
    TerminalText operator()(std::string_view style, std::string_view text) const;

    static constexpr std::string_view bold = "1", dim = "2", red = "91", green = "92", yellow = "93", magenta = "95",
                                      cyan = "96";
};

/// Of a state in a table.
CURSORUM_API std::string_view style_of(ButtonState state);

}  // namespace cursorum
