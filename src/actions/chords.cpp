// Chords: from buttons to the bindings that they complete or end.
#include "actions/edges.hpp"

namespace cursorum {

using detail::Effect;

void ActionReaderCore::take_rare_edge(Button button, bool down, bool by_person, std::int64_t time) {
    take_edge(button, down, by_person, time);
}

void ActionReaderCore::set_switch(unsigned number, bool down, bool by_person, std::int64_t time) {
    const ActionSwitch& it = map_->switches[number];
    if (!it.is_button) {
        state_.switches[number] = {down, down && !by_person};
        return turn_direction(number, down, time);
    }
    const Effect effect = merge_switch(number, it.action, down, by_person);
    if (effect != Effect::none) deliver(it.action, effect, time);
}

/// For a button that is a member of chords, and for any button while some are newly bound.
void ActionReaderCore::turn_chords(Button button, std::uint8_t owner, bool down, bool by_person, std::int64_t time) {
    if (down) return complete_chords(button, owner, by_person, time);
    for (const ButtonSwitch& it : map_->switches_of(button))
        if (state_.switches[it.number].is_down) set_switch(it.number, false, by_person, time);
}

/// Returns whether all its members are down, belong to its owner, and are in its order if it has one.
bool ActionReaderCore::are_down(const ActionSwitch& it, std::uint8_t owner, const ButtonSet& down) const noexcept {
    for (unsigned i = 0; i < it.member_count; ++i)
        if (!down.contains({it.members[i]}) || state_.whose[it.members[i]].owner != owner) return false;
    for (unsigned i = 1; it.in_order && i < it.member_count; ++i)
        if (state_.turn_of[it.members[i]] < state_.turn_of[it.members[i - 1U]]) return false;
    return true;
}

// The longest chords that the button completes; several if equally long.
void ActionReaderCore::complete_chords(Button button, std::uint8_t owner, bool by_person, std::int64_t time) {
    const ButtonSet down{state_.down};
    const auto completes = [&](const ButtonSwitch& it) {
        if (it.owner != owner || state_.switches[it.number].is_down || state_.stale_members[it.number] != 0)
            return false;
        return are_down(map_->switches[it.number], owner, down);
    };
    const auto length = [&](const ButtonSwitch& it) { return map_->switches[it.number].member_count; };
    unsigned longest = 0;
    for (const ButtonSwitch& it : map_->switches_of(button))
        if (length(it) > longest && completes(it)) longest = length(it);
    for (const ButtonSwitch& it : map_->switches_of(button))
        if (length(it) == longest && completes(it)) set_switch(it.number, true, by_person, time);
}

void ActionReaderCore::turn_direction(unsigned number, bool down, std::int64_t time) {
    const ActionSwitch& it = map_->switches[number];
    if (down) {
        const unsigned bit = it.direction / 2;
        std::uint8_t& latest = state_.latest[it.source];
        latest = static_cast<std::uint8_t>((latest & ~(1U << bit) & ~4U) | (it.direction % 2U) << bit | bit << 2);
    }
    steps_.push_back(
        {time, value_of_directions(it.source), static_cast<std::uint32_t>(steps_.size()), it.action, it.source});
}

Vector2 ActionReaderCore::value_of_directions(unsigned number) const noexcept {
    const ActionSource& source = map_->sources[number];
    const auto one = [&](unsigned axis) -> double {
        const bool minus = state_.switches[source.first_switch + 2 * axis].is_down;
        const bool plus = state_.switches[source.first_switch + 2 * axis + 1].is_down;
        if (minus != plus || !minus || source.opposed == WhenOpposed::neutral) return int{plus} - int{minus};
        const bool plus_was_last = (state_.latest[number] >> axis & 1) != 0;
        return plus_was_last == (source.opposed == WhenOpposed::last) ? 1 : -1;
    };
    Vector2 value{one(0) * source.scale, source.kind == Binding::Kind::cross ? one(1) * source.scale : 0};
    // With four directions, the newest one counts.
    if (source.directions == 4 && value.x != 0 && value.y != 0)
        ((state_.latest[number] >> 2 & 1) != 0 ? value.x : value.y) = 0;
    return value;
}

}  // namespace cursorum
