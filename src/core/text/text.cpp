// Text: what is refused, how a text becomes slots, and how compositions begin and end.
#include <algorithm>

#include "core/text/text_slot.hpp"
#include "core/text/text_writer.hpp"
#include "core/text/utf8.hpp"

namespace cursorum {

std::string_view name_of(TextPhase phase) noexcept {
    switch (phase) {
        case TextPhase::typed: return "typed";
        case TextPhase::begin: return "begin";
        case TextPhase::change: return "change";
        case TextPhase::commit: return "commit";
        case TextPhase::cancel: return "cancel";
    }
    return {};
}

namespace detail {

bool is_plain_text(std::string_view text) noexcept {
    while (!text.empty()) {
        const std::size_t length = character_length(text);
        const auto first = static_cast<unsigned char>(text[0]), second = static_cast<unsigned char>(text[length > 1]);
        const bool is_control =
            (first < 0x20 && first != '\t' && first != '\n') || first == 0x7F || (first == 0xC2 && second < 0xA0);
        if (length == 0 || is_control) return false;
        text.remove_prefix(length);
    }
    return true;
}

Outcome TextWriter::write(unsigned device, TextPhase phase, Button key, std::string_view text,
                          unsigned caret) noexcept {
    const bool composes = phase == TextPhase::begin || phase == TextPhase::change;
    if (text.size() > text_capacity || !is_plain_text(text) || phase > TextPhase::cancel) return Outcome::refused_value;
    // Sources may leave out the beginning, and report an end that has come already.
    if (phase == TextPhase::cancel && !is_composing_) return Outcome::taken;
    if (phase == TextPhase::typed && text.empty()) return Outcome::taken;
    if (composes) phase = is_composing_ ? TextPhase::change : TextPhase::begin;
    if (phase == TextPhase::commit && !is_composing_) phase = TextPhase::typed;
    if (phase == TextPhase::cancel) text = {};
    is_composing_ = composes || (is_composing_ && phase == TextPhase::typed);
    if (composes) composing_device_ = device;
    const auto place = composes ? std::min<std::size_t>(caret, text.size()) : 0;
    TextSlot slot;
    slot.time = latest_.get();
    slot.late_at = late_at_;
    const std::uint64_t what = TextSlot::what_of(device, phase, key.number, static_cast<unsigned>(place));
    std::uint64_t flags = 0;
    do {
        const std::size_t size = std::min(text.size(), slot.text.size());
        slot.text = {};
        std::copy_n(text.begin(), size, slot.text.begin());
        slot.what = what | std::uint64_t{size} << 16 | flags << 24;
        ring_.write(slot);
        text.remove_prefix(size);
        flags = TextSlot::continues_flag;
    } while (!text.empty());
    ring_.publish();
    changes_.publish(changes_.get() + 1);
    return Outcome::taken;
}

void TextWriter::rest(unsigned device) noexcept {
    if (is_composing_ && (device == TextSlot::no_device || device == composing_device_))
        write(composing_device_, TextPhase::cancel, {}, {}, 0);
}

void ComposedText::follow(const TextSlot& slot, unsigned inlet) noexcept {
    const auto phase = static_cast<TextPhase>(slot.what >> 8 & 0xFF);
    const bool composes = phase == TextPhase::begin || phase == TextPhase::change;
    if (!composes) {
        // Text that is typed meanwhile leaves it alone, and so does what another inlet composes.
        if (phase != TextPhase::typed && head.inlet == inlet) head = {};
        return;
    }
    const std::size_t begin = slot.continues() ? head.size : 0;
    const std::size_t size = std::min<std::size_t>(slot.size(), text.size() - begin);
    std::copy_n(slot.text.begin(), size, text.begin() + static_cast<std::ptrdiff_t>(begin));
    head = {.size = static_cast<std::uint16_t>(begin + size),
            .caret = static_cast<std::uint16_t>(slot.what >> 48),
            .is_open = 1,
            .inlet = static_cast<std::uint8_t>(inlet)};
}

void TextEntries::add(const TextSlot& slot) noexcept {
    if (slot.continues() && count == 0) return;  // its beginning was lost
    if (!slot.continues()) pieces[count++] = {slot.time, slot.what & ~std::uint64_t{0xFFFF0000}, byte_count, 0};
    StoredText& piece = pieces[count - 1];
    const std::size_t size = std::min<std::size_t>(slot.size(), bytes.size() - byte_count);
    std::copy_n(slot.text.begin(), size, bytes.begin() + byte_count);
    piece.size += static_cast<std::uint32_t>(size);
    byte_count += static_cast<std::uint32_t>(size);
}

}  // namespace detail
}  // namespace cursorum
