// What became of the presses of each control, counted: of several bindings, a press goes by the one for which it
// counted.
#pragma once

#include <cstdint>
#include <map>
#include <string>
#include <utility>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/core/outcome.hpp"

namespace cursorum::tool {

/// By the control's name, then by fate: "fired lock", "ignored without focus".
using FateCounts = std::map<std::string, std::map<std::string, std::uint64_t>>;

/// The verdicts of a reader, and the presses that no reader gets.
class PressFates final : public VerdictSink {
public:
    explicit PressFates(const ActionReader& reader) : reader_{reader} {}

    void take(const Verdict& verdict) override;
    /// A button went down, and its event had that outcome.
    void note(Button button, Outcome outcome);
    /// Counts those that were decided before; call it after each frame, so that memory does not grow.
    void count_until(Time time);
    const FateCounts& counts() const noexcept { return counts_; }

private:
    struct Fate {
        int rank = 0;
        std::string text;
    };
    std::string text_of(const Verdict& verdict) const;

    const ActionReader& reader_;
    std::map<std::pair<Time, std::uint16_t>, Fate> recent_;  // presses, by time and button
    FateCounts counts_;
};

}  // namespace cursorum::tool
