// One lane: what a control, a mode or an action did over a stretch of time.
#pragma once

#include <cstdint>
#include <deque>
#include <optional>
#include <string>
#include <string_view>

#include "cursorum/core/axis.hpp"
#include "cursorum/core/belief_check.hpp"
#include "cursorum/core/button_reading.hpp"
#include "cursorum/core/control.hpp"
#include "cursorum/core/device.hpp"
#include "cursorum/core/edge.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/time.hpp"

namespace cursorum {

/// What one control on one device, one mode, claim or action, did.
struct CURSORUM_API Lane {
    /// In the order in which lanes are shown.
    enum class Kind : std::uint8_t {
        button,
        axis,           ///< `values` from -1 to 1; of a trigger from 0 to 1
        pointer,        ///< `values` in pixels, one for each frame: the position, or else the motion added up
        mode,           ///< `bars` while it is open and not covered
        claim,          ///< `bars` while it is in force
        button_action,  ///< of a profile, as a button
        axis_action     ///< of a profile, as an axis; a vector has two lanes
    };
    /// A stretch of time in which a button was down, exact.
    struct Bar {
        Time from, to;
        std::optional<EdgeKind> began;  ///< press or adopt; nothing if it was down before the first frame
        std::optional<EdgeKind> ended;  ///< release or cancel; nothing if it is still down
    };
    /// One frame's state of a button, if it was not idle. Holds in which nothing happens are one cell together. Counts
    /// stop at 65,535.
    struct Cell {
        std::uint32_t first = 0, last = 0;  ///< frames, by LaneHistory::frame()
        Duration held_for{};
        std::uint16_t presses = 0, releases = 0, adopts = 0, cancels = 0;
        std::uint16_t repeats = 0;         ///< Cursorum's own
        std::uint16_t system_repeats = 0;  ///< the system's
        std::uint16_t lost = 0;            ///< presses that comparing the levels at both cuts does not see
        ButtonState state{};
        bool is_made_up = false;  ///< comparing the levels shows a press, and nobody pressed
    };
    /// A value that holds until the next one.
    struct Value {
        Time time;
        double raw = 0;     ///< as reported; of actions the same as `shaped`
        double shaped = 0;  ///< what the game gets
    };
    /// A press that had no effect.
    struct Missed {
        Time time;
        /// What follows "KeyW went down": " without focus, so it was ignored", ", but the mode menu covered crane".
        std::string why;
    };
    /// Something that another input layer got wrong.
    struct Belief {
        std::uint32_t frame = 0;  ///< by LaneHistory::frame()
        BeliefFinding what;
    };

    Kind kind = Kind::button;
    std::string name{};  ///< "KeyW", "PadStickLeftX", "menu", "crane.lock"
    Button button{};     ///< of a button
    Axis axis{};         ///< of an axis
    DeviceId device{};   ///< of both; 0: merged over all devices, as either-side names are
    /// The device's name, where several devices have the control; of modes and actions, the seat's; what a claim is on.
    /// Else empty.
    std::string of{};
    std::deque<Bar> bars{};
    std::deque<Cell> cells{};
    std::deque<Time> system_repeats{};  ///< where note_line() reported them
    std::deque<Value> values{};
    std::deque<Missed> missed{};  ///< in order of time
    std::deque<Belief> beliefs{};
    double dead_zone = 0;      ///< of an axis: a share of its range; 0 if it has none
    bool needs_focus = false;  ///< of a button or an axis: its device is not exempt from focus

    /// "KeyW", or "KeyW (desk keyboard)" where several devices have it.
    std::string title() const { return of.empty() ? name : name + " (" + of + ")"; }
    bool has_values() const noexcept {
        return kind == Kind::axis || kind == Kind::pointer || kind == Kind::axis_action;
    }
    /// Returns whether it is down, open or not at rest at the last frame's end.
    bool is_active() const noexcept;
    /// The values at the bottom and at the top of a picture of it. Where down is positive, the greater one is at the
    /// bottom. Sticks and actions have -1 and 1, triggers 0 and 1, the pointer those that it had.
    struct Range {
        double bottom = -1, top = 1;

        /// How far up a value is, from 0 to 1.
        double share(double value) const noexcept;
    };
    Range range() const noexcept;
    /// How much there is to see in it: presses, repeats and other edges, values that moved.
    std::uint64_t event_count() const noexcept;
};

/// A frame in a history.
struct LaneFrame {
    std::uint64_t number = 0;  ///< as given to note()
    Time from, to;
};

/// A stretch of time in which something kept input away, or an instant (`from` equals `to`).
struct CURSORUM_API LaneSpan {
    enum class Kind : std::uint8_t {
        without_focus,
        paused,      ///< skipped, or a stall: no frame covers it
        unplugged,   ///< a device that had been there was away
        interrupted  ///< an instant: sleep, a debugger, a modal box
    };
    Kind kind{};
    Time from, to;
    std::string text{};  ///< the device's name, or the reason
    DeviceId device{};   ///< of `unplugged`

    /// Returns whether it kept input away from that lane: a focus loss does so from devices that need the focus, an
    /// unplugged device from its own, a pause and an interruption from all.
    bool concerns(const Lane& lane) const noexcept;
    /// "without focus", "west pad unplugged", "interrupted: sleep".
    std::string title() const;
};

}  // namespace cursorum
