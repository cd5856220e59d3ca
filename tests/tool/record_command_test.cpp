// Recording live, from a real X server.

#include <gtest/gtest.h>

#include <cstdlib>
#include <filesystem>
#include <sstream>
#include <string>
#include <thread>

#include "cursorum/core/event.hpp"
#include "cursorum/recording/recording_reader.hpp"
#include "support/run_command.hpp"
#include "support/x_server.hpp"

namespace {

using namespace cursorum;
using test::run_command;
using test::temporary_path;

class RecordCommand : public testing::Test {
protected:
    void SetUp() override {
        ASSERT_TRUE(server.is_up());
        setenv("DISPLAY", server.display().c_str(), 1);
    }

    /// Records with `options` while keys are pressed, until `enough` is in the file; then sends the signal.
    test::CommandResult record(const std::string& path, const std::string& options, const std::string& enough) {
        test::CommandResult result;
        const std::string pid = temporary_path("pid");
        std::remove(pid.c_str());
        std::thread recording{[&] {
            result = run_command("'" CURSORUM_TOOL_PATH "' record --source x11 -o " + path + " " + options +
                                 " & echo $! >" + pid + ".new; mv " + pid + ".new " + pid + "; wait $!");
        }};
        test::XHand hand{server.display()};
        const bool seen = test::eventually([&] {
            if (test::read_file(path + ".part").find("\"state\"") == std::string::npos) return false;  // it listens
            hand.key(17, true);
            hand.key(30, true);
            hand.key(30, false);
            hand.key(17, false);
            return test::read_file(path + ".part").find(enough) != std::string::npos;
        });
        std::system(("kill -INT $(cat " + pid + ")").c_str());
        recording.join();
        EXPECT_TRUE(seen) << result.err << test::read_file(path);
        return result;
    }

    test::XServer server;
};

TEST_F(RecordCommand, KeepsOnlyTheKeysItWasTold) {
    const std::string path = temporary_path("some.jsonl");
    const auto result = record(path, "--control KeyW", R"("control":"KeyW","down":false)");
    EXPECT_EQ(result.exit_code, 0) << result.err;
    EXPECT_NE(result.err.find("Recording KeyW"), std::string::npos);
    EXPECT_NE(result.err.find("no other key is written"), std::string::npos);
    EXPECT_EQ(test::read_file(path).find("KeyA"), std::string::npos);
    // It can be read, and says what was pressed.
    std::istringstream in{test::read_file(path)};
    RecordingReader reader{in, path};
    RecordingLine line;
    unsigned presses = 0;
    while (reader.read(line)) presses += line.event.type == EventType::button && line.event.down;
    EXPECT_FALSE(reader.error());
    EXPECT_EQ(reader.truncated_line(), 0U);
    EXPECT_GE(presses, 1U);
    const auto again = run_command("cursorum record --source x11 -o " + path + " --control KeyW --for 1ms");
    EXPECT_EQ(again.exit_code, 0) << again.err;
    EXPECT_EQ(test::read_file(path).find("button"), std::string::npos) << "the new one has replaced it";
    using std::filesystem::perms;
    EXPECT_EQ(std::filesystem::status(path).permissions(), perms::owner_read | perms::owner_write);
    EXPECT_FALSE(std::filesystem::exists(path + ".part"));
}

TEST_F(RecordCommand, EveryKeyOnlyWhenAskedAndItSaysSo) {
    const std::string path = temporary_path("every.jsonl");
    const auto result = record(path, "--every-key", R"("control":"KeyA","down":false)");
    EXPECT_EQ(result.exit_code, 0) << result.err;
    EXPECT_NE(result.err.find("EVERY key"), std::string::npos);
    EXPECT_NE(test::read_file(path).find("KeyW"), std::string::npos);
}

TEST_F(RecordCommand, KeepsWhatAProfileBinds) {
    const std::string path = temporary_path("bound.jsonl");
    const std::string profile =
        test::write_file("one.toml",
                         "format = \"cursorum-profile\"\nversion = 1\n[mode.m.action.go]\nkind = "
                         "\"button\"\nbind = [\"KeyW\", \"PadSouth\"]\n");
    const auto result = record(path, "--profile " + profile, R"("control":"KeyW","down":false)");
    EXPECT_EQ(result.exit_code, 0) << result.err;
    EXPECT_NE(result.err.find("Recording KeyW from x11 into"), std::string::npos) << result.err;
    EXPECT_EQ(test::read_file(path).find("KeyA"), std::string::npos);
    EXPECT_EQ(run_command("cursorum record --source x11 -o x.jsonl --profile /nowhere.toml").exit_code, 2);
}

TEST_F(RecordCommand, StopsByItself) {
    const std::string path = temporary_path("short.jsonl");
    const auto result = run_command("cursorum record --source x11 -o " + path + " --control KeyW --for 50ms");
    EXPECT_EQ(result.exit_code, 0) << result.err;
    EXPECT_NE(result.err.find("For 50 ms"), std::string::npos);
    EXPECT_NE(result.err.find("0 events kept"), std::string::npos);
}

TEST_F(RecordCommand, BadUse) {
    for (const auto& [options, err] : {
             std::pair{"-o x.jsonl", "--source"},
             std::pair{"--source x11", "--output"},
             std::pair{"--source x11 -o x.jsonl", "missing the controls to record; name them with --control"},
             std::pair{"--source x11 -o x.jsonl --control Keyw", "did you mean KeyW?"},
             std::pair{"--source x11 -o x.jsonl --control KeyW --every-key", "cannot be used together"},
             std::pair{"--source x11 -o /nowhere/x.jsonl --control KeyW", "cannot be written"},
             std::pair{"--source x11 -o /tmp --control KeyW", "found a directory"},
             std::pair{"--source x11 -o x.jsonl --control KeyW --for 0s", "more than 0"},
             std::pair{"--source x11 -o x.jsonl --control PadSouth", "has no gamepads: use --source evdev"},
             std::pair{"--source x11 -o /dev/null --control KeyW", "found a device"},
             std::pair{"--source evdve -o x.jsonl --control KeyW", "did you mean evdev?"},
             std::pair{"--source evdev:/nowhere -o x.jsonl --control KeyW", "evdev: /nowhere: No such file"},
             std::pair{"--source replay:/nowhere -o x.jsonl --control KeyW", "/nowhere: cannot be opened"},
         }) {
        const auto result = run_command(std::string{"cursorum record "} + options);
        EXPECT_EQ(result.exit_code, 2) << options;
        EXPECT_NE(result.err.find(err), std::string::npos) << options << "\n" << result.err;
    }
    // What stands in the place of the file is not written through, and not replaced.
    const std::string link = temporary_path("link.jsonl"), nowhere = temporary_path("nowhere.jsonl");
    std::remove(link.c_str());
    std::filesystem::create_symlink(nowhere, link);
    const auto linked = run_command("cursorum record --source x11 --control KeyW --for 1ms -o " + link);
    EXPECT_EQ(linked.exit_code, 2);
    EXPECT_NE(linked.err.find("found a symbolic link"), std::string::npos) << linked.err;
    EXPECT_FALSE(std::filesystem::exists(nowhere));
    EXPECT_EQ(std::filesystem::status("/dev/null").permissions() & std::filesystem::perms::others_write,
              std::filesystem::perms::others_write);
    const auto piped = run_command("cursorum record --source x11 --control KeyW --for 1ms -o - | head -n 1");
    EXPECT_NE(piped.out.find("\"recording\""), std::string::npos) << piped.err;
    const auto result = run_command("DISPLAY=:98765 cursorum record --source x11 -o x.jsonl --control KeyW");
    EXPECT_EQ(result.exit_code, 2);
    EXPECT_NE(result.err.find("no X server answers at display \":98765\""), std::string::npos);
}

}  // namespace
