// Merging: one button on several devices. A button is down while any of them holds it; a table says what each edge
// means for all of them together. Used for devices, for an action's bindings and for seats.
#pragma once

#include <array>
#include <cstdint>

#include "cursorum/core/detail/frame_window.hpp"
#include "cursorum/core/edge.hpp"

namespace cursorum {

/// How many devices hold each button, and how many of them by a press (the high byte).
using Holders = std::uint16_t;
inline constexpr Holders adopted_holder = 0x0001, pressed_holder = 0x0101;

namespace merging {

using detail::Effect;
using detail::SlotKind;

// Indexed by the kind, by whether nobody held the button before, nobody held it by a press before, nobody holds it
// after.
constexpr unsigned index(SlotKind kind, Holders before, Holders after) noexcept {
    return static_cast<unsigned>(kind) * 8 + ((before & 0xFF) == 0) * 4U + (before >> 8 == 0) * 2U +
           ((after & 0xFF) == 0) * 1U;
}

inline constexpr std::array<Effect, 64> effects = [] {
    std::array<Effect, 64> table{};
    constexpr std::array<Holders, 3> cases{0, adopted_holder, pressed_holder};
    for (const Holders before : cases) {
        for (const Holders after : cases) {
            const auto at = [&](SlotKind kind) -> Effect& { return table[index(kind, before, after)]; };
            at(SlotKind::press) = before == 0 ? Effect::press : before >> 8 == 0 ? Effect::restart : Effect::none;
            at(SlotKind::adopt) = before == 0 ? Effect::adopt : Effect::none;
            at(SlotKind::release) = after == 0 ? Effect::release : Effect::none;
            at(SlotKind::cancel) = after == 0 ? Effect::cancel : Effect::none;
        }
    }
    return table;
}();

// Indexed by the kind and by whether the hold had begun with a press.
inline constexpr std::array<Holders, 16> changes = [] {
    std::array<Holders, 16> table{};
    for (unsigned pressed = 0; pressed < 2; ++pressed) {
        table[static_cast<unsigned>(SlotKind::press) * 2 + pressed] = pressed_holder;
        table[static_cast<unsigned>(SlotKind::adopt) * 2 + pressed] = adopted_holder;
        const auto minus = static_cast<Holders>(-(pressed ? pressed_holder : adopted_holder));
        table[static_cast<unsigned>(SlotKind::release) * 2 + pressed] = minus;
        table[static_cast<unsigned>(SlotKind::cancel) * 2 + pressed] = minus;
    }
    return table;
}();

constexpr Holders change(SlotKind kind, bool pressed) noexcept {
    return changes[static_cast<unsigned>(kind) * 2 + pressed];
}

}  // namespace merging

/// The effect of a device's edge on the merged button; updates its holders. Tables instead of branches, because a
/// processor cannot predict the order of presses and releases.
constexpr detail::Effect merge(Holders& holders, detail::SlotKind kind, bool was_pressed) noexcept {
    const Holders before = holders;
    const auto after = static_cast<Holders>(before + merging::change(kind, was_pressed));
    holders = after;
    return merging::effects[merging::index(kind, before, after)];
}

/// The edge of an effect; a restart is two edges, a cancel and then a press.
constexpr EdgeKind edge_kind_of(detail::Effect effect, bool is_second) noexcept {
    switch (effect) {
        case detail::Effect::release: return EdgeKind::release;
        case detail::Effect::adopt: return EdgeKind::adopt;
        case detail::Effect::cancel: return EdgeKind::cancel;
        case detail::Effect::restart: return is_second ? EdgeKind::press : EdgeKind::cancel;
        default: return EdgeKind::press;
    }
}

/// Calls `visit(EdgeKind)` for each of them.
template <typename Visit>
constexpr void for_each_edge_kind(detail::Effect effect, Visit&& visit) {
    if (effect == detail::Effect::none) return;
    visit(edge_kind_of(effect, false));
    if (effect == detail::Effect::restart) visit(edge_kind_of(effect, true));
}

constexpr bool is_held(Holders holders) noexcept { return (holders & 0xFF) != 0; }

/// The common case: a person presses a button that no device holds, or releases one that only this device holds.
constexpr bool is_lone(Holders holders, unsigned itself, bool down) noexcept {
    return holders == (itself & (unsigned{down} - 1));
}
/// merge() for a single holder, in fewer steps. Branch-free, since a processor cannot predict which of the two it is.
constexpr detail::Effect merge_lone(Holders& holders, bool down) noexcept {
    holders = static_cast<Holders>(down * pressed_holder);
    constexpr auto press = static_cast<unsigned>(detail::Effect::press),
                   release = static_cast<unsigned>(detail::Effect::release);
    return static_cast<detail::Effect>(release - down * (release - press));
}

static_assert(
    [] {
        for (const bool down : {false, true}) {
            for (const Holders itself : {adopted_holder, pressed_holder}) {
                Holders quick = down ? Holders{} : itself, full = quick;
                if (!is_lone(quick, itself, down)) return false;
                const detail::Effect of_all =
                    merge(full, down ? detail::SlotKind::press : detail::SlotKind::release, itself == pressed_holder);
                if (merge_lone(quick, down) != of_all || quick != full) return false;
            }
        }
        return true;
    }(),
    "the quick way does what the rule says");

/// Where a merged button's hold began: with the earliest press of those that hold it, or with the earliest adopt if
/// nobody pressed it.
struct HoldStart {
    std::int64_t time = 0;
    bool adopted = true;

    /// Another device holds it; `first`: no device did before.
    constexpr void add(const HoldStart& other, bool first) noexcept {
        if (first || (adopted && !other.adopted) || (adopted == other.adopted && other.time < time)) *this = other;
    }
};

}  // namespace cursorum
