// Actions: the same frame in the game's own words.
#pragma once

#include <memory>
#include <optional>
#include <span>
#include <vector>

#include "cursorum/actions/claim.hpp"
#include "cursorum/actions/detail/action_state.hpp"
#include "cursorum/actions/profile.hpp"
#include "cursorum/core/detail/slot_ring.hpp"
#include "cursorum/core/frame.hpp"
#include "cursorum/core/seats.hpp"

namespace cursorum {

class ActionReader;
struct ActionMap;
struct ActionSwitch;

/// What a frame says of a button action: all that it says of a button, of its bindings together. Each member means what
/// it means in ButtonFigures.
///
/// Lifetime: a look into the reader, good until it reads the next frame. Copy `figures()` to keep it.
/// Cost: by the action's own edges in this frame, mostly none.
class ActionReading {
public:
    ButtonFigures figures() const noexcept;

    ButtonState state() const noexcept { return figures().state(); }
    bool pressed() const noexcept { return told_->pressed; }
    bool released() const noexcept { return told_->released; }
    bool repeated() const noexcept { return figures().repeated(); }
    bool ended() const noexcept { return told_->ended; }
    bool down() const noexcept { return told_->down; }
    bool was_down() const noexcept;
    bool held() const noexcept { return down() && !pressed(); }
    std::uint32_t press_count() const noexcept { return figures().press_count(); }
    std::uint32_t release_count() const noexcept { return figures().release_count(); }
    std::uint32_t adopt_count() const noexcept { return figures().adopt_count(); }
    std::uint32_t cancel_count() const noexcept { return figures().cancel_count(); }
    std::uint64_t repeat_count() const noexcept { return figures().repeat_count(); }
    /// Of its bindings while they were the action's: the system's own, never used by repeat_count().
    std::uint32_t system_repeat_count() const noexcept { return figures().system_repeat_count(); }
    std::uint64_t steps() const noexcept { return figures().steps(); }
    Duration held_for() const noexcept { return figures().held_for(); }
    Duration released_after() const noexcept { return figures().released_after(); }
    Duration down_span() const noexcept { return figures().down_span(); }
    double down_share() const noexcept { return figures().down_share(); }
    /// When it was pressed first within the frame; nothing if it was not.
    std::optional<Time> first_press() const noexcept;

private:
    friend class ActionReader;
    ActionReading(const ActionReader& reader, ButtonAction action, const detail::Told& told) noexcept
        : reader_{&reader}, told_{&told}, action_{action} {}
    const ActionReader* reader_;
    const detail::Told* told_;
    ButtonAction action_;
};

/// An axis action, -1 to 1.
struct AxisActionReading {
    double value = 0;     ///< at the frame's end
    double before = 0;    ///< at its start
    double integral = 0;  ///< value times seconds over the frame, exact: times a speed, it is the way gone
    /// What mice (pixels or counts) and wheels (detents) added in this frame, times their bindings' scales. A distance
    /// already: it has no limit and no ramp, is no part of `value`, and needs no time to be multiplied with.
    double relative = 0;

    friend constexpr bool operator==(const AxisActionReading&, const AxisActionReading&) = default;
};

/// A vector action, never longer than 1.
struct VectorActionReading {
    Vector2 value;     ///< at the frame's end
    Vector2 before;    ///< at its start
    Vector2 integral;  ///< value times seconds over the frame
    Vector2 relative;  ///< of mice and wheels, as an axis's

    friend constexpr bool operator==(const VectorActionReading&, const VectorActionReading&) = default;
};

/// What an action reader has counted since it was made.
struct ActionReaderCounters {
    std::uint64_t repeated = 0;  ///< calls of read() with a frame that was read already
    std::uint64_t left_out = 0;  ///< frames of the sampler that were never read
    std::uint64_t refused = 0;   ///< calls of read() with a frame of another sampler, or from Sampler::peek()
};

/// Who has a button.
struct ButtonTaker {
    enum class Kind : std::uint8_t {
        nobody,     ///< no open mode binds it
        mode,       ///< the uppermost open one that does
        claim,      ///< a claim in force
        none_more,  ///< a press whose taker is gone: nobody's until it is up
    };
    Kind kind{};
    ModeHandle mode{};  ///< of `mode`

    friend constexpr bool operator==(ButtonTaker, ButtonTaker) = default;
};

/// Reads the frames of one sampler as actions.
///
///     ActionReader actions{profile};
///     actions.open(crane);
///     …
///     actions.read(sampler.advance(cut));
///     if (actions[lock].pressed()) …
///     trolley += speed * actions[travel].integral.x;
///
/// A button action is the OR of its bindings: down when any is, its edges those of the OR, at the events' times. Axes
/// and vectors take the binding that gives the largest magnitude, ties to the first; what they give is limited to 1 and
/// moves there along the action's ramps. Mice and wheels add up apart, as `relative`. Everything is worked out from
/// event to event, so integrals add up to the same however the frames are cut.
///
/// **Who gets a press.** The uppermost open mode that has a binding for a button takes it, with its press; nobody else
/// hears of it until it is up. A mode that covers keeps everything below from seeing anything. When a mode opens, what
/// is already down and nobody else's comes to it as an adopt: walking goes on, nothing fires. Closing or covering a
/// mode, or claiming one of its buttons, cancels. A press that a claim took stays the claim's until it is up, though
/// the claim ends before. open(), close(), claim() and end_claim() hold from the next frame's start.
///
/// **Chords.** A chord goes down when its last member does, in whatever order, and up with the first of them. The press
/// that completes it goes to the longest chord alone: "Control+KeyL" keeps KeyL from what is bound to KeyL.
///
/// Threads: its sampler's. The reader allocates at construction, and in a frame of more than 4,096 edges of actions.
class ActionReader {
public:
    /// `profile` is copied. One that has a problem() reads as one without actions.
    explicit ActionReader(const Profile& profile);
    ~ActionReader();
    ActionReader(const ActionReader&) = delete;
    ActionReader& operator=(const ActionReader&) = delete;

    /// Reads a frame. Pass each frame of one sampler, once and in order. What is done wrong here does no harm and is
    /// counted (counters()): a frame that was read already reads as an empty one at the same cut; one of another
    /// sampler, or from Sampler::peek(), likewise; if frames were left out, what went down meanwhile is adopted, and
    /// what came up is cancelled. After a pause (Frame::follows_pause()), gestures in progress are forgotten and
    /// buffered presses dropped.
    void read(const Frame& frame);
    /// The same of one seat's devices alone (after Seats::read). A reader keeps to one seat. What a seat is given while
    /// it is down is adopted, what it loses is cancelled.
    void read(const Frame& frame, const Seats& seats, unsigned seat);

    ActionReading operator[](ButtonAction action) const noexcept {
        return {*this, action, action.number < action_capacity ? told_[action.number] : detail::Told::of_nothing};
    }
    AxisActionReading operator[](AxisAction action) const noexcept;
    VectorActionReading operator[](VectorAction action) const noexcept;

    /// Of an action with `buffer`: whether a press of this frame, or of up to `buffer` before its start, has not been
    /// taken yet; and takes it. So a jump that is asked for just before landing is done on landing, and done once. Only
    /// the last press waits; leaving its mode drops it. Of other actions: pressed().
    bool take_press(ButtonAction action) noexcept;

    /// On top of all that are open. False if it is open already, or there is none.
    bool open(ModeHandle mode) noexcept;
    /// False if it is not open.
    bool close(ModeHandle mode) noexcept;
    /// Open, or about to be from the next frame on.
    bool is_open(ModeHandle mode) const noexcept;

    /// In the frame that was read last: open, and not covered.
    bool is_visible(ModeHandle mode) const noexcept {
        return mode.number < mode_capacity && (state_.visible >> mode.number & 1) != 0;
    }
    /// Why a press did nothing: who has the press that holds the button down, or would get one in this frame.
    ButtonTaker taker_of(Button button) const noexcept;

    /// Nothing if there are claim_capacity already.
    std::optional<ClaimId> claim(const Claim& claim) noexcept;
    void end_claim(ClaimId claim) noexcept;
    /// Whether the press that holds the button down was this claim's: what opened a text field types nothing into it.
    bool has_press(ClaimId claim, Button button) const noexcept;

    /// From the next frame's start on, the profile's bindings and settings instead. It has to have the same modes and
    /// actions in the same order, as a profile has with a player's changes laid over it (lay_over); false, and nothing
    /// changes, if it has not, or has a problem(). An action that changed is cancelled, and what it is bound to now
    /// counts only after it was up: the key that was pressed to bind it does nothing yet, each member of a chord has to
    /// come up, a stick to its rest, a lock to be turned off. All others go on. Allocates, here and where the old
    /// bindings go, in the next read().
    bool rebind(const Profile& profile);

    /// A bot's or test's doing: as one more binding of the action, under the rules of all others. It happens at `when`,
    /// in the frame that covers it; at the start of the next one that is read, if that is later. While no open mode
    /// shows the action, nothing happens; leaving the mode ends it. Values are limited as any other. False: no such
    /// action, or no number. What waits is no part of a saved state.
    bool inject(ButtonAction action, bool down, Time when);
    bool inject(AxisAction action, double value, Time when);
    bool inject(VectorAction action, Vector2 value, Time when);

    /// Everything the reader remembers, by value; to be saved and restored together with its sampler. After restoring,
    /// the frame is empty, at the cut where it was saved. False, and nothing changes: it was saved before a rebind().
    using State = detail::ActionState;
    State save() const noexcept;
    bool restore(const State& saved) noexcept;

    ActionReaderCounters counters() const noexcept { return counters_; }

    /// Nothing is down, moving or waiting for time to pass: frames without input would change nothing.
    bool is_at_rest() const noexcept;

    Time start() const noexcept { return Time{Duration{state_.t0}}; }
    Time end() const noexcept { return Time{Duration{state_.t1}}; }

private:
    friend class ActionReading;

    /// An edge of a button action in the frame; `link`: the same action's before it, from 1, or 0.
    struct Record {
        std::int64_t time;
        std::uint32_t link;
        std::uint16_t action;
        detail::Effect effect;
    };
    /// A new value of a source in the frame.
    struct Step {
        std::int64_t time;
        Vector2 value;
        std::uint32_t order;
        std::uint16_t action, source;
    };

    static void commit(const Record& record, State& state) noexcept;
    void forget_told(const Record& record) noexcept;
    void open_frame(std::int64_t t0, std::int64_t t1) noexcept;
    bool try_open_frame(const Frame& frame) noexcept;
    void skip_gestures() noexcept;
    void clear() noexcept;
    template <typename Hears>
    void read_part(const Frame& frame, Hears&& hears);
    void read_unclaimed(const Frame& frame);
    void take_merged(const Frame& frame);
    void finish_frame(const Frame& frame);
    void seed_part(const Frame& frame) noexcept;
    void hear(detail::SlotKind kind, unsigned hold, Button button, std::int64_t time);
    unsigned claim_on(DeviceId device) const noexcept;
    bool claims_devices() const noexcept { return state_.next.of_devices != 0; }
    detail::DeviceFilter heard() const noexcept;
    void heal(const ButtonSet& down);
    void apply_openings();
    void find_visible() noexcept;
    bool is_shown(unsigned action) const noexcept;
    void apply_bindings();
    void freshen(Button button) noexcept;
    void freshen_switch(unsigned number, unsigned members) noexcept;
    void forget(std::uint16_t action);
    void gather_turns(const Frame& frame);
    void set_locks(unsigned on, bool by_person, std::int64_t time);
    void catch_up(std::int64_t until);
    void step_wheel(std::int32_t x, std::int32_t y, std::int64_t time);
    void turn_wheel(WheelWay way, std::int64_t time);
    void add_relative(const Frame& frame) noexcept;
    std::uint8_t find_taker(Button button) const noexcept;
    void take_edge(Button button, bool down, bool by_person, std::int64_t time);
    void take_rare_edge(Button button, bool down, bool by_person, std::int64_t time);
    void turn_switches(Button button, std::uint8_t owner, bool down, bool by_person, std::int64_t time);
    bool are_down(const ActionSwitch& it, std::uint8_t owner, const ButtonSet& down) const noexcept;
    void complete_chords(Button button, std::uint8_t owner, bool by_person, std::int64_t time);
    void turn_chords(Button button, std::uint8_t owner, bool down, bool by_person, std::int64_t time);
    void set_switch(unsigned number, bool down, bool by_person, std::int64_t time);
    detail::Effect merge_switch(unsigned number, std::uint16_t action, bool down, bool by_person);
    void add_edge(std::uint16_t action, detail::Effect effect, std::int64_t time);
    void deliver(std::uint16_t action, detail::Effect effect, std::int64_t time);
    void pass_edge(std::uint16_t action, detail::Effect effect, std::int64_t time);
    void debounced(std::uint16_t action, detail::Effect effect, std::int64_t time);
    void settle(std::uint16_t action, std::int64_t until);
    void gesture(std::uint16_t action, detail::Effect effect, std::int64_t time);
    void count_system_repeat(Button button);
    void last_long_enough(std::uint16_t action, std::int64_t until);
    void turn_direction(unsigned number, bool down, std::int64_t time);
    Vector2 value_of_directions(unsigned source) const noexcept;
    void add_steps(const Frame& frame);
    void move_all();
    Vector2 target_of(unsigned action) const noexcept;

    /// What a bot does, or will do.
    struct Injected {
        std::int64_t time;
        Vector2 value;
        std::uint16_t action;
        bool is_button, down;
    };
    bool inject(std::uint16_t action, ActionKind kind, const Injected& what);
    void apply_injected(const Injected& what);

    detail::DeviceBits heard_devices_{};  // in a frame of which a part is heard
    bool hears_part_ = false;             // those; else all
    std::unique_ptr<const ActionMap> map_, next_map_;
    State state_;
    const Frame* frame_of_sampler_ = nullptr;  // which one it reads; never looked into
    ActionReaderCounters counters_;
    std::array<bool, action_capacity> adopted_{};       // the hold in progress, or the last one, began with an adopt
    std::array<detail::Told, action_capacity> told_{};  // worked out as edges come
    std::vector<Record> records_;                       // of which so many are in use
    std::uint32_t record_count_ = 0;
    std::span<const Record> records() const noexcept { return {records_.data(), record_count_}; }
    std::array<std::uint32_t, action_capacity>
        last_{};  // of an action's edges in the frame, from 1; 0 if there is none
    std::array<std::uint32_t, action_capacity> system_repeats_{};
    bool has_system_repeats_ = false;
    std::vector<Step> steps_;
    /// Steps of the wheel in the frame and new states of the locks, and how many of them have had their turn.
    struct Turn {
        std::int64_t time;
        std::int32_t x = 0, y = 0;
        bool is_lock = false;
        std::uint8_t locks = 0;
    };
    std::vector<Turn> turns_;
    std::size_t turned_ = 0;
    std::vector<Injected> injected_;
    std::array<Vector2, action_capacity> before_{}, integral_{}, relative_{};
};

inline bool ActionReading::was_down() const noexcept {
    return action_.number < action_capacity && reader_->state_.buttons[action_.number].is_down;
}

}  // namespace cursorum
