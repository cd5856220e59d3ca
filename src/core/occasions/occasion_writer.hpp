// Writes an inlet's occasions: each gets the time of the present event, and contacts are also stored in their
// table.
#pragma once

#include <cstdint>

#include "core/devices/device.hpp"
#include "core/occasions/occasion_slot.hpp"
#include "core/rings/single_writer.hpp"

namespace cursorum::detail {

/// Refers to members of its inlet, whose thread alone calls it.
struct OccasionWriter {
    OccasionRing& ring;
    SlotTable<OccasionSlot>& contacts;
    unsigned first_contact;
    SingleWriter<std::uint64_t>& changes;      // increases with whatever other than edges is published
    const SingleWriter<std::int64_t>& latest;  // the time of the present event
    const std::uint64_t& late_at;              // the position of its slot `late` in the ring of edges, or `in_time`

    /// `occasion.what` is complete.
    void write(OccasionSlot occasion) const noexcept {
        occasion.time = latest.get();
        occasion.late_at = late_at;
        ring.write_and_publish(occasion);
        changes.publish(changes.get() + 1);
        if (occasion.is_contact()) contacts.show(occasion.place() - first_contact, occasion);
    }
    void write(const Device& device, OccasionKind kind, unsigned place, unsigned button, unsigned count,
               OccasionSlot occasion) const noexcept {
        occasion.what |= device.number | device.is_virtual * OccasionSlot::virtual_bit |
                         OccasionSlot::what_of(kind, place, button, count);
        write(occasion);
    }
};

}  // namespace cursorum::detail
