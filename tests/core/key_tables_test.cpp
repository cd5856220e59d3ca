// Our tables against those of Debian's packages: the X keyboard database (xkb-data), the virtual machine's key maps
// (qemu-system-data), and the headers of the cross compiler for Windows.
#include "cursorum/core/key_tables.hpp"

#include <gtest/gtest.h>

#include <cstdlib>
#include <fstream>
#include <map>
#include <set>
#include <sstream>
#include <string>
#include <vector>

namespace {

using namespace cursorum;
using namespace cursorum::controls;

constexpr KeyTable tables[] = {KeyTable::linux_code, KeyTable::x_keycode,         KeyTable::hid_usage,
                               KeyTable::scan_code,  KeyTable::message_scan_code, KeyTable::virtual_key,
                               KeyTable::macintosh,  KeyTable::standard_pad};

TEST(KeyTables, EachNumberLeadsThereAndBack) {
    for (const KeyTable table : tables) {
        std::size_t count = 0;
        for (unsigned number = 0; number <= 0xFFFF; ++number) {
            const Button button = button_of(table, number);
            if (!button) continue;
            ++count;
            EXPECT_TRUE(can_be_posted(button)) << name_of(button);
            const auto back = number_in(table, button);
            ASSERT_TRUE(back) << static_cast<int>(table) << ": " << name_of(button);
            EXPECT_EQ(button_of(table, *back), button) << name_of(button);
        }
        for (unsigned number = 0; number < 256; ++number)
            if (number != 0x54) {  // a second number of Print Screen
                EXPECT_EQ(numbering_of(table)[number], button_of(table, number)) << static_cast<int>(table) << number;
            }
        EXPECT_GE(count, table == KeyTable::standard_pad ? 17U : 100U) << static_cast<int>(table);
        EXPECT_EQ(button_of(table, 0x1'0000), Button{});
        EXPECT_EQ(number_in(table, Button{}), std::nullopt);
        EXPECT_EQ(number_in(table, Shift), std::nullopt) << "either side";
    }
}

TEST(KeyTables, KeysThatAreSpecialSomewhere) {
    struct Row {
        KeyTable table;
        unsigned number;
        Button button;
    };
    for (const Row& row : {Row{KeyTable::scan_code, 0xE01D, ControlRight},
                           {KeyTable::scan_code, 0x45, NumLock},
                           {KeyTable::scan_code, 0xE11D, Pause},
                           {KeyTable::scan_code, 0xE046, Pause},
                           {KeyTable::scan_code, 0x54, PrintScreen},
                           {KeyTable::message_scan_code, 0xE01D, ControlRight},
                           {KeyTable::message_scan_code, 0x45, Pause},
                           {KeyTable::message_scan_code, 0xE045, NumLock},
                           {KeyTable::message_scan_code, 0xE046, Pause},
                           {KeyTable::message_scan_code, 0xE11D, Button{}},
                           {KeyTable::virtual_key, 0x0D, Enter},
                           {KeyTable::virtual_key, 0xE00D, NumpadEnter},
                           {KeyTable::virtual_key, 0x10, Button{}},
                           {KeyTable::x_keycode, 7, Button{}},
                           {KeyTable::x_keycode, 38, KeyA},
                           {KeyTable::standard_pad, 0, PadSouth},
                           {KeyTable::standard_pad, 2, PadWest},
                           {KeyTable::standard_pad, 12, PadHatUp},
                           {KeyTable::standard_pad, 17, Button{}}})
        EXPECT_EQ(button_of(row.table, row.number), row.button)
            << static_cast<int>(row.table) << " " << row.number << " " << name_of(row.button);
}

TEST(KeyTables, CodesOfBrowsers) {
    EXPECT_EQ(button_of_code("KeyW"), KeyW);
    EXPECT_EQ(button_of_code("OSLeft"), MetaLeft);
    for (const char* code :
         {"", "Shift", "PadSouth", "MouseLeft", "PadStickLeftX", "Unidentified", "keyw", "KeyExtra1"})
        EXPECT_EQ(button_of_code(code), Button{}) << code;
}

#ifndef _WIN32

std::string text_of(const char* path) {
    std::ifstream in{path};
    EXPECT_TRUE(in) << path << " is missing: install the packages that packages-test.txt lists";
    std::ostringstream text;
    text << in.rdbuf();
    return text.str();
}

/// `<AC01> = 38;` of a section.
std::map<std::string, unsigned> xkb_keys(const char* path, const std::string& section) {
    std::map<std::string, unsigned> keys;
    const std::string text = text_of(path);
    std::size_t at = text.find("xkb_keycodes \"" + section + "\"");
    EXPECT_NE(at, text.npos) << section;
    const std::size_t end = text.find("\n};", at);
    std::istringstream lines{text.substr(at, end - at)};
    for (std::string line; std::getline(lines, line);) {
        const std::size_t name = line.find_first_not_of(" \t"), equals = line.find('=');
        if (name == line.npos || line[name] != '<' || equals == line.npos) continue;
        keys[line.substr(name, line.find('>') + 1 - name)] =
            static_cast<unsigned>(std::strtoul(line.c_str() + equals + 1, nullptr, 10));
    }
    return keys;
}

TEST(KeyTables, MacintoshAsTheXKeyboardDatabaseHasIt) {
    const char* const folder = "/usr/share/X11/xkb/keycodes/";
    const auto ours = xkb_keys((folder + std::string{"evdev"}).c_str(), "evdev");
    // It has the bus's own numbers, in which arrows and the keys at the right differ, and names three keys by their
    // places on other keyboards.
    const std::set<std::string> others{"<UP>",   "<DOWN>", "<LEFT>", "<RGHT>", "<RALT>", "<LALT>",
                                       "<LCTL>", "<LFSH>", "<PRSC>", "<SCLK>", "<PAUS>"};
    unsigned compared = 0;
    for (const auto& [name, number] : xkb_keys((folder + std::string{"macintosh"}).c_str(), "old")) {
        if (others.contains(name)) continue;
        ASSERT_TRUE(ours.contains(name)) << name;
        const Button button = button_of(KeyTable::x_keycode, ours.at(name));
        EXPECT_EQ(button_of(KeyTable::macintosh, number - 8), button) << name << " " << name_of(button);
        ++compared;
    }
    EXPECT_GE(compared, 80U);
}

TEST(KeyTables, ScanCodesAsTheVirtualMachineHasThem) {
    // # evdev 28 (0x1c), QKeyCode "ret", number 0x1c
    std::istringstream lines{text_of("/usr/share/qemu/keymaps/en-us")};
    unsigned compared = 0;
    for (std::string line; std::getline(lines, line);) {
        const std::size_t number_at = line.find("number 0x");
        if (!line.starts_with("# evdev ") || number_at == line.npos) continue;
        const auto code = static_cast<unsigned>(std::strtoul(line.c_str() + 8, nullptr, 10));
        auto number = static_cast<unsigned>(std::strtoul(line.c_str() + number_at + 7, nullptr, 16));
        if (number >= 0x80) number = 0xE000 + (number & 0x7F);
        const Button button = button_of_linux_code(code);
        // For keys of workstations the kernel has numbers of its own.
        const bool is_of_workstations =
            button == Undo || button == Copy || button == Cut || button == Paste || button == Help;
        if (!button || is_of_workstations || !number_in(KeyTable::scan_code, button)) continue;
        EXPECT_EQ(button_of(KeyTable::scan_code, number), button) << line;
        ++compared;
    }
    EXPECT_GE(compared, 60U);
}

// The Linux kernel numbered its keys by the scan codes without a prefix.
TEST(KeyTables, ScanCodesWithoutAPrefixAreLinuxCodes) {
    for (unsigned number = 1; number <= 0x58; ++number)
        if (number != 0x54 && number != 0x55) {
            EXPECT_EQ(button_of(KeyTable::scan_code, number), button_of_linux_code(number)) << number;
        }
}

TEST(KeyTables, VirtualKeysAsTheHeadersHaveThem) {
    std::map<std::string, unsigned> header;
    std::istringstream lines{text_of("/usr/share/mingw-w64/include/winuser.h")};
    for (std::string define, name, number; std::getline(lines, define);) {
        std::istringstream words{define};
        if (words >> define >> name >> number && define == "#define" && name.starts_with("VK_"))
            header[name.substr(3)] = static_cast<unsigned>(std::strtoul(number.c_str(), nullptr, 0));
    }
    const std::vector<std::pair<std::string, Button>> pairs{{"BACK", Backspace},
                                                            {"TAB", Tab},
                                                            {"RETURN", Enter},
                                                            {"PAUSE", Pause},
                                                            {"CAPITAL", CapsLock},
                                                            {"KANA", KanaMode},
                                                            {"HANJA", Lang2},
                                                            {"ESCAPE", Escape},
                                                            {"CONVERT", Convert},
                                                            {"NONCONVERT", NonConvert},
                                                            {"SPACE", Space},
                                                            {"PRIOR", PageUp},
                                                            {"NEXT", PageDown},
                                                            {"END", End},
                                                            {"HOME", Home},
                                                            {"LEFT", ArrowLeft},
                                                            {"UP", ArrowUp},
                                                            {"RIGHT", ArrowRight},
                                                            {"DOWN", ArrowDown},
                                                            {"SELECT", Select},
                                                            {"SNAPSHOT", PrintScreen},
                                                            {"INSERT", Insert},
                                                            {"DELETE", Delete},
                                                            {"HELP", Help},
                                                            {"LWIN", MetaLeft},
                                                            {"RWIN", MetaRight},
                                                            {"APPS", ContextMenu},
                                                            {"SLEEP", Sleep},
                                                            {"NUMPAD0", Numpad0},
                                                            {"NUMPAD9", Numpad9},
                                                            {"MULTIPLY", NumpadMultiply},
                                                            {"ADD", NumpadAdd},
                                                            {"SEPARATOR", NumpadComma},
                                                            {"SUBTRACT", NumpadSubtract},
                                                            {"DECIMAL", NumpadDecimal},
                                                            {"DIVIDE", NumpadDivide},
                                                            {"F1", F1},
                                                            {"F12", F12},
                                                            {"F24", F24},
                                                            {"NUMLOCK", NumLock},
                                                            {"SCROLL", ScrollLock},
                                                            {"OEM_NEC_EQUAL", NumpadEqual},
                                                            {"LSHIFT", ShiftLeft},
                                                            {"RSHIFT", ShiftRight},
                                                            {"LCONTROL", ControlLeft},
                                                            {"RCONTROL", ControlRight},
                                                            {"LMENU", AltLeft},
                                                            {"RMENU", AltRight},
                                                            {"BROWSER_BACK", BrowserBack},
                                                            {"BROWSER_FORWARD", BrowserForward},
                                                            {"BROWSER_REFRESH", BrowserRefresh},
                                                            {"BROWSER_STOP", BrowserStop},
                                                            {"BROWSER_SEARCH", BrowserSearch},
                                                            {"BROWSER_FAVORITES", BrowserFavorites},
                                                            {"BROWSER_HOME", BrowserHome},
                                                            {"VOLUME_MUTE", AudioVolumeMute},
                                                            {"VOLUME_DOWN", AudioVolumeDown},
                                                            {"VOLUME_UP", AudioVolumeUp},
                                                            {"MEDIA_NEXT_TRACK", MediaTrackNext},
                                                            {"MEDIA_PREV_TRACK", MediaTrackPrevious},
                                                            {"MEDIA_STOP", MediaStop},
                                                            {"MEDIA_PLAY_PAUSE", MediaPlayPause},
                                                            {"LAUNCH_MAIL", LaunchMail},
                                                            {"LAUNCH_MEDIA_SELECT", MediaSelect},
                                                            {"LAUNCH_APP1", LaunchApp1},
                                                            {"LAUNCH_APP2", LaunchApp2},
                                                            {"OEM_1", Semicolon},
                                                            {"OEM_PLUS", Equal},
                                                            {"OEM_COMMA", Comma},
                                                            {"OEM_MINUS", Minus},
                                                            {"OEM_PERIOD", Period},
                                                            {"OEM_2", Slash},
                                                            {"OEM_3", Backquote},
                                                            {"OEM_4", BracketLeft},
                                                            {"OEM_5", Backslash},
                                                            {"OEM_6", BracketRight},
                                                            {"OEM_7", Quote},
                                                            {"OEM_102", IntlBackslash}};
    for (const auto& [name, button] : pairs) {
        ASSERT_TRUE(header.contains(name)) << name;
        EXPECT_EQ(button_of(KeyTable::virtual_key, header.at(name)), button) << name;
    }
    // Letters and digits have the numbers of their ASCII characters; the header says so in a comment only.
    for (char c = 'A'; c <= 'Z'; ++c)
        EXPECT_EQ(button_of(KeyTable::virtual_key, static_cast<unsigned>(c)), find_button(std::string{"Key"} + c));
    for (char c = '0'; c <= '9'; ++c)
        EXPECT_EQ(button_of(KeyTable::virtual_key, static_cast<unsigned>(c)), find_button(std::string{"Digit"} + c));
}

#endif

}  // namespace
