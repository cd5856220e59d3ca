// In place of picture_file.cpp where Cairo is not there.

#include "command_line.hpp"
#include "picture_file.hpp"

namespace cursorum::tool {
namespace {

UsageError missing() {
    return UsageError{
        "this build draws no SVG and PNG, only pages (OUT.html); to have them, install libcairo2-dev and build with "
        "-DCURSORUM_PICTURES=ON, as `./run.sh setup` does"};
}

}  // namespace

double picture_text_width(std::string_view text, double size, bool) {
    return 0.6 * size * static_cast<double>(text.size());
}
std::string as_png(const Picture&) { throw missing(); }
std::string as_svg(const Picture&) { throw missing(); }

}  // namespace cursorum::tool
