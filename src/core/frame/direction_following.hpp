// Following a direction through a frame: four buttons' edges and a stick's values, merged by time. Frames and seats
// give their own edges.
#pragma once

#include <optional>

#include "core/buttons/direction_tally.hpp"
#include "core/frame/frame_core.hpp"

namespace cursorum {

/// Goes through a frame's edges, those for which `is_wanted(StoredEdge)`, and through the stick of the filter's
/// devices, in the order of time. The tally has been started.
template <typename IsWanted>
DirectionReading follow(const FrameCore& frame, DirectionTally& tally, std::optional<Stick> stick,
                        detail::DeviceFilter of_stick, IsWanted&& is_wanted) noexcept {
    std::uint32_t next = 0;
    auto take_edges = [&](std::int64_t until) {
        for (; next < frame.count && frame.time_of(frame.edges[next]) <= until; ++next)
            if (is_wanted(frame.edges[next])) tally.take(frame.edges[next], frame.time_of(frame.edges[next]));
    };
    if (stick) {
        auto take = [&](std::int64_t time, Vector2 value) {
            take_edges(time);
            tally.take(value, time);
        };
        frame.walk(*stick, of_stick, &take, [](void* to, Time time, Vector2 value) {
            (*static_cast<decltype(take)*>(to))(nanoseconds(time), value);
        });
    }
    take_edges(INT64_MAX);
    return tally.finish();
}

}  // namespace cursorum
