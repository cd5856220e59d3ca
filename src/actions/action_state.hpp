// What an action reader remembers from frame to frame.
#pragma once

#include <array>
#include <cstdint>
#include <type_traits>

#include "cursorum/actions/claim.hpp"
#include "cursorum/actions/profile.hpp"
#include "cursorum/core/button_set.hpp"
#include "cursorum/core/inlet.hpp"
#include "cursorum/core/shaping.hpp"

namespace cursorum {

namespace detail {

/// Who has a button that is down: nobody, a mode (its number from `first_mode` on), a claim that was there when it was
/// pressed, a claim that came while it was down, or nobody until it is up, since the claim that had its press ended.
struct Owner {
    static constexpr std::uint8_t nobody = 0, first_mode = 1, first_claim = 32, first_late_claim = 64,
                                  taker_ended = 255;

    static constexpr bool is_mode(std::uint8_t owner) noexcept {
        return owner >= first_mode && owner < first_mode + mode_capacity;
    }
};

/// What moves without being a button: each axis, motion, the wheel. A set of them is 64 bits.
inline constexpr unsigned motion_flow = axis_kinds, wheel_flow = axis_kinds + 1, flow_kinds = axis_kinds + 2;

/// Which modes are open, from the lowest up, and what is claimed.
struct Openings {
    std::array<std::uint8_t, mode_capacity> modes{};
    std::uint8_t count = 0;
    std::uint16_t claimed = 0;     // bit n: the claim n is in force
    std::uint16_t of_devices = 0;  // bit n: that claim keeps a device
    std::array<Claim, claim_capacity> claims{};
};

/// What a reader knows of the devices it reads, while it does not read all: a seat's, or those that no claim keeps.
struct DevicePart {
    bool is_part = false;
    std::uint16_t claimed_holds = 0;                       // not 0 in `claim_of`
    std::array<std::uint16_t, hold_capacity> buttons{};    // that each hold has down, as read; 0: none
    std::array<bool, hold_capacity> pressed{};             // not adopted
    std::array<std::uint8_t, hold_capacity> claim_of{};    // whose claim on its device had its press, from 1
    std::array<std::uint16_t, hold_capacity> claimed{};    // and of which button
    std::array<std::uint16_t, button_capacity> holders{};  // merged: as in merging.hpp
};

/// Trivially copyable, no pointers. Levels, beginnings and kinds of holds are those of the frame's start; all else is
/// as of its end.
struct ActionState {
    std::int64_t t0 = 0, t1 = 0;
    std::uint64_t next_serial = 0;                       // that the next frame should have; 0 before the first
    Openings now, next;                                  // `next` from the next frame's start on
    bool reopens = false;                                // they differ
    std::uint32_t bindings = 0;                          // how often they were changed
    std::uint16_t visible = 0;                           // modes
    std::array<std::uint8_t, flow_kinds> flow_owners{};  // as `owner`: nobody, or a mode
    DevicePart part;
    ButtonSet::Words down{};
    struct Whose {
        std::uint8_t owner = 0;  // of those that are down
        std::uint8_t taker = 0;  // who gets the next press: nobody, a mode, a (late) claim
    };
    std::array<Whose, button_capacity> whose{};
    // In which order they went down: only of members of chords that have one, 0 if adopted.
    std::array<std::uint32_t, button_capacity> turn_of{};
    std::uint32_t turns = 0;
    // Bytes, not bits: many are written one after the other, and each bit would wait for the one before it.
    struct Switch {
        bool is_down = false, adopted = false;
    };
    std::array<Switch, switch_capacity> switches{};
    // Bound anew by a rebinding: which members of a switch have to come up before it counts (bit 0 of a lock's), how
    // many switches have any, and which axes and sticks have to come to rest.
    std::array<std::uint8_t, switch_capacity> stale_members{};
    std::uint16_t stale_switches = 0;
    std::array<bool, source_capacity> stale_sources{};

    // button actions
    struct Button {
        std::int64_t start = 0;     // of the hold
        std::uint16_t holders = 0;  // of its bindings: as in merging.hpp
        bool is_down = false;
        bool adopted = false;  // the hold
    };
    std::array<Button, action_capacity> buttons{};
    // gestures: when the press began, or the last one; whether it may still become one; whether the action is down
    std::array<std::int64_t, action_capacity> since{};
    std::array<bool, action_capacity> waits{}, is_on{};
    // a press that waits to be taken, and since when
    std::array<std::int64_t, action_capacity> buffered_since{};
    std::array<bool, action_capacity> holds_press{};
    std::array<bool, action_capacity> injected_down{};
    // Debouncing: when the last edge was let pass, whether there was any, the level since then, and that of the
    // bindings
    std::array<std::int64_t, action_capacity> passed_at{};
    std::array<bool, action_capacity> has_passed{}, passed_down{}, bindings_down{};

    // axes and vectors
    struct Moving {
        Vector2 value, target;
        bool rises = false;
        std::uint8_t direction = 0;               // with `directions`: the bits of its direction
        std::int16_t facing_x = 0, facing_y = 0;  // where it points, times facing_unit
        static constexpr double facing_unit = 32767;
    };
    std::array<Moving, action_capacity> moving{};
    std::array<Vector2, source_capacity> sources{};
    std::array<Vector2, action_capacity> injected{};
    std::array<std::uint8_t, source_capacity>
        latest{};  // which direction went down last: bit 0 of x, bit 1 of y; bit 2: of which
};
static_assert(std::is_trivially_copyable_v<ActionState>);
static_assert(sizeof(ActionState) <= 28 * 1024);

}  // namespace detail
}  // namespace cursorum
