// The readings of a frame that the views show, in the order in which they show them: by name as bytes, idle ones left
// out unless asked for.
#pragma once

#include <algorithm>
#include <cstddef>
#include <cstdint>
#include <string_view>
#include <vector>

#include "cursorum/views/frame_views.hpp"

namespace cursorum {

struct FrameRow {
    std::uint32_t owner = 0;  // the device's id with per_device, the seat's number with seats
    Button button;
    ButtonFigures figures;
};

/// The kind of a row's `owner`: "device", "seat", or empty.
inline std::string_view owners_of(const FrameSelection& selection) {
    return selection.seats ? "seat" : selection.per_device ? "device" : "";
}

/// Buttons that are not idle, sorted by name as bytes, then by device or seat.
inline std::vector<FrameRow> frame_rows(const Frame& frame, const Timeline& timeline, const FrameSelection& selection) {
    std::vector<FrameRow> rows;
    frame.active().for_each([&](Button button) {
        if (selection.controls.empty() ? !can_be_posted(button) : !selection.controls.contains(button)) return;
        if (selection.seats) {
            for (unsigned seat = 0; seat < selection.seats->count(); ++seat)
                rows.push_back({seat, button, (*selection.seats)[seat][button]});
        } else if (selection.per_device) {
            for (std::size_t i = 0; i < timeline.device_count(); ++i) {
                const DeviceId device = timeline.device(i).id;
                rows.push_back({static_cast<std::uint32_t>(device), button, frame.on(device)[button].figures()});
            }
        } else {
            rows.push_back({0, button, frame[button].figures()});
        }
    });
    std::erase_if(rows, [](const FrameRow& row) { return row.figures.state() == ButtonState::idle; });
    std::sort(rows.begin(), rows.end(), [](const FrameRow& a, const FrameRow& b) {
        return a.button == b.button ? a.owner < b.owner : name_rank(a.button) < name_rank(b.button);
    });
    return rows;
}

}  // namespace cursorum
