#include "actions/action_map.hpp"

namespace cursorum {

ActionMap::ActionMap(const Profile& profile) {
    for (const Mode& mode : profile.modes) {
        modes.emplace_back();
        modes.back().covers = mode.covers;
        for (const Action& action : mode.actions) add(action, static_cast<std::uint8_t>(modes.size() - 1));
    }
    for (unsigned button = 0; button < button_capacity; ++button) {
        first_of[button] = static_cast<std::uint16_t>(of_buttons.size());
        for (std::size_t i = 0; i < switches.size(); ++i)
            for (unsigned k = 0; k < switches[i].member_count; ++k)
                if (switches[i].members[k] == button) of_buttons.push_back(static_cast<std::uint16_t>(i));
    }
    first_of[button_capacity] = static_cast<std::uint16_t>(of_buttons.size());
}

void ActionMap::add(const Action& action, std::uint8_t mode) {
    const auto number = static_cast<std::uint16_t>(actions.size());
    ModeRow& its_mode = modes.back();
    const auto first_source = static_cast<std::uint16_t>(sources.size());
    for (const Binding& binding : action.bindings) {
        const bool is_chord = binding.kind == Binding::Kind::chord;
        const auto first_switch = static_cast<std::uint16_t>(switches.size());
        ActionSwitch its{.action = number,
                         .source = static_cast<std::uint16_t>(sources.size()),
                         .mode = mode,
                         .is_button = is_chord,
                         .is_plain = is_chord && action.gesture == Gesture::hold && action.apart == Duration{}};
        for (const Button button : binding.buttons) {
            its_mode.buttons.insert(button);
            if (is_chord && binding.buttons.size() > 1) in_chords.insert(button);
            if (!is_chord) its.member_count = 0;
            its.members[its.member_count++] = button.number;
            if (!is_chord) switches.push_back(its), ++its.direction;
        }
        if (is_chord) {
            switches.push_back(its);
            continue;
        }
        const bool is_stick = binding.kind == Binding::Kind::stick;
        if (binding.buttons.empty()) analogue.push_back(static_cast<std::uint16_t>(sources.size()));
        sources.push_back({.action = number,
                           .kind = binding.kind,
                           .number = is_stick ? binding.stick.number : binding.axis.number,
                           .opposed = action.opposed,
                           .first_switch = first_switch,
                           .dead_zone = binding.dead_zone,
                           .scale = binding.scale});
        if (binding.kind == Binding::Kind::axis) its_mode.axes |= static_cast<std::uint8_t>(1U << binding.axis.number);
        if (is_stick) its_mode.axes |= static_cast<std::uint8_t>(3U << (2 * binding.stick.number));
    }
    if (action.kind != ActionKind::button) moving.push_back(number);
    if (action.gesture == Gesture::long_press) lasting.push_back(number);
    actions.push_back({.kind = action.kind,
                       .mode = mode,
                       .repeat = action.repeat,
                       .rise = action.rise,
                       .fall = action.fall,
                       .gesture = action.gesture,
                       .gesture_time = action.gesture_time.count(),
                       .apart = action.apart.count(),
                       .first_source = first_source,
                       .source_count = static_cast<std::uint16_t>(sources.size() - first_source)});
}

}  // namespace cursorum
