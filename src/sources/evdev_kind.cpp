// The kernel does not say what a device is. It says which codes it has, and some properties; the rules here follow its
// documents on event codes and gamepads, with the exceptions that real devices need.
#include "sources/evdev_kind.hpp"

#include <libevdev/libevdev.h>
#include <linux/input.h>

#include "cursorum/core/controls.hpp"

namespace cursorum {
namespace {

using namespace controls;

class Codes {
public:
    explicit Codes(const libevdev* device) : device_{device} {}
    bool key(unsigned code) const { return libevdev_has_event_code(device_, EV_KEY, code) != 0; }
    bool axis(unsigned code) const { return libevdev_has_event_code(device_, EV_ABS, code) != 0; }
    bool distance(unsigned code) const { return libevdev_has_event_code(device_, EV_REL, code) != 0; }
    bool property(unsigned property) const { return libevdev_has_property(device_, property) != 0; }
    unsigned keys(unsigned first, unsigned last) const {
        unsigned count = 0;
        for (unsigned code = first; code <= last; ++code) count += key(code);
        return count;
    }
    unsigned axes(unsigned first, unsigned last) const {
        unsigned count = 0;
        for (unsigned code = first; code <= last; ++code) count += axis(code);
        return count;
    }
    /// Soldered to the machine, such as a tablet computer's sensors.
    bool is_built_in() const {
        const int bus = libevdev_get_id_bustype(device_);
        return bus == BUS_HOST || bus == BUS_I2C || bus == BUS_SPI;
    }

private:
    const libevdev* device_;
};

constexpr std::string_view motion_sensor = "it is a motion sensor";

/// A surface on which a finger means the place below it, if it is no pen tablet.
bool is_touch_screen(const Codes& has) {
    const bool has_contacts = has.axis(ABS_MT_POSITION_X), touches = has.key(BTN_TOUCH) && has.axis(ABS_X);
    if (has.property(INPUT_PROP_DIRECT)) return has_contacts || touches;
    return !has.key(BTN_TOOL_FINGER) && !has.property(INPUT_PROP_BUTTONPAD) && (has_contacts || touches);
}

/// Surfaces and sensors: they have the axes of a stick, and mean something else by them.
std::string_view surface_or_sensor(const Codes& has) {
    if (has.key(BTN_TOOL_PEN) || has.key(BTN_STYLUS)) return "it is a pen tablet";
    if (is_touch_screen(has)) return {};
    if (has.key(BTN_TOOL_FINGER) || has.property(INPUT_PROP_BUTTONPAD)) return "it is a touchpad";
    const bool is_bare = has.keys(0, KEY_MAX) == 0 && has.axes(0, ABS_MAX) != 0;
    const bool has_only_directions =
        has.axes(ABS_X, ABS_Z) == 3 && has.axes(ABS_RX, ABS_RZ) % 3 == 0 && has.axes(ABS_THROTTLE, ABS_MAX) == 0;
    if (has.property(INPUT_PROP_ACCELEROMETER) || (is_bare && has_only_directions && has.is_built_in()))
        return motion_sensor;
    return {};
}

bool is_pad(const Codes& has, bool has_letters) {
    if (has.key(BTN_GAMEPAD)) return true;
    const unsigned axes = has.axes(ABS_X, ABS_BRAKE) + has.axes(ABS_HAT0X, ABS_HAT3Y);
    if (axes == 0 || has_letters) return false;
    const unsigned buttons = has.keys(BTN_JOYSTICK, BTN_DEAD) + has.keys(BTN_GAMEPAD, BTN_THUMBR) +
                             has.keys(BTN_WHEEL, BTN_GEAR_UP) + has.keys(BTN_TRIGGER_HAPPY, BTN_TRIGGER_HAPPY40);
    // Pedals report only axes. A device with media keys and a volume knob is not a gamepad.
    return buttons != 0 || has.keys(0, KEY_MAX) == 0;
}

}  // namespace

ButtonSet buttons_of(const libevdev* device) {
    ButtonSet all;
    for (unsigned code = 0; code <= KEY_MAX; ++code)
        if (libevdev_has_event_code(device, EV_KEY, code)) all.insert(button_of_linux_code(code));
    all.erase({});
    return all;
}

EvdevKind kind_of(const libevdev* device, bool is_named) {
    const Codes has{device};
    EvdevKind result;
    result.ignored = surface_or_sensor(has);
    result.could_be_missed = result.ignored != motion_sensor;
    if (!result.ignored.empty()) return result;
    if (is_touch_screen(has)) {
        result.kinds.push_back(DeviceKind::touch);
        return result;
    }
    const bool has_letters = has.keys(KEY_Q, KEY_P) == 10;
    if (is_pad(has, has_letters)) result.kinds.push_back(DeviceKind::gamepad);
    const bool is_mouse = has.key(BTN_LEFT) && has.distance(REL_X);
    result.is_absolute_mouse = !is_mouse && result.kinds.empty() && has.key(BTN_LEFT) && has.axis(ABS_X);
    if (is_mouse || result.is_absolute_mouse) result.kinds.push_back(DeviceKind::mouse);
    if (has_letters) result.kinds.push_back(DeviceKind::keyboard);
    if (!result.kinds.empty()) return result;
    unsigned keys = 0;
    (buttons_of(device) - ButtonSet{Power, Sleep, WakeUp}).for_each([&](Button button) {
        keys += find_control(name_of(button))->family == ControlFamily::key;
    });
    if (keys != 0 || (is_named && !buttons_of(device).empty())) {
        result.kinds.push_back(DeviceKind::keyboard);
        result.is_small_keyboard = true;
        return result;
    }
    result.could_be_missed = false;
    result.ignored = has.key(KEY_POWER) || has.key(KEY_SLEEP) || has.key(KEY_WAKEUP) ? "it is a power button"
                     : has.keys(0, KEY_MAX) != 0 ? "no control stands for any of its keys"
                                                 : "it has neither keys nor axes";
    return result;
}

}  // namespace cursorum
