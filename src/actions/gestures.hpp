// From the edges of all bindings together to those of the action: first debouncing, then the gesture, then what a press
// causes (a buffer, a mode). What becomes due without an event is a timer.
#pragma once

#include <cstdint>

#include "actions/reader_context.hpp"

namespace cursorum::detail {

/// Debouncing, gestures, buffers and timers. Its columns of the state are `since` to `bindings_down`.
class Gestures {
public:
    void deliver(ReaderContext& of, std::uint16_t action, Effect effect, std::int64_t time) {
        of.verdicts_.has_sink() ? deliver_as<true>(of, action, effect, time)
                                : deliver_as<false>(of, action, effect, time);
    }
    /// The same; `with_verdicts`: the reader has a sink for them. Two functions, so that a reader without a sink does
    /// not ask at each step.
    template <bool with_verdicts>
    void deliver_as(ReaderContext& of, std::uint16_t action, Effect effect, std::int64_t time);
    /// No timer is due before this time.
    std::int64_t next_due() const noexcept { return next_due_; }
    void forget_next_due() noexcept { next_due_ = INT64_MIN; }
    /// Runs the timer that is due first, if it is due by `until`; of several due at once, the first in the profile's
    /// order. Returns whether one ran, and its time in `due`.
    bool run_next(ReaderContext& of, std::int64_t until, std::int64_t& due);
    /// Ends gestures in progress and drops buffered presses, as a pause does.
    void skip_pause(ReaderContext& of);
    /// Brings the action up, and forgets its earlier presses.
    void let_go(ReaderContext& of, std::uint16_t action, std::int64_t time);
    static bool consume_press(ReaderContext& of, std::uint16_t action) noexcept;
    /// Decides what waits in buffers whose time is over.
    static void decide_expired(ReaderContext& of);

private:
    template <bool with_verdicts>
    void debounce(ReaderContext& of, std::uint16_t action, Effect effect, std::int64_t time);
    template <bool with_verdicts>
    void pass_edge(ReaderContext& of, std::uint16_t action, Effect effect, std::int64_t time);
    template <bool with_verdicts>
    void follow(ReaderContext& of, std::uint16_t action, Effect effect, std::int64_t time);
    void fire(ReaderContext& of, std::uint16_t action, Effect effect, std::int64_t time);
    static std::int64_t due_of(const ReaderContext& of, std::uint16_t action) noexcept;

    std::int64_t next_due_ = INT64_MAX;
};

}  // namespace cursorum::detail
