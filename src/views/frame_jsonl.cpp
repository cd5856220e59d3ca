// Frames as JSON Lines, one object for each, as docs/frame-format.md has them: controls by name, then axes, pointer and
// edges, where there are any.
#include <fmt/format.h>

#include <iterator>

#include "cursorum/views/frame_views.hpp"
#include "views/figures_json.hpp"
#include "views/frame_details.hpp"
#include "views/frame_rows.hpp"

namespace cursorum {

namespace {

// A frame has one pointer and any number of all other parts.
void add_details(std::string& line, FramePart part, const std::vector<DetailRow>& rows) {
    if (rows.empty()) return;
    const bool is_list = part != FramePart::pointer;
    fmt::format_to(std::back_inserter(line), ",\"{}\":{}", name_of(part), is_list ? "[" : "");
    const char* comma = "";
    for (const DetailRow& row : rows) {
        line += comma;
        const char* before = "{";
        for (const auto& [name, value] : row.fields) {
            fmt::format_to(std::back_inserter(line), "{}\"{}\":{}", before, name, value);
            before = ",";
        }
        line += '}';
        comma = ",";
    }
    if (is_list) line += ']';
}

}  // namespace

// Names of controls and states need no escaping.
std::string frame_as_jsonl(std::uint64_t number, const Frame& frame, const Timeline& timeline,
                           const FrameSelection& selection) {
    std::string line;
    const auto out = std::back_inserter(line);
    fmt::format_to(out, R"({{"frame":{},"t0":{},"t1":{},"controls":[)", number, nanoseconds(frame.start()),
                   nanoseconds(frame.end()));
    const char* comma = "";
    for (const FrameRow& row : frame_rows(frame, timeline, selection)) {
        line += comma;
        line += '{';
        if (const auto owners = owners_of(selection); !owners.empty())
            fmt::format_to(out, R"("{}":{},)", owners, row.owner);
        fmt::format_to(out, R"("control":"{}",)", name_of(row.button));
        add_figures(line, row.figures);
        line += '}';
        comma = ",";
    }
    line += ']';
    for (unsigned i = 1; i < frame_part_count; ++i) {
        const auto part = static_cast<FramePart>(i);
        if (selection.parts.contains(part)) add_details(line, part, detail_rows(part, frame, timeline, selection));
    }
    line += "}\n";
    return line;
}

}  // namespace cursorum
