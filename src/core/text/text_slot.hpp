// How text is stored: one slot for up to 40 bytes, several for a longer text. A frame has the bytes of all its texts
// one behind the other, so that each is contiguous.
#pragma once

#include <array>
#include <cstdint>
#include <string_view>
#include <vector>

#include "core/buttons/edge_ring.hpp"
#include "core/rings/word_ring.hpp"
#include "cursorum/core/text_reading.hpp"

namespace cursorum::detail {

struct TextSlot {
    std::int64_t time = 0;
    /// Device in the low 8 bits (no_device: none), then 8 bits phase, 8 bits number of bytes, 8 bits flags, 16 bits
    /// key, 16 bits caret.
    std::uint64_t what = 0;
    std::uint64_t late_at = in_time;  ///< as in AxisSlot
    std::array<char, 40> text{};

    static constexpr unsigned no_device = 255, continues_flag = 1;
    static constexpr std::uint64_t what_of(unsigned device, TextPhase phase, unsigned key, unsigned caret) noexcept {
        return device | std::uint64_t{static_cast<unsigned>(phase)} << 8 | std::uint64_t{key} << 32 |
               std::uint64_t{caret} << 48;
    }
    unsigned size() const noexcept { return static_cast<unsigned>(what >> 16 & 0xFF); }
    /// It is the rest of the text in the slot before it.
    bool continues() const noexcept { return (what >> 24 & continues_flag) != 0; }
};
static_assert(sizeof(TextSlot) == 8 * 8 && text_capacity < 1U << 16);

using TextRing = WordRing<TextSlot>;

/// A text event that a frame took. Its time may be earlier than the frame's start, if that begins with a gap.
struct StoredText {
    std::int64_t time = 0;
    std::uint64_t what = 0;  // as in a slot, without the number of bytes
    std::uint32_t begin = 0, size = 0;

    unsigned device() const noexcept { return static_cast<unsigned>(what & 0xFF); }
    TextPhase phase() const noexcept { return static_cast<TextPhase>(what >> 8 & 0xFF); }
    std::uint16_t key() const noexcept { return static_cast<std::uint16_t>(what >> 32); }
    unsigned caret() const noexcept { return static_cast<unsigned>(what >> 48); }
};

/// What is being composed at a cut.
struct ComposedText {
    struct Head {
        std::uint16_t size = 0, caret = 0;
        std::uint8_t is_open = 0, inlet = 0;
        std::array<std::uint8_t, 2> padding{};  // so that it has no bytes without a value
    };
    Head head;
    std::array<char, text_capacity> text{};

    /// Applies a slot. Several slots of one event follow each other.
    void follow(const TextSlot& slot, unsigned inlet) noexcept;
};

/// The texts of a frame. Its size is fixed at construction, but for a growing sampler.
struct TextEntries {
    std::vector<StoredText> pieces;
    std::vector<char> bytes;
    std::uint32_t count = 0, byte_count = 0;
    ComposedText composed;     // at the end
    bool has_changed = false;  // that, since the start

    void make_room(std::size_t slots) {
        pieces.resize(slots);
        bytes.resize(slots * sizeof(TextSlot::text));
    }
    bool has_room() const noexcept {
        return count < pieces.size() && bytes.size() - byte_count >= sizeof(TextSlot::text);
    }
    void clear() noexcept {
        count = byte_count = 0;
        has_changed = false;
    }
    /// Precondition: there is room.
    void add(const TextSlot& slot) noexcept;
};

}  // namespace cursorum::detail
