// Claims: controls that a dialogue or text field keeps from the modes. Areas: where clicks count.
#pragma once

#include <cstdint>

#include "cursorum/core/button_set.hpp"
#include "cursorum/core/event.hpp"
#include "cursorum/core/space.hpp"

namespace cursorum {

/// The controls that a dialogue, a text field or the like keeps from all modes.
struct Claim {
    bool everything = false;  ///< every button and axis, touch, motion and wheel
    ButtonSet buttons{};
    bool axes = false;    ///< all axes, sticks and touch surfaces of gamepads
    bool motion = false;  ///< the motion of mice
    bool wheel = false;   ///< the turning of wheels, and their steps
    DeviceId device{};    ///< if not 0, all controls of that device; other devices are not affected

    constexpr bool has(Button button) const noexcept { return everything || buttons.contains(button); }
    friend constexpr bool operator==(const Claim&, const Claim&) = default;
};

/// Where a mouse button has to be pressed to count for an action: ActionReader::set_area().
struct ClickArea {
    WindowRect rect;
    bool outside = false;  ///< anywhere but there

    friend constexpr bool operator==(const ClickArea&, const ClickArea&) = default;
};
/// Maximum number of actions with areas per reader.
inline constexpr unsigned area_capacity = 8;

/// Maximum number of claims per reader.
inline constexpr unsigned claim_capacity = 16;

/// Identifies a claim in force of one reader (ActionReader::claim).
enum class ClaimId : std::uint8_t {};

}  // namespace cursorum
