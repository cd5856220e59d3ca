// Changing bindings: conflicts, undo, back to what was shipped, the player's overlay.
#pragma once

#include <cstddef>
#include <cstdint>
#include <string>
#include <vector>

#include "cursorum/actions/profile.hpp"
#include "cursorum/core/export.hpp"

namespace cursorum {

/// What happens to the bindings that a new one conflicts with.
enum class Settle : std::uint8_t {
    refuse,    ///< nothing changes
    take,      ///< they are removed
    swap,      ///< the first of them gets the binding that the new one replaces; the others are removed
    keep_both  ///< they stay: one press does both
};

/// For players who use one hand.
enum class Hand : std::uint8_t { left, right };

/// A binding that takes a control for itself which another one takes, too, in the same mode.
struct BindingConflict {
    std::uint16_t action = no_action;  ///< the number of the other's handle
    std::size_t slot = 0;              ///< which of its bindings
    std::string with;                  ///< the control, as the other binding writes it

    friend bool operator==(const BindingConflict&, const BindingConflict&) = default;
};

/// Edits the bindings of a profile.
///
///     BindingEditor editor{shipped, players};
///     const auto conflicts = editor.conflicts_of(lock.number, binding);   // for the question: swap, take, keep both?
///     if (editor.bind(lock.number, 0, binding, Settle::swap)) {
///         actions.rebind(editor.profile());
///         write_file_whole("player.toml", editor.overlay(), why);
///     }
///
/// Actions are given by the numbers of their handles, as the shipped profile numbers them. Two bindings conflict if
/// they are of the same mode and take the same key (either-side names by their keys), axis, mouse or chord; button
/// actions of different gestures do not. Every change can be undone. It allocates.
class CURSORUM_API BindingEditor {
public:
    /// `changed`: the shipped profile with the player's overlay; it must have the same modes and actions.
    BindingEditor(Profile shipped, Profile changed);
    explicit BindingEditor(const Profile& shipped) : BindingEditor{shipped, shipped} {}

    const Profile& profile() const noexcept { return now_; }
    /// The overlay that makes profile() of the shipped one.
    std::string overlay() const;

    /// What a binding of this action would conflict with, other than the action itself.
    std::vector<BindingConflict> conflicts_of(std::uint16_t action, const Binding& binding) const;
    /// Replaces an action's binding `slot`, or adds one behind the last. Returns false, with the reason in `why`, and
    /// changes nothing if the action or slot does not exist, if the binding does not fit the action's kind, or if it
    /// conflicts and `how` is `refuse`.
    bool bind(std::uint16_t action, std::size_t slot, const Binding& binding, Settle how, std::string* why = nullptr);
    /// Removes a binding. Returns false if there is none.
    bool unbind(std::uint16_t action, std::size_t slot);
    /// Inverts the sticks, axes, mice and wheels of an axis (`x`) or of a vector's x or y; its buttons stay. Returns
    /// false if it has none.
    bool invert(std::uint16_t action, bool x, bool y);
    /// Swaps the left and the right stick, their axes, directions and buttons, in all bindings.
    bool swap_sticks();
    /// Makes a held action a toggle, or a toggle a held action. Returns false for other gestures.
    bool hold_or_toggle(std::uint16_t action);
    /// The actions that one hand cannot reach: none of their bindings is on that side of the keyboard (the seats'
    /// halves) or of the pad, all buttons of a chord included. A mouse is on the side `mouse`.
    std::vector<std::uint16_t> out_of_reach(Hand hand, Hand mouse = Hand::right) const;
    /// Back to what was shipped: all of an action, or everything. Returns false if nothing changes.
    bool reset(std::uint16_t action);
    bool reset_all();
    /// Takes the last change back. Returns false if there is none left.
    bool undo();

private:
    bool commit(Profile changed);

    Profile shipped_, now_;
    std::vector<Profile> before_;
};

}  // namespace cursorum
