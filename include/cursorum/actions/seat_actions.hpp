// Actions of several players at one game.
#pragma once

#include <cstddef>
#include <memory>
#include <optional>
#include <span>
#include <vector>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/core/export.hpp"

namespace cursorum {

/// An action reader for each seat, used one by one or together.
///
///     Seats seats{2};
///     SeatActions actions{seats, profile};
///     for (unsigned i = 0; i < 2; ++i) actions[i].open(crane);
///     …
///     const Frame& frame = simulation.advance(cut);
///     seats.read(frame);
///     actions.read(frame);
///     if (actions[1][lock].pressed()) …
///     if (const auto seat = actions.first_to_press(start)) …
///
/// For bindings of its own, give a seat a profile with its overlay applied (apply_overlay); to change them at run time,
/// call its reader's rebind(). To share one keyboard, give its halves to two seats: both use the same handles, with
/// other keys.
///
/// Lifetime: `seats` must outlive it. Threads: the same as the sampler's. Cost: that of one reader for each seat, plus
/// a search of 512 holds.
class CURSORUM_API SeatActions {
public:
    /// The same profile for all seats.
    SeatActions(const Seats& seats, const Profile& profile);
    /// One profile for each seat; a seat without one has no actions. The same handles are valid for all profiles with
    /// the same modes and actions in the same order.
    SeatActions(const Seats& seats, std::span<const Profile> profiles);

    /// Reads each frame once, after Seats::read.
    void read(const Frame& frame);

    /// One seat's reader. Precondition: `seat` is less than Seats::count().
    ActionReader& operator[](unsigned seat) noexcept { return *readers_[seat]; }
    const ActionReader& operator[](unsigned seat) const noexcept { return *readers_[seat]; }

    /// The seat that pressed the action first in this frame; ties go to the lower number. Nothing if none did.
    std::optional<unsigned> first_to_press(ButtonAction action) const noexcept;
    /// Returns whether a mode that pauses the game is open at any seat: see ActionReader::pauses().
    bool pauses() const noexcept;
    /// Returns whether the action is down at any seat at the frame's end.
    bool any_down(ButtonAction action) const noexcept;

private:
    const Seats* seats_;
    std::vector<std::unique_ptr<ActionReader>> readers_;
};

}  // namespace cursorum
