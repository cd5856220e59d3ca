// The implementation of action readers, for their own files: what it keeps (ActionState), what it works out for one
// frame, and the steps from a button's edge to an action's.
#pragma once

#include <array>
#include <atomic>
#include <cstdint>
#include <memory>
#include <optional>
#include <span>
#include <vector>

#include "actions/action_state.hpp"
#include "actions/bindings.hpp"
#include "actions/reader_facts.hpp"
#include "core/frame/frame_core.hpp"
#include "cursorum/actions/action_reader.hpp"

namespace cursorum {

/// An action reader, as its public class calls it.
class ActionReaderCore {
public:
    using State = detail::ActionState;

    explicit ActionReaderCore(const Profile& profile);

    void read(const Frame& frame);
    void read(const Frame& frame, const Seats& seats, unsigned seat);
    AxisActionReading operator[](AxisAction action) const noexcept;
    VectorActionReading operator[](VectorAction action) const noexcept;
    bool consume_press(ButtonAction action) noexcept;
    bool open(ModeHandle mode) noexcept;
    bool close(ModeHandle mode) noexcept;
    bool is_open(ModeHandle mode) const noexcept;
    bool pauses() const noexcept;
    ButtonOwner owner_of(Button button) const noexcept;
    std::optional<ClaimId> claim(const Claim& claim) noexcept;
    void end_claim(ClaimId claim) noexcept;
    bool has_press(ClaimId claim, Button button) const noexcept;
    bool rebind(const Profile& profile, std::string* why);
    bool inject(ButtonAction action, bool down, Time when);
    bool inject(AxisAction action, double value, Time when);
    bool inject(VectorAction action, Vector2 value, Time when);
    /// Includes the changes that a rebind() makes at the next frame's start.
    const ActionMap& latest_map() const noexcept { return next_map_ ? *next_map_ : *map_; }
    void save_to(std::vector<std::byte>& saved) const;
    bool restore(const std::vector<std::byte>& saved) noexcept;
    bool is_at_rest() const noexcept;

    // For reader_facts.cpp.
    const ActionMap& map() const noexcept { return *map_; }
    std::uint32_t bindings() const noexcept { return state_.bindings; }
    void log_calls(detail::CallLog* log) noexcept { log_ = log; }
    void note_call(detail::LoggedCall::Kind kind, unsigned number, const Claim& claim = {}) const noexcept;
    /// Continues from that state; the consequences of its open modes are not computed yet.
    void resume(detail::ActionState&& state);

private:
    friend class ActionReader;
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

    /// The cause of a mode change within a frame, so that motion of the same time goes to the mode that had it: an
    /// edge; a step of the wheel; a timer, which comes before all that has its time; or a lock, a value or a bot, which
    /// come after it.
    struct ModeCause {
        enum class Kind : std::uint8_t { timer, edge, wheel, last };
        Kind kind = Kind::last;
        const detail::StoredEdge* edge = nullptr;
        std::uint32_t number = 0;  ///< of the wheel's event in the frame
    };
    /// The visible modes, and the owners of axes and motion, from a time within the frame on.
    struct Segment {
        std::int64_t from;
        detail::ModeBits visible;
        std::array<std::uint8_t, detail::flow_kinds> flow_owners;
        ModeCause by{};
    };
    /// Values of Step::source that name no source: for injected input, and for stopping an action whose mode is no
    /// longer visible.
    static constexpr std::uint16_t by_bot = source_capacity, stops = source_capacity + 1;

    static void commit(const Record& record, State::Button& button) noexcept;
    void fit_to_map();
    void show_state() noexcept;
    void forget_levels(const Record& record) noexcept;
    void open_frame(std::int64_t t0, std::int64_t t1) noexcept;
    bool try_open_frame(const FrameCore& frame) noexcept;
    void skip_pause(std::int64_t from);
    void clear() noexcept;
    void clear_all_else() noexcept;
    template <typename Includes>
    void read_part(const FrameCore& frame, Includes&& includes);
    bool is_part_of(const FrameCore& frame, std::uint32_t repeat, Button key) const noexcept;
    void read_unclaimed(const FrameCore& frame);
    void take_merged(const FrameCore& frame);
    void finish_frame(const FrameCore& frame);
    void seed_part(const FrameCore& frame) noexcept;
    void apply_device_edge(detail::SlotKind kind, unsigned hold, Button button, std::int64_t time);
    unsigned claim_on(DeviceId device) const noexcept;
    bool claims_devices() const noexcept { return state_.next.of_devices != 0; }
    detail::DeviceFilter filter() const noexcept;
    void heal(const ButtonSet& down);
    void start_with_openings();
    void apply_openings(std::int64_t time);
    void note_press(std::uint16_t action) noexcept;
    void change_modes(std::int64_t time);
    bool is_in(const FrameCore& frame, const FrameCore::Moved& moved, const Segment& segment) const noexcept;
    void begin_segment(std::int64_t time, const Segment& before);
    const Segment& segment_at(std::int64_t time) const noexcept;
    void find_visible() noexcept;
    bool is_shown(unsigned action) const noexcept;
    void apply_bindings();
    void freshen(Button button) noexcept;
    void freshen_switch(unsigned number, unsigned members) noexcept;
    void forget(std::uint16_t action, std::int64_t time);
    void let_go(std::uint16_t action, std::int64_t time);
    void gather_occurrences(const FrameCore& frame);
    void set_locks(unsigned on, bool by_person, std::int64_t time);
    void gather_values(const FrameCore& frame);
    void set_value(std::size_t row, bool by_person, std::int64_t time);
    void set_states_again(std::int64_t time);
    void catch_up(std::int64_t until);
    std::int64_t due_of(std::uint16_t action) const noexcept;
    void run_timers(std::int64_t until) {
        if (next_due_ <= until) [[unlikely]]
            run_due_timers(until);
    }
    void run_due_timers(std::int64_t until);
    bool next_edge(std::uint32_t& index, ActionEdge& edge) const noexcept;
    void step_wheel(std::int32_t x, std::int32_t y, std::int64_t time);
    void step_wheel_once(WheelWay way, std::int64_t time);
    void add_relative(const FrameCore& frame) noexcept;
    std::uint8_t find_next_owner(Button button) const noexcept;
    ButtonOwner covering(Button button) const noexcept;
    void take_edge(Button button, bool down, bool by_person, std::int64_t time);
    void cancel_before_press(Button button, std::int64_t time);
    void take_rare_edge(Button button, bool down, bool by_person, std::int64_t time);
    void set_switches(Button button, std::uint8_t owner, bool down, bool by_person, std::int64_t time);
    bool are_down(const ActionSwitch& it, std::uint8_t owner, const ButtonSet& down) const noexcept;
    void complete_chords(Button button, std::uint8_t owner, bool by_person, std::int64_t time);
    void set_chords(Button button, std::uint8_t owner, bool down, bool by_person, std::int64_t time);
    void set_switch(unsigned number, bool down, bool by_person, std::int64_t time);
    detail::Effect merge_switch(unsigned number, std::uint16_t action, bool down, bool by_person);
    void add_edge(std::uint16_t action, detail::Effect effect, std::int64_t time);
    void deliver(std::uint16_t action, detail::Effect effect, std::int64_t time);
    void pass_edge(std::uint16_t action, detail::Effect effect, std::int64_t time);
    void debounce(std::uint16_t action, detail::Effect effect, std::int64_t time);
    void gesture(std::uint16_t action, detail::Effect effect, std::int64_t time);
    void count_system_repeat(Button button);
    void fire(std::uint16_t action, detail::Effect effect, std::int64_t time);
    void set_direction(unsigned number, bool down, std::int64_t time);
    Vector2 value_of_directions(unsigned source) const noexcept;
    void add_steps(const FrameCore& frame);
    void move_all();
    void move(std::uint16_t action, std::span<const Step> steps);
    Vector2 target_of(unsigned action) const noexcept;
    Vector2 mean_of(Vector2 integral) const noexcept;

    /// Injected input, present or future.
    struct Injected {
        std::int64_t time = 0;
        Vector2 value{};
        std::uint16_t action = 0;
        bool is_button = false, down = false;
    };
    bool inject(std::uint16_t action, ActionKind kind, const Injected& what);
    void apply_injected(const Injected& what);

    detail::DeviceBits included_devices_{};  // if only some devices of a frame are read
    bool is_partial_ = false;                // those; else all
    std::unique_ptr<const ActionMap> map_, next_map_;
    std::unique_ptr<const ActionMap> map_before_;  // the last rebinding, for states that were saved just before it
    State state_;
    const FrameCore* frame_of_sampler_ = nullptr;  // the sampler's identity; never dereferenced
    std::uint32_t numbering_;                      // of its handles
    ActionReaderCounters counters_;
    mutable std::atomic<std::uint64_t> foreign_{0};  // several threads may read a frame
    detail::CallLog* log_ = nullptr;
    std::array<bool, action_capacity> adopted_{};  // the hold in progress, or the last one, began with an adopt
    // Worked out as edges come; the last one is of unknown actions, and stays as it is.
    std::array<detail::ActionLevels, action_capacity + 1> levels_{};
    std::vector<Record> records_;  // `record_count_` are in use
    std::uint32_t record_count_ = 0;
    std::int64_t next_due_ = INT64_MAX;  // no timer is due before
    std::span<const Record> records() const noexcept { return {records_.data(), record_count_}; }
    std::array<std::uint32_t, action_capacity>
        last_{};  // of an action's edges in the frame, from 1; 0 if there is none
    std::array<std::uint32_t, action_capacity> system_repeats_{};
    bool has_system_repeats_ = false;
    std::vector<Step> steps_;
    /// Steps of the wheel in the frame, new states of the locks, new values of what has thresholds, and how many of
    /// them were taken.
    struct Occurrence {
        enum class Kind : std::uint8_t { wheel, locks, value };
        std::int64_t time;
        Kind kind{};
        PausePart part = PausePart::after;
        bool is_forced = false;    // nobody did it
        std::uint16_t number = 0;  // of the value in `of_values`
        std::uint32_t event = 0;   // of the wheel, among those of the frame
        std::int32_t x = 0, y = 0;
        std::uint8_t locks = 0;
        double value = 0;
    };
    void add_occurrence(const Occurrence& it);
    void take_occurrence(const Occurrence& it);
    std::vector<Occurrence> occurrences_;
    std::size_t occurred_ = 0;
    unsigned locks_ = 0;          // that are on now
    std::vector<double> values_;  // as in `of_values`, now
    // Actions that open or close modes and were pressed by the present event.
    std::vector<std::uint16_t> mode_changers_;
    bool has_mode_changers_ = false;        // there are any
    ModeCause mode_cause_;                  // what is going on, if that may change modes
    std::vector<ModeChange> mode_changes_;  // in the frame
    std::vector<Segment> segments_;         // none: one for the whole frame, as the state has it
    std::vector<Injected> injected_;
    std::vector<Vector2> before_, integral_, relative_;
    // Of axes and vectors, those that are gone through in a frame: the lively ones move, or did in the frame before;
    // the holding ones stay where they are, away from rest. The others are at rest: all their values are 0.
    using ActionBits = std::array<std::uint64_t, action_capacity / 64>;
    ActionBits lively_{}, holding_{};
    unsigned action_words_ = 0;  // of these, as many as there are actions
    // Of the holding ones, those whose integral is that of a frame of this length.
    ActionBits held_{};
    double held_length_ = 0;
    void enliven(unsigned action) noexcept;
    void enliven_all() noexcept;
};

}  // namespace cursorum
