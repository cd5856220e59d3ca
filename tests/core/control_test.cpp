#include "cursorum/core/control.hpp"

#include <gtest/gtest.h>

#include <set>
#include <string>

#include "cursorum/core/button_set.hpp"
#include "cursorum/core/controls.hpp"

namespace {

using namespace cursorum;

struct Row {
    const char* name;
    unsigned page, usage, linux_code;
};

// From the W3C code tables, the USB HID Usage Tables and <linux/input-event-codes.h>, each looked up apart from the
// list.
constexpr Row rows[] = {
    {"KeyA", 0x07, 0x04, 30},
    {"KeyZ", 0x07, 0x1D, 44},
    {"Digit1", 0x07, 0x1E, 2},
    {"Digit0", 0x07, 0x27, 11},
    {"Enter", 0x07, 0x28, 28},
    {"Space", 0x07, 0x2C, 57},
    {"IntlBackslash", 0x07, 0x64, 86},
    {"F1", 0x07, 0x3A, 59},
    {"F12", 0x07, 0x45, 88},
    {"F24", 0x07, 0x73, 194},
    {"ArrowUp", 0x07, 0x52, 103},
    {"NumpadEnter", 0x07, 0x58, 96},
    {"ControlLeft", 0x07, 0xE0, 29},
    {"MetaRight", 0x07, 0xE7, 126},
    {"IntlYen", 0x07, 0x89, 124},
    {"Lang1", 0x07, 0x90, 122},
    {"MediaPlayPause", 0x0C, 0xCD, 164},
    {"BrowserBack", 0x0C, 0x224, 158},
    {"Select", 0x07, 0x77, 132},
    {"LaunchApp1", 0x0C, 0x194, 144},
    {"Sleep", 0x01, 0x82, 142},
    {"MouseLeft", 0x09, 1, 0x110},
    {"MouseBack", 0x09, 4, 0x113},
    {"MouseExtra6", 0x09, 6, 0x115},
};

TEST(Control, TableSaysWhatTheStandardsSay) {
    for (const Row& row : rows) {
        const ControlInfo* info = find_control(row.name);
        ASSERT_NE(info, nullptr) << row.name;
        EXPECT_EQ(info->hid_page, row.page) << row.name;
        EXPECT_EQ(info->hid_usage, row.usage) << row.name;
        EXPECT_EQ(info->linux_code, row.linux_code) << row.name;
        EXPECT_EQ(button_of_hid_usage(row.page, row.usage), info->button) << row.name;
        EXPECT_EQ(button_of_linux_code(row.linux_code), info->button) << row.name;
        EXPECT_FALSE(info->what.empty()) << row.name;
    }
}

TEST(Control, NamesAndNumbersAreOneToOne) {
    std::set<std::string> names;
    for (std::size_t i = 0; i < control_count(); ++i) {
        const ControlInfo& info = control(i);
        EXPECT_TRUE(names.emplace(info.name).second) << info.name;
        EXPECT_EQ(find_control(info.name), &info);
        if (info.family == ControlFamily::axis) {
            EXPECT_FALSE(info.button);
            // All but a stick's axes have their name as a button, too.
            const Axis axis = find_axis(info.name).value();
            const bool has_name = axis.number >= 2 * stick_kinds;
            EXPECT_EQ(find_button(info.name), has_name ? axis_button(axis) : Button{});
            EXPECT_EQ(name_of(axis_button(axis)) == info.name, has_name);
            // Every side is a button with a name, except a trigger's negative one, which is no button.
            for (const AxisSide side : {AxisSide::positive, AxisSide::negative}) {
                const Button button = axis_button(axis, side);
                EXPECT_EQ(button == Button{}, is_pull(axis) && side == AxisSide::negative);
                EXPECT_EQ(axis_behind(button).value_or(AxisPush{axis, side}), (AxisPush{axis, side}));
                EXPECT_EQ(axis_behind(button).has_value(), button != Button{});
                EXPECT_EQ(find_button(name_of(button)), button);
            }
            EXPECT_EQ(axis_of_linux_code(info.linux_code), axis);
            EXPECT_EQ(is_pull(axis) + is_extra(axis), has_name);
            EXPECT_FALSE(can_be_posted(axis_button(axis)));
            continue;
        }
        EXPECT_EQ(name_of(info.button), info.name);
        EXPECT_EQ(find_button(info.name), info.button);
        EXPECT_EQ(can_be_posted(info.button), info.button.number < first_of_axes) << info.name;
        if (info.linux_code) {
            EXPECT_EQ(button_of_linux_code(info.linux_code), info.button) << info.name;
        }
    }
}

TEST(Control, RanksAreTheOrderOfNames) {
    std::string before;
    std::set<std::pair<std::string, unsigned>> by_name;
    for (std::size_t i = 0; i < control_count(); ++i)
        if (control(i).button) by_name.emplace(control(i).name, name_rank(control(i).button));
    unsigned last = 0;
    for (const auto& [name, rank] : by_name) {
        EXPECT_GE(rank, last) << name;
        last = rank + 1;
    }
}

TEST(Control, WhatIsUnknownIsNothing) {
    EXPECT_EQ(find_control("Keyw"), nullptr);
    EXPECT_EQ(find_control(""), nullptr);
    EXPECT_FALSE(find_button("PadStickLeftX"));
    EXPECT_EQ(name_of(Button{0}), "");
    EXPECT_EQ(name_of(Button{439}), "");
    EXPECT_EQ(name_of(Button{65535}), "");
    EXPECT_EQ(name_rank(Button{65535}), 65535);
    EXPECT_FALSE(can_be_posted(Button{65535}));
    EXPECT_FALSE(can_be_posted(Button{}));
    EXPECT_FALSE(button_of_linux_code(250));
    EXPECT_FALSE(button_of_linux_code(100'000));
    EXPECT_FALSE(button_of_hid_usage(0, 0));
    EXPECT_FALSE(button_of_hid_usage(0x07, 0xFFFFFF));
}

TEST(Control, NamesOfGamepadsAreByPlace) {
    for (const char* name :
         {"PadSouth", "PadEast", "PadNorth", "PadWest", "PadShoulderLeft", "PadTriggerRight", "PadHatUp"})
        EXPECT_EQ(find_control(name)->family, ControlFamily::pad_button) << name;
    EXPECT_EQ(find_control("PadPullLeft")->family, ControlFamily::axis);
}

TEST(Control, MistypedNamesHaveANearOne) {
    EXPECT_EQ(near_control_name("Keyw"), "KeyW");
    EXPECT_EQ(near_control_name("ArowLeft"), "ArrowLeft");
    EXPECT_EQ(near_control_name("spcae"), "Space");
    EXPECT_EQ(near_control_name("w"), "KeyW");
    EXPECT_EQ(near_control_name("7"), "Digit7");
    EXPECT_EQ(near_control_name("Sift"), "Shift");
    EXPECT_EQ(near_control_name("ThrottleQuadrant"), "");
}

TEST(ButtonSet, IsASetOfButtons) {
    using namespace controls;
    ButtonSet set{KeyA, MouseLeft};
    EXPECT_EQ(set.size(), 2U);
    EXPECT_TRUE(set.contains(KeyA));
    EXPECT_FALSE(set.contains(KeyB));
    set.erase(KeyA);
    set.toggle(KeyB);
    set.set(KeyC, true);
    EXPECT_EQ(set, (ButtonSet{MouseLeft, KeyB, KeyC}));
    EXPECT_EQ((set | ButtonSet{KeyA}).size(), 4U);
    set.insert(Button{button_capacity});
    EXPECT_FALSE(set.contains(Button{button_capacity}));
    EXPECT_EQ(set.size(), 3U);
    unsigned last = 0;
    set.for_each([&](Button b) {
        EXPECT_GT(b.number, last);
        last = b.number;
    });
    EXPECT_TRUE(ButtonSet{}.empty());
}

}  // namespace
