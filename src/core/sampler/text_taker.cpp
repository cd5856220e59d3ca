// How text is taken, and what is left of it after an overrun.
#include "core/sampler/text_taker.hpp"

#include <algorithm>

namespace cursorum::detail {

bool TextTaker::take(FrameContext& of, const InletHistory& inlet, unsigned number, std::int64_t until,
                     std::uint64_t end) noexcept {
    std::uint64_t& taken = of.others_.inlets[number].texts;
    TextEntries& texts = of.other_entries_.texts;
    TextSlot slot;
    for (; taken != end; ++taken) {
        const bool is_whole = inlet.texts_.try_read(taken, slot);
        if (is_whole && slot.time > until) {
            of.note_head(slot.time);
            return false;
        }
        if (!is_whole || (!texts.has_room() && !of.growing_)) [[unlikely]] {
            heal(of, inlet, number);
            return false;
        }
        if (!texts.has_room()) [[unlikely]]
            texts.make_room(texts.pieces.size() * 2);
        texts.add(slot);
        texts.composed.follow(slot, number);
        texts.has_changed = true;
    }
    return true;
}

// Text that was overwritten is lost, and what is being composed is not known until it changes.
void TextTaker::heal(FrameContext& of, const InletHistory& inlet, unsigned number) noexcept {
    ++of.state_.overruns;
    of.others_.inlets[number].texts = inlet.texts_.published();
    TextEntries& texts = of.other_entries_.texts;
    if (texts.composed.head.inlet == number) texts.composed.head = {};
    texts.has_changed = true;
}

void TextTaker::start_at(FrameContext& of, unsigned number, std::int64_t start) noexcept {
    const InletHistory& inlet = of.timeline_->inlet(number);
    const std::uint64_t end = inlet.texts_.published();
    std::uint64_t& taken = of.others_.inlets[number].texts;
    taken = std::min(inlet.texts_.oldest(), end);
    for (TextSlot slot; taken != end && (!inlet.texts_.try_read(taken, slot) || slot.time <= start); ++taken)
        if (inlet.texts_.still_has(taken)) of.others_.composed.follow(slot, number);
}

}  // namespace cursorum::detail
