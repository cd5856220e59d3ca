// When a late event is taken: after the events that its inlet posted earlier and that the sampler has not taken yet,
// although its stamp alone would put it before them.
#pragma once

#include <array>
#include <cstdint>

#include "core/frame/sampler_state.hpp"
#include "core/inlet/timeline_core.hpp"
#include "core/sampler/frame_context.hpp"

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
/// For a slot in another ring.
std::int64_t time_of_other(const TimelineCore& timeline, std::int64_t time, std::uint64_t late_at, unsigned inlet,
                           BeforeLate& before) noexcept;

/// Returns the stamp of an event whose slot in a ring other than that of edges has that time: the same, unless the
/// event is late.
std::int64_t stamp_of_late(const InletHistory& inlet, std::int64_t time, std::uint64_t late_at) noexcept;

/// What a sampler asks of a stream whose slots are taken one by one, in order of time among several inlets: its ring,
/// how far it has been taken, and the stamps of its slots.
template <typename SlotOfStream, auto ring_of_stream, auto position_of_stream>
struct OrderedStream {
    static constexpr bool is_summed = false;
    using Slot = SlotOfStream;
    static const auto& ring(const InletHistory& inlet) noexcept { return inlet.*ring_of_stream; }
    static std::uint64_t& taken(FrameContext& of, unsigned inlet) noexcept {
        return of.others_.inlets[inlet].*position_of_stream;
    }
    static std::int64_t stamp_of(const InletHistory& inlet, const Slot& slot) noexcept {
        return stamp_of_late(inlet, slot.time, slot.late_at);
    }
};

}  // namespace cursorum::detail
