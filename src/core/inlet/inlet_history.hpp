// The part of an inlet that samplers and frames read: its rings, the tables of their latest entries, its devices and
// counters. Its thread writes them, and no thread waits.
#pragma once

#include <array>
#include <cstdint>
#include <memory>

#include "core/axes/axis_slot.hpp"
#include "core/axes/track_table.hpp"
#include "core/buttons/edge_ring.hpp"
#include "core/devices/device.hpp"
#include "core/inlet/event_count.hpp"
#include "core/ledger/ledger.hpp"
#include "core/motion/motion_slot.hpp"
#include "core/occasions/occasion_slot.hpp"
#include "core/rings/single_writer.hpp"
#include "core/text/text_slot.hpp"
#include "cursorum/core/inlet.hpp"

namespace cursorum::detail {

/// The capacities of an inlet's rings.
struct HistoryRoom {
    std::uint32_t edges, motions, axes, occasions, texts;
    std::uint32_t ledger;  // in bytes; 0: none
};

/// An inlet's rings, the tables of their latest entries, its devices and its counters. The inlet's thread writes them;
/// any thread reads them, and no thread waits.
struct InletHistory {
    /// The numbers that an inlet gives to holds, devices, tracks, presses and contacts: its share of the timeline's.
    struct Numbers {
        std::uint16_t inlet;
        std::uint16_t first_hold, hold_room;
        std::uint8_t first_device, device_room;
        std::uint16_t first_track, track_room;
        std::uint8_t first_press, press_room;
        std::uint8_t first_contact, contact_room;
    };

    /// All holds at one position in the ring, for a sampler that is new or was overrun.
    struct HoldsCopy {
        std::uint64_t position = 0;
        std::uint64_t events = 0;                 // in the ring up to there
        std::array<Slot, hold_capacity> holds{};  // each one's last edge
    };

    InletHistory(const Numbers& numbers, const HistoryRoom& room);

    /// By the timeline's number; null if it is another inlet's, or there is none.
    const Device* device_numbered(unsigned number) const noexcept {
        const unsigned place = number - numbers_.first_device;
        return place < numbers_.device_room && devices_[place].known_as.look() != 0 ? &devices_[place] : nullptr;
    }

    /// Returns false, after a few tries, if the producer keeps wrapping around its whole history meanwhile.
    bool try_copy_holds(HoldsCopy& copy) const noexcept;

    Time latest() const noexcept { return Time{Duration{latest_.get()}}; }
    Time complete_until() const noexcept { return Time{Duration{complete_until_.look()}}; }
    InletCounters counters() const noexcept;

    const Numbers numbers_;
    SingleWriter<std::int64_t> latest_;
    EventCount event_count_;
    SingleWriter<std::uint64_t> changes_of_others_;  // increases whenever anything other than edges is published
    std::array<SingleWriter<std::uint64_t>, outcome_count> outcomes_{};
    SingleWriter<std::uint64_t> backdated_, clamped_, limited_, ahead_, unknown_, source_overflows_, unread_devices_;
    SingleWriter<bool> focused_{true};
    SingleWriter<std::uint64_t> locks_;  // as in an occasion
    SingleWriter<std::int64_t> complete_until_;
    std::unique_ptr<Device[]> devices_;
    EdgeRing ring_;
    SingleWriter<std::uint32_t> holds_used_;  // no hold from there on was ever bound
    HoldTable holds_;
    MotionRing motions_;
    AxisRing axes_;
    OccasionRing occasions_;
    TextRing texts_;
    SlotTable<AxisSlot> axis_table_;
    TrackTable tracks_;
    SlotTable<OccasionSlot> contact_table_;
    const std::unique_ptr<Ledger> ledger_;  // if the events are kept as they were posted
};

}  // namespace cursorum::detail
