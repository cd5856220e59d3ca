// Pads and keyboards that are polled: numbers of a caller's arrays become controls, and the state is posted as one
// event. The inlet finds what has changed.
#include "cursorum/core/polled_state.hpp"

#include <bit>
#include <cstring>

#ifdef __SSE2__
#include <emmintrin.h>
#endif

#include "core/axes/axis_buttons.hpp"
#include "core/controls/postable.hpp"
#include "cursorum/core/controls.hpp"

namespace cursorum {
namespace {

using KeyBits = std::array<std::uint64_t, 4>;

ButtonSet named(const KeyBits& bits, const KeyNumbering& numbering) noexcept {
    if (&numbering == &numbering_of(KeyTable::hid_usage)) {
        ButtonSet::Words words{};
        for (unsigned i = 0; i < bits.size(); ++i) words[i] = bits[i];
        return ButtonSet{words} & hid_keys;
    }
    ButtonSet down;
    for (unsigned i = 0; i < bits.size(); ++i)
        for (std::uint64_t rest = bits[i]; rest != 0; rest &= rest - 1)
            down.insert(numbering[i * 64 + static_cast<unsigned>(std::countr_zero(rest))]);
    return down & postable_buttons;
}

/// Bit n: byte n of 64 has a bit of the mask.
std::uint64_t bits_of(const std::uint8_t* bytes, std::uint8_t mask) noexcept {
#ifdef __SSE2__
    const __m128i wanted = _mm_set1_epi8(static_cast<char>(mask)), zero = _mm_setzero_si128();
    std::uint64_t bits = 0;
    for (unsigned i = 0; i < 4; ++i) {
        __m128i some;
        std::memcpy(&some, bytes + 16 * i, sizeof some);
        const __m128i up = _mm_cmpeq_epi8(_mm_and_si128(some, wanted), zero);
        const auto down = static_cast<std::uint16_t>(~static_cast<unsigned>(_mm_movemask_epi8(up)));
        bits |= std::uint64_t{down} << 16 * i;
    }
    return bits;
#else
    std::uint64_t bits = 0;
    for (unsigned i = 0; i < 64; ++i) bits |= std::uint64_t{(bytes[i] & mask) != 0} << i;
    return bits;
#endif
}

}  // namespace

ButtonSet keys_from_bits(std::span<const std::uint8_t, 32> bits, const KeyNumbering& numbering) noexcept {
    KeyBits words{};
    for (unsigned i = 0; i < bits.size(); ++i) words[i / 8] |= std::uint64_t{bits[i]} << i % 8 * 8;
    return named(words, numbering);
}

ButtonSet keys_from_bytes(std::span<const std::uint8_t, 256> bytes, std::uint8_t mask,
                          const KeyNumbering& numbering) noexcept {
    KeyBits words;
    for (unsigned i = 0; i < words.size(); ++i) words[i] = bits_of(bytes.data() + std::size_t{64} * i, mask);
    return named(words, numbering);
}

AxisValues PolledPad::axes() const noexcept {
    AxisValues values;
    values.set(controls::PadStickLeftX, left.x);
    values.set(controls::PadStickLeftY, left.y);
    values.set(controls::PadStickRightX, right.x);
    values.set(controls::PadStickRightY, right.y);
    values.set(controls::PadPullLeft, pull_left);
    values.set(controls::PadPullRight, pull_right);
    return values;
}

Outcome post(Inlet& inlet, DeviceId device, const PolledMouse& mouse, Time when) noexcept {
    inlet.moved_to(device, WindowPoint{mouse.x, mouse.y}, when);
    return inlet.state(device, mouse.down, when);
}

Outcome post(Inlet& inlet, DeviceId device, const PolledPad& pad, Time when) noexcept {
    return inlet.state(device, pad.down, pad.axes(), when);
}

const PadNumbering& standard_pad_numbering() noexcept {
    static const PadNumbering numbering = [] {
        PadNumbering all;
        for (unsigned i = 0; i < all.buttons.size(); ++i) all.buttons[i] = button_of(KeyTable::standard_pad, i);
        std::size_t next = 0;
        for (const Axis axis : standard_pad_axes) all.axes[next++] = {axis};
        // The values of buttons 6 and 7: not pulled is 0, not the middle of the range.
        all.axes[next++] = {controls::PadPullLeft, 0, 1};
        all.axes[next] = {controls::PadPullRight, 0, 1};
        return all;
    }();
    return numbering;
}

std::uint64_t bits_of_bytes(std::span<const std::uint8_t> bytes) noexcept {
    std::uint64_t bits = 0;
    for (std::size_t i = 0; i < bytes.size() && i < 64; ++i) bits |= std::uint64_t{bytes[i] != 0} << i;
    return bits;
}

Outcome post(Inlet& inlet, DeviceId device, const PadSlot& slot, const PadNumbering& numbering, Time when) noexcept {
    if (slot.is_connected != inlet.is_connected(device)) {
        if (!slot.is_connected) return inlet.disconnect(device, when);
        const Outcome outcome = inlet.connect(device, {.kind = DeviceKind::gamepad, .name = slot.name}, when);
        if (outcome != Outcome::connected) return outcome;
    }
    if (!slot.is_connected) return Outcome::unchanged;
    ButtonSet down;
    for (std::uint64_t rest = slot.buttons; rest != 0; rest &= rest - 1)
        if (const Button button = numbering.buttons[static_cast<unsigned>(std::countr_zero(rest))]) down.insert(button);
    AxisValues axes;
    for (std::size_t i = 0; i < slot.axes.size() && i < numbering.axes.size(); ++i) {
        const PolledAxis& its = numbering.axes[i];
        if (!its.axis) continue;
        const double share = (static_cast<double>(slot.axes[i]) - its.least) / (its.greatest - its.least);
        axes.set(*its.axis, is_pull(*its.axis) ? share : 2 * share - 1);
    }
    return inlet.state(device, down, axes, when);
}

DeviceSnapshot snapshot_of(const PolledPad& pad, const DeviceSnapshot& before, Time time,
                           const DeviceShaping& shaping) noexcept {
    DeviceSnapshot now{.time = time, .down = pad.down & postable_buttons, .raw_axes = pad.axes()};
    const detail::AxisButtons were_down = detail::AxisButtons::of(before.down);
    detail::AxisButtons down;
    const std::array raw{pad.left, pad.right};
    for (unsigned i = 0; i < stick_kinds; ++i) {
        now.sticks[i] = shape(shaping.sticks[i], raw[i]);
        const std::array values{now.sticks[i].x, now.sticks[i].y};
        detail::update_axis_buttons<2>(2 * i, values.data(), were_down, shaping, down);
    }
    const std::array travel{pad.pull_left, pad.pull_right};
    for (unsigned i = 0; i < travel.size(); ++i) {
        now.pulls[i] = shape(shaping.pulls[i], travel[i]);
        detail::update_axis_buttons<1>(2 * stick_kinds + i, &now.pulls[i], were_down, shaping, down);
    }
    down.for_each([&](Button button) { now.down.insert(button); });
    return now;
}

}  // namespace cursorum
