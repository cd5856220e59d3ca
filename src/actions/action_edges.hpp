// The edges of button actions in one frame, in order, and the levels that they lead to. Pressed actions that open or
// close modes are noted until the modes have changed.
#pragma once

#include <algorithm>
#include <array>
#include <bit>
#include <cstdint>
#include <span>
#include <utility>
#include <vector>

#include "actions/action_state.hpp"
#include "cursorum/actions/action_reader.hpp"
#include "cursorum/core/detail/frame_window.hpp"

namespace cursorum::detail {

/// Returns whether a person made the edge: a press, a release or a restart.
constexpr bool is_persons(Effect effect) noexcept { return presses(effect) | (effect == Effect::release); }

/// The edges of a reader's button actions in the current frame.
class ActionEdges {
public:
    /// `link`: the same action's edge before it in the frame, from 1, or 0.
    struct Record {
        std::int64_t time;
        std::uint32_t link;
        std::uint16_t action;
        Effect effect;
    };

    ActionEdges() {
        records_.resize(usual_count);
        mode_changers_.reserve(action_capacity);
    }

    /// Edges from before a gap at the frame's start take effect at its start, `t0`.
    void add(std::uint16_t action, Effect effect, std::int64_t time, std::int64_t t0);
    void add_system_repeat(std::uint16_t action) noexcept {
        ++system_repeats_[action];
        has_system_repeats_ = true;
    }

    std::span<const Record> all() const noexcept { return {records_.data(), count_}; }
    /// The place of the action's last edge, from 1; 0 if it has none.
    std::uint32_t last_of(std::size_t action) const noexcept { return last_[action]; }
    const Record& at(std::uint32_t place) const noexcept { return records_[place - 1]; }
    std::uint32_t system_repeats(std::size_t action) const noexcept { return system_repeats_[action]; }
    /// One for each action. The last one belongs to unknown actions and never changes.
    const ActionLevels* levels() const noexcept { return levels_.data(); }

    /// Brings an action's hold to where it is after the edge.
    static void commit(const Record& record, ActionState::Button& button) noexcept {
        const bool down = starts(record.effect);
        const std::int64_t if_down = -std::int64_t{down};  // as `?:` it gets a branch
        button.start = (button.start & ~if_down) | (record.time & if_down);
        button.is_down = down;
        button.adopted = record.effect == Effect::adopt;
    }
    /// Begins the next frame: brings the state up to the end of the last one.
    void open_frame(ActionState& state) noexcept {
        for (const Record& record : all()) {
            commit(record, state.buttons[record.action]);
            levels_[record.action] = {levels_[record.action].down};
            last_[record.action] = 0;
        }
    }
    void clear(std::size_t actions) noexcept {
        count_ = 0;
        if (std::exchange(has_system_repeats_, false)) std::fill_n(system_repeats_.begin(), actions, 0U);
    }
    /// Begins an empty frame of another state.
    void show(const ActionState& state, std::size_t actions) noexcept {
        for (const Record& record : all()) last_[record.action] = 0;
        clear(actions);
        for (std::size_t i = 0; i < actions; ++i) {
            levels_[i] = {state.buttons[i].is_down};
            adopted_[i] = state.buttons[i].adopted;
        }
    }

    /// Forgets all levels, because the actions are no longer the same.
    void forget() noexcept {
        levels_ = {};
        adopted_ = {};
    }

    // Actions that open or close modes and were pressed by the present event.
    void note_mode_changer(std::uint16_t action) noexcept {
        mode_changers_.push_back(action);
        changes_modes_ = true;
    }
    bool changes_modes() const noexcept { return changes_modes_; }
    /// Hides them, or shows them again; returns whether they were shown.
    bool set_changes_modes(bool changes) noexcept { return std::exchange(changes_modes_, changes); }
    const std::vector<std::uint16_t>& mode_changers() const noexcept { return mode_changers_; }
    void forget_mode_changers() noexcept {
        mode_changers_.clear();
        changes_modes_ = false;
    }

private:
    static constexpr std::size_t usual_count = 512;  // beyond it, reading allocates

    std::vector<Record> records_;  // `count_` are in use
    std::uint32_t count_ = 0;
    std::array<std::uint32_t, action_capacity> last_{};
    std::array<bool, action_capacity> adopted_{};  // the hold in progress, or the last one, began with an adopt
    std::array<ActionLevels, action_capacity + 1> levels_{};
    std::array<std::uint32_t, action_capacity> system_repeats_{};
    bool has_system_repeats_ = false, changes_modes_ = false;
    std::vector<std::uint16_t> mode_changers_;
};

[[gnu::always_inline]] inline void ActionEdges::add(std::uint16_t action, Effect effect, std::int64_t time,
                                                    std::int64_t t0) {
    // Indexed by the effect; the upper half is for holds that began with an adopt, whose release does not count.
    static constexpr std::array<ActionLevels, 16> changes = [] {
        std::array<ActionLevels, 16> table{};
        const auto of = [&table](Effect what) -> ActionLevels& { return table[static_cast<unsigned>(what)]; };
        of(Effect::press) = {.down = true, .pressed = true};
        of(Effect::adopt) = {.down = true};
        of(Effect::release) = {.released = true, .ended = true};
        of(Effect::cancel) = {.ended = true};
        of(Effect::restart) = {.down = true, .pressed = true, .ended = true};
        for (unsigned i = 0; i < 8; ++i) {
            table[8 + i] = table[i];
            table[8 + i].released = is_persons_release(table[i].released, true);
        }
        return table;
    }();
    const auto word = [](ActionLevels levels) { return std::bit_cast<std::uint32_t>(levels); };
    const std::uint32_t edges_before = word(levels_[action]) & word({false, true, true, true});
    const unsigned row = static_cast<unsigned>(effect) | adopted_[action] * 8U;
    levels_[action] = std::bit_cast<ActionLevels>(edges_before | word(changes[row]));
    adopted_[action] = effect == Effect::adopt;
    time = std::max(time, t0);
    if (count_ == records_.size()) [[unlikely]]
        records_.resize(records_.size() * 2);
    records_[count_++] = {time, last_[action], action, effect};
    last_[action] = count_;
}

}  // namespace cursorum::detail
