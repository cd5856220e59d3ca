// A sampler's buttons. What most frames need is inlined into advance(): each slot up to the cut becomes a record of the
// frame. Samplers that merge by themselves, healing and pauses are in edge_taker.cpp.
#pragma once

#include <algorithm>
#include <array>
#include <cstddef>
#include <cstdint>

#include "core/sampler/frame_context.hpp"
#include "core/sampler/late_order.hpp"
#include "core/sampler/taking.hpp"

namespace cursorum::detail {

/// Takes the edges of buttons from inlets into a frame.
class EdgeTaker {
public:
    /// The levels after the inlet's last event, or at an earlier position by undoing later slots.
    static void start_at(FrameContext& of, unsigned inlet, std::int64_t start) noexcept;
    /// `limit`: the latest stamp that comes before the cut, and before any other inlet's.
    static void take(FrameContext& of, const InletHistory& inlet, unsigned number, std::uint64_t end,
                     std::int64_t limit, BeforeLate& before) noexcept;
    /// From now on this sampler merges its holds by itself, since they differ from its inlets'. The state must be
    /// committed.
    static void start_merging(FrameContext& of) noexcept;
    // What is taken between these two falls into a pause, which ends at `to`.
    void begin_skip(FrameContext& of) noexcept {
        skipped_from_ = of.entries_.count;
        skipped_stamps_from_ = of.entries_.stamp_count;
    }
    void end_skip(FrameContext& of, std::int64_t to) noexcept;

private:
    using Holds = std::array<Slot, no_hold + 1>;

    template <bool merges, bool has_gap>
    static bool take_some(FrameContext& of, const InletHistory& inlet, unsigned number, std::uint64_t stop,
                          std::int64_t limit, BeforeLate& before) noexcept;
    static bool take_some_merging(FrameContext& of, const InletHistory& inlet, unsigned number, std::uint64_t stop,
                                  std::int64_t limit, BeforeLate& before) noexcept;
    static bool take_some_after_gap(FrameContext& of, const InletHistory& inlet, unsigned number, std::uint64_t stop,
                                    std::int64_t limit, BeforeLate& before) noexcept;
    static bool make_room(FrameContext& of) noexcept;
    static void heal(FrameContext& of, unsigned inlet, std::int64_t until) noexcept;
    static bool find_beginning(const InletHistory& inlet, std::uint64_t position, Slot& hold) noexcept;
    static void settle(FrameContext& of, const Slot& hold) noexcept;
    static void start_merging(FrameContext& of, const Holds& holds) noexcept;
    static void add_change(const FrameContext& of, SlotKind kind, unsigned hold, const Slot& slot) noexcept;
    static void apply_changes(FrameContext& of, unsigned number, std::int64_t time) noexcept;

    // How many records and stamps there were when the pause began.
    std::uint32_t skipped_from_ = 0, skipped_stamps_from_ = 0;
};

// The number of event slots that still fit.
[[gnu::always_inline]] inline std::size_t free_slots(const FrameContext& of) noexcept {
    // Healing may have used more than the room for slots.
    return of.entries_.count >= of.entries_.room
               ? 0
               : std::min(of.entries_.room - of.entries_.count, of.entries_.stamp_room - of.entries_.stamp_count);
}

// Takes as many of them as fit; returns false at a later one, or after healing. Whether any was overwritten meanwhile
// is checked once, after all have been taken; if so, they are discarded.
template <bool merges, bool has_gap>
[[gnu::always_inline]] inline bool EdgeTaker::take_some(FrameContext& of, const InletHistory& inlet, unsigned number,
                                                        std::uint64_t stop, std::int64_t limit,
                                                        BeforeLate& before) noexcept {
    const EdgeRing& ring = inlet.ring_;
    const auto places = ring.places();
    InletPosition& taken = of.state_.inlets[number];
    std::uint64_t position = taken.edges;
    bool later = false;
    Taking taking{of.state_, of.entries_, taken};
    for (; position != stop; ++position) {
        const Slot slot = EdgeRing::read(places, position);
        if (slot.time > limit && slot.what().is_first()) {  // an event's slots go together
            later = true;
            of.note_head(slot.time);
            break;
        }
        if (!is_unusual(slot.tag())) [[likely]] {
            taking.apply<merges, has_gap>(slot);
        } else if (slot.what().kind() == SlotKind::late) {
            const std::int64_t due = time_of_late(*of.timeline_, slot, position, number, before);
            later = due > limit;
            if (later) {
                of.note_head(due);
                break;
            }
            taking.apply_late(slot);
            // The late event's own slots. Their time is the latest that the inlet had seen. If this sampler has not
            // reached that, it has healed it away: then the stamp counts, and what was taken before.
            while (position + 1 != stop) {
                Slot own = EdgeRing::read(places, position + 1);
                if (own.what().is_first() || own.what().kind() == SlotKind::late) break;
                ++position;
                if (own.time > limit) own.time = taking.effective;
                if (is_unusual(own.tag()))
                    taking.apply_unusual<merges, has_gap>(own);
                else
                    taking.apply<merges, has_gap>(own);
            }
        } else {
            taking.apply_unusual<merges, has_gap>(slot);
        }
    }
    const Slot last = EdgeRing::read(places, position - 1);
    if (!ring.still_has(taken.edges)) {
        taking.give_back();
        heal(of, number, limit);
        return false;
    }
    if (position == taken.edges) return false;
    taking.finish();
    taking.count_events(position - taken.edges, last);
    return !later;
}

[[gnu::always_inline]] inline void EdgeTaker::take(FrameContext& of, const InletHistory& inlet, unsigned number,
                                                   std::uint64_t end, std::int64_t limit, BeforeLate& before) noexcept {
    bool on = true;
    while (on && of.state_.inlets[number].edges != end) {
        std::size_t free = free_slots(of);
        if (free == 0) [[unlikely]] {
            if (!make_room(of)) return heal(of, number, limit);
            free = free_slots(of);
        }
        const std::uint64_t stop = std::min(end, of.state_.inlets[number].edges + free);
        on = of.entries_.has_gap ? take_some_after_gap(of, inlet, number, stop, limit, before)
             : of.state_.merges  ? take_some_merging(of, inlet, number, stop, limit, before)
                                 : take_some<false, false>(of, inlet, number, stop, limit, before);
    }
}

}  // namespace cursorum::detail
