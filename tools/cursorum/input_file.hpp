// A recording named on the command line.
#pragma once

#include <fstream>
#include <istream>
#include <string>

namespace cursorum::tool {

/// Opens FILE, or standard input for "-". A UsageError tells what is wrong with it.
class InputFile {
public:
    explicit InputFile(const std::string& path);

    std::istream& stream();
    /// For messages: the path, or "standard input".
    const std::string& name() const { return name_; }

    /// True if it has cuts of its own; afterwards stream() is at its beginning again. Standard input is kept in an
    /// unnamed temporary file for that.
    bool has_own_cuts();

private:
    void spool();

    std::string name_;
    std::ifstream file_;
    bool is_standard_input_;
};

}  // namespace cursorum::tool
