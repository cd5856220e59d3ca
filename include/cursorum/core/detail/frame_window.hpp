// The window into a frame that readings of buttons look through without a call. Not for callers.
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>

#include "cursorum/core/button_set.hpp"
#include "cursorum/core/control.hpp"

namespace cursorum::detail {

/// What happened to a button on a device. The first four are EdgeKind's values.
enum class SlotKind : std::uint8_t {
    press,
    release,
    adopt,
    cancel,
    system_repeat,
    plain,  ///< an event that did nothing to any button: it still moves time on
    late,   ///< stands before a late event's slots (at least one); its time is the stamp the event came with. Before it
            ///< another one may stand, with the stamp of axes posted earlier whose event has no slots here
    undo    ///< the slot behind it takes back what axes of the same device and time did to the same button
};

/// What that did to the merged button, all devices together. In the values, bit 0: its level turned; bit 2: a hold
/// ended.
enum class Effect : std::uint8_t {
    none = 0,
    press = 1,
    adopt = 3,
    release = 5,
    restart = 6,  ///< cancel, then press: pressed on one device while the others only adopted it
    cancel = 7
};

// Of an effect on the merged button. Without branches: presses and releases come in no order that a processor could
// guess.
/// It went down or came up.
constexpr bool flips(Effect effect) noexcept { return (static_cast<unsigned>(effect) & 1) != 0; }
/// A hold ended: a release, a cancel or a restart.
constexpr bool ends(Effect effect) noexcept { return (static_cast<unsigned>(effect) & 4) != 0; }
/// A hold began: a press, an adopt or a restart.
constexpr bool starts(Effect effect) noexcept { return flips(effect) != ends(effect); }
/// A press, or a restart.
constexpr bool presses(Effect effect) noexcept { return starts(effect) & (effect != Effect::adopt); }

/// A release is the person's if the hold that it ends began with a press: nobody asked anything of a button that was
/// found down.
constexpr bool is_persons_release(bool is_release, bool was_adopted) noexcept { return is_release & !was_adopted; }

/// Kind, effect and two flags in one byte.
struct What {
    std::uint8_t bits;

    static constexpr std::uint8_t first = 0x08, down_after = 0x80;

    static constexpr What of(SlotKind kind, Effect effect, bool is_first, bool is_down) noexcept {
        return {static_cast<std::uint8_t>(static_cast<unsigned>(kind) | static_cast<unsigned>(effect) << 4 |
                                          is_first * unsigned{first} | is_down * unsigned{down_after})};
    }
    constexpr SlotKind kind() const noexcept { return static_cast<SlotKind>(bits & 0x07); }
    constexpr Effect effect() const noexcept { return static_cast<Effect>(bits >> 4 & 0x07); }
    /// The first slot of its event.
    constexpr bool is_first() const noexcept { return (bits & first) != 0; }
    /// The merged button is down after it.
    constexpr bool is_down() const noexcept { return (bits & down_after) != 0; }
    /// The device's button is down after it (edges only).
    constexpr bool device_is_down() const noexcept { return kind() == SlotKind::press || kind() == SlotKind::adopt; }
    // Of the merged button.
    constexpr bool flips() const noexcept { return detail::flips(effect()); }
    constexpr bool ends() const noexcept { return detail::ends(effect()); }
    constexpr bool starts() const noexcept { return detail::starts(effect()); }
    constexpr bool presses() const noexcept { return detail::presses(effect()); }
};

/// A device's edge or system repeat, and what it did to the merged button. In `packed`: the low 32 bits are a tag, the
/// core's own, then 16 bits button, 8 bits device, 8 bits What.
struct StoredEdge {
    std::int64_t time;  ///< when it took effect
    std::uint64_t packed;

    constexpr std::uint32_t tag() const noexcept { return static_cast<std::uint32_t>(packed); }
    constexpr std::uint16_t button() const noexcept { return static_cast<std::uint16_t>(packed >> 32); }
    constexpr std::uint8_t device() const noexcept { return static_cast<std::uint8_t>(packed >> 48); }
    constexpr What what() const noexcept { return {static_cast<std::uint8_t>(packed >> 56)}; }
};
static_assert(sizeof(StoredEdge) == 16);

/// The state of the merged buttons at a frame's start. One entry more than there are buttons: what concerns no button
/// is written there and never read, which is cheaper than a branch.
struct FrameStart {
    std::int64_t t0 = 0, t1 = 0;  ///< the frame's own times
    std::uint64_t serial = 0;
    ButtonSet::Words levels{};
    std::array<bool, button_capacity + 1> adopted{};  ///< how the holds began
};

/// The frame's edges, and how to find those of one button. Edges are numbered through all frames by ordinals; a frame's
/// own begin at `base`, so that neither `last` nor `links` have to be cleared.
struct FrameWindow {
    const FrameStart* initial = nullptr;
    const StoredEdge* edges = nullptr;
    const std::uint32_t* links = nullptr;  ///< for each edge: the ordinal of the same button's edge before it
    std::uint32_t base = 1;
    std::array<std::uint32_t, button_capacity + 1> last{};  ///< the ordinal of each button's last edge

    bool was_down(Button button) const noexcept {
        return button.number < button_capacity && (initial->levels[button.number / 64] >> button.number % 64 & 1) != 0;
    }
    const StoredEdge* edge(std::uint32_t ordinal) const noexcept {
        return ordinal >= base ? &edges[ordinal - base] : nullptr;
    }
    /// The button's last edge in this frame; null if it has none.
    const StoredEdge* last_of(Button button) const noexcept {
        return button.number < button_capacity ? edge(last[button.number]) : nullptr;
    }
    /// The same button's edge before this one; null if it is the frame's first.
    const StoredEdge* before(const StoredEdge& of) const noexcept { return edge(links[&of - edges]); }
    /// Up at the start, and nothing happened to it.
    bool is_idle(Button button) const noexcept {
        return button.number >= button_capacity || (last[button.number] < base && !was_down(button));
    }
};

}  // namespace cursorum::detail
