// File system functions for watching and writing profiles. A file's stamp is its time, its size and its number, so that
// a file that replaced another one is noticed within the clock's resolution, too.
#pragma once

#include <string>

namespace cursorum::detail {

/// Differs if the file was replaced or written to.
struct FileStamp {
    long long time = 0, size = 0;
    unsigned long long number = 0;  // of the file, where the system has one
    bool exists = false;

    friend bool operator==(const FileStamp&, const FileStamp&) = default;
};
FileStamp stamp_of_file(const std::string& path);

}  // namespace cursorum::detail
