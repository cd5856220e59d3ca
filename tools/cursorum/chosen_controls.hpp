// Which controls a recording keeps.
#pragma once

#include <cstdint>

#include "cursorum/core/event.hpp"
#include "cursorum/recording/recording_writer.hpp"

namespace cursorum::tool {

/// What is to be kept.
struct Chosen {
    ButtonSet buttons;
    AxisValues axes;  ///< those that are present
    bool pointer = false, everything = false, text = false;

    bool empty() const { return buttons.empty() && axes.present == 0 && !pointer && !everything; }
};

/// Keeps the chosen controls, and the events of whole devices.
class ChosenTaker final : public EventTaker {
public:
    ChosenTaker(RecordingWriter& writer, const Chosen& chosen) : writer_{writer}, chosen_{chosen} {}

    void take(const Event& event) override;

    std::uint64_t kept() const { return kept_; }
    std::uint64_t left_out() const { return left_out_; }

private:
    bool is_chosen(Button button) const { return chosen_.everything || chosen_.buttons.contains(button); }

    RecordingWriter& writer_;
    Chosen chosen_;
    std::uint64_t kept_ = 0, left_out_ = 0;
};

}  // namespace cursorum::tool
