// Action readers: a frame in the game's own words.
#pragma once

#include <cstddef>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "cursorum/actions/claim.hpp"
#include "cursorum/actions/detail/action_levels.hpp"
#include "cursorum/actions/profile.hpp"
#include "cursorum/actions/verdict.hpp"
#include "cursorum/core/edge.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/frame.hpp"
#include "cursorum/core/seats.hpp"
#include "cursorum/core/text_reading.hpp"

namespace cursorum {

class ActionReaderCore;

namespace detail {
struct ReaderAccess;
}

/// One button action's state during a frame. Members have the same meaning as in ButtonFigures, for all its bindings
/// together.
///
/// Lifetime: a view of the reader; valid until it reads the next frame. Copy `figures()` to keep the values.
/// Cost: proportional to the action's edges in this frame (usually none).
class CURSORUM_API ActionReading {
public:
    ButtonFigures figures() const noexcept;

    ButtonState state() const noexcept { return figures().state(); }
    bool pressed() const noexcept { return levels_->pressed; }
    bool released() const noexcept { return levels_->released; }
    bool repeated() const noexcept { return figures().repeated(); }
    bool ended() const noexcept { return levels_->ended; }
    bool down() const noexcept { return levels_->down; }
    bool was_down() const noexcept;
    bool held() const noexcept { return down() && !pressed(); }
    std::uint32_t press_count() const noexcept { return figures().press_count(); }
    std::uint32_t release_count() const noexcept { return figures().release_count(); }
    std::uint32_t adopt_count() const noexcept { return figures().adopt_count(); }
    std::uint32_t cancel_count() const noexcept { return figures().cancel_count(); }
    std::uint64_t repeat_count() const noexcept { return figures().repeat_count(); }
    /// System repeats of its bindings while they belonged to the action; they are not part of repeat_count().
    std::uint32_t system_repeat_count() const noexcept { return figures().system_repeat_count(); }
    std::uint64_t steps() const noexcept { return figures().steps(); }
    Duration held_for() const noexcept { return figures().held_for(); }
    Duration released_after() const noexcept { return figures().released_after(); }
    Duration down_span() const noexcept { return figures().down_span(); }
    double down_share() const noexcept { return figures().down_share(); }
    /// The time of its first press within the frame; nothing if it was not pressed.
    std::optional<Time> first_press() const noexcept;

    /// Not for callers: readers make it.
    ActionReading(const ActionReaderCore& reader, const detail::ActionLevels& levels) noexcept
        : reader_{&reader}, levels_{&levels} {}

private:
    std::size_t number() const noexcept;

    const ActionReaderCore* reader_;
    const detail::ActionLevels* levels_;  // one of the reader's, whose place is the action's number
};

/// An axis action, -1 to 1.
struct AxisActionReading {
    double value = 0;   ///< at the frame's end
    double before = 0;  ///< at its start
    /// The mean over the frame, exact: times a speed and the tick's step, it is the distance to move in this frame, the
    /// same at every frame rate. 0 in a zero-length frame.
    double mean = 0;
    double integral = 0;  ///< value times seconds of input time over the frame, whatever the clock's scale and step
    /// The motion of mice (pixels or counts) and wheels (detents) in this frame, multiplied by their bindings' scales.
    /// It is a distance: it has no limit and no ramp, is not part of `value`, and must not be multiplied by a time.
    double relative = 0;

    friend constexpr bool operator==(const AxisActionReading&, const AxisActionReading&) = default;
};

/// A vector action, never longer than 1.
struct CURSORUM_API VectorActionReading {
    Vector2 value;     ///< at the frame's end
    Vector2 before;    ///< at its start
    Vector2 mean;      ///< over the frame, as of an axis: for what moves; `value` is for what points
    Vector2 integral;  ///< likewise
    Vector2 relative;  ///< of mice and wheels, as for an axis
    /// Where it points, or pointed last before it came to rest: of length 1, without its ramps. Zero before it first
    /// pointed anywhere, and after its mode was left. For which way a figure looks.
    Vector2 facing;
    /// The angle of `facing` in radians, from -pi to pi: 0 is right, a quarter turn is down. 0 if it is zero.
    double facing_angle() const noexcept;

    friend constexpr bool operator==(const VectorActionReading&, const VectorActionReading&) = default;
};

/// One edge of a button action in a frame.
struct ActionEdge {
    Time time;  ///< effective time, within the frame
    ButtonAction action;
    EdgeKind kind{};
    bool of_adopted = false;  ///< of a release or cancel: the hold that it ends was adopted, so nobody pressed it

    friend constexpr bool operator==(const ActionEdge&, const ActionEdge&) = default;
};

/// One step of typing into a text field: a text that was entered, or a press or repeat of one of the mode's actions.
struct TypingStep {
    Time time{};
    std::string_view text{};  ///< UTF-8; empty for an action; valid until the sampler's next advance
    ButtonAction action{};    ///< no action for a text
};

/// A mode that an action opened or closed within a frame.
struct ModeChange {
    Time time;
    ButtonAction by;  ///< whose press it was
    ModeHandle mode;
    bool opened = false;  ///< else closed

    friend constexpr bool operator==(const ModeChange&, const ModeChange&) = default;
};

/// The counters of an action reader, from its construction on.
struct ActionReaderCounters {
    std::uint64_t repeated = 0;  ///< calls of read() with a frame that had already been read
    std::uint64_t left_out = 0;  ///< frames of the sampler that were never read
    std::uint64_t refused = 0;   ///< calls of read() with a frame of another sampler, or from Sampler::peek()
    /// Calls with a handle of another numbering: it was looked up in another profile. Look it up in the reader.
    std::uint64_t foreign = 0;
};

/// What a button belongs to.
struct ButtonOwner {
    enum class Kind : std::uint8_t {
        unbound,      ///< it belongs to nothing: no open mode binds it
        mode,         ///< the uppermost open mode that binds it
        claim,        ///< a claim in force
        owner_ended,  ///< it belongs to nothing until it is up: the mode or claim that got its press has ended
        covered,      ///< it belongs to nothing: an open mode binds it, but `mode` covers that one
    };
    Kind kind{};
    ModeHandle mode{};  ///< of `mode` and `covered`

    friend constexpr bool operator==(ButtonOwner, ButtonOwner) = default;
};

/// Reads the frames of one sampler as actions.
///
///     ActionReader actions{profile};
///     actions.open(crane);
///     …
///     actions.read(sampler.advance(cut));
///     if (actions[lock].pressed()) …
///     trolley += speed * tick->step * actions[travel].mean.x;
///
/// A button action is the OR of its bindings: it is down while any of them is, with the edges at which that changes, at
/// the events' times. An axis or a vector takes the value of the binding with the largest magnitude (ties go to the
/// first one), limited to 1, and moves to it along the action's ramps. Mice and wheels add up separately, as
/// `relative`. Everything is computed from event to event, so integrals add up to the same however the frames are cut.
///
/// **Who gets a press.** The uppermost open mode that binds a button takes its press; no other mode gets the button
/// until it is up. A mode that covers hides all modes below it. When a mode opens, buttons that are already down and
/// belong to nothing else are adopted: walking goes on, and nothing fires. Closing or covering a mode, or claiming one
/// of its buttons, cancels. A press that a claim took stays the claim's until the button is up, even if the claim ends
/// earlier. open(), close(), claim() and end_claim() take effect at the start of the next frame. An action with `opens`
/// or `closes` turns modes at the moment of its press: of Escape and Space within one frame, the second belongs to the
/// menu that the first opened.
///
/// **Chords.** A chord is pressed when its last member goes down, in any order, and released when the first member
/// comes up. The press that completes it belongs to the longest chord only: "Control+KeyL" keeps KeyL from the actions
/// that are bound to KeyL alone.
///
/// Threads: the same as its sampler's. Between two calls of read(), any number of threads may read its actions at the
/// same time; consume_press() changes something, and is for one. It allocates at construction, and in a frame with more
/// than 512 edges of actions.
class CURSORUM_API ActionReader {
public:
    /// Copies `profile`. A profile with a problem() is treated as one without actions.
    explicit ActionReader(const Profile& profile);
    ~ActionReader();
    ActionReader(const ActionReader&) = delete;  // hold several in a std::deque, or by std::unique_ptr
    ActionReader& operator=(const ActionReader&) = delete;

    /// Reads a frame. Pass each frame of one sampler once, in order. Mistakes are harmless and counted (counters()): a
    /// frame that has already been read, one of another sampler, or one from Sampler::peek() is treated as an empty
    /// frame at the same cut. If frames were left out, buttons that went down meanwhile are adopted, and those that
    /// came up are cancelled. After a pause (Frame::follows_pause()), gestures in progress are forgotten and buffered
    /// presses are dropped.
    void read(const Frame& frame);
    /// The same for one seat's devices alone, after Seats::read. Use one reader for each seat. Buttons that are down
    /// when a device is given to the seat are adopted; when it is taken away, they are cancelled.
    void read(const Frame& frame, const Seats& seats, unsigned seat);

    CURSORUM_INLINE ActionReading operator[](ButtonAction action) const noexcept {
        if (action.numbering == numbering_ && action.number < action_capacity) [[likely]]
            return {*core_, levels_[action.number]};
        return {*core_, *levels_of_other(action)};
    }
    AxisActionReading operator[](AxisAction action) const noexcept;
    VectorActionReading operator[](VectorAction action) const noexcept;

    /// Calls `visit(ActionEdge)` for every edge of a button action in the frame, in the order of their times; those of
    /// one time in the order in which they happened. Cost: proportional to the frame's edges of actions.
    template <typename Visit>
    void for_each_edge(Visit&& visit) const {
        ActionEdge edge;
        for (std::uint32_t i = 0; next_edge(i, edge);) visit(edge);
    }

    /// What actions with `opens` and `closes` did in the frame, in order. What the game called is not among it.
    std::size_t mode_change_count() const noexcept;
    /// `index` < mode_change_count().
    ModeChange mode_change(std::size_t index) const noexcept;

    /// For an action with `buffer`: returns whether there is a press, of this frame or of up to `buffer` before its
    /// start, that has not been taken, and takes it. So a jump that is pressed just before landing happens on landing,
    /// once. Only the last press is buffered; leaving its mode drops it. For other actions, the same as pressed().
    bool consume_press(ButtonAction action) noexcept;

    /// Opens a mode on top of all open modes. Returns false if it is already open or unknown.
    bool open(ModeHandle mode) noexcept;
    /// Closes a mode. Returns false if it is not open.
    bool close(ModeHandle mode) noexcept;
    /// Returns whether a mode that pauses the game is open, or will be from the next frame on: the game's clock should
    /// stand still. Ask after each read(); while a mode pauses, read on, since its own actions live in the same frames:
    ///
    ///     while (const auto tick = ticks.next(complete)) {
    ///         actions.read(sampler.advance(*tick));
    ///         …
    ///         ticks.stand_still(actions.pauses());
    ///     }
    bool pauses() const noexcept;
    /// Returns whether the mode is open, or will be from the next frame on.
    bool is_open(ModeHandle mode) const noexcept;

    /// Returns whether the mode was open and not covered in the last frame.
    bool is_visible(ModeHandle mode) const noexcept;
    /// What the button belongs to: what got the press that holds it down, or what would get a press in this frame.
    /// Use it to find out why a press had no effect.
    ButtonOwner owner_of(Button button) const noexcept;

    /// Starts a claim; nothing if claim_capacity are in force.
    std::optional<ClaimId> claim(const Claim& claim) noexcept;
    void end_claim(ClaimId claim) noexcept;
    /// Returns whether this claim took the press that holds the button down. (The press that opened a text field is not
    /// the claim's, so it types nothing into the field.)
    bool has_press(ClaimId claim, Button button) const noexcept;

    /// From the next frame on, presses of a mouse button count for this action only while the pointer is in the area,
    /// or outside of it; nothing: everywhere, as at first. Other buttons are not affected. So a press in a text field
    /// opens it (`opens`), and one anywhere else closes it (`closes`), both at the very press:
    ///
    ///     actions.set_area(edit_label, ClickArea{label_field});
    ///     actions.set_area(leave_label, ClickArea{label_field, true});
    ///
    /// Call it when the layout of the window changes. A press whose position is not known is outside. Returns false for
    /// an unknown action, and if area_capacity actions have areas.
    bool set_area(ButtonAction action, const std::optional<ClickArea>& area) noexcept;

    /// The text of the frame that a mode with `text` or a claim of everything got: what the presses made that it got,
    /// repeats included. Text whose key is not known goes to the first claim of everything, or else to the uppermost
    /// mode with `text` that is visible when it comes. The press that opens a text field is not the field's, and so its
    /// text is not, either.
    ///
    /// typing() has what was entered together with the presses and repeats of the mode's own actions, in the order in
    /// which they came, so that what is typed and erased within one frame is right, however long the frame is:
    ///
    ///     for (const TypingStep& step : actions.typing(naming)) {
    ///         if (step.action == erase) label.erase_last();
    ///         else label.append(step.text);
    ///     }
    std::span<const TypingStep> typing(ModeHandle mode) const noexcept;
    TextReading text_of(ModeHandle mode) const noexcept;
    TextReading text_of(ClaimId claim) const noexcept;
    /// The text that no mode and no claim got.
    TextReading text() const noexcept;

    /// Replaces the profile from the start of the next frame: other bindings and settings, an edited file, modes and
    /// actions that were added, removed or moved. The reader's handles stay good by name (or by a name that an
    /// action had `formerly`): what is gone reads as idle, and comes back under its number. Those of the new profile
    /// are of another numbering if it has other names: look up what is new with the reader's find_button() and the
    /// like. Returns false, says why, and changes nothing if the profile has a problem(), or if there are too many
    /// modes or actions together with those that are gone. Actions that changed are cancelled, and their new controls
    /// count only after they have been up: the key that was pressed to bind it has no effect yet, each member of a
    /// chord must come up, a stick must come to rest, a lock must be turned off. All other actions go on. Allocates,
    /// here and in the next read(), which frees the old bindings.
    bool rebind(const Profile& profile, std::string* why = nullptr);
    /// The handles of actions and modes by name, as Profile finds them, by the numbers of this reader: also of those
    /// that a rebind() added. They take effect with the next frame.
    std::optional<ButtonAction> find_button(std::string_view name, std::string* why = nullptr) const;
    std::optional<AxisAction> find_axis(std::string_view name, std::string* why = nullptr) const;
    std::optional<VectorAction> find_vector(std::string_view name, std::string* why = nullptr) const;
    std::optional<ModeHandle> find_mode(std::string_view name, std::string* why = nullptr) const;
    /// The name of a mode, and an action's as "mode.action", by its latest profile. Empty if the handle refers to none.
    std::string_view name_of(ModeHandle mode) const noexcept;
    std::string name_of(ButtonAction action) const;
    /// That of the profile it was constructed with, which every rebind() keeps.
    std::uint32_t numbering() const noexcept { return numbering_; }

    /// From now on, each press has a verdict, written to `sink` while frames are read: what it did to each of its
    /// bindings, or which rule kept it from it. Null, as at first, ends that. The sink must outlive its use. Frames
    /// without a sink pay nothing. What was pressed before the sink was set has no verdict.
    void set_verdict_sink(VerdictSink* sink) noexcept;

    /// Input from a bot or a test: like one more binding of the action, with the same rules. It takes effect at `when`,
    /// in the frame that covers it, or at the start of the next frame if that is later. It has no effect while the
    /// action's mode is not visible; leaving the mode ends it. Values are limited like all others. Returns false for an
    /// unknown action, NaN and infinity. Input that is still waiting is part of a saved state, and is dropped when a
    /// rebind() removes its action.
    bool inject(ButtonAction action, bool down, Time when);
    bool inject(AxisAction action, double value, Time when);
    bool inject(VectorAction action, Vector2 value, Time when);

    /// The reader's whole state, by value: plain bytes, as many as its profile needs (see state_size()). Save and
    /// restore it together with its sampler. After restoring, the frame is empty, at the cut where it was saved.
    class State {
        friend class ActionReader;
        friend struct detail::ReaderAccess;
        std::vector<std::byte> bytes_;
    };
    /// Allocates the state. To save in every frame, keep states and use save_to().
    State save() const;
    /// The same into a state that exists already: one copy. It allocates only if the state was never saved to, or is
    /// that of a smaller profile, or if more injected input waits than ever before.
    void save_to(State& state) const;
    /// Returns false and changes nothing if the state was never saved to, or saved before a rebind(). (One that was
    /// saved between the last rebind() and the next read() is good: that read() rebinds again.) Precondition: else it
    /// is from a reader of the same profile.
    bool restore(const State& saved) noexcept;
    /// The size of a saved state, in bytes: 9.8 KB, and about 110 bytes for each action with two buttons. Injected
    /// input that waits adds 40 bytes each.
    std::size_t state_size() const noexcept;

    ActionReaderCounters counters() const noexcept;

    /// Returns whether nothing is down, moving or waiting, so that frames without input would change nothing.
    bool is_at_rest() const noexcept;

    Time start() const noexcept;
    Time end() const noexcept;

private:
    friend struct detail::ReaderAccess;
    bool next_edge(std::uint32_t& index, ActionEdge& edge) const noexcept;
    bool takes(std::uint32_t numbering) const noexcept;
    /// Of a handle that was made by hand, without a numbering, and of one that the reader does not have.
    const detail::ActionLevels* levels_of_other(ButtonAction action) const noexcept;

    ActionReaderCore* core_;
    const detail::ActionLevels* levels_;  // of each action; at the end, of an unknown one
    std::uint32_t numbering_;
};

}  // namespace cursorum
