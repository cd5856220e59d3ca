// Reading and writing whole files, so that a power cut leaves the old file or the new one: the text goes to a temporary
// file in the same folder, which is then renamed.
#include "actions/files.hpp"

#include <cerrno>
#include <cstdio>
#include <cstring>
#include <filesystem>
#include <memory>

#include "cursorum/actions/profile_file.hpp"

#if defined(_WIN32)
#include <io.h>
#else
#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>
#endif

namespace cursorum {
namespace {

using File = std::unique_ptr<std::FILE, int (*)(std::FILE*)>;

File open_file(const std::string& path, const char* how) { return {std::fopen(path.c_str(), how), std::fclose}; }

#if defined(_WIN32)
bool is_on_the_disk(std::FILE* file) { return _commit(_fileno(file)) == 0; }
void put_names_on_the_disk(const std::filesystem::path&) {}  // the system does so by itself
unsigned long long number_of_file(const std::string&) { return 0; }
#else
bool is_on_the_disk(std::FILE* file) { return ::fsync(::fileno(file)) == 0; }
/// Where directories cannot be synchronised, the system does so later.
void put_names_on_the_disk(const std::filesystem::path& directory) {
    const int folder = ::open(directory.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC);
    if (folder < 0) return;
    ::fsync(folder);
    ::close(folder);
}
unsigned long long number_of_file(const std::string& path) {
    struct stat about {};
    return ::stat(path.c_str(), &about) == 0 ? about.st_ino : 0;
}
#endif

}  // namespace

std::optional<std::string> read_file_whole(const std::string& path, std::string& why) {
    const auto fail = [&](const std::string& problem) {
        why = path + ": " + problem;
        return std::nullopt;
    };
    if (std::error_code error; std::filesystem::is_directory(path, error))
        return fail("found a folder; expected a file");
    std::string text;
    char part[4096];
    errno = 0;
    const File file = open_file(path, "rb");
    if (!file) return fail(std::string{"cannot be read: "} + std::strerror(errno));
    for (std::size_t count; (count = std::fread(part, 1, sizeof part, file.get())) != 0;) {
        text.append(part, count);
        if (text.size() > profile_text_capacity)
            return fail("found more than " + std::to_string(profile_text_capacity >> 20) +
                        " MiB; expected a profile or an overlay");
    }
    if (std::ferror(file.get()) != 0) return fail(std::string{"cannot be read: "} + std::strerror(errno));
    return text;
}

detail::FileStamp detail::stamp_of_file(const std::string& path) {
    std::error_code error;
    const auto time = std::filesystem::last_write_time(path, error);
    if (error) return {};
    const auto size = std::filesystem::file_size(path, error);  // a folder has none
    return {time.time_since_epoch().count(), error ? -1 : static_cast<long long>(size), number_of_file(path), true};
}

bool write_file_whole(const std::string& path, std::string_view text, std::string& why) {
    const std::string next = path + ".new";
    const auto fail = [&](const std::string& problem) {
        why = next + ": " + problem;
        return false;
    };
    errno = 0;
    File file = open_file(next, "wb");
    if (!file) return fail(std::string{"cannot be read: "} + std::strerror(errno));
    bool ok = std::fwrite(text.data(), 1, text.size(), file.get()) == text.size() && std::fflush(file.get()) == 0 &&
              is_on_the_disk(file.get());
    std::string problem = ok ? "" : std::strerror(errno);
    if (std::fclose(file.release()) != 0 && ok) {
        ok = false;
        problem = std::strerror(errno);
    }
    std::error_code error;
    if (ok) {
        std::filesystem::rename(next, path, error);
        ok = !error;
        problem = error.message();
    }
    if (ok) {
        const std::filesystem::path folder = std::filesystem::path{path}.parent_path();
        put_names_on_the_disk(folder.empty() ? "." : folder);
        return true;
    }
    std::filesystem::remove(next, error);
    return fail(problem);
}

}  // namespace cursorum
