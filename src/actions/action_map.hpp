// A profile, laid out for reading frames.
#pragma once

#include <array>
#include <cstdint>
#include <vector>

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
    bool is_plain = false;   // and that is all its bindings' presses
    bool in_order = false;   // the members have to go down in this order
    WheelWay wheel_way{};    // no button completes it, but a step
    std::uint8_t lock = 0;   // no button, but a state: the lock's number from 1
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
};

struct ActionMap {
    struct Row {
        ActionKind kind{};
        bool is_plain = false;  // that is all its bindings' presses
        std::uint8_t mode = 0;
        Repeat repeat{};
        Duration rise{}, fall{};
        Gesture gesture{};
        std::int64_t gesture_time = 0, apart = 0, keep = 0, chatter = 0;
        std::uint16_t first_switch = 0, switch_count = 0, first_source = 0, source_count = 0;
    };
    struct ModeRow {
        bool covers = false;
        ButtonSet buttons;       // that its bindings name
        std::uint8_t flows = 0;  // bit n: the axis n, motion, the wheel
    };
    Profile profile;
    std::vector<Row> actions;
    std::vector<std::uint16_t> moving;    // axes and vectors among them
    std::vector<std::uint16_t> lasting;   // of the actions, those that may change without an event
    std::vector<std::uint16_t> analogue;  // sources that are axes or sticks
    std::vector<std::uint16_t> relative;  // sources that are motion or wheels
    std::vector<ModeRow> modes;
    std::vector<ActionSwitch> switches;
    std::vector<ActionSource> sources;
    // The switches of each button: those from first_of[button] up to first_of[button + 1].
    std::array<std::uint16_t, button_capacity + 1> first_of{};
    std::vector<std::uint16_t> of_buttons;
    std::vector<std::uint16_t> of_wheel;  // switches, likewise
    std::vector<std::uint16_t> of_locks;  // likewise
    ButtonSet in_chords;                  // of more than one
    ButtonSet in_order;                   // of those whose order matters
    bool has_order = false;

    /// Of a profile that has no problem.
    explicit ActionMap(const Profile& of);

private:
    void add(const Action& action, std::uint8_t mode);
};

}  // namespace cursorum
