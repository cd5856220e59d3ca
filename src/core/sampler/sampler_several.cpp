// Taking everything other than buttons from several inlets, in order of time. Each round takes from the inlet whose
// next event is the earliest, up to the next event of another one.
#include <array>
#include <type_traits>

#include "core/sampler/sampler_taking.hpp"

namespace cursorum {

// A slot that is later than the cut holds back those behind it, including late ones. Overwritten slots are healed when
// their inlet is next.
template <typename Stream, typename EndOf>
void SamplerCore::take_in_order_of_time(Stream& stream, std::int64_t until, const detail::BeforeLateOfAll& start,
                                        EndOf&& end_of) noexcept {
    const unsigned inlets = timeline_->inlet_count();
    bool has_any = false;
    for (unsigned i = 0; i < inlets; ++i) has_any |= stream.taken(*this, i) != end_of(i);
    if (!has_any) return;
    detail::BeforeLateOfAll before_each = start;
    const auto next_time = [&](unsigned i) {
        const std::uint64_t position = stream.taken(*this, i);
        typename Stream::Slot slot;
        if (position >= end_of(i)) return nothing_more;
        if (!stream.ring(timeline_->inlet(i)).try_read(position, slot)) return nanoseconds(earliest_time);
        return slot.time > until ? slot.time : time_of_other(*timeline_, slot.time, slot.late_at, i, before_each[i]);
    };
    const auto take = [&](unsigned i, std::int64_t limit) {
        const std::uint64_t before = stream.taken(*this, i);
        const std::int64_t time = stream.ring(timeline_->inlet(i)).time_at(before);
        // A late slot may be next although its time is later than the limit; then only that one is taken.
        const bool goes_alone = time != INT64_MIN && time > limit;
        stream.take(*this, timeline_->inlet(i), i, goes_alone ? time : limit, goes_alone ? before + 1 : end_of(i));
        return stream.taken(*this, i) != before;
    };
    take_in_order(inlets, until, next_time, take);
}

void SamplerCore::take_others_of_several(std::int64_t until, const detail::BeforeLateOfAll& start) noexcept {
    const unsigned inlets = timeline_->inlet_count();
    other_entries_.has_any = true;
    // What was published when the taking began.
    std::array<std::array<std::uint64_t, std::tuple_size_v<decltype(other_streams_)>>, inlet_capacity> ends;
    std::array<std::uint64_t, inlet_capacity> changes;
    for (unsigned i = 0; i < inlets; ++i) {
        unsigned number = 0;
        changes[i] = timeline_->inlet(i).changes_of_others_.look();
        for_each_other([&](auto& stream) { ends[i][number++] = stream.ring(timeline_->inlet(i)).published(); });
    }
    unsigned number = 0;
    for_each_other([&](auto& stream) {
        const unsigned at = number++;
        if constexpr (std::remove_reference_t<decltype(stream)>::is_summed) {
            const std::size_t kept = other_entries_.kept.size();
            for (unsigned i = 0; i < inlets; ++i)
                if (ends[i][at] != stream.taken(*this, i))
                    stream.take(*this, timeline_->inlet(i), i, until, ends[i][at]);
            stream.end_several(*this, kept);
        } else {
            take_in_order_of_time(stream, until, start, [&](unsigned i) { return ends[i][at]; });
        }
    });
    for (unsigned i = 0; i < inlets; ++i) {
        bool all = true;
        number = 0;
        for_each_other([&](auto& stream) { all &= stream.taken(*this, i) == ends[i][number++]; });
        if (all) others_.inlets[i].others = changes[i];
    }
}

}  // namespace cursorum
