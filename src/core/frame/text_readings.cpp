// What a frame says of text.
#include <algorithm>

#include "core/frame/frame_core.hpp"
#include "cursorum/core/text_reading.hpp"

namespace cursorum {

TextReading Frame::text() const noexcept {
    const FrameCore& core = core_of(*this);
    return {window_, core.other_entries().has_any ? core.other_entries().texts.count : 0};
}

TextPiece TextReading::Iterator::operator*() const noexcept {
    const FrameCore& core = core_of(*frame_);
    const detail::TextEntries& texts = core.other_entries().texts;
    const detail::StoredText& piece = texts.pieces[index_];
    return {.time = Time{Duration{std::max(piece.time, core.t0())}},
            .device = piece.device() == detail::TextSlot::no_device ? DeviceId{} : core.id_of(piece.device()),
            .key = {piece.key()},
            .phase = piece.phase(),
            .text = {texts.bytes.data() + piece.begin, piece.size},
            .caret = piece.caret()};
}

Composition TextReading::composition() const noexcept {
    if (!has_composition_) return {};
    const FrameCore& core = core_of(*frame_);
    const detail::ComposedText& composed =
        core.other_entries().has_any ? core.other_entries().texts.composed : core.others().composed;
    if (composed.head.is_open == 0) return {};
    return {.is_open = true, .text = {composed.text.data(), composed.head.size}, .caret = composed.head.caret};
}

}  // namespace cursorum
