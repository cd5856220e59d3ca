// From an edge of a button to the bindings and actions it turns: inline, since every edge goes through it. For the
// action reader's own files.
#pragma once

#include <array>
#include <cstdint>

#include "actions/action_map.hpp"
#include "core/merging.hpp"
#include "cursorum/actions/action_reader.hpp"

namespace cursorum {

inline bool is_mode(std::uint8_t owner, unsigned mode) noexcept { return owner == detail::Owner::first_mode + mode; }

// By tables: presses and releases come in no order that a processor could guess.
constexpr unsigned bit_of(detail::Effect effect) noexcept { return 1U << static_cast<unsigned>(effect); }
constexpr bool begins(detail::Effect effect) noexcept {
    using enum detail::Effect;
    return ((bit_of(press) | bit_of(adopt) | bit_of(restart)) & bit_of(effect)) != 0;
}
constexpr bool is_persons(detail::Effect effect) noexcept {
    using enum detail::Effect;
    return ((bit_of(press) | bit_of(release) | bit_of(restart)) & bit_of(effect)) != 0;
}
constexpr detail::SlotKind kind_of(bool down, bool by_person) noexcept {
    using enum detail::SlotKind;
    constexpr std::array kinds{cancel, release, adopt, press};
    return kinds[down * 2U + by_person];
}

[[gnu::always_inline]] inline void ActionReader::add_edge(std::uint16_t action, detail::Effect effect,
                                                          std::int64_t time) {
    flags_[action] = static_cast<std::uint8_t>((flags_[action] & ~is_down) | flags_of[static_cast<unsigned>(effect)]);
    records_.push_back({time, last_[action], action, effect});
    last_[action] = static_cast<std::uint32_t>(records_.size());
}

[[gnu::always_inline]] inline void ActionReader::set_switch(unsigned number, bool down, bool by_person,
                                                            std::int64_t time) {
    const ActionSwitch& it = map_->switches[number];
    const bool was_adopted = state_.switch_adopted[number];
    state_.switch_down[number] = down;
    state_.switch_adopted[number] = down & !by_person;
    if (!it.is_button) return turn_direction(number, down, time);
    const detail::Effect effect = merge(state_.holders[it.action], kind_of(down, by_person), !was_adopted);
    if (effect == detail::Effect::none) return;
    if (it.is_plain) return add_edge(it.action, effect, time);
    deliver(it.action, effect, time);
}

[[gnu::always_inline]] inline void ActionReader::turn_switches(Button button, std::uint8_t owner, bool down,
                                                               bool by_person, std::int64_t time) {
    const unsigned first = map_->first_of[button.number], end = map_->first_of[button.number + 1U];
    if (!map_->in_chords.contains(button)) {
        for (unsigned i = first; i != end; ++i)
            if (is_mode(owner, map_->switches[map_->of_buttons[i]].mode))
                set_switch(map_->of_buttons[i], down, by_person, time);
    } else if (down) {
        complete_chords(button, owner, by_person, time);
    } else {
        for (unsigned i = first; i != end; ++i)
            if (state_.switch_down[map_->of_buttons[i]]) set_switch(map_->of_buttons[i], false, by_person, time);
    }
}

}  // namespace cursorum
