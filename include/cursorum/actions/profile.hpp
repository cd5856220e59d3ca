// Profiles: what a person can do, and which controls do it.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "cursorum/core/axis.hpp"
#include "cursorum/core/control.hpp"
#include "cursorum/core/direction_reading.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/key_layout.hpp"
#include "cursorum/core/repeat.hpp"
#include "cursorum/core/shaping.hpp"

namespace cursorum {

/// A button action is down or up, an axis is one number from -1 to 1, a vector is two that are never longer than 1.
enum class ActionKind : std::uint8_t { button, axis, vector };
/// "button", "axis", "vector".
CURSORUM_API std::string_view name_of(ActionKind kind) noexcept;

/// How a button action is made of its bindings' presses.
enum class Gesture : std::uint8_t {
    hold,        ///< the presses themselves: down while a binding is
    tap,         ///< pressed and released at once when a press ends within `gesture_time`
    long_press,  ///< pressed once a press has lasted for `gesture_time`, and then down until it ends
    double_tap,  ///< pressed by the second of two presses within `gesture_time`, and then down until it ends
    toggle,      ///< pressed by one press, released by the next; never by what is adopted or cancelled
    release      ///< pressed and released at once when a press ends, however long it was
};
/// "hold", "tap", "long_press", "double_tap", "toggle", "release".
CURSORUM_API std::string_view name_of(Gesture gesture) noexcept;
/// The default `gesture_time`: 200 ms for a tap, 500 ms for a long press, 300 ms for a double tap; 0 for the others,
/// which have none.
CURSORUM_API Duration usual_time(Gesture gesture) noexcept;

/// A whole step of a wheel: away from the person, toward them, to the left, to the right.
enum class WheelWay : std::uint8_t { none, up, down, left, right };
/// "", "WheelUp", "WheelDown", "WheelLeft", "WheelRight".
CURSORUM_API std::string_view name_of(WheelWay way) noexcept;

/// What a binding uses of gamepads' touch surfaces. Of several fingers, the one that has been there for the longest
/// time counts.
enum class TouchPart : std::uint8_t {
    none,
    contact,   ///< whether a finger is there, for button actions
    pressure,  ///< how hard it presses, if the surface reports it, for button actions
    position   ///< where it is, for vectors: the surface's middle is at rest
};
/// "", "contact", "pressure", "position".
CURSORUM_API std::string_view name_of(TouchPart part) noexcept;

/// One way to perform an action. Which members are used depends on `kind`.
struct Binding {
    enum class Kind : std::uint8_t {
        buttons,     ///< button actions: one button, or a chord: several that have to be down together
        wheel_step,  ///< button actions: each whole step of a wheel, while `buttons` are down
        value,       ///< button actions: a trigger, or one side of an axis, beyond `thresholds` of this binding alone
        lock,        ///< button actions: while a lock is on
        touch,       ///< button actions: a finger on a gamepad's touch surface; vector actions: its position
        pair,        ///< axis actions: one button to -1, another to 1
        cross,       ///< vector actions: four buttons
        axis,        ///< axis actions: an axis of a gamepad
        stick,       ///< vector actions: a stick, shaped by its device's setting
        motion,      ///< axes and vectors: the motion of mice, in pixels or counts: `relative` of a reading
        wheel        ///< axes and vectors: the turning of wheels, in detents, likewise
    };
    Kind kind = Kind::buttons;
    bool in_order = false;  ///< of several buttons, and of a wheel's step: they must go down in this order
    /// Kind `buttons`: 1 to 4. `wheel_step`: at most 3, or none. `value`: the one that stands for the trigger or the
    /// side of an axis, such as PadPullRight or PadStickLeftUp. `pair`: minus, plus. `cross`: left, right, up, down.
    /// Right and down are positive.
    std::vector<Button> buttons{};
    /// Of `wheel_step`: it is pressed and released by each step in this direction.
    WheelWay wheel_way = WheelWay::none;
    /// Of `buttons`: the last one is the key on which this symbol is printed, such as "z", in UTF-8. `buttons` has
    /// that key as of the layout that keys are named after, or of the one given to with_layout(); no button if no
    /// key has the symbol, and then the binding has no effect.
    std::string symbol{};
    /// Of `lock`: down while this lock is on (CapsLock, NumLock, ScrollLock), however it was turned on: the state, not
    /// the key. No claim keeps it.
    Button lock{};
    /// Of `value`, and of `touch` by pressure: the shaped values at which it is pressed and released.
    ButtonThresholds thresholds{.press = 0, .release = 0};
    /// Of `touch`: `contact`, or `pressure` with its thresholds, for button actions; `position` for vectors.
    TouchPart touch{};
    Axis axis{};
    Stick stick{};
    bool vertical = false;  ///< of motion and wheel, for an axis action: y, else x
    bool raw = false;       ///< of motion: before the system's acceleration, if the source reports it
    /// Of an axis, of a stick after its device's shaping, of a touch surface: 0 within it, linear from there to 1. At
    /// least 0, less than 1.
    double dead_zone = 0;
    double scale = 1;  ///< a factor of its values; negative: inverted
    /// Of a vector's stick, motion or wheel: one of its axes is inverted.
    bool invert_x = false, invert_y = false;

    /// Returns whether it is a binding of button actions; the others are of axes and vectors.
    bool is_of_button_action() const noexcept {
        return kind <= Kind::lock || (kind == Kind::touch && touch != TouchPart::position);
    }

    friend bool operator==(const Binding&, const Binding&) = default;
};

struct Action {
    std::string name;
    ActionKind kind = ActionKind::button;
    std::vector<Binding> bindings{};
    Repeat repeat{};                  ///< of button actions
    Gesture gesture = Gesture::hold;  ///< likewise
    Duration gesture_time{};          ///< likewise; greater than 0 if the gesture has one
    Duration min_interval{};          ///< likewise: presses sooner after the last press are dropped
    Duration buffer{};                ///< likewise: how long a press waits for consume_press()
    Duration debounce{};              ///< likewise: edges sooner after the last edge are contact noise
    /// Likewise: its press opens the mode of this name, or closes its own, at that very moment: later events of the
    /// same frame belong to the modes that are open then. A press that does both closes first. Empty: opens none.
    std::string opens{};
    bool closes = false;
    WhenOpposed opposed = WhenOpposed::neutral;  ///< of pairs and crosses
    /// Of vectors: 4 or 8, to point only in one of that many directions, or 0 for any. Of four buttons, with 4, the one
    /// that went down last counts; a stick keeps its direction until it is clearly pushed in another one.
    std::uint8_t directions = 0;
    std::vector<std::string> formerly{};  ///< names that it had in earlier versions, by which overlays may know it
    Duration rise{}, fall{};              ///< of axes and vectors: the times from 0 to 1 and from 1 to 0; zero: at once

    friend bool operator==(const Action&, const Action&) = default;
};

/// Actions that make sense together, such as driving a crane, or choosing from a list.
struct Mode {
    std::string name;
    bool covers = false;  ///< while it is open, modes below it are hidden
    bool pauses = false;  ///< while it is open, the game stands still (ActionReader::pauses()), and it covers as well
    /// It is a text field. While it is open and not covered, all keys of keyboards belong to it, whether or not it
    /// binds them, and it receives the text that their presses make (ActionReader::typing()).
    bool text = false;
    std::vector<Action> actions{};
    std::vector<std::string> formerly{};  ///< as of an action

    bool is_covering() const noexcept { return covers || pauses; }

    friend bool operator==(const Mode&, const Mode&) = default;
};

/// The number of a default-constructed handle, which refers to no action and reads as idle.
inline constexpr std::uint16_t no_action = 0xFFFF;

// Handles: an action is found by its name once and then used by number. Each kind has its own type, so that asking a
// stick whether it was pressed does not compile. A handle is good for every reader of the profile that it comes from,
// or of one with the same names (Profile::numbering()). A reader takes no handle of another numbering, since it would
// mean another action there: it reads as idle, and is counted (ActionReaderCounters::foreign). Only names are the same
// everywhere. A handle that is made of a number alone, with a `numbering` of 0, is taken by that number, unchecked.
struct ButtonAction {
    std::uint16_t number = no_action;
    std::uint32_t numbering = 0;
    friend constexpr bool operator==(ButtonAction, ButtonAction) = default;
};
struct AxisAction {
    std::uint16_t number = no_action;
    std::uint32_t numbering = 0;
    friend constexpr bool operator==(AxisAction, AxisAction) = default;
};
struct VectorAction {
    std::uint16_t number = no_action;
    std::uint32_t numbering = 0;
    friend constexpr bool operator==(VectorAction, VectorAction) = default;
};
struct ModeHandle {
    std::uint8_t number = 0xFF;
    std::uint32_t numbering = 0;
    friend constexpr bool operator==(ModeHandle, ModeHandle) = default;
};

/// Maximum numbers in a profile: modes, actions, switches (a binding of a button action is one, a pair two, a cross
/// four) and sources (pairs, crosses, axes, sticks) of all its actions together; and of members in a chord.
inline constexpr unsigned mode_capacity = 64, action_capacity = 512, switch_capacity = 2048, source_capacity = 1024,
                          chord_capacity = 4;

/// A plain value: build it by hand, or read it from a file (profile_file.hpp). Actions are numbered through all modes,
/// in their order.
struct CURSORUM_API Profile {
    std::string title;
    std::vector<Mode> modes;
    /// How pads are shaped, for the game to set when one connects, and again when the profile changes:
    /// `desk.set_shaping(pad, *profile.shaping)`. Nothing: as by default.
    std::optional<DeviceShaping> shaping{};

    /// Finds an action by "mode.action", or by its name alone if only one mode has it. Returns nothing for an
    /// unknown name; then `why`, if given, contains what was found, what was expected, and a near name.
    std::optional<ButtonAction> find_button(std::string_view name, std::string* why = nullptr) const;
    std::optional<AxisAction> find_axis(std::string_view name, std::string* why = nullptr) const;
    std::optional<VectorAction> find_vector(std::string_view name, std::string* why = nullptr) const;
    std::optional<ModeHandle> find_mode(std::string_view name, std::string* why = nullptr) const;

    /// The action behind a handle; null for a handle that refers to none, or is of another numbering. Cost:
    /// proportional to the profile's names.
    const Action* action(ButtonAction handle) const noexcept { return action_of(handle.number, handle.numbering); }
    const Action* action(AxisAction handle) const noexcept { return action_of(handle.number, handle.numbering); }
    const Action* action(VectorAction handle) const noexcept { return action_of(handle.number, handle.numbering); }

    /// The action of that name, of whichever kind, as above; null if there is none.
    const Action* action(std::string_view name, std::string* why = nullptr) const;

    /// Tells which number means which action: the same for all profiles that have the same modes and actions, of the
    /// same kinds, in the same order. Bindings and settings make no difference. It is the 32-bit FNV-1a hash of the
    /// names and kinds (as of http://www.isthe.com/chongo/tech/comp/fnv), and never 0.
    std::uint32_t numbering() const noexcept;

    /// The first problem that makes the profile unusable: too many modes or actions, a duplicate name, a binding that
    /// does not fit its action's kind, unknown buttons, numbers out of range. Nothing if there is none.
    std::optional<std::string> problem() const;

    friend bool operator==(const Profile&, const Profile&) = default;

private:
    std::optional<std::uint16_t> find(std::string_view name, std::optional<ActionKind> kind, std::string* why) const;
    const Action* action_of(std::uint16_t number, std::uint32_t numbering) const noexcept;
};

/// The profile with each binding that names a symbol bound to the key that has it in this layout; where none has it,
/// the binding stays where it is. Call it at the start and when the layout changes, and give the result to
/// ActionReader::rebind():
///
///     std::optional<std::uint64_t> known;
///     …
///     if (!known || x11->layout_changes() != *known) {
///         const KeyLayout& layout = x11->key_layout();
///         known = x11->layout_changes();
///         actions.rebind(with_layout(profile, layout));
///     }
CURSORUM_API Profile with_layout(Profile profile, const KeyLayout& layout);

/// Looks up the handles of a program and collects the names that the profile does not have, so that one check after all
/// lookups finds every mistyped name at once:
///
///     ActionNames names{profile};
///     const ButtonAction lock = names.button("lock");
///     const VectorAction travel = names.vector("crane.travel");
///     actions.open(names.mode("crane"));
///     if (names.unknown_count() != 0) stop(names.problem());
///
/// The handle of an unknown name refers to nothing and reads as idle. Cost of a lookup: proportional to the profile's
/// actions. Lifetime: the profile must outlive it; the handles do not need it.
class CURSORUM_API ActionNames {
public:
    explicit ActionNames(const Profile& profile) : profile_{&profile} {}

    /// By "mode.action", or by the action's name alone if only one mode has it.
    ButtonAction button(std::string_view name);
    AxisAction axis(std::string_view name);
    VectorAction vector(std::string_view name);
    ModeHandle mode(std::string_view name);

    std::size_t unknown_count() const noexcept { return problems_.size(); }
    /// One line for each unknown name: what was found, what was expected, and a near name. Empty if there is none.
    std::string problem() const;

private:
    const Profile* profile_;
    std::vector<std::string> problems_;
};

}  // namespace cursorum
