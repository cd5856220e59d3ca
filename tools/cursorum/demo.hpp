// The whole job on the shipped recording.
#pragma once

#include <string>

namespace cursorum::tool {

/// Prints it, at that many frames per second; a UsageError says what is wrong with the rate. `program`: how the tool is
/// started, for the two lines to try next.
void show_demo(const std::string& rate, const std::string& program);

}  // namespace cursorum::tool
