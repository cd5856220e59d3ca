// How often the presses of each control had which verdict or outcome.
#pragma once

#include <cstdint>
#include <map>
#include <string>
#include <utility>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/core/outcome.hpp"

namespace cursorum::tool {

/// By the control's name, then in words: "fired crane.lock", "ignored without focus".
using PressCounts = std::map<std::string, std::map<std::string, std::uint64_t>>;

/// Counts presses by the verdicts of a reader, and those that no reader receives. Of several bindings, the verdict that
/// says most counts.
class PressCounter final : public VerdictSink {
public:
    explicit PressCounter(const ActionReader& reader) : reader_{reader} {}

    void take(const Verdict& verdict) override;
    /// A press that no reader receives; `outcome` is that of its event, a press if it was in a pause.
    void note(Button button, Outcome outcome);
    /// Counts the presses before that time. Call it after each frame, so that memory does not grow.
    void count_until(Time time);
    const PressCounts& counts() const noexcept { return counts_; }

private:
    struct InWords {
        int weight = 0;
        bool has_fired = false;
        std::string text;
    };
    const ActionReader& reader_;
    std::map<std::pair<Time, std::uint16_t>, InWords> recent_;  // presses, by time and button
    PressCounts counts_;
};

}  // namespace cursorum::tool
