// Four buttons and a stick as one vector.
#pragma once

#include <cstdint>
#include <string_view>

#include "cursorum/core/axis.hpp"
#include "cursorum/core/button_set.hpp"
#include "cursorum/core/export.hpp"

namespace cursorum {

/// The result of opposite controls while both are down: neutral, the one that went down last, or the one that went down
/// first.
enum class WhenOpposed : std::uint8_t { neutral, last, first };
/// "neutral", "last", "first".
CURSORUM_API std::string_view name_of(WhenOpposed opposed) noexcept;

/// The buttons that point in each direction. A direction may have several, such as a letter, an arrow and a side of a
/// pad's hat: any of them points there, and together they are no stronger.
struct DirectionButtons {
    ButtonSet left{}, right{}, up{}, down{};
    /// While opposite buttons are down. Of `last` and `first`, the newest or oldest of all buttons that are down on
    /// either side decides; if two went down at the same time, right and down do.
    WhenOpposed opposed = WhenOpposed::neutral;
};

/// Where some buttons and a stick point during a frame, right and down positive. At each moment the buttons count if
/// they point somewhere (with length 1, diagonals included), else the stick: they never add up.
struct DirectionReading {
    Vector2 before;  ///< at the frame's start
    Vector2 now;     ///< at its end
    /// The mean over the frame, by the times of its events. Times a speed and the tick's step, it is the distance to
    /// move in this frame, the same at every frame rate: `x += speed * tick->step * reading.mean.x`. Zero in a
    /// zero-length frame.
    Vector2 mean;
    /// Where it points at the frame's end, or pointed last within the frame, as a vector of length 1. Zero if it did
    /// not point anywhere in this frame: then a figure goes on looking where it did before.
    Vector2 facing;

    friend constexpr bool operator==(const DirectionReading&, const DirectionReading&) = default;
};

}  // namespace cursorum
