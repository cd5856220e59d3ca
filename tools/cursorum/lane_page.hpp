// Lanes as a page for a browser.
#pragma once

#include <string>

#include "cursorum/views/lane_history.hpp"

namespace cursorum::tool {

/// One self-contained page, in which one can zoom, search, and ask about each frame.
std::string lane_page(const LaneHistory& lanes, const std::string& title);

}  // namespace cursorum::tool
