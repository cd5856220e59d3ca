// Collects what each control did over a stretch of time, one lane per control, for pictures and panels.
#pragma once

#include <cstdint>
#include <memory>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "cursorum/core/belief_check.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/frame.hpp"
#include "cursorum/core/timeline.hpp"
#include "cursorum/recording/recording_reader.hpp"
#include "cursorum/views/lane.hpp"

namespace cursorum {

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
/// A control that several devices have gets a lane for each of them, with the device's name; the levels at the cuts and
/// what comparing them loses are then those of that device.
///
/// Memory: grows with what happens: 24 bytes for each frame, each hold and each value of an axis, 32 for each frame in
/// which a button does something, and about 4 KB for each lane. Allocates. Cost of note(): about half a microsecond for
/// a frame without events, else proportional to the frame's events. Threads: the sampler's. Lifetime: the timeline must
/// outlive it.
class CURSORUM_API LaneHistory {
public:
    explicit LaneHistory(const Timeline& timeline, const LaneSelection& selection = {});
    ~LaneHistory();
    LaneHistory(const LaneHistory&) = delete;
    LaneHistory& operator=(const LaneHistory&) = delete;

    /// Adds a frame. `number` is what the picture calls it. It forgets everything and begins anew if frames of its
    /// sampler were not noted since the last one, such as while a panel was hidden, or if the sampler was restored.
    void note(const Frame& frame, std::uint64_t number);
    /// Adds what frames do not contain: the focus, interruptions, presses that did not count, and the exact times of
    /// system repeats. For ReplayOptions::on_line; without it, the focus is unknown. Pass lines of cuts only if the
    /// frames are those cuts.
    void note_line(const RecordingLine& line, Outcome outcome);
    /// The same for a running game.
    void note_focus(bool has_focus, Time when);
    /// Adds a press that had no effect to the lane of its button: on that device, or on the one whose press began then
    /// (nothing if there is none). `why` is as in Lane::Missed, and replaces what was said of the same press; an empty
    /// one takes that back.
    void note_missed(Button button, Time when, std::string_view why, DeviceId device = {});
    /// Adds a frame's state of an action to the lane of that name, which appears with its first entry that is not idle.
    /// Call it after note() of the same frame. `of`: a seat's name, where several have the action. why/action_lanes.hpp
    /// does it for all actions of a reader.
    void note_action(std::string_view name, const ButtonFigures& figures, std::string_view of = {});
    /// Likewise an edge of it, in order.
    void note_action_edge(std::string_view name, EdgeKind kind, Time when, std::string_view of = {});
    /// Likewise a value.
    void note_action_value(std::string_view name, double value, Time when, std::string_view of = {});
    /// Likewise the beginning or the end of a time in which a mode was open and not covered, or a claim in force.
    void note_in_force(Lane::Kind kind, std::string_view name, bool is_in_force, Time when, std::string_view of = {});

    /// Adds a finding about another input layer (belief_check.hpp, why/replayed_beliefs.hpp) to the lane of the button
    /// or action of that name. Findings about frames that the history does not have are left out.
    void note_belief(std::string_view name, const BeliefFinding& what);

    /// Forgets frames that end before then, what happened in them, and lanes that have nothing left. Cost: proportional
    /// to the lanes and to what it forgets.
    void forget_before(Time time);

    /// By kind, in the order of their first events; those of one control follow each other.
    const std::vector<Lane>& lanes() const noexcept;
    std::span<const LaneFrame> frames() const noexcept;  ///< until the next call that changes something
    /// A frame by the number that lanes have for it: they count from 0, and keep theirs when earlier ones are
    /// forgotten. Precondition: it is one of frames().
    const LaneFrame& frame(std::uint32_t number) const noexcept;
    std::uint32_t first_frame() const noexcept;  ///< of frames().front()
    /// In the order in which they began. One that lasts ends at the last frame's end.
    std::vector<LaneSpan> spans() const;
    /// The selected buttons and axes that have no lane, since nothing happened to them.
    std::vector<std::string_view> silent() const;
    Time start() const noexcept;  ///< of the first frame; zero if there is none
    Time end() const noexcept;    ///< of the last frame

private:
    struct Parts;
    std::unique_ptr<Parts> parts_;
};

}  // namespace cursorum
