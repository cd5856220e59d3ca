#include "input_file.hpp"

#include <fmt/format.h>
#include <stdlib.h>
#include <unistd.h>

#include <array>
#include <cerrno>
#include <cstring>
#include <filesystem>
#include <iostream>
#include <vector>

#include "command_line.hpp"
#include "cursorum/recording/recording_writer.hpp"
#include "cursorum/recording/replay.hpp"
#include "cursorum/sources/evdev_dump.hpp"

namespace cursorum::tool {

void add_dump_option(CommandLine command, std::string& as) {
    command
        .add_option(
            "--as", as,
            "FILE is a raw dump of a Linux event device, a copy of what was read from its node; the device was of "
            "this kind")
        ->type_name("KIND")
        ->one_of({"keyboard", "mouse", "gamepad"});
}

InputFile::InputFile(const std::string& path, const std::string& as)
    : name_{path == "-" ? "standard input" : path}, is_standard_input_{path == "-"} {
    if (is_standard_input_ && !as.empty()) spool();
    if (is_standard_input_) return;
    if (path == "-") {
        convert_dump(as);
        return;
    }
    std::error_code error;
    if (std::filesystem::is_directory(path, error))
        throw UsageError{shown("{}: found a directory; expected a recording", path)};
    file_.open(path, std::ios::binary);
    if (!file_) throw UsageError{shown("{}: cannot be opened: {}", path, std::strerror(errno))};
    using std::filesystem::perms;
    is_private_ =
        (std::filesystem::status(path, error).permissions() & (perms::group_all | perms::others_all)) == perms::none;
    if (!as.empty()) {
        convert_dump(as);
        return;
    }
    std::array<char, 240> begin{};
    if (std::filesystem::is_regular_file(path, error)) {
        file_.read(begin.data(), begin.size());
        if (looks_like_evdev_dump(begin.data(), static_cast<std::size_t>(file_.gcount())))
            throw UsageError{
                shown("{}: found a raw dump of a Linux event device; name the device's kind with --as keyboard, "
                      "--as mouse or --as gamepad",
                      path)};
        file_.clear();
        file_.seekg(0);
    }
}

void InputFile::convert_dump(const std::string& as) {
    RecordingWriter writer{converted_, Time{}};
    writer.header(fmt::format("{}, as {}", name_, as));
    EvdevDumpCounts counts;
    std::string error;
    const DeviceKind kind = as == "mouse"     ? DeviceKind::mouse
                            : as == "gamepad" ? DeviceKind::gamepad
                                              : DeviceKind::keyboard;
    if (!read_evdev_dump(file_, {.kind = kind, .device = DeviceId{1}, .name = as}, writer, counts, error))
        throw UsageError{shown("{}: {}", name_, error)};
    if (counts.unfinished != 0)
        complain(
            shown("{}: {} behind the last event; the rest was used", name_, plural_text(counts.unfinished, "byte")));
    if (counts.unnamed.presses != 0)
        complain(shown("{}: {} left out, of keys that no control stands for (the first has the Linux code {})", name_,
                       plural_text(counts.unnamed.presses, "press"), counts.unnamed.first_code));
    if (counts.overflows != 0)
        complain(shown("{}: {} of the kernel's buffer; what was lost then is not in it", name_,
                       plural_text(counts.overflows, "overflow")));
    is_dump_ = true;
}

std::istream& InputFile::stream() {
    if (is_dump_) return converted_;
    return is_standard_input_ ? std::cin : static_cast<std::istream&>(file_);
}

bool InputFile::has_own_cuts() {
    if (is_dump_) return false;
    if (is_standard_input_) spool();
    const bool has = cursorum::has_own_cuts(file_);
    file_.clear();
    file_.seekg(0);
    if (!file_) throw UsageError{shown("{}: cannot be read twice; give --rate", name_)};
    return has;
}

void InputFile::spool() {
    std::string path = (std::filesystem::temp_directory_path() / "cursorum-XXXXXX").string();
    const int descriptor = mkstemp(path.data());
    if (descriptor < 0) throw UsageError{shown("cannot make a temporary file: {}", std::strerror(errno))};
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
