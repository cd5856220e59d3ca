// Finds where sticks and triggers rest, from the values that they report.
#pragma once

#include <array>
#include <cstddef>
#include <vector>

#include "cursorum/core/device.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/shaping.hpp"
#include "cursorum/core/time.hpp"

namespace cursorum {

/// What a stick's samples show, and the shaping that follows.
struct StickRest {
    std::size_t samples = 0;       ///< number of values
    std::size_t rest_samples = 0;  ///< of those, values at rest
    Duration rest_time{};          ///< how long it was at rest
    Vector2 centre;                ///< its rest position: the median by time
    double farthest = 0;           ///< the greatest distance from the centre while at rest
    Vector2 least, greatest;       ///< of all values
    bool found = false;            ///< it was at rest for long enough; otherwise the shaping is the default
    /// Centre as found; dead zone a quarter and 0.02 wider than what was seen, in steps of 0.005; each end of an axis
    /// as reported if that is 0.8 or more, else 1.
    StickShaping shaping;
};

/// The same for a trigger.
struct TriggerRest {
    std::size_t samples = 0, rest_samples = 0;
    Duration rest_time{};
    double rest = 0, farthest = 0, greatest = 0;
    bool found = false;
    PullShaping shaping;
};

/// Watches one gamepad and proposes its shaping.
///
/// A stick is at rest while it stays within `near` of zero for at least `least_time`, less `edge` at both ends of that
/// time (when a hand comes or goes). Values farther than `reach` from the median do not count as rest. A value holds
/// until the next one, so the figures are weighted by time, not by how often a device reports.
/// Threads: one. Memory: 24 bytes for each sample; add() allocates.
class CURSORUM_API RestFinder {
public:
    struct Settings {
        double near = 0.35;
        double reach = 0.2;
        Duration least_time = std::chrono::milliseconds{100};
        Duration edge = std::chrono::milliseconds{30};
    };

    RestFinder() = default;
    explicit RestFinder(const Settings& settings) : settings_{settings} {}

    /// Adds a value of an axis. Times must not decrease. NaN and infinity are ignored.
    void add(Time time, Axis axis, double value);
    /// From that time until the next value, the axes are unknown: the device was unplugged, or the focus was lost.
    void lost(Time time);
    /// The end of the samples: the last values held until then.
    void end(Time time) { end_ = time > end_ ? time : end_; }

    StickRest stick(Stick stick) const;
    TriggerRest trigger(Axis trigger) const;
    /// Returns whether that axis reported anything.
    bool has(Axis axis) const noexcept { return axis.number < axis_kinds && !values_[axis.number].empty(); }

private:
    struct Sample {
        Time time;
        double value;
    };
    struct Held {
        Vector2 at;
        Time from, to;
    };
    std::vector<Held> states(Axis x, Axis y) const;
    std::vector<Held> resting(const std::vector<Held>& states) const;

    Settings settings_;
    std::array<std::vector<Sample>, axis_kinds> values_;
    Time end_;
};

}  // namespace cursorum
