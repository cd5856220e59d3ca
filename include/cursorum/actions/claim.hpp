// Claims: controls that an upper taker keeps from those below.
#pragma once

#include <cstdint>

#include "cursorum/core/button_set.hpp"
#include "cursorum/core/event.hpp"

namespace cursorum {

/// What a dialogue, a text field or the like keeps from all modes.
struct Claim {
    bool everything = false;  ///< every button and axis, motion and wheel
    ButtonSet buttons{};
    bool axes = false;    ///< all axes and sticks
    bool motion = false;  ///< how far mice move
    bool wheel = false;   ///< how far wheels turn, and their steps
    DeviceId device{};    ///< all of that device, if it is not 0; what others do goes on

    constexpr bool has(Button button) const noexcept { return everything || buttons.contains(button); }
    friend constexpr bool operator==(const Claim&, const Claim&) = default;
};

/// How many a reader can have at a time.
inline constexpr unsigned claim_capacity = 16;

/// A claim in force, of the reader that gave it (ActionReader::claim).
enum class ClaimId : std::uint8_t {};

}  // namespace cursorum
