#include "cursorum/core/snapshot.hpp"

#include <algorithm>

namespace cursorum {

ButtonFigures SnapshotFrame::figures(bool was_down, bool down) const noexcept {
    ButtonFigures figures;
    figures.was_down_ = was_down;
    figures.down_ = down;
    figures.any_edge_ = was_down != down;
    figures.frame_length_ = std::max(after_.time - before_.time, Duration{});
    figures.press_count_ = !was_down && down;
    figures.release_count_ = was_down && !down;
    if (was_down) {
        figures.down_span_ = figures.held_for_ = figures.frame_length_;
        figures.released_ = !down;
        if (!down) figures.released_after_ = figures.held_for_;
    }
    return figures;
}

ButtonFigures SnapshotFrame::operator[](Button button) const noexcept {
    return figures(before_.down.contains(button), after_.down.contains(button));
}

ButtonFigures SnapshotFrame::any(const ButtonSet& buttons) const noexcept {
    bool was_down = false, down = false;
    buttons.for_each([&](Button button) {
        was_down |= before_.down.contains(button);
        down |= after_.down.contains(button);
    });
    return figures(was_down, down);
}

SnapshotFrame compare(const Snapshot& before, const Snapshot& after) noexcept { return {before, after}; }

}  // namespace cursorum
