// How events are counted. Slots have no room for it, so the count follows from their positions and from the last bits
// of how many of them were not their event's first.
#pragma once

#include <cstdint>

#include "core/axes/axis_slot.hpp"
#include "core/buttons/edge_ring.hpp"
#include "core/rings/single_writer.hpp"

namespace cursorum::detail {

/// The number of events that an inlet took, from the positions of their slots:
///
/// - An event has one or more slots in the ring of edges, and its first one there counts it. Each slot has the last
///   bits of how many slots were not their event's first.
/// - Unless it did nothing but move a mouse, in order: then it is one slot in the ring of motion. (The motion of a
///   contact that acts as pointer stands there too, but its event is counted in the ring of edges.)
/// - Or nothing but move axes, in order: then it has slots in the ring of axes alone. Each slot has the last bits of
///   how many such events there were.
///
/// The inlet's thread writes, any thread reads.
class EventCount {
public:
    // ---- the inlet's thread

    /// A slot in the ring of edges is written next; returns the number for its tag.
    std::uint32_t add_slot(bool is_first) noexcept {
        extra_slots_.add(!is_first);
        return extra_slots();
    }
    std::uint32_t extra_slots() const noexcept { return static_cast<std::uint32_t>(extra_slots_.get()); }
    void add_motion_of_contact() noexcept { extra_motions_.add(1); }
    void add_axes_alone() noexcept { axes_alone_.add(1); }
    /// For the slots of axes.
    std::uint32_t axes_alone() const noexcept {
        return static_cast<std::uint32_t>(axes_alone_.get() & AxisSlot::counted_mask);
    }

    // ---- any thread

    std::uint64_t all(std::uint64_t edges, std::uint64_t motions) const noexcept {
        return edges - extra_slots_.get() + motions - extra_motions_.get() + axes_alone_.get();
    }
    /// About how many slots in the ring of edges were extra ones, less than half a round of a tag's bits off: for the
    /// next, taken before the slot was read.
    std::uint64_t about_extra_slots() const noexcept { return extra_slots_.get(); }
    /// The events of the ring of edges up to `position`, by the slot before it.
    static std::uint64_t up_to(std::uint64_t position, std::uint32_t last_tag, std::uint64_t about) noexcept {
        // The whole number that ends in the tag's bits and is nearest to `about`.
        constexpr std::uint64_t half = std::uint64_t{1} << (extra_bits - 1);
        const std::uint64_t least = about - half;
        return position == 0 ? 0 : position - (least + ((extra_of(last_tag) - least) & (2 * half - 1)));
    }
    /// The events of `slots` slots from `position` on, up to which there were `events`; by the last of those slots.
    static std::uint64_t of_slots(std::uint64_t slots, std::uint64_t position, std::uint64_t events,
                                  std::uint32_t last_tag) noexcept {
        constexpr std::uint64_t mask = (std::uint64_t{1} << extra_bits) - 1;
        return slots - ((extra_of(last_tag) - (position - events)) & mask);
    }
    /// The events of axes alone from one slot's number to another's.
    static std::uint32_t of_axes(std::uint64_t before, std::uint32_t after) noexcept {
        return (after - static_cast<std::uint32_t>(before)) & AxisSlot::counted_mask;
    }

private:
    SingleWriter<std::uint64_t> extra_slots_, axes_alone_, extra_motions_;
};

}  // namespace cursorum::detail
