// Frames as text: JSON Lines, CSV, and a table for people.
#pragma once

#include <cstddef>
#include <cstdint>
#include <initializer_list>
#include <map>
#include <string>
#include <string_view>

#include "cursorum/core/export.hpp"
#include "cursorum/core/frame.hpp"
#include "cursorum/core/seats.hpp"
#include "cursorum/core/timeline.hpp"
#include "cursorum/views/text.hpp"

namespace cursorum {

struct Event;

/// The parts of a frame, in the order in which they are shown.
enum class FramePart : std::uint8_t {
    controls,  ///< buttons
    axes,      ///< raw values that are not at rest
    sticks,    ///< shaped values that are not at rest
    pointer,   ///< position, motion, wheel, whether it is outside or locked
    samples,   ///< each motion event
    clicks,
    drags,     ///< drags that began, continue, were dropped or cancelled
    contacts,  ///< on touch surfaces
    text,      ///< what was typed and composed
    locks,     ///< lock keys that are on or were just turned off
    devices,   ///< devices that connected or disconnected
    seats,     ///< changes of seats; with FrameSelection::seats
    edges      ///< the devices' edges, in order
};
inline constexpr unsigned frame_part_count = static_cast<unsigned>(FramePart::edges) + 1;
/// "controls", "axes" …
CURSORUM_API std::string_view name_of(FramePart part) noexcept;

/// A set of parts.
class FrameParts {
public:
    constexpr FrameParts() noexcept = default;
    constexpr FrameParts(std::initializer_list<FramePart> parts) noexcept {
        for (const FramePart part : parts) insert(part);
    }
    constexpr void insert(FramePart part) noexcept { bits_ |= 1U << static_cast<unsigned>(part); }
    constexpr bool contains(FramePart part) const noexcept { return (bits_ >> static_cast<unsigned>(part) & 1) != 0; }

private:
    unsigned bits_ = 0;
};

/// The parts that the frame format contains by default.
inline constexpr FrameParts usual_parts{FramePart::controls, FramePart::axes, FramePart::pointer, FramePart::contacts,
                                        FramePart::text, FramePart::edges};

/// The repeats of holds in progress, by button and device or seat, which a table shows in the line in which the hold
/// ends.
struct RepeatsSoFar {
    struct Counts {
        std::uint64_t own = 0, system = 0;
    };
    std::map<std::uint64_t, Counts> of;
};

/// Which parts and controls of a frame are shown.
struct FrameSelection {
    ButtonSet controls;       ///< only these; if empty, all except either-side names and buttons that are made of axes
    bool per_device = false;  ///< each device's own buttons instead of the merged ones
    /// Each seat's buttons instead. It must have read the frame.
    const Seats* seats = nullptr;
    FrameParts parts = usual_parts;
    /// Tables: counts repeats until another edge of the button. If null, each frame with a repeat has its own line.
    RepeatsSoFar* repeats = nullptr;
    /// Tables: buttons in words, in the columns of all other parts (name, state, details), for a table that also has
    /// other rows. Columns of figures otherwise.
    bool in_words = false;
    std::size_t name_width = 17;  ///< tables: of the column with the names
};

/// One line of the frame format (docs/frame-format.md), line feed included. With `per_device`, each entry of `controls`
/// has a `device` as well, with `seats` a `seat`.
CURSORUM_API std::string frame_as_jsonl(std::uint64_t number, const Frame& frame, const Timeline& timeline,
                                        const FrameSelection& selection);

/// The heading of the CSV form, and a frame's rows, of one part: one for each button that is not idle, each axis not at
/// rest, and so on, with the members of the frame format as columns.
CURSORUM_API std::string frame_csv_heading(FramePart part, const FrameSelection& selection);
CURSORUM_API std::string frame_as_csv(FramePart part, std::uint64_t number, const Frame& frame,
                                      const Timeline& timeline, const FrameSelection& selection);

/// An event as a few words: `KeyW down, device 1 "desk keyboard"`. `reason`: of an interruption.
CURSORUM_API std::string event_text(const Event& event, std::string_view device_name, std::string_view reason = {});

/// The heading of the table, and a frame's rows: one for each button with an edge or repeat, and one for everything
/// else that changed. A hold that only continues is not shown. At most 100 columns wide, except for long texts.
CURSORUM_API TerminalText frame_table_heading(const FrameSelection& selection, bool colour);
CURSORUM_API TerminalText frame_as_table(std::uint64_t number, const Frame& frame, const Timeline& timeline,
                                         const FrameSelection& selection, bool colour);

}  // namespace cursorum
