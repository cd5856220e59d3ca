// Collects what each control did over a stretch of time, one lane per control, for pictures and panels.
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "cursorum/core/belief_check.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/frame.hpp"
#include "cursorum/core/timeline.hpp"
#include "cursorum/recording/recording_reader.hpp"

namespace cursorum {

/// What one control, or one action, did.
struct CURSORUM_API Lane {
    enum class Kind : std::uint8_t {
        button,
        axis,           ///< `values` from -1 to 1; of a trigger from 0 to 1
        pointer,        ///< `values` in pixels, one for each frame: the position, or else the motion added up
        button_action,  ///< of a profile, as a button
        axis_action     ///< of a profile, as an axis; a vector has two lanes
    };
    /// A stretch of time in which a button was down, exact.
    struct Bar {
        Time from, to;
        std::optional<EdgeKind> began;  ///< press or adopt; nothing if it was down before the first frame
        std::optional<EdgeKind> ended;  ///< release or cancel; nothing if it is still down
    };
    /// One frame's state of a button, if it was not idle. Holds in which nothing happens are one cell together.
    struct Cell {
        std::uint32_t first = 0, last = 0;  ///< frames, as indices of LaneHistory::frames()
        ButtonState state{};
        std::uint32_t presses = 0, releases = 0, adopts = 0, cancels = 0;
        std::uint32_t repeats = 0;         ///< Cursorum's own
        std::uint32_t system_repeats = 0;  ///< the system's
        Duration held_for{};
        std::uint32_t lost = 0;   ///< presses that comparing the levels at both cuts does not see
        bool is_made_up = false;  ///< comparing the levels shows a press, and nobody pressed
    };
    /// A value that holds until the next one.
    struct Value {
        Time time;
        double raw = 0;     ///< as reported; of actions the same as `shaped`
        double shaped = 0;  ///< what the game gets
    };

    /// Something that another input layer got wrong.
    struct Belief {
        std::uint32_t frame = 0;  ///< index of LaneHistory::frames()
        BeliefFinding what;
    };

    Kind kind = Kind::button;
    std::string name;  ///< "KeyW", "PadStickLeftX", "crane.lock"
    std::vector<Bar> bars{};
    std::vector<Cell> cells{};
    std::vector<Time> system_repeats{};  ///< where note_line() reported them
    std::vector<Value> values{};
    std::vector<Belief> beliefs{};
    double dead_zone = 0;  ///< of an axis: a share of its range; 0 if it has none

    bool has_values() const noexcept {
        return kind == Kind::axis || kind == Kind::pointer || kind == Kind::axis_action;
    }
    /// The values at the bottom and at the top of a picture of it: -1 and 1, or 0 and 1 of a trigger; those that it
    /// had, of the pointer.
    struct Range {
        double least = -1, greatest = 1;
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
struct LaneSpan {
    enum class Kind : std::uint8_t {
        without_focus,
        paused,      ///< skipped, or a stall: no frame covers it
        unplugged,   ///< a device that had been there was away
        interrupted  ///< an instant: sleep, a debugger, a modal box
    };
    Kind kind{};
    Time from, to;
    std::string text{};  ///< the device's name, or the reason
};
/// "without focus", "paused", "unplugged", "interrupted".
CURSORUM_API std::string_view name_of(LaneSpan::Kind kind) noexcept;

/// Which lanes a history has.
struct LaneSelection {
    ButtonSet buttons{};       ///< only these; if empty, all but either-side names and those that are made of axes
    std::vector<Axis> axes{};  ///< only these; if empty, all that move, unless `buttons` is not empty
    bool pointer = false;      ///< lanes of the pointer, too
    Time from = earliest_time, to = latest_time;  ///< only frames that end after `from` and start before `to`
};

/// Collects lanes from the frames of one sampler. A recording is drawn from it, and so may be a panel in a running
/// game:
///
///     LaneHistory lanes{timeline};
///     …
///     lanes.note(picture.advance(complete), frame_count++);          // each frame, in order
///     lanes.forget_before(complete - std::chrono::seconds{10});      // now and then
///     for (const PictureShape& shape : lane_picture(lanes).shapes) my_renderer.draw(shape);
///
/// Memory: grows with what happens: 24 bytes for each frame and each value of an axis, 64 for each frame in which a
/// button does something. Allocates. Cost of note(): proportional to the frame's events. Threads: the
/// sampler's. Lifetime: the timeline must outlive it.
class CURSORUM_API LaneHistory {
public:
    explicit LaneHistory(const Timeline& timeline, const LaneSelection& selection = {});
    ~LaneHistory();
    LaneHistory(const LaneHistory&) = delete;
    LaneHistory& operator=(const LaneHistory&) = delete;

    /// Adds a frame. `number` is what the picture calls it.
    void note(const Frame& frame, std::uint64_t number);
    /// Adds what frames do not contain: the focus, interruptions, and the exact times of system repeats. For
    /// ReplayOptions::on_line; without it, the focus is unknown.
    void note_line(const RecordingLine& line, Outcome outcome);
    /// The same for a running game.
    void note_focus(bool has_focus, Time when);
    /// Adds a frame's state of an action to the lane of that name, which appears with its first entry that is not idle.
    /// Call it after note() of the same frame. why/action_lanes.hpp does it for all actions of a reader.
    void note_action(std::string_view name, const ButtonFigures& figures);
    /// Likewise an edge of it, in order.
    void note_action_edge(std::string_view name, EdgeKind kind, Time when);
    /// Likewise a value.
    void note_action_value(std::string_view name, double value, Time when);

    /// Adds a finding about another input layer (belief_check.hpp, why/replayed_beliefs.hpp) to the lane of the button
    /// or action of that name. Findings about frames that the history does not have are left out.
    void note_belief(std::string_view name, const BeliefFinding& what);

    /// Forgets frames that end before then, what happened in them, and lanes that have nothing left.
    void forget_before(Time time);

    /// In the order of their first events; the pointer's last of all but actions.
    const std::vector<Lane>& lanes() const noexcept;
    const std::vector<LaneFrame>& frames() const noexcept;
    /// In the order in which they began. One that lasts ends at the last frame's end.
    std::vector<LaneSpan> spans() const;
    Time start() const noexcept;  ///< of the first frame; zero if there is none
    Time end() const noexcept;    ///< of the last frame

private:
    struct Parts;
    std::unique_ptr<Parts> parts_;
};

}  // namespace cursorum
