// The readings of a frame that the views tell, in the order they tell them.
#pragma once

#include <algorithm>
#include <cstddef>
#include <vector>

#include "cursorum/views/frame_views.hpp"

namespace cursorum {

struct FrameRow {
    DeviceId device{};  // with per_device
    Button button;
    ButtonFigures figures;
};

/// Buttons that are not idle, sorted by name as bytes, then by device.
inline std::vector<FrameRow> frame_rows(const Frame& frame, const Timeline& timeline, const FrameSelection& selection) {
    std::vector<FrameRow> rows;
    frame.active().for_each([&](Button button) {
        if (selection.controls.empty() ? !can_be_posted(button) : !selection.controls.contains(button)) return;
        if (!selection.per_device) {
            rows.push_back({{}, button, frame[button].figures()});
            return;
        }
        for (std::size_t i = 0; i < timeline.device_count(); ++i) {
            const DeviceId device = timeline.device(i).id;
            rows.push_back({device, button, frame.on(device)[button].figures()});
        }
    });
    std::erase_if(rows, [](const FrameRow& row) { return row.figures.state() == ButtonState::idle; });
    std::sort(rows.begin(), rows.end(), [](const FrameRow& a, const FrameRow& b) {
        return a.button == b.button ? a.device < b.device : name_rank(a.button) < name_rank(b.button);
    });
    return rows;
}

}  // namespace cursorum
