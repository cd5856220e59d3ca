// Switches: what one binding of a button action needs to be down, a button or a chord of several. Of all that a button
// completes, the longest win.
#pragma once

#include <cstdint>

#include "actions/reader_context.hpp"

namespace cursorum::detail {

/// Chords of buttons. Its part of the state is `press_order`, and the columns `switches` and `stale_members`.
class Chords {
public:
    /// Returns whether all its members are down, belong to that owner, and are in its order if it has one.
    static bool are_down(const ReaderContext& of, const ActionSwitch& it, std::uint8_t owner,
                         const ButtonSet& down) noexcept;
    /// Calls `visit(number)` with the longest that the button completes; several if equally long.
    template <typename Visit>
    static void for_each_completed(const ReaderContext& of, Button button, std::uint8_t owner, Visit&& visit);

    /// Call this when a button is up: newly bound switches that have it as a member count from now on.
    static void freshen(ReaderContext& of, Button button) noexcept;
    /// Likewise for some members of one switch; bit 0 stands for a lock or a value.
    static void freshen(ReaderContext& of, unsigned number, unsigned members) noexcept;
};

template <typename Visit>
void Chords::for_each_completed(const ReaderContext& of, Button button, std::uint8_t owner, Visit&& visit) {
    const ButtonSet down{of.state_.down};
    const auto completes = [&](const ButtonSwitch& it) {
        if (it.owner != owner || of.state_.switches[it.number].is_down || of.state_.has_stale_members(it.number))
            return false;
        return are_down(of, of.map_->switches[it.number], owner, down);
    };
    const auto length = [&](const ButtonSwitch& it) { return of.map_->switches[it.number].member_count; };
    unsigned longest = 0;
    for (const ButtonSwitch& it : of.map_->switches_of(button))
        if (length(it) > longest && completes(it)) longest = length(it);
    for (const ButtonSwitch& it : of.map_->switches_of(button))
        if (length(it) == longest && completes(it)) visit(it.number);
}

/// A pair or a cross is two or four switches, whose order of presses decides between opposites.
class Directions {
public:
    /// Notes that one of a source's directions went down.
    static void note_newest(ReaderContext& of, const ActionSwitch& it) noexcept;
    static Vector2 value(const ReaderContext& of, unsigned source) noexcept;
};

}  // namespace cursorum::detail
