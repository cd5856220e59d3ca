// Taking everything other than buttons from several inlets, in order of time. Each round takes from the inlet whose
// next event is the earliest, up to the next event of another one.
#include <algorithm>

#include "core/sampler/sampler_taking.hpp"

namespace cursorum {

using detail::AxisSlot;
using detail::MotionSlot;
using detail::OccasionSlot;

void SamplerCore::take_others_of_several(std::int64_t until, const detail::BeforeLateOfAll& start) noexcept {
    const unsigned inlets = timeline_->inlet_count();
    other_entries_.has_any = true;
    struct Ends {
        std::uint64_t others, motions, axes, occasions;
    };
    std::array<Ends, inlet_capacity> ends;
    const std::size_t kept = other_entries_.kept.size();
    for (unsigned i = 0; i < inlets; ++i) {
        const detail::InletHistory& inlet = timeline_->inlet(i);
        ends[i].others = inlet.changes_of_others_.look();
        ends[i].motions = inlet.motions_.published();
        ends[i].axes = inlet.axes_.published();
        ends[i].occasions = inlet.occasions_.published();
        if (ends[i].motions != state_.inlets[i].motions) motions_.take(*this, inlet, i, until, ends[i].motions);
    }
    if (growing_)
        std::stable_sort(other_entries_.kept.begin() + static_cast<std::ptrdiff_t>(kept), other_entries_.kept.end(),
                         [](const MotionSlot& a, const MotionSlot& b) { return a.time < b.time; });
    motions_.place_pointer_of_several(*this);

    // A slot that is later than the cut holds back those behind it, late ones too; what was overwritten is healed as
    // soon as its inlet is next.
    const auto next_time_in = [&](const auto& ring, std::uint64_t position, std::uint64_t end, unsigned i, auto slot,
                                  detail::BeforeLateOfAll& before_each) {
        if (position >= end) return nothing_more;
        if (!ring.try_read(position, slot)) return nanoseconds(earliest_time);
        return slot.time > until ? slot.time : time_of_other(*timeline_, slot.time, slot.late_at, i, before_each[i]);
    };
    // A late slot that is next before its time goes alone, since the others are taken by their times.
    const auto end_of = [&](const auto& ring, std::uint64_t position, std::uint64_t end, std::int64_t& limit) {
        const std::int64_t time = ring.time_at(position);
        if (time == INT64_MIN || time <= limit) return end;
        limit = time;
        return position + 1;
    };
    const auto take_ring = [&](auto ring, auto position, auto ends_of, auto slot, auto take) {
        detail::BeforeLateOfAll before_each = start;
        take_in_order(
            inlets, until,
            [&](unsigned i) {
                return next_time_in(timeline_->inlet(i).*ring, others_.inlets[i].*position, ends[i].*ends_of, i, slot,
                                    before_each);
            },
            [&](unsigned i, std::int64_t limit) {
                const std::uint64_t before = others_.inlets[i].*position;
                const std::uint64_t end = end_of(timeline_->inlet(i).*ring, before, ends[i].*ends_of, limit);
                take(i, limit, end);
                return others_.inlets[i].*position != before;
            });
    };
    using OfInlet = detail::OtherState::OfInlet;
    take_ring(&detail::InletHistory::axes_, &OfInlet::axes, &Ends::axes, AxisSlot{},
              [&](unsigned i, std::int64_t limit, std::uint64_t end) {
                  axes_.take(*this, timeline_->inlet(i), i, limit, end);
              });
    take_ring(&detail::InletHistory::occasions_, &OfInlet::occasions, &Ends::occasions, OccasionSlot{},
              [&](unsigned i, std::int64_t limit, std::uint64_t end) { occasions_.take(*this, i, limit, end); });
    for (unsigned i = 0; i < inlets; ++i)
        if (state_.inlets[i].motions == ends[i].motions && others_.inlets[i].axes == ends[i].axes &&
            others_.inlets[i].occasions == ends[i].occasions)
            others_.inlets[i].others = ends[i].others;
}

}  // namespace cursorum
