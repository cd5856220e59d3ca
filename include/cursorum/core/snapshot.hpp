// Snapshots: the level of every button at one instant.
#pragma once

#include "cursorum/core/button_reading.hpp"
#include "cursorum/core/button_set.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/time.hpp"

namespace cursorum {

/// Which buttons are down at `time`, merged over all devices. A plain value of 56 bytes: copy it, keep it, send it.
struct Snapshot {
    Time time;
    ButtonSet down;

    friend constexpr bool operator==(const Snapshot&, const Snapshot&) = default;
};

/// A frame made of two snapshots alone, for programs that only poll. Changes are dated to the second snapshot; a button
/// that went down and up between the two is not seen (events would show it).
class CURSORUM_API SnapshotFrame {
public:
    /// Holds count from `before`, since their beginnings are unknown.
    ButtonFigures operator[](Button button) const noexcept;
    /// One reading for any of several buttons.
    ButtonFigures any(const ButtonSet& buttons) const noexcept;

    Time start() const noexcept { return before_.time; }
    Time end() const noexcept { return after_.time; }
    const Snapshot& previous() const noexcept { return before_; }
    const Snapshot& current() const noexcept { return after_; }

private:
    friend SnapshotFrame compare(const Snapshot& before, const Snapshot& after) noexcept;
    SnapshotFrame(const Snapshot& before, const Snapshot& after) noexcept : before_{before}, after_{after} {}
    ButtonFigures figures(bool was_down, bool down) const noexcept;

    Snapshot before_, after_;
};

/// The frame between two snapshots. If `after` is earlier than `before`, it has zero length. Cost: a copy.
CURSORUM_API SnapshotFrame compare(const Snapshot& before, const Snapshot& after) noexcept;

}  // namespace cursorum
