// Snapshots compared: what was pressed and released between two of them, by levels alone. For code that polls, and for
// what is sent over a network.
#include "cursorum/core/snapshot.hpp"

#include <algorithm>

namespace cursorum {

ButtonFigures SnapshotFrame::any(const ButtonSet& buttons) const noexcept {
    bool was_down = false, down = false;
    buttons.for_each([&](Button button) {
        // An either-side name is in a frame's snapshot; in a device's, its keys are.
        const ButtonSet keys = physical_buttons(button);
        was_down |= before_.down.contains(button) || !(before_.down & keys).empty();
        down |= after_.down.contains(button) || !(after_.down & keys).empty();
    });
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

DeviceSnapshotFrame::DeviceSnapshotFrame(const DeviceSnapshot& before, const DeviceSnapshot& after) noexcept
    : SnapshotFrame{{before.time, before.down}, {after.time, after.down}},
      raw_before_{before.raw_axes},
      raw_now_{after.raw_axes} {
    const bool has_length = after.time > before.time;
    for (std::size_t i = 0; i < sticks_.size(); ++i)
        sticks_[i] = {before.sticks[i], after.sticks[i], has_length ? before.sticks[i] : Vector2{}};
    for (std::size_t i = 0; i < pulls_.size(); ++i) pulls_[i] = reading(before.pulls[i], after.pulls[i]);
}

AxisReading DeviceSnapshotFrame::reading(double before, double now) const noexcept {
    return {before, now, std::min(before, now), std::max(before, now), end() > start() ? before : 0};
}

StickReading DeviceSnapshotFrame::stick(Stick stick) const noexcept {
    return stick.number < stick_kinds ? sticks_[stick.number] : StickReading{};
}
AxisReading DeviceSnapshotFrame::trigger(Axis pull) const noexcept {
    return is_pull(pull) ? pulls_[pull.number % 2] : AxisReading{};
}
AxisReading DeviceSnapshotFrame::raw_axis(Axis axis) const noexcept {
    if (axis.number >= axis_kinds) return {};
    const auto value = [&](const AxisValues& of) { return of.has(axis.number) ? of.values[axis.number] : 0; };
    return reading(value(raw_before_), value(raw_now_));
}

SnapshotFrame compare(const Snapshot& before, const Snapshot& after) noexcept { return {before, after}; }
DeviceSnapshotFrame compare(const DeviceSnapshot& before, const DeviceSnapshot& after) noexcept {
    return {before, after};
}

}  // namespace cursorum
