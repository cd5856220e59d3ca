#include "new_file.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <signal.h>

#include <cerrno>
#include <cstdio>
#include <cstring>
#include <filesystem>

#include "command_line.hpp"

namespace cursorum::tool {

NewFile::NewFile(const std::string& path, const Rules& rules) : path_{path}, part_{path + ".part"} {
    // What is there is looked at itself, not what a link leads to. Only a regular file is ever replaced.
    std::error_code error;
    const auto there = std::filesystem::symlink_status(path, error).type();
    using enum std::filesystem::file_type;
    if (there == directory) throw UsageError{fmt::format("{}: found a directory; expected a file to write", path)};
    if (there != not_found && there != regular)
        throw UsageError{fmt::format("{}: found {}; expected a regular file, or none{}", path,
                                     there == symlink ? "a symbolic link" : "a device, pipe or socket",
                                     there == symlink ? "" : "; use -o - to write to standard output")};
    if (there == regular && !rules.may_replace)
        throw UsageError{fmt::format("{}: the file already exists; use --overwrite to replace it", path)};
    const int descriptor =
        ::open(part_.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_NOFOLLOW | O_CLOEXEC, rules.is_private ? 0600 : 0666);
    if (descriptor < 0 && errno == EEXIST)
        throw UsageError{
            fmt::format("{}: already exists: another recording is running, or one was interrupted; "
                        "remove the file if it is not needed",
                        part_)};
    if (descriptor < 0) throw UsageError{fmt::format("{}: cannot be written: {}", path, std::strerror(errno))};
    buffer_.emplace(descriptor, std::ios::out | std::ios::binary);
    stream_.rdbuf(&*buffer_);
}

void NewFile::give_up() { std::filesystem::remove(part_); }

void NewFile::take_place() {
    stream_.flush();
    if (!stream_ || std::rename(part_.c_str(), path_.c_str()) != 0)
        throw UsageError{
            fmt::format("{}: cannot be written: {}; what was recorded is in {}", path_, std::strerror(errno), part_)};
}

void write_file(const std::string& path, std::string_view text) {
    sigset_t stopping, before;
    sigemptyset(&stopping);
    sigaddset(&stopping, SIGINT);
    sigaddset(&stopping, SIGTERM);
    sigprocmask(SIG_BLOCK, &stopping, &before);
    NewFile file{path, {.may_replace = true}};
    file.stream() << text << std::flush;
    if (!file.stream()) {
        const int error = errno;
        file.give_up();
        throw UsageError{fmt::format("{}: cannot be written: {}", path, std::strerror(error))};
    }
    file.take_place();
    sigprocmask(SIG_SETMASK, &before, nullptr);
}

}  // namespace cursorum::tool
