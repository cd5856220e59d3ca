// Who owns a control: the uppermost mode that has it, or a claim. What is opened, closed and claimed counts from the
// next frame on, or from the press of an action that opens or closes a mode.
#pragma once

#include <cstdint>
#include <optional>

#include "actions/reader_context.hpp"
#include "cursorum/actions/action_reader.hpp"
#include "cursorum/actions/verdict.hpp"

namespace cursorum::detail {

/// Modes, claims and owners. Its part of the state is from `now` to `flow_owners`, and `whose`.
class Ownership {
public:
    // What the game calls; each changes `next`.
    static bool open(ReaderContext& of, ModeHandle mode) noexcept;
    static bool close(ReaderContext& of, ModeHandle mode) noexcept;
    static std::optional<ClaimId> claim(ReaderContext& of, const Claim& claim) noexcept;
    static void end_claim(ReaderContext& of, ClaimId claim) noexcept;

    static bool is_open(const ReaderContext& of, ModeHandle mode) noexcept;
    /// Returns whether an open mode pauses the game.
    static bool pauses(const ReaderContext& of) noexcept;
    static bool has_press(const ReaderContext& of, ClaimId claim, Button button) noexcept;
    /// `numbering`: of the reader's handles.
    static ButtonOwner owner_of(const ReaderContext& of, Button button, std::uint32_t numbering) noexcept;
    /// Why a mode that binds a button does not get its press, which `owner` has. `by`: the number of the mode that has
    /// or covers it, if there is one.
    static Rule rule_against(const ReaderContext& of, std::uint8_t mode, std::uint8_t owner,
                             std::optional<std::uint8_t>& by) noexcept;
    /// The number of the first claim on that device, from 1; 0 if there is none.
    static unsigned claim_on(const ReaderContext& of, DeviceId device) noexcept;

    /// A mode that takes text, a claim, or nobody. `key`: that made it, or 0.
    static std::uint8_t owner_of_text(const ReaderContext& of, Button key) noexcept;
    /// Computes the visible modes, and the owners of axes, motion, wheel and touch.
    static void find_visible(ReaderContext& of) noexcept;
    /// Nobody, a mode, or a (late) claim: the lowest claim first; else the uppermost mode that sees it.
    static std::uint8_t find_next_owner(const ReaderContext& of, Button button) noexcept;

private:
    static ButtonOwner covering(const ReaderContext& of, Button button, std::uint32_t numbering) noexcept;
    static std::optional<std::uint8_t> cover(const ReaderContext& of) noexcept;
};

}  // namespace cursorum::detail
