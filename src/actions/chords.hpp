// Switches: what one binding of a button action needs to be down, a button or a chord of several. Of all that a button
// completes, the longest win.
#pragma once

#include <cstdint>
#include <optional>
#include <type_traits>

#include "actions/reader_context.hpp"

namespace cursorum::detail {

/// Chords of buttons. Its part of the state is `press_order`, and the columns `switches` and `stale_members`.
class Chords {
public:
    /// Returns nothing if all members of a switch are down, belong to that owner, and are in its order if it has one;
    /// else the rule that it breaks.
    static std::optional<Rule> rule_against(const ReaderContext& of, const ActionSwitch& it, std::uint8_t owner,
                                            const ButtonSet& down) noexcept;
    /// Calls `visit(number)` with the longest that the button completes; several if equally long. Before that, calls
    /// `reject(number, rule, longest)` with each other switch of the owner, unless it is null; `longest` is one of
    /// those that are completed.
    template <typename Visit, typename Reject>
    static void for_each_completed(const ReaderContext& of, Button button, std::uint8_t owner, Visit&& visit,
                                   Reject&& reject);

    /// Call this when a button is up: newly bound switches that have it as a member count from now on.
    static void freshen(ReaderContext& of, Button button) noexcept;
    /// Likewise for some members of one switch; bit 0 stands for a lock or a value.
    static void freshen(ReaderContext& of, unsigned number, unsigned members) noexcept;
};

template <typename Visit, typename Reject>
void Chords::for_each_completed(const ReaderContext& of, Button button, std::uint8_t owner, Visit&& visit,
                                Reject&& reject) {
    const ButtonSet down{of.state_.down};
    const auto rule = [&](const ButtonSwitch& it) -> std::optional<Rule> {
        if (of.state_.switches[it.number].is_down) return Rule::already_down;
        if (of.state_.has_stale_members(it.number)) return Rule::not_up_since_bound;
        return rule_against(of, of.map_->switches[it.number], owner, down);
    };
    const auto length = [&](const ButtonSwitch& it) { return of.map_->switches[it.number].member_count; };
    unsigned longest_length = 0, longest = 0;
    for (const ButtonSwitch& it : of.map_->switches_of(button))
        if (it.owner == owner && length(it) > longest_length && !rule(it))
            longest_length = length(it), longest = it.number;
    if constexpr (!std::is_null_pointer_v<std::remove_cvref_t<Reject>>)
        for (const ButtonSwitch& it : of.map_->switches_of(button)) {
            if (it.owner != owner) continue;
            if (const std::optional<Rule> its = rule(it))
                reject(it.number, *its, longest);
            else if (length(it) != longest_length)
                reject(it.number, Rule::longer_chord, longest);
        }
    for (const ButtonSwitch& it : of.map_->switches_of(button))
        if (it.owner == owner && length(it) == longest_length && !rule(it)) visit(it.number);
}

/// A pair or a cross is two or four switches, whose order of presses decides between opposites.
class Directions {
public:
    /// Notes that one of a source's directions went down.
    static void note_newest(ReaderContext& of, const ActionSwitch& it) noexcept;
    static Vector2 value(const ReaderContext& of, unsigned source) noexcept;
};

}  // namespace cursorum::detail
