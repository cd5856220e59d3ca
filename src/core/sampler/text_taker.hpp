// A sampler's text. What was typed in a pause is not part of any frame, and what is composed then is known at its end.
#pragma once

#include <cstdint>

#include "core/sampler/frame_context.hpp"
#include "core/sampler/late_order.hpp"
#include "core/text/text_slot.hpp"

namespace cursorum::detail {

/// Takes text from inlets into a frame.
class TextTaker : public OrderedStream<TextSlot, &InletHistory::texts_, &OtherState::OfInlet::texts> {
public:
    /// Finds the state at `start`, as far back as the history reaches.
    static void start_at(FrameContext& of, unsigned inlet, std::int64_t start) noexcept;
    /// Takes all slots up to `until` that are before the position `end`; returns whether none of them is left.
    static bool take(FrameContext& of, const InletHistory& inlet, unsigned number, std::int64_t until,
                     std::uint64_t end) noexcept;
    // What is taken between these two falls into a pause.
    void begin_skip(FrameContext& of) noexcept {
        skipped_from_ = of.other_entries_.texts.count;
        skipped_bytes_ = of.other_entries_.texts.byte_count;
    }
    void end_skip(FrameContext& of, std::int64_t) const noexcept {
        of.other_entries_.texts.count = skipped_from_;
        of.other_entries_.texts.byte_count = skipped_bytes_;
        of.entries_.skip_texts_at = skipped_from_;
    }

private:
    static void heal(FrameContext& of, const InletHistory& inlet, unsigned number) noexcept;

    std::uint32_t skipped_from_ = 0, skipped_bytes_ = 0;
};

}  // namespace cursorum::detail
