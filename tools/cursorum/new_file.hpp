// A file that a command writes: whole, or not at all.
#pragma once

#include <ext/stdio_filebuf.h>

#include <optional>
#include <ostream>
#include <string>

namespace cursorum::tool {

/// The end of every output: throws a UsageError if not all of it could be written. `name`: for the message.
void finish_writing(std::ostream& out, const std::string& name);

/// A new file next to the one that was asked for, named FILE.part. It takes that one's place when it is complete; until
/// then, and if something fails, the old one stands. A UsageError says why it cannot be written.
class NewFile {
public:
    /// `is_private`: nobody else may read it, since it may contain what was typed.
    NewFile(const std::string& path, bool is_private);

    std::ostream& stream() { return stream_; }
    /// What was written so far is of no use.
    void give_up();
    /// If that fails, what was written is in part().
    void take_place();
    const std::string& part() const { return part_; }

private:
    std::string path_, part_;
    std::optional<__gnu_cxx::stdio_filebuf<char>> buffer_;
    std::ostream stream_{nullptr};
};

/// Writes a whole file at once; Ctrl-C takes effect before it or after it. An existing one is replaced. `is_private`:
/// for what shows a private recording.
void write_file(const std::string& path, std::string_view text, bool is_private);

}  // namespace cursorum::tool
