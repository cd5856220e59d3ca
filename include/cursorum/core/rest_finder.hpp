// Where sticks and triggers rest, learnt from what they report.
#pragma once

#include <array>
#include <cstddef>
#include <vector>

#include "cursorum/core/event.hpp"
#include "cursorum/core/shaping.hpp"
#include "cursorum/core/time.hpp"

namespace cursorum {

/// What a stick's samples say, and the shaping that follows.
struct StickRest {
    std::size_t samples = 0;       ///< values it took
    std::size_t rest_samples = 0;  ///< of those, while nobody moved it
    Duration rest_time{};          ///< for how long it rested
    Vector2 centre;                ///< the middle of its rest: half of the rest's time is on either side
    double farthest = 0;           ///< from the centre while it rested
    Vector2 least, greatest;       ///< ever reported
    bool found = false;            ///< it rested for long enough to tell; else the shaping is the default one
    /// Centre as found; dead zone a quarter and 0.02 wider than what was seen, in steps of 0.005; each end of an axis
    /// as reported if that is 0.8 or more, else 1.
    StickShaping shaping;
};

/// Likewise of a trigger.
struct PullRest {
    std::size_t samples = 0, rest_samples = 0;
    Duration rest_time{};
    double rest = 0, farthest = 0, greatest = 0;
    bool found = false;
    PullShaping shaping;
};

/// Watches one gamepad and proposes how to shape it.
///
/// At rest counts what stays within `near` of zero for at least `least_time`, less `edge` at both ends of that time (a
/// hand coming or going). Of those, what is farther than `reach` from the middle is a hand again.
/// Values are held from sample to sample, so the figures weigh by time, not by how often a device reports.
/// Threads: one. Memory: 24 bytes a sample; add() allocates.
class RestFinder {
public:
    struct Settings {
        double near = 0.35;
        double reach = 0.2;
        Duration least_time = std::chrono::milliseconds{100};
        Duration edge = std::chrono::milliseconds{30};
    };

    RestFinder() = default;
    explicit RestFinder(const Settings& settings) : settings_{settings} {}

    /// An axis took a value; times do not go back. What is no number is left out.
    void add(Time time, Axis axis, double value);
    /// From then on nobody knows its values, until the next one: it was unplugged, or the program lost the focus.
    void lost(Time time);
    /// Until then it held its values.
    void end(Time time) { end_ = time > end_ ? time : end_; }

    StickRest stick(Stick stick) const;
    PullRest pull(Axis pull) const;
    /// Whether that axis reported anything.
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
