// Writes an inlet's texts. It knows whether an input method is composing, which focus loss cancels.
#pragma once

#include <cstdint>
#include <string_view>

#include "core/rings/single_writer.hpp"
#include "core/text/text_slot.hpp"
#include "cursorum/core/outcome.hpp"

namespace cursorum::detail {

/// Returns whether a text is well-formed UTF-8 (RFC 3629) without control characters, except for tabs and line feeds.
bool is_plain_text(std::string_view text) noexcept;

/// Refers to members of its inlet, whose thread alone calls it.
class TextWriter {
public:
    TextWriter(TextRing& ring, SingleWriter<std::uint64_t>& changes, const SingleWriter<std::int64_t>& latest,
               const std::uint64_t& late_at) noexcept
        : ring_{ring}, changes_{changes}, latest_{latest}, late_at_{late_at} {}

    /// `device`: its number, or TextSlot::no_device.
    Outcome write(unsigned device, TextPhase phase, Button key, std::string_view text, unsigned caret) noexcept;
    /// The focus is lost, or the device of the composition is gone: a composition is cancelled. `device`: of that
    /// device alone; no_device: whatever it comes from.
    void rest(unsigned device = TextSlot::no_device) noexcept;

private:
    TextRing& ring_;
    SingleWriter<std::uint64_t>& changes_;  // increases with whatever other than edges is published
    const SingleWriter<std::int64_t>& latest_;
    const std::uint64_t& late_at_;
    bool is_composing_ = false;
    unsigned composing_device_ = TextSlot::no_device;
};

}  // namespace cursorum::detail
