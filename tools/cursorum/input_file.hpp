// A recording named on the command line.
#pragma once

#include <fstream>
#include <istream>
#include <sstream>
#include <string>

#include "options.hpp"

namespace cursorum::tool {

/// --as, for a raw dump: what the device was.
void add_dump_option(CommandLine command, std::string& as);

/// Opens FILE, or standard input for "-". With `as`, FILE is a raw dump of an event device and is read as a recording
/// of a device of that kind. A UsageError tells what is wrong with it.
class InputFile {
public:
    explicit InputFile(const std::string& path, const std::string& as = {});

    std::istream& stream();
    /// For messages: the path, or "standard input".
    const std::string& name() const { return name_; }

    /// True if nobody else may read it: then nobody else may see what is made of it.
    bool is_private() const { return is_private_; }

    /// True if it has cuts of its own; afterwards stream() is at its beginning again. Standard input is kept in an
    /// unnamed temporary file for that.
    bool has_own_cuts();

private:
    void spool();
    void convert_dump(const std::string& as);

    std::string name_;
    std::ifstream file_;
    std::stringstream converted_;  // of a dump
    bool is_dump_ = false, is_private_ = false;
    bool is_standard_input_;
};

}  // namespace cursorum::tool
