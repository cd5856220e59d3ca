#include "cursorum/core/snapshot.hpp"

#include <algorithm>

namespace cursorum {

ButtonFigures SnapshotFrame::figures(bool was_down, bool down) const noexcept {
    detail::FigureParts figures;
    figures.was_down = was_down;
    figures.down = down;
    figures.any_edge = was_down != down;
    figures.frame_length = std::max(after_.time - before_.time, Duration{});
    figures.press_count = !was_down && down;
    figures.release_count = was_down && !down;
    if (was_down) {
        figures.down_span = figures.held_for = figures.frame_length;
        figures.released = !down;
        if (!down) figures.released_after = figures.held_for;
    }
    return ButtonFigures{figures};
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
