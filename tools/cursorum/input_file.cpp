#include "input_file.hpp"

#include <fmt/format.h>
#include <stdlib.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>
#include <filesystem>
#include <iostream>
#include <vector>

#include "command_line.hpp"
#include "cursorum/recording/replay.hpp"

namespace cursorum::tool {

InputFile::InputFile(const std::string& path)
    : name_{path == "-" ? "standard input" : path}, is_standard_input_{path == "-"} {
    if (is_standard_input_) return;
    std::error_code error;
    if (std::filesystem::is_directory(path, error))
        throw UsageError{fmt::format("{}: found a directory; expected a recording", path)};
    file_.open(path, std::ios::binary);
    if (!file_) throw UsageError{fmt::format("{}: cannot be opened: {}", path, std::strerror(errno))};
}

std::istream& InputFile::stream() { return is_standard_input_ ? std::cin : file_; }

bool InputFile::has_own_cuts() {
    if (is_standard_input_) spool();
    const bool has = cursorum::has_own_cuts(file_);
    file_.clear();
    file_.seekg(0);
    if (!file_) throw UsageError{fmt::format("{}: cannot be read twice; give --rate", name_)};
    return has;
}

void InputFile::spool() {
    std::string path = (std::filesystem::temp_directory_path() / "cursorum-XXXXXX").string();
    const int descriptor = mkstemp(path.data());
    if (descriptor < 0) throw UsageError{fmt::format("cannot make a temporary file: {}", std::strerror(errno))};
    close(descriptor);
    {
        std::ofstream copy{path, std::ios::binary};
        std::vector<char> chunk(65536);
        while (std::cin.read(chunk.data(), static_cast<std::streamsize>(chunk.size())) || std::cin.gcount() > 0)
            copy.write(chunk.data(), std::cin.gcount());
        copy.flush();
        file_.open(path, std::ios::binary);
        std::filesystem::remove(path);
        if (!copy || !file_) throw UsageError{"standard input does not fit in the temporary folder; give --rate"};
    }
    is_standard_input_ = false;
}

}  // namespace cursorum::tool
