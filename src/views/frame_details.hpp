// The parts of a frame other than buttons, as rows: the same for every format. A row has text for people and a value
// for programs.
#pragma once

#include <string>
#include <utility>
#include <vector>

#include "cursorum/views/frame_views.hpp"

namespace cursorum {

/// A member of a row, as in JSON; CSV omits the quotes.
using DetailField = std::pair<const char*, std::string>;

struct DetailRow {
    std::vector<DetailField> fields{};
    bool is_news = true;                  // for the table
    std::string name{}, state{}, text{};  // likewise: "MouseLeft", "click", "from 410, 220 …"
};

/// The columns of a part, in order; rows may leave some out.
std::vector<const char*> detail_columns(FramePart part);

/// All parts except controls.
std::vector<DetailRow> detail_rows(FramePart part, const Frame& frame, const Timeline& timeline,
                                   const FrameSelection& selection);

}  // namespace cursorum
