// cursorum: recordings of input, cut into frames, explained, made.

#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <cstdio>
#include <exception>
#include <filesystem>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include <CLI/CLI.hpp>

#include "command_line.hpp"
#include "cursorum/core/control.hpp"
#include "cursorum/core/near_name.hpp"
#include "cursorum/core/version.hpp"

namespace {

using cursorum::shown;
using cursorum::TerminalText;
using namespace cursorum::tool;

constexpr const char* full_program = "cursorum-full";

constexpr const char* footer = R"(Exit codes: 0 done, 1 the answer is no, 2 wrong usage or bad input.

Examples:
  cursorum demo
  cursorum frames demo/quay-shift.jsonl --rate 60 --control KeyW
  cursorum explain demo/quay-shift.jsonl --control KeyW --at 4.62s)";

/// What was probably meant by a word that is none of the command's.
std::string meant(const CLI::App& command, const std::string& word) {
    const std::string name = command.get_name();
    if (cursorum::find_control(word) && command.get_option_no_throw("--control") != nullptr)
        return fmt::format("; several controls are named as --control KeyW,{}", word);
    if (name == "check" && word == "--overlay") return "; overlays follow the profile: cursorum check PROFILE OVERLAY";
    return {};
}

/// The near command or option for each word that was not understood.
std::string near_words(const CLI::App& app, const std::vector<std::string>& words) {
    std::string hints;
    for (const std::string& word : words) {
        std::vector<std::string_view> names;
        std::vector<std::string> kept;
        if (word.starts_with("-")) {
            for (const CLI::Option* option : app.get_options())
                for (const std::string& name : option->get_lnames()) kept.push_back("--" + name);
        } else {
            for (const CLI::App* command : app.get_subcommands({})) kept.push_back(command->get_name());
        }
        names.assign(kept.begin(), kept.end());
        const std::string_view near = cursorum::near_name(word.substr(0, word.find('=')), names);
        if (!near.empty()) hints += fmt::format("; did you mean {}?", near);
    }
    return hints;
}

const CLI::App& chosen(const CLI::App& app) {
    const auto commands = app.get_subcommands();
    return commands.empty() ? app : *commands.front();
}

int usage_error(const CLI::App& app, const CLI::ParseError& error) {
    const CLI::App& command = chosen(app);
    std::string message = error.what();
    if (const auto extras = app.remaining(true); !extras.empty()) {
        message = fmt::format("unknown {} \"{}\"{}",
                              extras.front().starts_with("-") ? "option"
                              : &command == &app              ? "command"
                                                              : "argument",
                              extras.front(), near_words(command, extras) + meant(command, extras.front()));
    }
    complain(TerminalText::of(message));
    print_error(shown("See `{} --help`.\n", &command == &app ? "cursorum" : "cursorum " + command.get_name()));
    return bad_use;
}

/// The program with the libraries of pictures, windows and devices lies beside this one, or is installed in libexec. It is
/// started for what may need one of them: `watch`, --source, and pictures. Returns if that is not so, or it is not there.
void start_full_program(char** words) {
    const auto may_need_it = [](std::string_view word) {
        return word == "watch" || word.starts_with("--source") || word.starts_with("-o") || word.starts_with("--output");
    };
    char** word = words;
    while (*word != nullptr && !may_need_it(*word)) ++word;
    std::error_code error;
    const std::filesystem::path self = std::filesystem::read_symlink("/proc/self/exe", error);
    if (*word == nullptr || error || self.filename() == full_program) return;
    const std::filesystem::path folder = self.parent_path();
    for (const auto& place :
         {folder / full_program, folder.parent_path() / CURSORUM_LIBEXEC / "cursorum" / full_program})
        execv(place.c_str(), words);
}

int print_all(const std::string& text) {
    try {
        print_data(text);
        finish_output();
        return done;
    } catch (const UsageError& error) {
        complain(error.text);
        return bad_use;
    }
}

}  // namespace

int main(int argc, char** argv) {
    start_full_program(argv);
    CLI::App app{"Raw keyboard, mouse, gamepad and touch input in, exact frames out."};
    app.name("cursorum");
    app.set_version_flag("--version", "cursorum " CURSORUM_VERSION);
    app.footer(footer);
    app.get_formatter()->column_width(34);
    std::vector<std::unique_ptr<Command>> commands;
    for (const auto add : {add_demo, add_frames, add_draw, add_explain, add_summary, add_compare, add_devices,
                           add_record, add_watch, add_keys, add_check})
        commands.push_back(add(CommandLine{&app}));
    app.require_subcommand(0, 1);
    // `cursorum help` and `cursorum help COMMAND`.
    std::vector<std::string> words{argv + 1, argv + argc};
    if (!words.empty() && words.front() == "help") {
        words.erase(words.begin());
        words.emplace_back("--help");
    }
    std::reverse(words.begin(), words.end());
    try {
        app.parse(words);
    } catch (const CLI::CallForHelp&) {
        return print_all(app.help());
    } catch (const CLI::CallForVersion& version) {
        return print_all(version.what() + std::string{"\n"});
    } catch (const CLI::ParseError& error) {
        return usage_error(app, error);
    }
    try {
        for (const auto& command : commands) {
            if (!command->app->parsed()) continue;
            const int code = command->run();
            finish_output();
            return code;
        }
        print_data(app.help());
        return bad_use;
    } catch (const UsageError& error) {
        std::fflush(stdout);
        complain(error.text);
    } catch (const std::exception& error) {
        complain(shown("unexpected: {}", error.what()));
    }
    return bad_use;
}
