// cursorum keys: every control there is.

#include <fmt/format.h>

#include <algorithm>
#include <string>

#include "command_line.hpp"

namespace cursorum::tool {
namespace {

std::string lower(std::string_view text) {
    std::string result{text};
    std::transform(result.begin(), result.end(), result.begin(),
                   [](char c) { return c >= 'A' && c <= 'Z' ? static_cast<char>(c - 'A' + 'a') : c; });
    return result;
}

std::string number_text(const ControlInfo& info) {
    return info.button ? fmt::format("{}", info.button.number) : std::string{"-"};
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
                                    "Lists every control: name, number, USB HID usage, Linux code and description");
        app->add_option("WORD", word_,
                        "List only controls with this in their name or description, in upper or lower case");
        app->footer("Examples:\n  cursorum keys\n  cursorum keys arrow\n  cursorum keys 0x1A");
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
            const std::string usage =
                info.hid_page == 0 ? "-" : fmt::format("0x{:02X} 0x{:02X}", info.hid_page, info.hid_usage);
            const bool has_code = info.linux_code != 0 || info.family == ControlFamily::axis;
            const std::string code = has_code ? fmt::format("{}", info.linux_code) : std::string{"-"};
            const TerminalText row =
                shown("{:<22} {:>6}  {:<11} {:>5}  {}\n", info.name, number_text(info), usage, code, info.what);
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
            const TerminalText row = shown("{:<22} {:>6}  {:<11} {:>5}  {}\n", it.name, "-", "-", "-", it.what);
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
                    shown("{:<22} {:>6}  {:<11} {:>5}  {}", "name", "number", "HID usage", "Linux", "what")));
        print("\n" + rows);
        return done;
    }

private:
    std::string word_;
};

}  // namespace

std::unique_ptr<Command> add_keys(CommandLine app) { return std::make_unique<KeysCommand>(app); }

}  // namespace cursorum::tool
