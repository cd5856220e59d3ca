// Times, lengths and other values as text for people.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>

#include "cursorum/core/button_reading.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/time.hpp"

namespace cursorum {

/// "1.402113 s": seconds, exact, at least three decimals, no trailing zeros beyond.
CURSORUM_API std::string time_text(Time time);

/// "13.313128 ms", "400 ms", "2.5 s", "870 ns": exact, in the largest unit that leaves at least one whole.
CURSORUM_API std::string span_text(Duration span);

/// The text without what would control a terminal or change the order in which it is read: control characters (but line
/// feeds and tabs), DEL, C1 controls and bidirectional marks become \u001b and the like, as in JSON; bytes that are not
/// UTF-8 become \x9b and the like. Use it for every text that comes from a file, a device or a command line.
/// `keeps_colours`: sequences as made by Paint are kept.
CURSORUM_API std::string printable_text(std::string_view text, bool keeps_colours = false);

/// A time in seconds with six decimals, cut off instead of rounded, so that a frame's end printed this way is still
/// within the frame.
CURSORUM_API std::string cut_text(Time time);

/// A text as a field of CSV (RFC 4180): quoted if it has a comma, a quote or a line break in it. What begins like a
/// formula of a spreadsheet (`=`, `+`, `-`, `@`, a tab) gets an apostrophe in front. For texts: numbers need none of it.
CURSORUM_API std::string csv_field(std::string_view text);

/// "1 frame", "2 frames", "0 presses".
CURSORUM_API std::string plural_text(std::uint64_t count, std::string_view one);

/// What happened to a button in a frame: "2 presses, 1 repeat, held for 16.5 ms"; empty if a hold just goes on.
CURSORUM_API std::string news_text(const ButtonFigures& figures);

/// Colours of a terminal; empty strings when `on` is false.
struct CURSORUM_API Paint {
    bool on = false;
    std::string operator()(std::string_view style, std::string_view text) const;

    static constexpr std::string_view bold = "1", dim = "2", red = "91", green = "92", yellow = "93", magenta = "95",
                                      cyan = "96";
};

/// Of a state in a table.
CURSORUM_API std::string_view style_of(ButtonState state);

}  // namespace cursorum
