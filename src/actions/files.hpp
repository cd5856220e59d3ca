// What watching and writing profiles needs of the file system.
#pragma once

#include <string>

namespace cursorum::detail {

/// Differs when another file stands there, or when it was written to.
struct FileStamp {
    long long time = 0, size = 0;
    unsigned long long number = 0;  // of the file, where the system has one
    bool exists = false;

    friend bool operator==(const FileStamp&, const FileStamp&) = default;
};
FileStamp stamp_of_file(const std::string& path);

}  // namespace cursorum::detail
