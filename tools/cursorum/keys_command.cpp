// cursorum keys: every control there is.

#include <fmt/format.h>

#include <algorithm>
#include <string>

#include "command_line.hpp"
#include "cursorum/core/key_tables.hpp"

namespace cursorum::tool {
namespace {

std::string lower(std::string_view text) {
    std::string result{text};
    std::transform(result.begin(), result.end(), result.begin(),
                   [](char c) { return c >= 'A' && c <= 'Z' ? static_cast<char>(c - 'A' + 'a') : c; });
    return result;
}

constexpr const char* columns = "{:<20} {:>6} {:<9} {:>5} {:>3} {:>6} {:>4} {:>4} {:>3}  {}";

/// Its number in a table, or a dash.
std::string number_text(const ControlInfo& info, KeyTable table) {
    const auto number = info.button ? number_in(table, info.button) : std::nullopt;
    const bool is_decimal = table == KeyTable::x_keycode || table == KeyTable::standard_pad;
    return !number ? "-" : is_decimal ? fmt::format("{}", *number) : fmt::format("0x{:02X}", *number);
}
TerminalText row_text(const ControlInfo& info) {
    const bool has_code = info.linux_code != 0 || info.family == ControlFamily::axis;
    return shown(columns, info.name, info.button ? fmt::format("{}", info.button.number) : "-",
                 info.hid_page == 0 ? "-" : fmt::format("0x{:02X} 0x{:02X}", info.hid_page, info.hid_usage),
                 has_code ? fmt::format("{}", info.linux_code) : "-", number_text(info, KeyTable::x_keycode),
                 number_text(info, KeyTable::scan_code), number_text(info, KeyTable::virtual_key),
                 number_text(info, KeyTable::macintosh), number_text(info, KeyTable::standard_pad), info.what) +
           "\n";
}

/// What people call keys that have another name here.
std::string_view usual_name_of(std::string_view wanted) {
    struct Other {
        std::string_view said, name;
    };
    static constexpr Other others[] = {
        {"win", "meta"},     {"windows", "meta"},  {"super", "meta"},     {"cmd", "meta"},
        {"command", "meta"}, {"gui", "meta"},      {"ctrl", "control"},   {"esc", "escape"},
        {"return", "enter"}, {"option", "alt"},    {"del", "delete"},     {"ins", "insert"},
        {"pgup", "pageup"},  {"pgdn", "pagedown"}, {"spacebar", "space"}, {"print", "printscreen"}};
    for (const Other& other : others)
        if (wanted == other.said) return other.name;
    return {};
}

class KeysCommand final : public Command {
public:
    explicit KeysCommand(CommandLine parent) {
        app = parent.add_subcommand("keys",
                                    "Lists every control, with its numbers elsewhere");
        app->add_option("WORD", word_,
                        "List only controls with this in their name or description, in upper or lower case");
        app->footer(
            R"(Columns: the number in a set of buttons; page and usage of the USB HID tables; the code of the Linux kernel; the X
keycode; the scan code of set 1 (0xE0.. behind the prefix 0xE0); the virtual key number of the United States' layout; the
Macintosh's virtual key code; the place in the W3C standard gamepad. A program gets them by button_of(KeyTable, number).

Examples:
  cursorum keys
  cursorum keys arrow
  cursorum keys 0x1A)");
    }

    int run() override {
        const Paint paint{wants_colour()};
        const std::string wanted = lower(word_);
        const std::string_view usual = usual_name_of(wanted);
        const auto is_wanted = [&](const std::string& row) {
            return wanted.empty() || row.find(wanted) != std::string::npos ||
                   (!usual.empty() && row.starts_with(usual));
        };
        TerminalText rows;
        std::size_t count = 0;
        for (std::size_t i = 0; i < control_count(); ++i) {
            const ControlInfo& info = control(i);
            const TerminalText row = row_text(info);
            if (!is_wanted(lower(row.string()))) continue;
            rows += row;
            ++count;
        }
        // Names that profiles and commands know in addition to those of buttons and axes.
        struct Compound {
            const char *name, *what;
        };
        for (const Compound& it : {Compound{"PadStickLeft", "both axes of the left stick: profiles, Frame::stick()"},
                                   {"PadStickRight", "both axes of the right stick: profiles, Frame::stick()"},
                                   {"WheelUp", "a step of the wheel away from the person: profiles"},
                                   {"WheelDown", "a step of the wheel toward the person: profiles"},
                                   {"WheelLeft", "a step of the wheel to the left: profiles"},
                                   {"WheelRight", "a step of the wheel to the right: profiles"}}) {
            const TerminalText row = shown(columns, it.name, "-", "-", "-", "-", "-", "-", "-", "-", it.what) + "\n";
            if (!is_wanted(lower(row.string()))) continue;
            rows += row;
            ++count;
        }
        if (count == 0) {
            const std::string_view near = near_control_name(word_);
            complain(shown("no control with \"{}\" in its name or description{}", word_,
                           near.empty() ? std::string{} : fmt::format("; did you mean {}?", near)));
            return answer_is_no;
        }
        print(paint(Paint::bold,
                    shown(columns, "name", "number", "HID usage", "Linux", "X", "scan", "VK", "Mac", "pad", "what")));
        print("\n" + rows);
        return done;
    }

private:
    std::string word_;
};

}  // namespace

std::unique_ptr<Command> add_keys(CommandLine app) { return std::make_unique<KeysCommand>(app); }

}  // namespace cursorum::tool
