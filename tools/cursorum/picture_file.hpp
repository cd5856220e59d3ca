// Pictures as files, drawn by Cairo.
#pragma once

#include <string>
#include <string_view>

#include "cursorum/views/picture.hpp"

namespace cursorum::tool {

/// The width of a text in the pictures' font.
double picture_text_width(std::string_view text, double size, bool bold);

/// The picture as a PNG image.
std::string as_png(const Picture& picture);
/// The same as SVG, whose title is its first text.
std::string as_svg(const Picture& picture);

}  // namespace cursorum::tool
