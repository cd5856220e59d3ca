// Looks through an inlet's rings for the events that were posted before a late one.
#include "core/sampler/late_order.hpp"

#include <algorithm>

namespace cursorum::detail {

// When a late event is taken: by its stamp, but not before the motion and the axes that its inlet posted earlier
// and that the sampler had not taken yet. Late events come in order, so `before` goes through that motion once.
std::int64_t time_of_late(const TimelineCore& timeline, Slot late, std::uint64_t position, unsigned inlet,
                          BeforeLate& before) noexcept {
    if (!late.what().is_first()) {  // axes posted earlier; the event's own slot stands behind it, and they go together
        if (late.ahead_of(before.axes) > 0) before.greatest = std::max(before.greatest, late.time);
        late = timeline.inlet(inlet).ring_.read(position + 1);
        if (!late.what().is_first()) return before.greatest;  // torn
    }
    const MotionRing& ring = timeline.inlet(inlet).motions_;
    const auto ahead = static_cast<std::uint64_t>(std::max(late.ahead_of(before.motions), 0));
    const std::uint64_t end = before.motions + ahead;
    before.motions = end - std::min(ahead, ring.capacity());  // what is older is gone
    MotionSlot slot;
    for (; before.motions != end; ++before.motions)
        if (ring.try_read(before.motions, slot)) before.greatest = std::max(before.greatest, slot.stamp());
    return std::max(late.time, before.greatest);
}

// In time, an event is taken at its time. A late one's stands in the ring of edges, which has a slot for every late
// event of its inlet (but for late motion): not before any event that its inlet posted earlier and the sampler had not
// taken.
std::int64_t time_of_other(const TimelineCore& timeline, std::int64_t time, std::uint64_t late_at, unsigned inlet,
                           BeforeLate& before) noexcept {
    if (late_at == in_time) return time;
    const EdgeRing& ring = timeline.inlet(inlet).ring_;
    const std::uint64_t end = std::min(late_at + 1, ring.published());
    before.edges = std::max(before.edges, std::min(end, ring.oldest()));
    for (Slot slot; before.edges < end; ++before.edges) {
        if (!ring.try_read(before.edges, slot)) continue;
        // A late event's own slots, which are not its first, have the time that the inlet had reached.
        if (slot.what().kind() == SlotKind::late)
            before.greatest = std::max(before.greatest, time_of_late(timeline, slot, before.edges, inlet, before));
        else if (slot.what().is_first())
            before.greatest = std::max(before.greatest, slot.time);
    }
    return std::max(before.greatest, nanoseconds(earliest_time));
}

std::int64_t stamp_of_late(const InletHistory& inlet, std::int64_t time, std::uint64_t late_at) noexcept {
    Slot late;
    return late_at != in_time && inlet.ring_.try_read(late_at, late) ? late.time : time;
}

}  // namespace cursorum::detail
