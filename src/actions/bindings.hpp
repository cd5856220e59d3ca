// A profile, arranged for reading frames: rows of actions, switches (what is down or up) and sources (what has a
// value), and from each button to its switches. It never changes while frames are read; rebinding makes a new one.
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "actions/action_state.hpp"
#include "cursorum/actions/profile.hpp"
#include "cursorum/core/button_set.hpp"

namespace cursorum {

/// A chord of an action, mostly of one button: of a button action, or one direction of a pair or cross.
struct ActionSwitch {
    std::uint16_t action = 0;
    std::uint16_t source = 0;  // of axes and vectors
    std::uint8_t mode = 0;
    std::uint8_t direction = 0;  // minus, plus; left, right, up, down
    std::uint8_t member_count = 0;
    bool is_button = false;  // of a button action
    bool is_plain = false;   // and the action is just its bindings' presses
    bool in_order = false;   // the members have to go down in this order
    WheelWay wheel_way{};    // completed by a step of the wheel instead of a button
    std::uint8_t lock = 0;   // a lock's state instead of a button: the lock's number, from 1
    bool is_value = false;   // a value beyond a threshold instead of a button
    std::array<std::uint16_t, chord_capacity> members{};
};

/// A binding of an axis or vector.
struct ActionSource {
    std::uint16_t action = 0;
    Binding::Kind kind{};
    std::uint8_t number = 0;  // of the axis or stick
    WhenOpposed opposed{};
    std::uint16_t first_switch = 0;  // of its two or four
    double dead_zone = 0, scale = 1;
    bool vertical = false, raw = false;
    std::uint8_t directions = 0;  // of its action
    bool invert_x = false, invert_y = false;

    Vector2 scaled(Vector2 v) const noexcept {
        return {v.x * (invert_x ? -scale : scale), v.y * (invert_y ? -scale : scale)};
    }
};

/// A switch that is down while a value is beyond its threshold: one side of an axis, or a touch.
struct ValueSwitch {
    std::uint16_t number = 0;  // of the ActionSwitch
    std::uint8_t flow = 0;
    Axis axis{};
    AxisSide side{};
    TouchPart touch{};  // else of an axis
    ButtonThresholds thresholds{};
};

/// The part of a switch that most edges of a button need, stored contiguously.
struct ButtonSwitch {
    std::uint16_t number = 0;  // of the ActionSwitch
    std::uint16_t action = 0;
    std::uint8_t owner = 0;  // its mode, as an owner
    bool is_plain = false;
};

struct ActionMap {
    struct Row {
        ActionKind kind{};
        bool is_plain = false;    // the action is just its bindings' presses
        bool is_lasting = false;  // it may change without an event
        std::uint8_t mode = 0;
        Repeat repeat{};
        Duration rise{}, fall{};
        Gesture gesture{};
        std::int64_t gesture_time = 0, min_interval = 0, buffer = 0, debounce = 0;
        std::uint8_t directions = 0;
        ModeHandle opens{};   // by its press
        bool closes = false;  // its own mode, likewise
        bool changes_modes() const noexcept { return closes || opens != ModeHandle{}; }
        std::uint16_t first_switch = 0, switch_count = 0, first_source = 0, source_count = 0;
    };
    struct ModeRow {
        bool covers = false;
        bool pauses = false;  // and covers
        bool takes_text = false;
        ButtonSet buttons;        // that its bindings name; if it takes text, all keys
        std::uint64_t flows = 0;  // bit n: the axis n, motion, the wheel, touch
    };
    /// An action, its mode's number, and whether it has left the profile: then it keeps its number and is idle.
    struct Known {
        Action action;
        std::uint8_t mode = 0;
        bool is_gone = false;
    };
    std::vector<std::string> mode_names;  // by handle number; modes that have left the profile keep theirs
    std::vector<Known> known;             // likewise
    std::vector<Row> actions;
    std::vector<std::uint16_t> moving;    // axes and vectors among them
    std::vector<std::uint16_t> lasting;   // of the actions, those that may change without an event
    std::vector<std::uint16_t> analogue;  // sources that are axes or sticks
    std::vector<std::uint16_t> relative;  // sources that are motion or wheels
    std::vector<ModeRow> modes;
    std::vector<ActionSwitch> switches;
    std::vector<ActionSource> sources;
    /// The switches of each button, by its number.
    struct alignas(8) ButtonRow {
        std::uint16_t first = 0, count = 0;  // in `of_buttons`
        bool in_chord = false;               // of more than one
        bool is_noted = false;               // of one whose order matters, or a key that may make text for a mode
    };
    std::array<ButtonRow, button_capacity> buttons{};
    std::vector<ButtonSwitch> of_buttons;
    std::span<const ButtonSwitch> switches_of(Button button) const noexcept {
        return {of_buttons.data() + buttons[button.number].first, buttons[button.number].count};
    }
    std::vector<std::uint16_t> of_wheel;  // switches, likewise
    std::vector<std::uint16_t> of_locks;  // likewise
    std::vector<ValueSwitch> of_values;

    bool has_occurrences = false;      // other steps happen between buttons' edges: wheel steps, locks, values
    bool has_more_than_edges = false;  // there is work to do after all edges have been taken
    bool has_text = false;             // a mode takes text
    bool changes_modes = false;        // an action opens or closes one
    bool has_only_edges = false;       // none of these

    detail::StateCounts counts() const noexcept {
        return {actions.size(), switches.size(), sources.size(), has_text ? std::size_t{button_capacity} : 0};
    }

    /// For a profile without a problem. Actions that `before` has keep their numbers, by their names or former names.
    explicit ActionMap(const Profile& of, const ActionMap* before = nullptr);
    std::uint8_t mode_named(std::string_view name) const noexcept;  // a number that no mode has, if there is none
    std::optional<std::uint16_t> find(std::string_view name, ActionKind kind, std::string* why) const;

private:
    void number(const Profile& of);
    void add(const Action& action, std::uint8_t mode);
};

}  // namespace cursorum
