// From the edges of all bindings together to those of the action: first debouncing, then the gesture, then what a press
// causes (a buffer, a mode). What becomes due without an event is a timer.
#pragma once

#include <cstdint>

#include "actions/action_making.hpp"

namespace cursorum::detail {

/// Writes to the frame's edges. Its columns of the state are `since` to `bindings_down`.
class Gestures {
public:
    void deliver(ActionMaking& of, std::uint16_t action, Effect effect, std::int64_t time);
    /// No timer is due before.
    std::int64_t next_due() const noexcept { return next_due_; }
    void forget_next_due() noexcept { next_due_ = INT64_MIN; }
    /// What is due first happens, if it is due by then; at one time in the profile's order. Returns whether it did;
    /// `due`: when.
    bool run_next(ActionMaking& of, std::int64_t until, std::int64_t& due);
    /// A pause ends gestures in progress and buffered presses.
    void skip_pause(ActionMaking& of);
    /// The action is up, and knows nothing of earlier presses.
    void let_go(ActionMaking& of, std::uint16_t action, std::int64_t time);
    static bool consume_press(const ActionMaking& of, std::uint16_t action) noexcept;

private:
    void debounce(ActionMaking& of, std::uint16_t action, Effect effect, std::int64_t time);
    void pass_edge(ActionMaking& of, std::uint16_t action, Effect effect, std::int64_t time);
    void follow(ActionMaking& of, std::uint16_t action, Effect effect, std::int64_t time);
    void fire(ActionMaking& of, std::uint16_t action, Effect effect, std::int64_t time);
    static std::int64_t due_of(const ActionMaking& of, std::uint16_t action) noexcept;

    std::int64_t next_due_ = INT64_MAX;
};

}  // namespace cursorum::detail
