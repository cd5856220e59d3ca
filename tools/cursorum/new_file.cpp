#include "new_file.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <signal.h>
#include <unistd.h>

#include <cerrno>
#include <cstdio>
#include <cstring>
#include <filesystem>

#include "command_line.hpp"

namespace cursorum::tool {

namespace {

/// Libraries in between do not always leave the system's reason.
const char* why_not() { return errno == 0 ? "no reason was given; is the disk full?" : std::strerror(errno); }

}  // namespace

void finish_writing(std::ostream& out, const std::string& name) {
    if (out) errno = 0;
    if (!out.flush()) throw UsageError{shown("{}: cannot be written: {}", name, why_not())};
}

NewFile::NewFile(const std::string& path, bool is_private) : path_{path}, part_{path + ".part"} {
    if (path.empty()) throw UsageError{"--output: found an empty name; expected the name of a file to write"};
    // What is there is looked at itself, not what a link leads to. Only a regular file is ever replaced.
    std::error_code error;
    const auto there = std::filesystem::symlink_status(path, error).type();
    using enum std::filesystem::file_type;
    if (there == directory) throw UsageError{shown("{}: found a directory; expected a file to write", path)};
    if (there != not_found && there != regular)
        throw UsageError{shown("{}: found {}; expected a regular file, or none{}", path,
                               there == symlink ? "a symbolic link" : "a device, pipe or socket",
                               there == symlink ? "" : "; use -o - to write to standard output")};
    const int descriptor =
        ::open(part_.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_NOFOLLOW | O_CLOEXEC, is_private ? 0600 : 0666);
    if (descriptor < 0 && errno == EEXIST)
        throw UsageError{
            shown("{}: already exists: another recording is running, or one was interrupted; "
                  "remove the file if it is not needed",
                  part_)};
    if (descriptor < 0) throw UsageError{shown("{}: cannot be written: {}", path, std::strerror(errno))};
    buffer_.emplace(descriptor, std::ios::out | std::ios::binary);
    stream_.rdbuf(&*buffer_);
}

void NewFile::give_up() { std::filesystem::remove(part_); }

void NewFile::take_place() {
    finish_writing(stream_, path_);
    if (!buffer_->close()) throw UsageError{shown("{}: cannot be written: {}", path_, why_not())};
    if (std::rename(part_.c_str(), path_.c_str()) != 0)
        throw UsageError{shown("{}: cannot be written: {}", path_, why_not())};
}

void write_file(const std::string& path, std::string_view text, bool is_private) {
    sigset_t stopping, before;
    sigemptyset(&stopping);
    sigaddset(&stopping, SIGINT);
    sigaddset(&stopping, SIGTERM);
    sigprocmask(SIG_BLOCK, &stopping, &before);
    NewFile file{path, is_private};
    file.stream() << text;
    try {
        finish_writing(file.stream(), path);
        file.take_place();
    } catch (const UsageError&) {
        file.give_up();
        throw;
    }
    sigprocmask(SIG_SETMASK, &before, nullptr);
}

}  // namespace cursorum::tool
