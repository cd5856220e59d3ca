// Who owns a control: the uppermost mode that has it, or a claim. What is opened, closed and claimed counts from the
// next frame on, or from the press of an action that opens or closes a mode.
#pragma once

#include <cstdint>
#include <optional>

#include "actions/action_making.hpp"
#include "cursorum/actions/action_reader.hpp"

namespace cursorum::detail {

/// Its part of the state is from `now` to `flow_owners`, and `whose`.
class Ownership {
public:
    /// Calls of the game: they change `next`.
    static bool open(ActionMaking& of, ModeHandle mode) noexcept;
    static bool close(ActionMaking& of, ModeHandle mode) noexcept;
    static std::optional<ClaimId> claim(ActionMaking& of, const Claim& claim) noexcept;
    static void end_claim(ActionMaking& of, ClaimId claim) noexcept;

    static bool is_open(const ActionMaking& of, ModeHandle mode) noexcept;
    /// An open mode pauses the game.
    static bool pauses(const ActionMaking& of) noexcept;
    static bool has_press(const ActionMaking& of, ClaimId claim, Button button) noexcept;
    /// `numbering`: of the reader's handles.
    static ButtonOwner owner_of(const ActionMaking& of, Button button, std::uint32_t numbering) noexcept;
    /// Of the claims on that device, the first, from 1; 0 if there is none.
    static unsigned claim_on(const ActionMaking& of, DeviceId device) noexcept;

    /// From what is open and claimed now, finds the visible modes and the owners of all that is not a button.
    static void find_visible(ActionMaking& of) noexcept;
    /// Nobody, a mode, or a (late) claim: the lowest claim first; else the uppermost mode that sees it.
    static std::uint8_t find_next_owner(const ActionMaking& of, Button button) noexcept;

private:
    static ButtonOwner covering(const ActionMaking& of, Button button, std::uint32_t numbering) noexcept;
};

}  // namespace cursorum::detail
