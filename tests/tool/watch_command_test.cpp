// watch: the real command in a real terminal (tmux), with the keys that a person presses.

#include <gtest/gtest.h>
#include <poll.h>
#include <unistd.h>

#include <chrono>
#include <functional>
#include <sstream>
#include <string>
#include <vector>

#include "support/run_command.hpp"

namespace {

using test::run_command;

const std::string demo = CURSORUM_SOURCE_DIR "/demo/";

/// A terminal of its own, ended with the object.
class Terminal {
public:
    Terminal(int columns, int rows, const std::string& command)
        : name_{"watch" + std::to_string(getpid()) + "x" + std::to_string(++count_)} {
        tmux("new-session -d -x " + std::to_string(columns) + " -y " + std::to_string(rows) + " 'sh -c \"" + command +
             "\"'");
    }
    ~Terminal() { run("kill-server"); }
    Terminal(const Terminal&) = delete;
    Terminal& operator=(const Terminal&) = delete;

    void keys(const std::string& keys) { tmux("send-keys " + keys); }
    std::string tmux(const std::string& command) {
        const auto result = run(command);
        if (result.exit_code != 0 && problem_.empty()) problem_ = "tmux " + command + ": " + result.err;
        return result.out;
    }
    std::string screen() { return tmux("capture-pane -p"); }
    /// Looks again and again, for a minute at most, and only while there is a terminal to look at; nothing depends on
    /// the pauses.
    bool eventually(const std::function<bool()>& holds) {
        const auto end = std::chrono::steady_clock::now() + std::chrono::seconds{60};
        for (; !holds(); poll(nullptr, 0, 20))
            if (!problem_.empty() || std::chrono::steady_clock::now() > end) return false;
        return true;
    }
    /// The screen as soon as it has that text; a failure if it does not get it.
    std::string until(const std::string& text) {
        std::string now;
        const auto has = [&] { return (now = screen()).find(text) != std::string::npos; };
        EXPECT_TRUE(eventually(has)) << problem_ << "never saw " << text << " in\n" << now;
        return now;
    }
    /// Empty, or why there is no terminal: then nothing can be tested.
    const std::string& problem() const { return problem_; }

private:
    test::CommandResult run(const std::string& command) const {
        return run_command("env -u TMUX LC_ALL=C.UTF-8 TERM=xterm-256color tmux -f /dev/null -L " + name_ + " " +
                           command);
    }
    static inline int count_ = 0;
    std::string name_, problem_;
};

/// `watch` between two looks at the terminal's settings: "same" if it left them as they were.
std::string watching(const std::string& options) {
    return "before=\\$(stty -g); " CURSORUM_TOOL_PATH " watch " + options +
           "; echo code \\$?; test \\$before = \\$(stty -g) && echo same; cat";
}

std::vector<std::string> lines_of(const std::string& text) {
    std::vector<std::string> lines;
    std::istringstream in{text};
    for (std::string line; std::getline(in, line);) lines.push_back(line);
    return lines;
}

/// A key is tapped, another one held until long after the test.
const std::string held = R"({"type":"recording","format":"cursorum","version":1}
{"t":0,"type":"connect","device":1,"kind":"keyboard","name":"desk keyboard"}
{"t":100000000,"type":"button","device":1,"control":"KeyD","down":true}
{"t":400000000,"type":"button","device":1,"control":"KeyD","down":false}
{"t":500000000,"type":"button","device":1,"control":"KeyW","down":true}
{"t":900000000000,"type":"button","device":1,"control":"KeyW","down":false}
)";

TEST(WatchCommand, IsUsedWithKeys) {
    const std::string saved = test::temporary_path("watched.jsonl");
    Terminal terminal{80, 24,
                      watching("--source replay:" + test::write_file("held.jsonl", held) + " --profile " + demo +
                               "quay.toml -o " + saved)};
    ASSERT_EQ(terminal.problem(), "");
    const std::string first = terminal.until("crane.travel x");
    EXPECT_NE(first.find("down    "), std::string::npos);
    EXPECT_NE(first.find("modes   crane"), std::string::npos);
    EXPECT_NE(first.find("KeyD"), std::string::npos);
    const std::vector<std::string> lines = lines_of(first);
    ASSERT_EQ(lines.size(), 24U);
    EXPECT_TRUE(lines.back().starts_with("q quit  space pause")) << lines.back();

    terminal.until("KeyW (crane)");
    terminal.keys("Space");
    EXPECT_NE(terminal.until("paused at ").find("space go on"), std::string::npos);
    terminal.keys("/ k e y w");
    EXPECT_NE(terminal.until("/keyw_ 1 lane").find("KeyW"), std::string::npos);
    terminal.keys("Enter - s");
    EXPECT_NE(terminal.until("Saved "), "");
    const auto summary = run_command(CURSORUM_TOOL_PATH " summary " + saved);
    EXPECT_NE(summary.out.find("KeyW"), std::string::npos) << summary.out << summary.err;
    EXPECT_EQ(summary.out.find("KeyD"), std::string::npos) << "the filter left it out";
    terminal.keys("/ Escape Space");
    terminal.until("space pause");

    terminal.keys("?");
    EXPECT_NE(terminal.until("a press that had no effect").find("close this help"), std::string::npos);
    terminal.keys("?");
    terminal.until("last events");

    // Another size: all of it is used, and no more.
    for (const auto& [columns, rows] : {std::pair{30, 8}, {200, 60}}) {
        terminal.tmux("resize-window -x " + std::to_string(columns) + " -y " + std::to_string(rows));
        const auto fits = [&, rows = rows] {
            const std::vector<std::string> now = lines_of(terminal.screen());
            return now.size() == static_cast<std::size_t>(rows) && now.back().starts_with("q quit") &&
                   now.front().starts_with(" watch ");
        };
        EXPECT_TRUE(terminal.eventually(fits)) << terminal.screen();
    }
    terminal.keys("q");
    const std::string after = terminal.until("same");
    EXPECT_NE(after.find("code 0"), std::string::npos) << after;
    EXPECT_EQ(after.find("watch"), std::string::npos) << "the screen is as it was:\n" << after;
}

TEST(WatchCommand, SignalsLeaveTheTerminalAsItWas) {
    for (const std::string signal : {"INT", "TERM", "HUP", "QUIT"}) {
        SCOPED_TRACE(signal);
        Terminal terminal{80, 24, watching("--source replay:" + demo + "two-operators.jsonl")};
        ASSERT_EQ(terminal.problem(), "");
        terminal.until("PadStickLeftX");
        const std::string shell = terminal.tmux("display-message -p '#{pane_pid}'");
        run_command("pkill -" + signal + " -x -P " + shell.substr(0, shell.find('\n')) + " cursorum-full");
        EXPECT_NE(terminal.until("same").find("code 0"), std::string::npos);
    }
}

TEST(WatchCommand, SaysWhatItNeeds) {
    struct Row {
        const char* command;
        const char* expected;
    };
    for (const Row& row : {Row{"watch --source replay:none.jsonl </dev/null", "cursorum record"},
                           Row{"watch --source replay:none.jsonl --rate 0", "--rate"},
                           Row{"watch --source replay:none.jsonl --keep 0s", "must be more than 0"}}) {
        const auto result = run_command(CURSORUM_TOOL_PATH " " + std::string{row.command});
        EXPECT_EQ(result.exit_code, 2) << row.command;
        EXPECT_NE(result.err.find(row.expected), std::string::npos) << result.err;
    }
    Terminal terminal{80, 24, "TERM=nonsense " + watching("--source replay:" + demo + "quay-shift.jsonl")};
    ASSERT_EQ(terminal.problem(), "");
    terminal.until("TERM is");
}

/// A press without focus, one in a closed mode, one that no action has; three pads, of which the last two move.
const std::string odd = R"({"type":"recording","format":"cursorum","version":1}
{"t":0,"type":"connect","device":1,"kind":"keyboard","name":"desk keyboard"}
{"t":0,"type":"connect","device":3,"kind":"gamepad","name":"west pad"}
{"t":0,"type":"connect","device":4,"kind":"gamepad","name":"east pad"}
{"t":0,"type":"connect","device":5,"kind":"gamepad","name":"north pad"}
{"t":10000000,"type":"axis","device":4,"control":"PadStickLeftX","value":1}
{"t":20000000,"type":"axis","device":5,"control":"PadStickLeftX","value":1}
{"t":100000000,"type":"focus","focused":false}
{"t":200000000,"type":"button","device":1,"control":"KeyH","down":true}
{"t":300000000,"type":"focus","focused":true}
{"t":400000000,"type":"button","device":1,"control":"F9","down":true}
{"t":500000000,"type":"button","device":1,"control":"MouseLeft","down":true}
{"t":600000000,"type":"axis","device":5,"control":"PadStickLeftX","value":1}
{"t":900000000000,"type":"button","device":1,"control":"F9","down":false}
)";

TEST(WatchCommand, MarksWhatDidNotCount) {
    Terminal terminal{
        120, 40,
        watching("--source replay:" + test::write_file("odd.jsonl", odd) + " --profile " + demo + "quay.toml")};
    ASSERT_EQ(terminal.problem(), "");
    const std::string screen = terminal.until("MouseLeft down");
    terminal.until("F9 (no action) MouseLeft (mode not open) PadStickLeftRight");
    EXPECT_NE(screen.find("without focus: ignored"), std::string::npos) << screen;
    EXPECT_NE(screen.find("pad     4: left"), std::string::npos) << screen;
    EXPECT_NE(screen.find("pad     5: left"), std::string::npos) << screen;
    EXPECT_EQ(screen.find("pad     3: left"), std::string::npos) << screen;
    for (const std::string& line : lines_of(screen))
        if (line.starts_with("KeyH") || line.starts_with("F9")) {
            EXPECT_NE(line.find("△"), std::string::npos) << line;
            EXPECT_EQ(line.find("░") != std::string::npos, true) << line;
        }
}

}  // namespace
