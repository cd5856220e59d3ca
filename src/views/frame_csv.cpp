#include <fmt/format.h>

#include <iterator>

#include "cursorum/views/frame_views.hpp"
#include "views/frame_rows.hpp"

namespace cursorum {

std::string frame_csv_heading(const FrameSelection& selection) {
    return fmt::format(
        "frame,t0_ns,t1_ns,{}control,state,press_count,release_count,adopt_count,cancel_count,repeat_count,"
        "system_repeat_count,held_for_ns,down_span_ns\n",
        selection.per_device ? "device," : "");
}

std::string frame_as_csv(std::uint64_t number, const Frame& frame, const Timeline& timeline,
                         const FrameSelection& selection) {
    std::string rows;
    for (const FrameRow& row : frame_rows(frame, timeline, selection)) {
        const ButtonFigures& f = row.figures;
        const std::string device =
            selection.per_device ? fmt::format("{},", static_cast<std::uint32_t>(row.device)) : std::string{};
        fmt::format_to(std::back_inserter(rows), "{},{},{},{}{},{},{},{},{},{},{},{},{},{}\n", number,
                       nanoseconds(frame.start()), nanoseconds(frame.end()), device, name_of(row.button),
                       name_of(f.state()), f.press_count(), f.release_count(), f.adopt_count(), f.cancel_count(),
                       f.repeat_count(), f.system_repeat_count(), f.held_for().count(), f.down_span().count());
    }
    return rows;
}

}  // namespace cursorum
