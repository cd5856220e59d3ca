// When a late event is taken. Its stamp alone would put it before events that its inlet posted earlier and that the
// sampler has not taken; it comes behind them.
#pragma once

#include <array>
#include <cstdint>

#include "core/frame/sampler_state.hpp"
#include "core/inlet/timeline_core.hpp"

namespace cursorum::detail {

/// Of one inlet, what comes before one of its late events: how far it was looked through.
struct BeforeLate {
    BeforeLate() = default;
    BeforeLate(const InletPosition& taken, const OtherState::OfInlet& others) noexcept
        : edges{taken.edges}, motions{taken.motions}, axes{others.axes} {}
    std::uint64_t edges = 0, motions = 0, axes = 0;
    std::int64_t greatest = INT64_MIN;  // stamp
};
using BeforeLateOfAll = std::array<BeforeLate, inlet_capacity>;

/// For the slot `late` at that position in the ring of edges.
std::int64_t time_of_late(const TimelineCore& timeline, Slot late, std::uint64_t position, unsigned inlet,
                          BeforeLate& before) noexcept;
/// The stamp of an event whose slot in another ring than that of edges has that time: its own, unless it is late.
std::int64_t stamp_of_late(const InletHistory& inlet, std::int64_t time, std::uint64_t late_at) noexcept;
/// For a slot in another ring.
std::int64_t time_of_other(const TimelineCore& timeline, std::int64_t time, std::uint64_t late_at, unsigned inlet,
                           BeforeLate& before) noexcept;

}  // namespace cursorum::detail
