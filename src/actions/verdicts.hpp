// Verdicts on presses, written by the code that decides while it decides. Without a sink, a frame pays one test for
// each edge of a button.
#pragma once

#include <cstdint>
#include <optional>
#include <utility>
#include <vector>

#include "cursorum/actions/verdict.hpp"
#include "cursorum/core/button_set.hpp"

namespace cursorum::detail {

/// The verdicts of a reader. A press is the present one from when it is taken until its rule is known; then there is a
/// verdict, or it waits: for the rest of a gesture, or for the end of debouncing.
class Verdicts {
public:
    bool has_sink() const noexcept { return sink_ != nullptr; }
    void set_sink(VerdictSink* sink) noexcept {
        sink_ = sink;
        forget();
    }
    /// Another state is restored: what waited has not happened.
    void forget() noexcept {
        waiting_.clear();
        present_.reset();
    }

    /// The press whose rule is decided next; which action and binding, may be known later: see at().
    void begin(std::int64_t time, Button button, bool by_person) {
        if (sink_) [[unlikely]]
            begin_now(time, button, by_person);
    }
    /// The device that the present press, if it is a button, comes from.
    void from(DeviceId device) noexcept {
        if (sink_) [[unlikely]]
            device_ = device;
    }
    void at(std::uint16_t action, std::uint16_t binding) {
        if (sink_ && present_) [[unlikely]]
            present_->action = action, present_->binding = binding;
    }
    void end() noexcept {
        if (sink_) [[unlikely]]
            present_.reset();
    }

    /// The rule by which the present press counts, or does not, for the binding. What was found down is adopted where
    /// a press would have counted, and nothing is said of it elsewhere.
    void decide(Rule rule, ModeHandle mode = {}, std::uint16_t by = no_action) {
        if (sink_) [[unlikely]]
            decide_now(rule, mode, by);
    }
    /// The same by a rule that goes by what happened at `since`.
    void decide(Rule rule, std::int64_t since) {
        if (sink_) [[unlikely]]
            decide_since(rule, since);
    }
    /// The present press waits. There is one wait for a gesture, one for debouncing, and one in the buffer.
    enum class Wait : std::uint8_t { gesture, debounce, buffer };
    void wait(Wait wait) {
        if (sink_) [[unlikely]]
            wait_now(wait);
    }
    /// What waits of an action is decided.
    void decide_waiting(std::uint16_t action, Wait wait, Rule rule) {
        if (sink_) [[unlikely]]
            decide_what_waits(action, wait, rule);
    }
    /// What waits of an action goes on waiting, for something else.
    void wait_on(std::uint16_t action, Wait from, Wait to);
    bool has_waiting() const noexcept { return !waiting_.empty(); }
    /// What the last press of that action by that button waits for, if it does.
    std::optional<Wait> wait_of(std::uint16_t action, Button button) const noexcept {
        std::optional<Wait> wait;
        for (const Waiting& it : waiting_)
            if (it.verdict.action == action &&
                !(physical_buttons(it.verdict.button) & physical_buttons(button)).empty())
                wait = it.wait;
        return wait;
    }
    /// What waits is the present press again.
    void resume(std::uint16_t action, Wait wait) {
        if (sink_) [[unlikely]]
            present_ = take_waiting(action, wait);
    }

private:
    struct Waiting {
        Verdict verdict;
        Wait wait;
    };
    // Calls, so that what decides stays small.
    void begin_now(std::int64_t time, Button button, bool by_person);
    void decide_now(Rule rule, ModeHandle mode, std::uint16_t by);
    void decide_since(Rule rule, std::int64_t since);
    void wait_now(Wait wait);
    void decide_what_waits(std::uint16_t action, Wait wait, Rule rule);
    std::optional<Verdict> take_waiting(std::uint16_t action, Wait wait);

    VerdictSink* sink_ = nullptr;
    std::optional<Verdict> present_;
    DeviceId device_{};
    std::vector<Waiting> waiting_;
};

}  // namespace cursorum::detail
