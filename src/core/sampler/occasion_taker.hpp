// A sampler's clicks, drags, contacts, devices and lock keys. After a pause, clicks count anew, what was in progress is
// cancelled, and contacts go on without having begun.
#pragma once

#include <cstdint>

#include "core/sampler/frame_making.hpp"
#include "core/sampler/late_order.hpp"

namespace cursorum::detail {

class OccasionTaker {
public:
    /// The state at `start`, as far back as the history reaches.
    static void start_at(FrameMaking& of, unsigned inlet, std::int64_t start) noexcept;
    /// All up to `until` and up to that position; returns whether nothing is left before it.
    static bool take(FrameMaking& of, const InletHistory& inlet, unsigned number, std::int64_t until,
                     std::uint64_t end) noexcept;
    /// What is taken in between falls into a pause, which ends at `to`.
    void begin_skip(FrameMaking& of) noexcept { skipped_from_ = of.other_entries_.occasion_count; }
    void end_skip(FrameMaking& of, std::int64_t to) const noexcept;

    static constexpr bool is_summed = false;
    using Slot = OccasionSlot;
    static const OccasionRing& ring(const InletHistory& inlet) noexcept { return inlet.occasions_; }
    static std::uint64_t& taken(FrameMaking& of, unsigned inlet) noexcept { return of.others_.inlets[inlet].occasions; }
    static std::int64_t stamp_of(const InletHistory& inlet, const OccasionSlot& slot) noexcept {
        return stamp_of_late(inlet, slot.time, slot.late_at);
    }

private:
    static bool takes_press(FrameMaking& of, unsigned inlet, OccasionSlot& occasion) noexcept;
    static void add(FrameMaking& of, OccasionSlot occasion) noexcept;
    static void heal(FrameMaking& of, unsigned inlet, std::int64_t until) noexcept;
    static void show_connected(const InletHistory& inlet, DeviceBits& connected) noexcept;

    std::uint32_t skipped_from_ = 0;  // how many there were when the pause began
};

}  // namespace cursorum::detail
