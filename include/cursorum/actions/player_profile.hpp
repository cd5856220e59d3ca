// A shipped profile with a player's changes: what a binding screen edits.
#pragma once

#include <cstddef>
#include <string>
#include <string_view>
#include <vector>

#include "cursorum/actions/profile.hpp"
#include "cursorum/actions/profile_file.hpp"
#include "cursorum/core/export.hpp"

namespace cursorum {

/// What happens to the bindings that a new one conflicts with.
enum class Settle : std::uint8_t {
    refuse,    ///< nothing changes
    replace,   ///< they are removed
    swap,      ///< the first of them gets the binding that the new one replaces; the others are removed
    keep_both  ///< they stay: one press does both
};

/// For players who use one hand.
enum class Hand : std::uint8_t { left, right };

/// A binding that takes a control for itself which another one takes, too, in the same mode.
struct BindingConflict {
    std::string action;    ///< the other one: "crane.horn"
    std::size_t slot = 0;  ///< which of its bindings
    std::string with;      ///< the control, as the other binding writes it

    friend bool operator==(const BindingConflict&, const BindingConflict&) = default;
};

/// The profile that the game ships, and a player's changes to it, as one value. It knows no file.
///
///     PlayerProfile player{shipped};
///     …
///     for (const BindingConflict& it : player.conflicts_of("crane.lock", binding)) ask_about(it);
///     if (player.bind("crane.lock", 0, binding, Settle::swap, &why)) {
///         actions.rebind(player.profile(), &why);
///         write_file_whole("player.toml", player.overlay(), why);
///     }
///
/// Actions are given by name, "mode.action", or by the action's name alone if only one mode has it; so the shipped
/// profile may be replaced at any time, and what the player changed stays. Two bindings conflict if they are of the
/// same mode and take the same key (either-side names by their keys), axis, mouse or chord; button actions of different
/// gestures do not. Every change can be undone, until the shipped profile or the whole overlay is replaced.
/// A plain value: copy it to offer "cancel". It allocates. Threads: one at a time.
class CURSORUM_API PlayerProfile {
public:
    explicit PlayerProfile(Profile shipped = {});

    const Profile& shipped() const noexcept { return shipped_; }
    /// With the player's changes: what an action reader gets.
    const Profile& profile() const noexcept { return now_; }
    /// The player's changes, as the text of an overlay: only what differs.
    std::string overlay() const;

    /// Replaces the shipped profile, and keeps the player's changes, by name. What no longer fits is left out, and
    /// listed in dropped().
    void set_shipped(Profile shipped);
    /// Replaces the player's changes by those of an overlay's text; an empty text has none. What does not fit the
    /// profile is left out, and listed in dropped(). Returns false, sets `error` and changes nothing if the text is not
    /// an overlay; `name` is used in messages.
    bool set_overlay(std::string_view text, std::string_view name, ProfileError& error);
    /// What the last set_shipped() or set_overlay() left out.
    const std::vector<ProfileError>& dropped() const noexcept { return dropped_; }

    /// What a binding of this action would conflict with, other than the action itself. Empty for an unknown action.
    std::vector<BindingConflict> conflicts_of(std::string_view action, const Binding& binding) const;
    /// Replaces an action's binding `slot`, or adds one behind the last. Returns false, with the reason in `why`, and
    /// changes nothing if the action or slot does not exist, if the binding is not valid for the action's kind, or if
    /// it conflicts and `how` is `refuse`. After `replace` and `swap`, nothing conflicts with it; what cannot be
    /// swapped without a conflict is removed.
    bool bind(std::string_view action, std::size_t slot, const Binding& binding, Settle how,
              std::string* why = nullptr);
    /// Removes a binding. Returns false if there is none.
    bool unbind(std::string_view action, std::size_t slot);
    /// Inverts the sticks, axes, mice and wheels of an axis (`x`) or of a vector's x or y; its buttons stay. Returns
    /// false if it has none.
    bool invert(std::string_view action, bool x, bool y);
    /// Swaps the left and the right stick, their axes, directions and buttons, in all bindings.
    bool swap_sticks();
    /// Makes a held action a toggle, or a toggle a held action. Returns false for other gestures.
    bool hold_or_toggle(std::string_view action);
    /// The actions ("mode.action") that one hand cannot reach: none of their bindings is on that side of the keyboard
    /// (the seats' halves) or of the pad, all buttons of a chord included. A mouse is on the side `mouse`.
    std::vector<std::string> out_of_reach(Hand hand, Hand mouse = Hand::right) const;
    /// Back to what was shipped: all of an action, or everything. Returns false if nothing changes.
    bool reset(std::string_view action);
    bool reset_all();
    /// Takes the last change back. Returns false if there is none left.
    bool undo();

private:
    bool commit(Profile changed);

    Profile shipped_, now_;
    std::vector<Profile> before_;
    std::vector<ProfileError> dropped_;
};

}  // namespace cursorum
