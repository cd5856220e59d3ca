// Frames as CSV: a row for each button that is not idle, each axis and each moved pointer, with the same columns in all
// rows. The columns are documented in docs/frame-format.md.
#include <fmt/format.h>

#include <algorithm>
#include <string>
#include <string_view>

#include "cursorum/views/frame_views.hpp"
#include "views/csv_row.hpp"
#include "views/frame_details.hpp"
#include "views/frame_rows.hpp"

namespace cursorum {

namespace {

/// A value of the frame format.
void add_value(CsvRow& row, std::string_view json) {
    if (json.empty() || json.front() != '"') return (void)row.add_number(json);
    // The inverse of escaped() in frame_details.cpp.
    std::string plain;
    for (std::size_t i = 1; i + 1 < json.size(); ++i) {
        if (json[i] != '\\') {
            plain += json[i];
        } else if (json[++i] == 'u') {
            plain += static_cast<char>(std::stoi(std::string{json.substr(i + 1, 4)}, nullptr, 16));
            i += 4;
        } else {
            plain += json[i];
        }
    }
    row.add(plain);
}

// The names of times in nanoseconds and lengths in pixels have a unit.
std::string csv_name(std::string_view column) {
    if (column == "t" || column == "pressed") return std::string{column} + "_ns";
    if (column == "farthest") return "farthest_px";
    return std::string{column};
}

std::string details_as_csv(FramePart part, std::uint64_t number, const Frame& frame, const Timeline& timeline,
                           const FrameSelection& selection) {
    std::string text;
    for (const DetailRow& row : detail_rows(part, frame, timeline, selection)) {
        CsvRow line;
        line.add(number, nanoseconds(frame.start()), nanoseconds(frame.end()));
        for (const char* column : detail_columns(part)) {
            const auto found = std::find_if(row.fields.begin(), row.fields.end(), [&](const DetailField& field) {
                return std::string_view{field.first} == column;
            });
            add_value(line, found == row.fields.end() ? std::string_view{} : found->second);
        }
        text += line.end();
    }
    return text;
}

}  // namespace

std::string frame_csv_heading(FramePart part, const FrameSelection& selection) {
    if (part != FramePart::controls) {
        std::string heading = "frame,t0,t1";
        for (const char* column : detail_columns(part)) heading += "," + csv_name(column);
        return heading + "\n";
    }
    return fmt::format(
        "frame,t0,t1,{}control,state,press_count,release_count,adopt_count,cancel_count,repeat_count,"
        "system_repeat_count,held_for_ns,down_span_ns\n",
        owners_of(selection).empty() ? "" : fmt::format("{},", owners_of(selection)));
}

std::string frame_as_csv(FramePart part, std::uint64_t number, const Frame& frame, const Timeline& timeline,
                         const FrameSelection& selection) {
    if (part != FramePart::controls) return details_as_csv(part, number, frame, timeline, selection);
    std::string rows;
    for (const FrameRow& row : frame_rows(frame, timeline, selection)) {
        const ButtonFigures& f = row.figures;
        CsvRow line;
        line.add(number, nanoseconds(frame.start()), nanoseconds(frame.end()));
        if (!owners_of(selection).empty()) line.add(row.owner);
        line.add(name_of(row.button), name_of(f.state()), f.press_count(), f.release_count(), f.adopt_count(),
                 f.cancel_count(), f.repeat_count(), f.system_repeat_count(), f.held_for().count(),
                 f.down_span().count());
        rows += line.end();
    }
    return rows;
}

}  // namespace cursorum
