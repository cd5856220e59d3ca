// Which controls a recording keeps.
#pragma once

#include <cstdint>

#include "cursorum/core/event.hpp"
#include "cursorum/recording/recording_reader.hpp"
#include "cursorum/recording/recording_writer.hpp"

namespace cursorum::tool {

/// What is to be kept.
struct Chosen {
    ButtonSet buttons;
    AxisValues axes;  ///< those that are present
    bool pointer = false, everything = false, text = false;

    bool empty() const { return buttons.empty() && axes.present == 0 && !pointer && !everything; }
};

/// Keeps the chosen controls, and what says nothing about others: devices, focus, cuts. Every type of event and of line
/// is classified by what it reveals, in switches without a default; what is not named there is left out.
class ChosenSink final : public EventSink {
public:
    ChosenSink(RecordingWriter& writer, const Chosen& chosen) : writer_{writer}, chosen_{chosen} {}

    void take(const Event& event) override;
    /// A line that is no event.
    void take(const RecordingLine& line);

    std::uint64_t kept() const { return kept_; }
    std::uint64_t left_out() const { return left_out_; }

private:
    bool is_chosen(Button button) const { return chosen_.everything || chosen_.buttons.contains(button); }
    ButtonSet chosen_of(const ButtonSet& buttons) const {
        return chosen_.everything ? buttons : buttons & chosen_.buttons;
    }
    RecordingWriter& writer_;
    Chosen chosen_;
    std::uint64_t kept_ = 0, left_out_ = 0;
    bool has_beliefs_ = false, handles_chosen_ = false;  // some line of them; the layer handles one of the chosen
};

}  // namespace cursorum::tool
