// Actions of several players at one game.
#pragma once

#include <cstddef>
#include <memory>
#include <optional>
#include <span>
#include <vector>

#include "cursorum/actions/action_reader.hpp"

namespace cursorum {

/// An action reader for each seat, to be asked one by one or together.
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
/// A seat with bindings of its own has a profile with its overlay laid over it (lay_over), and is changed at run time
/// by its reader's rebind(). To share one keyboard, give its halves to two seats: handles are of the profile, so both
/// may bind other keys to the same action.
///
/// Lifetime: `seats` outlives it. Threads: the sampler's. Cost: a reader's for each seat, and 512 looks at what devices
/// hold down.
class SeatActions {
public:
    /// The same profile for all seats.
    SeatActions(const Seats& seats, const Profile& profile);
    /// One for each seat; a seat without one has none. Handles fit all of them if they have the same modes and actions
    /// in the same order.
    SeatActions(const Seats& seats, std::span<const Profile> profiles);

    /// Each frame once, after Seats::read.
    void read(const Frame& frame);

    /// `seat` is below Seats::count().
    ActionReader& operator[](unsigned seat) noexcept { return *readers_[seat]; }
    const ActionReader& operator[](unsigned seat) const noexcept { return *readers_[seat]; }

    /// The seat that pressed it first in this frame, ties to the lower number; nothing if nobody did.
    std::optional<unsigned> first_to_press(ButtonAction action) const noexcept;
    /// Some seat has it down at the frame's end.
    bool any_down(ButtonAction action) const noexcept;

private:
    const Seats* seats_;
    std::vector<std::unique_ptr<ActionReader>> readers_;
};

}  // namespace cursorum
