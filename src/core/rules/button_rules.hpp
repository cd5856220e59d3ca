// The rules for a device's buttons, independent of who stores the levels: inlets and batches give their own storage.
// One event, or one polled state, and what it means.
#pragma once

#include <algorithm>
#include <array>
#include <cstdint>

#include "cursorum/core/button_set.hpp"
#include "cursorum/core/detail/frame_window.hpp"
#include "cursorum/core/event.hpp"

namespace cursorum {

/// A button went down or up, or the system repeated it (`marked`). `Keys` has is_down(), marks_repeats(), edge(), false
/// if there is no room for one more hold, and system_repeat().
template <typename Keys>
inline Outcome apply_button(Keys&& keys, Button button, bool down, bool marked) noexcept {
    using detail::SlotKind;
    const bool is_down = keys.is_down(button);
    if ((is_down ^ down) & !marked) [[likely]] {
        if (!keys.edge(down ? SlotKind::press : SlotKind::release, button)) [[unlikely]]
            return Outcome::refused_holds;
        return down ? Outcome::press : Outcome::release;
    }
    if (!down) return Outcome::stray_release;
    if (!is_down) {
        if (!keys.edge(SlotKind::adopt, button)) return Outcome::refused_holds;
        keys.system_repeat(button);
        return Outcome::adopted_repeat;
    }
    if (marked || !keys.marks_repeats()) {
        keys.system_repeat(button);
        return Outcome::system_repeat;
    }
    keys.edge(SlotKind::cancel, button);
    keys.edge(SlotKind::press, button);
    return Outcome::lost_release;
}

/// Buttons of one device in the order of their names, the order of edges that happen at once.
struct SortedButtons {
    std::array<std::uint32_t, button_capacity> keys;
    unsigned count = 0;

    explicit SortedButtons(const ButtonSet& set) noexcept {
        set.for_each([this](Button b) { keys[count++] = std::uint32_t{name_rank(b)} << 16 | b.number; });
        std::sort(keys.begin(), keys.begin() + count);
    }
    Button operator[](unsigned i) const noexcept { return {static_cast<std::uint16_t>(keys[i])}; }
};

/// A polled state: the set `known` to be down becomes `down`.
template <typename Keys>
Outcome apply_polled_state(Keys&& keys, const ButtonSet& known, const ButtonSet& down, bool adopting) noexcept {
    using detail::SlotKind;
    const SortedButtons ended{known - down}, started{down - known};
    for (unsigned i = 0; i < ended.count; ++i) keys.edge(adopting ? SlotKind::cancel : SlotKind::release, ended[i]);
    bool all = true;
    for (unsigned i = 0; i < started.count; ++i)
        all &= keys.edge(adopting ? SlotKind::adopt : SlotKind::press, started[i]);
    if (!all) return Outcome::refused_holds;
    return adopting ? Outcome::state_adopted : Outcome::state_taken;
}

}  // namespace cursorum
