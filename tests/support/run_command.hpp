// Runs the real command, as its users do.
#pragma once

#include <string>

namespace test {

struct CommandResult {
    int exit_code = -1;
    std::string out, err;
};

/// The text with each run of spaces as one, and none at a line's beginning: for tables, whose columns may move.
std::string squeezed(const std::string& text);

/// Runs a line of the shell with "cursorum" standing for the tool that was built.
CommandResult run_command(const std::string& line);

/// A file in a folder of the test's own, with this content; its path.
std::string write_file(const std::string& name, const std::string& content);

/// A fresh path in that folder.
std::string temporary_path(const std::string& name);

std::string read_file(const std::string& path);

}  // namespace test
