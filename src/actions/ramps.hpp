// The motion of an axis or a vector toward its target, as plain functions of value, target and time. They know nothing
// of frames or actions.
#pragma once

#include <cstdint>

#include "cursorum/core/shaping.hpp"
#include "cursorum/core/time.hpp"

namespace cursorum {

/// From 0 to 1, and from 1 to 0. Zero: at once.
struct Ramps {
    Duration rise{}, fall{};
};

// Straight lines, so that value and integral are exact however the time is cut: two calls for a part of the time each
// do what one call for the whole does, but for the last bits.

/// Moves `value` toward `target` for `span` nanoseconds; returns the integral of the value, in value times seconds. It
/// rises when it moves away from 0, falls when it moves toward 0; through 0 it first falls, then rises.
double move_toward(double& value, double target, const Ramps& ramps, std::int64_t span) noexcept;

/// A vector in motion: it moves to the target in a straight line, at the speed of rising or of falling, which is
/// decided when the target steps.
struct VectorMotion {
    Vector2 value, target;
    bool rises = false;
};
/// The target steps; `rises`: it is at least as long as the value, but for rounding.
void set_target(VectorMotion& motion, Vector2 target) noexcept;
/// As for axes.
Vector2 move_on(VectorMotion& motion, const Ramps& ramps, std::int64_t span) noexcept;

}  // namespace cursorum
