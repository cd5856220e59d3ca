// Snapshots: levels at one instant, and what happened between two of them.
#pragma once

#include <array>

#include "cursorum/core/axis_reading.hpp"
#include "cursorum/core/button_reading.hpp"
#include "cursorum/core/button_set.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/shaping.hpp"
#include "cursorum/core/time.hpp"

namespace cursorum {

/// The buttons that are down at `time`, merged over all devices: keys, mouse and pad buttons, sticks' directions,
/// triggers and other axes as buttons, and either-side names. Axes and the pointer are not in it (a DeviceSnapshot has
/// a device's axes). A plain value of 64 bytes: copy it, keep it, send it.
struct Snapshot {
    Time time;
    ButtonSet down;

    friend constexpr bool operator==(const Snapshot&, const Snapshot&) = default;
};
static_assert(sizeof(Snapshot) == 64);

/// One device at `time`: its buttons and axes. A plain value of 376 bytes.
struct DeviceSnapshot {
    Time time{};
    ButtonSet down{};       ///< its buttons, and its directions and axes as buttons; either-side names are not included
    AxisValues raw_axes{};  ///< as reported; those that are absent are at rest
    std::array<Vector2, stick_kinds> sticks{};  ///< shaped
    std::array<double, 2> pulls{};              ///< the left and the right trigger, shaped

    friend constexpr bool operator==(const DeviceSnapshot&, const DeviceSnapshot&) = default;
};
static_assert(sizeof(DeviceSnapshot) == 376);

/// A frame made of two snapshots alone, for programs that only poll. Changes are dated to the second snapshot; a button
/// that went down and up between the two is not seen (events would show it).
class CURSORUM_API SnapshotFrame {
public:
    /// Holds count from `before`, since their beginnings are unknown. Either-side names work in both kinds of
    /// snapshots.
    ButtonFigures operator[](Button button) const noexcept { return any({button}); }
    /// One reading for any of several buttons.
    ButtonFigures any(const ButtonSet& buttons) const noexcept;

    Time start() const noexcept { return before_.time; }
    Time end() const noexcept { return after_.time; }
    const Snapshot& previous() const noexcept { return before_; }
    const Snapshot& current() const noexcept { return after_; }

protected:
    friend SnapshotFrame compare(const Snapshot& before, const Snapshot& after) noexcept;
    SnapshotFrame(const Snapshot& before, const Snapshot& after) noexcept : before_{before}, after_{after} {}

private:
    Snapshot before_, after_;
};

/// The same for one device, with its axes. Values hold until the second snapshot, so a mean is the value before.
class CURSORUM_API DeviceSnapshotFrame : public SnapshotFrame {
public:
    StickReading stick(Stick stick) const noexcept;
    AxisReading trigger(Axis trigger) const noexcept;
    AxisReading raw_axis(Axis axis) const noexcept;

private:
    friend DeviceSnapshotFrame compare(const DeviceSnapshot& before, const DeviceSnapshot& after) noexcept;
    DeviceSnapshotFrame(const DeviceSnapshot& before, const DeviceSnapshot& after) noexcept;
    AxisReading reading(double before, double now) const noexcept;

    std::array<StickReading, stick_kinds> sticks_;
    std::array<AxisReading, 2> pulls_;
    AxisValues raw_before_, raw_now_;
};

/// The frame between two snapshots, or between two snapshots of one device. If `after` is earlier than `before`, it has
/// zero length. Cost: a copy.
CURSORUM_API SnapshotFrame compare(const Snapshot& before, const Snapshot& after) noexcept;
CURSORUM_API DeviceSnapshotFrame compare(const DeviceSnapshot& before, const DeviceSnapshot& after) noexcept;

}  // namespace cursorum
