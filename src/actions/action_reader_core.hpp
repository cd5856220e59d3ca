// The implementation of action readers, for their own files: what it keeps (ActionState), what it works out for one
// frame, and the steps from a button's edge to an action's.
#pragma once

#include <atomic>
#include <cstdint>
#include <memory>
#include <optional>
#include <span>
#include <vector>

#include "actions/chords.hpp"
#include "actions/gestures.hpp"
#include "actions/mode_segments.hpp"
#include "actions/movement.hpp"
#include "actions/occurrences.hpp"
#include "actions/ownership.hpp"
#include "actions/reader_context.hpp"
#include "actions/reader_facts.hpp"
#include "core/frame/frame_input.hpp"
#include "cursorum/actions/action_reader.hpp"

namespace cursorum {

/// An action reader, as its public class calls it.
class ActionReaderCore : private detail::ReaderContext {
public:
    using State = detail::ActionState;

    explicit ActionReaderCore(const Profile& profile);

    void read(const Frame& frame);
    void read(const Frame& frame, const Seats& seats, unsigned seat);
    AxisActionReading operator[](AxisAction action) const noexcept;
    VectorActionReading operator[](VectorAction action) const noexcept;
    bool consume_press(ButtonAction action) noexcept;
    bool set_area(std::uint16_t action, const std::optional<ClickArea>& area) noexcept;
    TextReading text_of(std::uint8_t owner) const noexcept;
    std::span<const TypingStep> typing(ModeHandle mode) const noexcept;
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
    const State& state() const noexcept { return state_; }
    std::uint32_t bindings() const noexcept { return state_.bindings; }
    void log_calls(detail::CallLog* log) noexcept { log_ = log; }
    const detail::Verdicts& verdicts() const noexcept { return verdicts_; }
    void log_shares(const Seats& seats, unsigned seat) noexcept;
    void set_verdict_sink(VerdictSink* sink) noexcept { verdicts_.set_sink(sink); }
    void note_call(detail::LoggedCall::Kind kind, unsigned number, const Claim& claim = {},
                   const std::optional<ClickArea>& area = std::nullopt) noexcept;
    /// Continues from that state; the consequences of its open modes are not computed yet.
    void resume(detail::ActionState&& state);

    /// In place of an owner: of text that belongs to another seat, and of a mode that does not exist.
    static constexpr std::uint8_t others_text = 0xFD, no_ones_text = 0xFE;

private:
    friend class ActionReader;
    friend class ActionReading;

    void fit_to_map();
    void show_state() noexcept;
    void open_frame(std::int64_t t0, std::int64_t t1) noexcept;
    bool try_open_frame(const detail::FrameInput& frame) noexcept;
    void skip_pause(std::int64_t from);
    void clear() noexcept;
    void clear_all_else() noexcept;
    template <typename Includes>
    void read_part(const detail::FrameInput& frame, Includes&& includes);
    bool is_part_of(const detail::FrameInput& frame, std::uint32_t repeat, Button key) const noexcept;
    void read_unclaimed(const detail::FrameInput& frame);
    template <bool with_verdicts>
    void take_merged(const detail::FrameInput& frame);
    void finish_frame(const detail::FrameInput& frame);
    template <typename KindOf>
    void seed_part(const detail::FrameInput& frame, const KindOf& kind_of) noexcept;
    void apply_device_edge(detail::SlotKind kind, unsigned hold, Button button, std::int64_t time);
    bool claims_devices() const noexcept { return state_.next.of_devices != 0; }
    detail::DeviceFilter filter() const noexcept;
    void heal(const ButtonSet& down);
    void start_with_openings();
    void apply_openings(std::int64_t time);
    void change_modes(std::int64_t time);
    bool is_shown(unsigned action) const noexcept;
    void apply_bindings();
    void forget(std::uint16_t action, std::int64_t time);
    void let_go(std::uint16_t action, std::int64_t time);
    void gather_occurrences(const detail::FrameInput& frame) {
        occurrences_.gather(*map_, frame, filter());
        set_states_again(state_.t0);
    }
    void gather_texts(const detail::FrameInput& frame);
    void take_occurrence(const detail::Occurrence& it);
    void set_locks(bool by_person, std::int64_t time);
    void set_value(std::size_t row, bool by_person, std::int64_t time);
    void set_states_again(std::int64_t time);
    void catch_up(std::int64_t until);
    void run_timers(std::int64_t until) {
        if (gestures_.next_due() <= until) [[unlikely]]
            run_due_timers(until);
    }
    void run_due_timers(std::int64_t until);
    bool next_edge(std::uint32_t& index, ActionEdge& edge) const noexcept;
    void step_wheel(std::int32_t x, std::int32_t y, std::int64_t time);
    void step_wheel_once(WheelWay way, std::int64_t time);
    template <bool with_verdicts>
    void take_edge(Button button, bool down, bool by_person, std::int64_t time);
    void cancel_before_press(Button button, std::int64_t time);
    void note_press(Button button, std::uint8_t owner, bool by_person) noexcept;
    bool is_elsewhere(std::uint16_t action, Button button, std::int64_t time) const noexcept;
    void take_text(const detail::FrameInput& frame, std::uint32_t number);
    void gather_typing();
    void take_rare_edge(Button button, bool down, bool by_person, std::int64_t time);
    void give_or_take(Button button, bool down, std::int64_t time);
    template <bool with_verdicts>
    void set_switches(Button button, std::uint8_t owner, bool down, bool by_person, std::int64_t time);
    template <bool with_verdicts>
    void set_chords(Button button, std::uint8_t owner, bool down, bool by_person, std::int64_t time);
    void decide_for_all(Rule rule, DeviceId device, Button button, std::int64_t time);
    void decide_for_others(Button button, std::uint8_t owner);
    bool is_unbound(Button button) const noexcept;
    void set_switch(unsigned number, bool down, bool by_person, std::int64_t time);
    template <bool with_verdicts>
    void set_switch_as(unsigned number, bool down, bool by_person, std::int64_t time);
    [[gnu::noinline]] void set_direction(const ActionSwitch& it, bool down, std::int64_t time);
    detail::Effect merge_switch(unsigned number, std::uint16_t action, bool down, bool by_person);
    void look_for_areas() noexcept;
    void count_system_repeat(Button button);
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
    std::unique_ptr<const ActionMap> next_map_;
    std::unique_ptr<const ActionMap> map_before_;  // the last rebinding, for states that were saved just before it
    const detail::FrameInput* frame_of_sampler_ = nullptr;  // the sampler's identity; never dereferenced
    std::uint32_t numbering_;                               // of its handles
    ActionReaderCounters counters_;
    mutable std::atomic<std::uint64_t> foreign_{0};  // several threads may read a frame
    detail::CallLog* log_ = nullptr;
    std::uint64_t resumed_before_ = UINT64_MAX;  // the serial number of the frame that follows resume()
    // The parts; each has the state that only it needs within a frame.
    detail::Gestures gestures_;
    detail::ModeSegments segments_;
    detail::Movement movement_;
    detail::Occurrences occurrences_;
    detail::ModeCause mode_cause_;           // what is going on, if that may change modes
    std::vector<ModeChange> mode_changes_;   // in the frame
    std::vector<std::uint8_t> text_owners_;  // of each text in the frame
    struct Typing {
        std::uint8_t mode = 0;
        std::uint32_t order = 0;
        std::int64_t time = 0;
        TypingStep step{};
    };
    std::vector<Typing> typing_;            // by mode, and then in order
    std::vector<TypingStep> typing_steps_;  // the same
    std::vector<Injected> injected_;
};

}  // namespace cursorum
