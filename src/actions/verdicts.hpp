// Verdicts on presses, written by the code that decides while it decides. Without a sink, a frame pays one test for
// each edge of a button.
#pragma once

#include <cstdint>
#include <optional>
#include <utility>
#include <vector>

#include "cursorum/actions/verdict.hpp"

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

    /// The press whose rule is decided next. `action` and `binding` may be decided later: see at().
    void begin(std::int64_t time, Button button, bool by_person) {
        if (!sink_) return;
        present_ = Verdict{};
        present_->time = present_->since = Time{Duration{time}};
        present_->button = button;
        if (!by_person) present_->rule = Rule::adopted;
    }
    void at(std::uint16_t action, std::uint16_t binding) {
        if (present_) present_->action = action, present_->binding = binding;
    }
    void end() noexcept { present_.reset(); }

    /// The rule by which the present press counts, or does not, for the binding. What was found down is adopted where
    /// a press would have counted, and nothing is said of it elsewhere.
    void decide(Rule rule, ModeHandle mode = {}, std::uint16_t by = no_action) {
        if (!present_) return;
        const bool is_adopted = present_->rule == Rule::adopted;
        if (is_adopted && rule != Rule::adopted) return;
        Verdict verdict = *present_;
        verdict.rule = rule;
        verdict.mode = mode;
        verdict.by = by;
        sink_->take(verdict);
    }
    void decide(Rule rule, std::int64_t since) {
        if (!present_) return;
        present_->since = Time{Duration{since}};
        decide(rule);
        present_->since = present_->time;
    }
    /// The present press waits. There is one wait for a gesture and one for debouncing.
    enum class Wait : std::uint8_t { gesture, debounce };
    void wait(Wait wait) {
        if (present_ && present_->rule != Rule::adopted) waiting_.push_back({*present_, wait});
    }
    /// What waits of an action is decided.
    void decide_waiting(std::uint16_t action, Wait wait, Rule rule) {
        if (!sink_) return;
        while (auto verdict = take_waiting(action, wait)) {
            verdict->rule = rule;
            sink_->take(*verdict);
        }
    }
    /// What waits is the present press again.
    void resume(std::uint16_t action, Wait wait) {
        if (sink_) present_ = take_waiting(action, wait);
    }

private:
    struct Waiting {
        Verdict verdict;
        Wait wait;
    };
    std::optional<Verdict> take_waiting(std::uint16_t action, Wait wait) {
        for (auto it = waiting_.begin(); it != waiting_.end(); ++it)
            if (it->verdict.action == action && it->wait == wait) {
                const Verdict verdict = it->verdict;
                waiting_.erase(it);
                return verdict;
            }
        return std::nullopt;
    }

    VerdictSink* sink_ = nullptr;
    std::optional<Verdict> present_;
    std::vector<Waiting> waiting_;
};

}  // namespace cursorum::detail
