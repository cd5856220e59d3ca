// Which switches are complete, and what a pair or a cross is worth while several of its directions are down.
#include "actions/chords.hpp"

namespace cursorum::detail {

std::optional<Rule> Chords::rule_against(const ReaderContext& of, const ActionSwitch& it, std::uint8_t owner,
                                         const ButtonSet& down) noexcept {
    for (unsigned i = 0; i < it.member_count; ++i)
        if (!down.contains({it.members[i]}) || of.state_.whose[it.members[i]].owner != owner)
            return Rule::chord_incomplete;
    for (unsigned i = 1; it.in_order && i < it.member_count; ++i)
        if (of.state_.press_order[it.members[i]] < of.state_.press_order[it.members[i - 1U]])
            return Rule::chord_out_of_order;
    return std::nullopt;
}

void Chords::freshen(ReaderContext& of, Button button) noexcept {
    for (unsigned number = 0; number < of.map_->switches.size(); ++number) {
        if (of.state_.stale_members[number] == 0) continue;
        const ActionSwitch& it = of.map_->switches[number];
        for (unsigned member = 0; member < it.member_count; ++member)
            if (it.members[member] == button.number) freshen(of, number, 1U << member | ActionState::passed_over);
    }
}

void Chords::freshen(ReaderContext& of, unsigned number, unsigned members) noexcept {
    std::uint8_t& stale = of.state_.stale_members[number];
    if ((stale & members) == 0) return;
    stale = static_cast<std::uint8_t>(stale & ~members);
    of.state_.stale_switches = static_cast<std::uint16_t>(of.state_.stale_switches - (stale == 0));
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

void Directions::note_newest(ReaderContext& of, const ActionSwitch& it) noexcept {
    of.state_.latest[it.source] = with_newest(of.state_.latest[it.source], it.direction);
}

Vector2 Directions::value(const ReaderContext& of, unsigned number) noexcept {
    const ActionSource& source = of.map_->sources[number];
    const auto is_down = [&](unsigned direction) {
        return of.state_.switches[source.first_switch + direction].is_down;
    };
    // Of those that are down, one of the two.
    const auto newest_of = [&](unsigned a, unsigned b) {
        for (unsigned place = 0;; ++place)
            if (const unsigned d = direction_at(of.state_.latest[number], place); d == a || d == b) return d;
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
        while (!is_down(direction_at(of.state_.latest[number], place))) ++place;
        (direction_at(of.state_.latest[number], place) >= 2 ? value.x : value.y) = 0;
    }
    return value;
}

}  // namespace cursorum::detail
