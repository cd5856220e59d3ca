#include <fmt/format.h>

#include <iterator>

#include "cursorum/views/frame_views.hpp"
#include "views/frame_rows.hpp"

namespace cursorum {

// Names of controls and states need no escaping.
std::string frame_as_jsonl(std::uint64_t number, const Frame& frame, const Timeline& timeline,
                           const FrameSelection& selection) {
    std::string line;
    const auto out = std::back_inserter(line);
    fmt::format_to(out, R"({{"frame":{},"t0":{},"t1":{},"controls":[)", number, nanoseconds(frame.start()),
                   nanoseconds(frame.end()));
    const char* comma = "";
    for (const FrameRow& row : frame_rows(frame, timeline, selection)) {
        const ButtonFigures& f = row.figures;
        line += comma;
        line += '{';
        if (selection.per_device) fmt::format_to(out, R"("device":{},)", static_cast<std::uint32_t>(row.device));
        fmt::format_to(out,
                       R"("control":"{}","state":"{}","press_count":{},"release_count":{},"adopt_count":{},)"
                       R"("cancel_count":{},"repeat_count":{},"system_repeat_count":{},"held_for_ns":{},)"
                       R"("down_span_ns":{}}})",
                       name_of(row.button), name_of(f.state()), f.press_count(), f.release_count(), f.adopt_count(),
                       f.cancel_count(), f.repeat_count(), f.system_repeat_count(), f.held_for().count(),
                       f.down_span().count());
        comma = ",";
    }
    line += ']';
    comma = R"(,"edges":[)";
    bool any = false;
    for (const Edge& edge : frame.edges()) {
        if (!selection.controls.empty() && !selection.controls.contains(edge.button)) continue;
        fmt::format_to(out, R"({}{{"t":{},"device":{},"control":"{}","edge":"{}"}})", comma, nanoseconds(edge.time),
                       static_cast<std::uint32_t>(edge.device), name_of(edge.button), name_of(edge.kind));
        comma = ",";
        any = true;
    }
    if (any) line += ']';
    line += "}\n";
    return line;
}

}  // namespace cursorum
