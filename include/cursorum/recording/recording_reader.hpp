// Reads recordings: one JSON object for each line, streamed.
#pragma once

#include <cstdint>
#include <iosfwd>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "cursorum/core/belief_check.hpp"
#include "cursorum/core/event.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/rumble.hpp"
#include "cursorum/core/sampler.hpp"
#include "cursorum/core/tick.hpp"

namespace cursorum {

/// An error in a recording, described for the person who will correct it.
struct CURSORUM_API RecordingError {
    std::string file;
    std::uint64_t line = 0;  ///< from 1; 0 if it concerns the whole file
    std::string found;       ///< `"KeyV" spelt "Keyv"`, `an array` …
    std::string expected;
    std::string hint;  ///< may be empty

    /// "FILE:LINE: found …; expected …; hint".
    std::string message() const;
};

/// What a game called on an action reader: open() or close() of a mode, claim() or end_claim(), set_area(), or
/// consume_press() when that took a press; or that it read a device, or a part of it, from then on, as that of a seat. In a replay, it takes effect with the first
/// frame that starts at or after its line's time.
struct RecordedCall {
    std::string_view reader{};  ///< which reader; empty if there is only one. Valid until the next line is read
    std::string_view mode{};    ///< of a mode: its name; likewise
    bool begins = true;         ///< opened, claimed, set, or read; else closed, ended, everywhere again, or not read
    std::uint32_t claim = 0;    ///< of a claim: its number, chosen by the writer
    bool everything = false, axes = false, motion = false, wheel = false;  ///< what it claims
    ButtonSet buttons{};
    DeviceId device{};
    std::string_view action{};  ///< of an area, or of a press that was taken: "mode.action"; likewise
    WindowRect area{};
    bool outside = false;
    /// Of a seat: `device`, and the `buttons` of it that are read; an empty set stands for the whole device. Without a
    /// device: the reader reads all devices, or, if not `begins`, none of them.
    bool is_seat = false;
    bool takes_press = false;  ///< consume_press() took the press that waited in the buffer of `action`

    friend bool operator==(const RecordedCall&, const RecordedCall&) = default;
};

/// The state at the cut where a recording begins that is a part of a longer one. In a replay by the recording's own
/// cuts, it takes effect after the frame that ends at its line's time; its line stands above that cut.
struct RecordedCheckpoint {
    /// One fact about an action reader; docs/recording-format.md lists their names.
    struct Fact {
        std::string name;
        std::string text{};       ///< if it is one; else a number:
        std::int64_t number = 0;  ///< rounded toward 0
        double real = 0;

        friend bool operator==(const Fact&, const Fact&) = default;
    };
    std::vector<HoldBeginning> holds;  ///< when what was down went down
    std::string reader{};              ///< which reader, as in RecordedCall
    std::vector<Fact> facts{};         ///< times are since the recording began

    friend bool operator==(const RecordedCheckpoint&, const RecordedCheckpoint&) = default;
};

/// What another input layer believed of the frame that ends next. Actions are named, "crane.lock" or "lock".
struct RecordedBelief {
    struct Names {
        std::vector<std::string> handles{}, pressed{}, down{};
        std::optional<std::vector<std::string>> released{};

        friend bool operator==(const Names&, const Names&) = default;
    };
    ButtonSet handles{};  ///< the buttons that the layer handles, in its first line; empty: as said before, or all
    Belief belief{};
    Names actions{};

    friend bool operator==(const RecordedBelief&, const RecordedBelief&) = default;
};

/// One line of a recording, other than the header.
struct RecordingLine {
    enum class Kind : std::uint8_t {
        event,
        frame,       ///< a cut, at `time`; `tick` if the line has one
        rumble,      ///< a request to a gamepad
        note,        ///< for people
        mode,        ///< the game opened or closed a mode of an action reader
        claim,       ///< the game started or ended a claim
        area,        ///< the game set where clicks count for an action
        taken,       ///< the game took a press from an action's buffer
        seat,        ///< an action reader read a device from then on, as its seat's
        checkpoint,  ///< the state where the recording begins
        belief,      ///< what another input layer believed of the frame that ends next
        skipped      ///< of a type this version does not know, or blank
    };
    /// The kind of a line with that call.
    static Kind kind_of(const RecordedCall& call) noexcept {
        return call.is_seat          ? Kind::seat
               : call.takes_press    ? Kind::taken
               : !call.mode.empty()  ? Kind::mode
               : call.action.empty() ? Kind::claim
                                     : Kind::area;
    }
    bool is_call() const noexcept {
        return kind >= Kind::mode && kind <= Kind::seat;
    }
    Kind kind = Kind::skipped;
    std::uint64_t number = 0;     ///< in the file, from 1
    Time time;                    ///< since the recording began; zero for skipped lines
    std::optional<Time> arrived;  ///< when the recording program received it, if present
    unsigned inlet = 0;           ///< of an event: which inlet it was posted to; less than RecordingReader::inlets()
    Event event;                  ///< its texts are valid until the next line is read
    RumbleRequest rumble;
    RecordedCall call{};
    std::optional<Tick> tick{};  ///< of a cut: its tick, if the line has one
    std::shared_ptr<const RecordedCheckpoint> checkpoint{};
    std::shared_ptr<const RecordedBelief> belief{};
};

struct RecordingReaderOptions {
    bool strict = false;  ///< lines that would be skipped are errors, and so is a truncated last line
    std::size_t longest_line = std::size_t{1} << 20;  ///< bytes; a longer one is an error
};

/// Reads a recording from a stream, a line at a time; memory does not grow with its length. The format is in
/// docs/recording-format.md.
///
/// Errors: read() returns false, and error() describes the error; lines that were read before stay valid. A last line
/// that was cut off (not JSON, and without a line feed) is not an error: truncated_line() returns its number.
/// Threads: one.
class CURSORUM_API RecordingReader {
public:
    /// Reads the header: check error() before the first line. `name` is used in messages.
    RecordingReader(std::istream& in, std::string name, const RecordingReaderOptions& options = {});
    ~RecordingReader();
    RecordingReader(const RecordingReader&) = delete;
    RecordingReader& operator=(const RecordingReader&) = delete;

    /// Reads the next line. Returns false at the end and after an error.
    bool read(RecordingLine& line);

    const std::optional<RecordingError>& error() const noexcept;
    const std::string& title() const noexcept;
    unsigned inlets() const noexcept;               ///< how many the recording's timeline had, 1 to inlet_capacity
    std::uint64_t skipped_lines() const noexcept;   ///< of unknown type, or blank
    std::uint64_t truncated_line() const noexcept;  ///< its number, 0 if there was none
    std::uint64_t bytes_read() const noexcept;

private:
    struct Parts;
    std::unique_ptr<Parts> parts_;
};

/// Returns whether the recording has cuts of its own. Reads up to the first of them, or to the end.
CURSORUM_API bool has_own_cuts(std::istream& in);

}  // namespace cursorum
