// Arranges a profile for reading frames: each button gets the list of switches that it is a member of, in one array,
// and rare kinds of bindings get lists of their own, so that frames without them pay nothing.
#include "actions/bindings.hpp"

#include <algorithm>
#include <utility>

#include "actions/action_state.hpp"
#include "actions/finding.hpp"
#include "core/occasions/occasion_slot.hpp"

namespace cursorum {

ActionMap::ActionMap(const Profile& of, const ActionMap* before) {
    if (before) mode_names = before->mode_names, known = before->known;
    number(of);
    modes.resize(mode_names.size());
    for (const Mode& mode : of.modes) {
        ModeRow& row = modes[mode_named(mode.name)];
        row.pauses = mode.pauses;
        row.covers = mode.is_covering();
        row.takes_text = mode.text;
        if (!mode.text) continue;
        has_text = true;
        for (std::uint16_t key = 1; key < first_either_side; ++key) {
            if (!is_key({key})) continue;
            row.buttons.insert({key});
            buttons[key].is_noted = true;
        }
    }
    actions.reserve(known.size());
    for (const Known& it : known) add(it.action, it.mode);
    for (unsigned button = 0; button < button_capacity; ++button) {
        buttons[button].first = static_cast<std::uint16_t>(of_buttons.size());
        for (std::size_t i = 0; i < switches.size(); ++i) {
            const ActionSwitch& it = switches[i];
            const auto end = it.members.begin() + it.member_count;
            if (it.wheel_way != WheelWay::none || std::find(it.members.begin(), end, button) == end) continue;
            const auto owner = static_cast<std::uint8_t>(detail::Owner::first_mode + it.mode);
            of_buttons.push_back({static_cast<std::uint16_t>(i), it.action, owner, it.is_plain});
        }
        buttons[button].count = static_cast<std::uint16_t>(of_buttons.size() - buttons[button].first);
    }
    has_occurrences = !of_wheel.empty() || !of_locks.empty() || !of_values.empty();
    has_more_than_edges = !moving.empty() || !lasting.empty() || has_text;
    changes_modes = std::any_of(actions.begin(), actions.end(), [](const Row& row) { return row.changes_modes(); });
    has_only_edges = !has_occurrences && !has_more_than_edges && !changes_modes;
}

std::uint8_t ActionMap::mode_named(std::string_view name) const noexcept {
    const auto found = std::find(mode_names.begin(), mode_names.end(), name);
    return found == mode_names.end() ? ModeHandle{}.number : static_cast<std::uint8_t>(found - mode_names.begin());
}

// Known actions keep their numbers; new ones get the next numbers.
void ActionMap::number(const Profile& of) {
    const auto had = [](const std::vector<std::string>& names, std::string_view name) {
        return std::find(names.begin(), names.end(), name) != names.end();
    };
    for (const Mode& mode : of.modes) {
        if (had(mode_names, mode.name)) continue;
        const auto renamed = std::find_if(mode_names.begin(), mode_names.end(), [&](const std::string& name) {
            const auto has = [&](const Mode& other) { return other.name == name; };
            return had(mode.formerly, name) && std::none_of(of.modes.begin(), of.modes.end(), has);
        });
        if (renamed != mode_names.end())
            *renamed = mode.name;
        else
            mode_names.push_back(mode.name);
    }
    std::size_t count = known.size();
    for (const Mode& mode : of.modes) count += mode.actions.size();
    known.reserve(count);
    for (Known& it : known) it.is_gone = true;
    for (const bool by_former_name : {false, true})
        for (const Mode& mode : of.modes)
            for (const Action& action : mode.actions) {
                const std::uint8_t its_mode = mode_named(mode.name);
                const auto found = std::find_if(known.begin(), known.end(), [&](const Known& it) {
                    return it.mode == its_mode && it.action.kind == action.kind &&
                           (it.action.name == action.name ||
                            (by_former_name && it.is_gone && had(action.formerly, it.action.name)));
                });
                if (found != known.end() && (found->is_gone || found->action.name == action.name))
                    *found = {action, its_mode, false};
                else if (by_former_name)
                    known.push_back({action, its_mode, false});
            }
    for (Known& it : known)
        if (it.is_gone) it.action = {.name = it.action.name, .kind = it.action.kind};
}

std::optional<std::uint16_t> ActionMap::find(std::string_view name, ActionKind kind, std::string* why) const {
    std::vector<detail::NamedAction> named;
    for (std::size_t i = 0; i < known.size(); ++i)
        if (!known[i].is_gone)
            named.push_back({mode_names[known[i].mode], &known[i].action, static_cast<std::uint16_t>(i)});
    return detail::find_action(named, name, kind, why);
}

void ActionMap::add(const Action& action, std::uint8_t mode) {
    const auto number = static_cast<std::uint16_t>(actions.size());
    ModeRow& its_mode = modes[mode];
    const bool is_plain = action.gesture == Gesture::hold && action.min_interval == Duration{} &&
                          action.buffer == Duration{} && action.debounce == Duration{} && action.opens.empty() &&
                          !action.closes;
    const auto first_source = static_cast<std::uint16_t>(sources.size());
    const auto action_switch = static_cast<std::uint16_t>(switches.size());
    for (const Binding& binding : action.bindings) {
        const bool is_of_button = binding.is_of_button_action();
        if (!binding.symbol.empty() && binding.buttons.back() == Button{}) continue;  // no key has the symbol
        const auto first_switch = static_cast<std::uint16_t>(switches.size());
        ActionSwitch its{.action = number,
                         .source = static_cast<std::uint16_t>(sources.size()),
                         .mode = mode,
                         .is_button = is_of_button,
                         .is_plain = is_of_button && is_plain,
                         .in_order = binding.in_order,
                         .wheel_way = binding.wheel_way};
        const bool is_value =
            binding.kind == Binding::Kind::value || (is_of_button && binding.kind == Binding::Kind::touch);
        if (is_value) {
            ValueSwitch value{.number = first_switch, .touch = binding.touch, .thresholds = binding.thresholds};
            if (binding.touch == TouchPart::none) {
                const AxisPush push = axis_behind(binding.buttons.front()).value_or(AxisPush{});
                value.axis = push.axis, value.side = push.side;
            }
            if (binding.touch == TouchPart::contact) value.thresholds = {};
            value.flow = binding.touch == TouchPart::none ? value.axis.number : detail::touch_flow;
            its_mode.flows |= std::uint64_t{1} << value.flow;
            of_values.push_back(value);
            its.is_value = true;
            switches.push_back(its);
            continue;
        }
        for (const Button button : binding.buttons) {
            its_mode.buttons.insert(button);
            if (binding.kind == Binding::Kind::buttons && binding.buttons.size() > 1)
                buttons[button.number].in_chord = true;
            if (binding.in_order) buttons[button.number].is_noted = true;
            if (!is_of_button) its.member_count = 0;
            its.members[its.member_count++] = button.number;
            if (!is_of_button) switches.push_back(its), ++its.direction;
        }
        if (is_of_button) {
            if (its.wheel_way != WheelWay::none) {
                of_wheel.push_back(static_cast<std::uint16_t>(switches.size()));
                its_mode.flows |= std::uint64_t{1} << detail::wheel_flow;
            }
            for (std::size_t i = 0; i < detail::lock_keys.size(); ++i)
                if (binding.lock == detail::lock_keys[i]) its.lock = static_cast<std::uint8_t>(i + 1);
            if (its.lock != 0) of_locks.push_back(static_cast<std::uint16_t>(switches.size()));
            switches.push_back(its);
            continue;
        }
        const bool is_stick = binding.kind == Binding::Kind::stick, is_axis = binding.kind == Binding::Kind::axis;
        const bool is_motion = binding.kind == Binding::Kind::motion, is_wheel = binding.kind == Binding::Kind::wheel;
        if (is_motion || is_wheel) relative.push_back(static_cast<std::uint16_t>(sources.size()));
        const bool is_touch = binding.kind == Binding::Kind::touch;
        if (is_stick || is_axis || is_touch) analogue.push_back(static_cast<std::uint16_t>(sources.size()));
        sources.push_back({.action = number,
                           .kind = binding.kind,
                           .number = is_stick ? binding.stick.number : binding.axis.number,
                           .opposed = action.opposed,
                           .first_switch = first_switch,
                           .dead_zone = binding.dead_zone,
                           .scale = binding.scale,
                           .vertical = binding.vertical,
                           .raw = binding.raw,
                           .directions = action.directions,
                           .invert_x = binding.invert_x,
                           .invert_y = binding.invert_y});
        constexpr std::uint64_t one = 1, two = 3;
        its_mode.flows |= is_axis     ? one << binding.axis.number
                          : is_stick  ? two << 2 * binding.stick.number
                          : is_motion ? one << detail::motion_flow
                          : is_wheel  ? one << detail::wheel_flow
                          : is_touch  ? one << detail::touch_flow
                                      : 0;
    }
    if (action.kind != ActionKind::button) moving.push_back(number);
    const bool is_lasting = action.gesture == Gesture::long_press || action.debounce != Duration{};
    if (is_lasting) lasting.push_back(number);
    actions.push_back({.kind = action.kind,
                       .is_plain = is_plain,
                       .is_lasting = is_lasting,
                       .mode = mode,
                       .repeat = action.repeat,
                       .rise = action.rise,
                       .fall = action.fall,
                       .gesture = action.gesture,
                       .gesture_time = action.gesture_time.count(),
                       .min_interval = action.min_interval.count(),
                       .buffer = action.buffer.count(),
                       .debounce = action.debounce.count(),
                       .directions = action.directions,
                       .opens = {mode_named(action.opens)},
                       .closes = action.closes,
                       .first_switch = action_switch,
                       .switch_count = static_cast<std::uint16_t>(switches.size() - action_switch),
                       .first_source = first_source,
                       .source_count = static_cast<std::uint16_t>(sources.size() - first_source)});
}

}  // namespace cursorum
