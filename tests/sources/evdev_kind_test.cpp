// What an event device is taken for, by the codes that it has: devices made in memory, no kernel needed.

#include "sources/evdev_kind.hpp"

#include <gtest/gtest.h>
#include <libevdev/libevdev.h>
#include <linux/input.h>

#include <memory>
#include <string>
#include <vector>

namespace {

using namespace cursorum;

struct Codes {
    std::vector<unsigned> keys{}, axes{}, distances{}, properties{};
    int bus = BUS_USB;
};

std::vector<unsigned> range(unsigned first, unsigned last, std::vector<unsigned> more = {}) {
    for (unsigned code = first; code <= last; ++code) more.push_back(code);
    return more;
}

/// "gamepad", "mouse keyboard", or why it is not read.
std::string kind_text(const Codes& codes, bool is_named = false) {
    const std::unique_ptr<libevdev, void (*)(libevdev*)> device{libevdev_new(), libevdev_free};
    libevdev_set_id_bustype(device.get(), codes.bus);
    const input_absinfo span{.value = 0, .minimum = 0, .maximum = 255, .fuzz = 0, .flat = 0, .resolution = 0};
    for (const unsigned code : codes.keys) libevdev_enable_event_code(device.get(), EV_KEY, code, nullptr);
    for (const unsigned code : codes.axes) libevdev_enable_event_code(device.get(), EV_ABS, code, &span);
    for (const unsigned code : codes.distances) libevdev_enable_event_code(device.get(), EV_REL, code, nullptr);
    for (const unsigned property : codes.properties) libevdev_enable_property(device.get(), property);
    const EvdevKind kind = kind_of(device.get(), is_named);
    EXPECT_EQ(kind.kinds.empty(), !kind.ignored.empty());
    std::string text{kind.ignored};
    for (const DeviceKind one : kind.kinds) text += (text.empty() ? "" : " ") + std::string{name_of(one)};
    if (kind.is_absolute_mouse) text += ", positions";
    if (kind.is_small_keyboard) text += ", small";
    if (!kind.could_be_missed) text += ", for nobody";
    return text;
}

TEST(EvdevKind, FollowsTheCodes) {
    const auto letters = range(KEY_ESC, KEY_KPDOT);
    const auto letters_and = [](std::vector<unsigned> more) { return range(KEY_ESC, KEY_KPDOT, std::move(more)); };
    const std::vector<unsigned> turns{REL_X, REL_Y, REL_WHEEL};
    const struct {
        const char* what;
        Codes codes;
        const char* expected;
    } rows[] = {
        {"gamepad", {.keys = range(BTN_SOUTH, BTN_THUMBR), .axes = {ABS_X, ABS_Y, ABS_HAT0X}}, "gamepad"},
        {"gamepad without axes", {.keys = {BTN_SOUTH, BTN_EAST, BTN_DPAD_UP}}, "gamepad"},
        {"gamepad with its own media keys", {.keys = {BTN_SOUTH, KEY_RECORD}, .axes = {ABS_X}}, "gamepad"},
        {"flight stick", {.keys = range(BTN_TRIGGER, BTN_BASE6), .axes = {ABS_X, ABS_Y, ABS_THROTTLE}}, "gamepad"},
        {"wheel", {.keys = {BTN_GEAR_DOWN, BTN_GEAR_UP}, .axes = {ABS_WHEEL, ABS_GAS, ABS_BRAKE}}, "gamepad"},
        {"button box", {.keys = range(BTN_TRIGGER_HAPPY1, BTN_TRIGGER_HAPPY20), .axes = {ABS_X}}, "gamepad"},
        {"pedals", {.axes = {ABS_X, ABS_Y, ABS_Z}}, "gamepad"},
        {"pedals by name", {.axes = {ABS_GAS, ABS_BRAKE}}, "gamepad"},
        {"keyboard", {.keys = letters}, "keyboard"},
        {"keyboard that claims a pad's axis", {.keys = letters_and({BTN_TRIGGER_HAPPY1}), .axes = {ABS_X}}, "keyboard"},
        {"number pad", {.keys = range(KEY_KP7, KEY_KPDOT)}, "keyboard, small"},
        {"media keys", {.keys = {KEY_PLAYPAUSE, KEY_VOLUMEUP}, .axes = {ABS_VOLUME}}, "keyboard, small"},
        {"foot pedal that types", {.keys = {KEY_A}}, "keyboard, small"},
        {"mouse", {.keys = {BTN_LEFT, BTN_RIGHT}, .distances = turns}, "mouse"},
        {"mouse with macro keys", {.keys = {BTN_LEFT, KEY_1, KEY_2}, .distances = turns}, "mouse"},
        {"virtual machine's mouse", {.keys = {BTN_LEFT}, .axes = {ABS_X, ABS_Y}}, "mouse, positions"},
        {"keyboard and mouse", {.keys = letters_and({BTN_LEFT}), .distances = turns}, "mouse keyboard"},
        {"keyboard, mouse and pad",
         {.keys = letters_and({BTN_LEFT, BTN_SOUTH}), .axes = {ABS_X, ABS_Y}, .distances = turns},
         "gamepad mouse keyboard"},
        {"touchpad",
         {.keys = {BTN_LEFT, BTN_TOUCH, BTN_TOOL_FINGER}, .axes = {ABS_X, ABS_Y, ABS_MT_POSITION_X}},
         "it is a touchpad"},
        {"touch screen",
         {.keys = {BTN_TOUCH}, .axes = {ABS_X, ABS_MT_POSITION_X}, .properties = {INPUT_PROP_DIRECT}},
         "touch"},
        {"touch screen with a pen",
         {.keys = {BTN_TOUCH, BTN_TOOL_PEN}, .axes = {ABS_MT_POSITION_X}, .properties = {INPUT_PROP_DIRECT}},
         "it is a pen tablet"},
        {"old touch screen", {.keys = {BTN_TOUCH}, .axes = {ABS_X, ABS_Y}}, "touch"},
        {"pen", {.keys = {BTN_TOOL_PEN, BTN_STYLUS, BTN_TOUCH}, .axes = {ABS_X, ABS_Y}}, "it is a pen tablet"},
        {"motion sensor of a pad",
         {.axes = {ABS_X, ABS_Y, ABS_Z, ABS_RX, ABS_RY, ABS_RZ}, .properties = {INPUT_PROP_ACCELEROMETER}},
         "it is a motion sensor, for nobody"},
        {"motion sensor of a laptop",
         {.axes = {ABS_X, ABS_Y, ABS_Z}, .bus = BUS_HOST},
         "it is a motion sensor, for nobody"},
        {"power button", {.keys = {KEY_POWER, KEY_SLEEP}}, "it is a power button, for nobody"},
        {"lid", {}, "it has neither keys nor axes, for nobody"},
        {"keys without names", {.keys = {KEY_MACRO1, KEY_MACRO2}}, "no control stands for any of its keys, for nobody"},
    };
    for (const auto& row : rows) EXPECT_EQ(kind_text(row.codes), row.expected) << row.what;
}

TEST(EvdevKind, ANamedNodeIsAKeyboardIfItIsNothingElse) {
    EXPECT_EQ(kind_text({.keys = {KEY_POWER}}, true), "keyboard, small");
    EXPECT_EQ(kind_text({.keys = {BTN_TRIGGER}, .axes = {ABS_X}}, true), "gamepad");
    EXPECT_EQ(kind_text({}, true), "it has neither keys nor axes, for nobody");
    EXPECT_EQ(kind_text({.keys = {BTN_TOUCH}, .axes = {ABS_X}}, true), "touch");
}

}  // namespace
