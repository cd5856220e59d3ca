#include "support/run_command.hpp"

#include <sys/wait.h>
#include <unistd.h>

#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <sstream>

namespace test {
namespace {

const std::filesystem::path& folder() {
    static const struct Folder {
        std::filesystem::path path;
        Folder() : path{std::filesystem::temp_directory_path() / ("cursorum-test-" + std::to_string(getpid()))} {
            std::filesystem::create_directory(path);
        }
        ~Folder() { std::filesystem::remove_all(path); }
    } own;
    return own.path;
}

}  // namespace

std::string temporary_path(const std::string& name) { return (folder() / name).string(); }

std::string read_file(const std::string& path) {
    std::ifstream file{path, std::ios::binary};
    std::ostringstream content;
    content << file.rdbuf();
    return content.str();
}

std::string write_file(const std::string& name, const std::string& content) {
    std::ofstream file{temporary_path(name), std::ios::binary};
    file << content;
    return temporary_path(name);
}

std::string squeezed(const std::string& text) {
    std::string result;
    for (const char c : text)
        if (c != ' ' || (!result.empty() && result.back() != ' ' && result.back() != '\n')) result += c;
    return result;
}

CommandResult run_command(const std::string& line) {
    const std::string out = temporary_path("out"), err = temporary_path("err");
    const std::string whole =
        "cursorum() { '" CURSORUM_TOOL_PATH "' \"$@\"; }\n{ " + line + "\n} >'" + out + "' 2>'" + err + "'";
    const std::string script = write_file("script", whole);
    const int status = std::system(("bash '" + script + "'").c_str());
    return {WIFEXITED(status) ? WEXITSTATUS(status) : 128, read_file(out), read_file(err)};
}

}  // namespace test
