// From a button that went down to the switches that it completes: of all whose members are down and belong to one mode,
// the longest win. A pair or a cross is two or four switches, whose order of presses decides between opposites.
#include <algorithm>
#include <utility>

#include "actions/edges.hpp"

namespace cursorum {

using detail::Effect;

void ActionReaderCore::take_rare_edge(Button button, bool down, bool by_person, std::int64_t time) {
    take_edge(button, down, by_person, time);
}

// The first half of a restart. Modes change after the second one.
void ActionReaderCore::cancel_before_press(Button button, std::int64_t time) {
    const bool changes = edges_.set_changes_modes(false);
    take_edge(button, false, false, time);
    edges_.set_changes_modes(changes);
}

void ActionReaderCore::set_switch(unsigned number, bool down, bool by_person, std::int64_t time) {
    const ActionSwitch& it = map_->switches[number];
    if (!it.is_button) {
        state_.switches[number] = {down, down && !by_person};
        return set_direction(number, down, time);
    }
    const Effect effect = merge_switch(number, it.action, down, by_person);
    if (effect != Effect::none) gestures_.deliver(*this, it.action, effect, time);
}

/// For a button that is a member of chords, and for any button while some are newly bound.
void ActionReaderCore::set_chords(Button button, std::uint8_t owner, bool down, bool by_person, std::int64_t time) {
    if (down) return complete_chords(button, owner, by_person, time);
    for (const ButtonSwitch& it : map_->switches_of(button))
        if (state_.switches[it.number].is_down) set_switch(it.number, false, by_person, time);
}

/// Returns whether all its members are down, belong to its owner, and are in its order if it has one.
bool ActionReaderCore::are_down(const ActionSwitch& it, std::uint8_t owner, const ButtonSet& down) const noexcept {
    for (unsigned i = 0; i < it.member_count; ++i)
        if (!down.contains({it.members[i]}) || state_.whose[it.members[i]].owner != owner) return false;
    for (unsigned i = 1; it.in_order && i < it.member_count; ++i)
        if (state_.press_order[it.members[i]] < state_.press_order[it.members[i - 1U]]) return false;
    return true;
}

// The longest chords that the button completes; several if equally long.
void ActionReaderCore::complete_chords(Button button, std::uint8_t owner, bool by_person, std::int64_t time) {
    const ButtonSet down{state_.down};
    const auto completes = [&](const ButtonSwitch& it) {
        if (it.owner != owner || state_.switches[it.number].is_down || state_.has_stale_members(it.number))
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

namespace {

// The four directions of a source, the newest first: two bits each, from the lowest up, and inverted where they differ
// from 0, 1, 2, 3, so that 0 is that order.
constexpr std::uint8_t first_order = 0b11'10'01'00;
constexpr unsigned direction_at(std::uint8_t order, unsigned place) noexcept {
    return unsigned(order ^ first_order) >> 2 * place & 3;
}
constexpr std::uint8_t with_newest(std::uint8_t order, unsigned direction) noexcept {
    unsigned next = direction;
    for (unsigned place = 0, to = 1; place < 4; ++place)
        if (const unsigned other = direction_at(order, place); other != direction) next |= other << 2 * to++;
    return static_cast<std::uint8_t>(next ^ first_order);
}

}  // namespace

void ActionReaderCore::set_direction(unsigned number, bool down, std::int64_t time) {
    const ActionSwitch& it = map_->switches[number];
    if (down) state_.latest[it.source] = with_newest(state_.latest[it.source], it.direction);
    movement_.add_step(std::max(time, state_.t0), value_of_directions(it.source), it.action, it.source);
}

Vector2 ActionReaderCore::value_of_directions(unsigned number) const noexcept {
    const ActionSource& source = map_->sources[number];
    const auto is_down = [&](unsigned direction) { return state_.switches[source.first_switch + direction].is_down; };
    // Of those that are down, one of the two.
    const auto newest_of = [&](unsigned a, unsigned b) {
        for (unsigned place = 0;; ++place)
            if (const unsigned d = direction_at(state_.latest[number], place); d == a || d == b) return d;
    };
    const auto one = [&](unsigned axis) -> double {
        const bool minus = is_down(2 * axis), plus = is_down(2 * axis + 1);
        if (minus != plus || !minus || source.opposed == WhenOpposed::neutral) return int{plus} - int{minus};
        const bool plus_was_last = newest_of(2 * axis, 2 * axis + 1) % 2 != 0;
        return plus_was_last == (source.opposed == WhenOpposed::last) ? 1 : -1;
    };
    Vector2 value{one(0) * source.scale, source.kind == Binding::Kind::cross ? one(1) * source.scale : 0};
    // With four directions, the newest one counts.
    if (source.directions == 4 && value.x != 0 && value.y != 0) {
        unsigned place = 0;
        while (!is_down(direction_at(state_.latest[number], place))) ++place;
        (direction_at(state_.latest[number], place) >= 2 ? value.x : value.y) = 0;
    }
    return value;
}

// System repeats of an action, by each of its bindings that is down; chords repeat with their members.
void ActionReaderCore::count_system_repeat(Button button) {
    for (const ButtonSwitch& it : map_->switches_of(button))
        if (map_->switches[it.number].is_button && state_.switches[it.number].is_down)
            edges_.add_system_repeat(it.action);
}

}  // namespace cursorum
