// How a frame becomes the next one's start, and how several inlets are taken in order: inline in advance(), since
// calling all this costs as much as doing it.
#pragma once

#include <algorithm>
#include <utility>

#include "core/sampler/sampler_core.hpp"

namespace cursorum {

inline void detail::OtherEntries::commit(detail::OtherState& state) const noexcept {
    for (std::uint32_t i = 0; i < axis_count; ++i) {
        const detail::AxisRecord& record = axes[i];
        state.axis_values[record.track()] = record.value;
        state.axis_shaped[record.track()] = record.shaped;
    }
    if (occasion_count != 0) state.connected = connected;
    for (std::uint32_t i = 0; i < occasion_count; ++i) {
        const detail::OccasionSlot& occasion = occasions[i];
        if (occasion.is_press())
            state.presses[occasion.place()] = occasion;
        else if (occasion.is_contact())
            state.contacts[occasion.place()] = occasion;
    }
    if (texts.has_changed) state.composed = texts.composed;
    static_cast<detail::PointerLevels&>(state) = *this;
}

// The state at the end is also the state at the next frame's start.
inline void detail::OtherEntries::clear(unsigned inlets) noexcept {
    spans[0].clear();
    for (unsigned i = 1; i < inlets; ++i) spans[i].clear();
    has_any = false;
    if (keeps) kept.clear();
    moved_by_person = moved_by_program = false;
    axis_base += axis_count;
    axis_count = occasion_count = 0;
    texts.clear();
    if (axis_base < 0x80000000U) return;
    axis_base = 1;
    axis_last = {};
}

inline constexpr std::int64_t nothing_more = INT64_MAX;

/// Takes from several inlets in the order of their next events' times, ties by number. `next_time(i)` is that time, or
/// `nothing_more`; `take(i, limit)` takes what comes no later than `limit`, and returns false if it could not. Each
/// round takes at least one slot of those that were there at the beginning, or leaves an inlet out.
template <typename NextTime, typename Take>
void SamplerCore::take_in_order(unsigned inlets, std::int64_t until, NextTime&& next_time, Take&& take) noexcept {
    std::array<std::int64_t, inlet_capacity> heads;
    for (unsigned i = 0; i < inlets; ++i) heads[i] = next_time(i);
    for (;;) {
        unsigned least = 0;
        for (unsigned i = 1; i < inlets; ++i)
            if (heads[i] < heads[least]) least = i;
        if (heads[least] > until) break;
        // It continues until another inlet's next event comes first.
        std::int64_t limit = until;
        for (unsigned i = 0; i < inlets; ++i)
            if (i != least && heads[i] != nothing_more) limit = std::min(limit, heads[i] - (i < least));
        heads[least] = take(least, limit) ? next_time(least) : nothing_more;
    }
    for (unsigned i = 0; i < inlets; ++i)
        if (heads[i] != nothing_more) note_head(heads[i]);
}

[[gnu::always_inline]] inline void SamplerCore::take_others(const detail::InletHistory& inlet, unsigned number,
                                                            std::int64_t until, std::uint64_t others) noexcept {
    other_entries_.has_any = true;
    bool all = true;  // nothing is left for a later cut
    for_each_other([&](auto& stream) {
        if (const std::uint64_t end = stream.ring(inlet).published(); end != stream.taken(*this, number))
            all &= stream.take(*this, inlet, number, until, end);
    });
    if (all) others_.inlets[number].others = others;
}

}  // namespace cursorum
