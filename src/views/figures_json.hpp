// A button's figures as members of a JSON object, for the lines of frames and of actions: one list of members for both,
// in one order.
#pragma once

#include <fmt/format.h>

#include <iterator>
#include <string>

#include "cursorum/core/button_reading.hpp"

namespace cursorum {

/// From "state" on, without braces.
inline void add_figures(std::string& line, const ButtonFigures& f) {
    fmt::format_to(std::back_inserter(line),
                   R"("state":"{}","press_count":{},"release_count":{},"adopt_count":{},"cancel_count":{},)"
                   R"("repeat_count":{},"system_repeat_count":{},"held_for_ns":{},"down_span_ns":{})",
                   name_of(f.state()), f.press_count(), f.release_count(), f.adopt_count(), f.cancel_count(),
                   f.repeat_count(), f.system_repeat_count(), f.held_for().count(), f.down_span().count());
}

}  // namespace cursorum
