// The door through which the floor that explains sees the core: what was so at a frame's end, with the ids of devices
// in place of the core's numbers, and the ledgers from which the events after it can be read.
#pragma once

#include <array>
#include <cstdint>
#include <vector>

#include "core/ledger/ledger.hpp"
#include "cursorum/core/button_set.hpp"
#include "cursorum/core/device.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/frame.hpp"
#include "cursorum/core/inlet.hpp"
#include "cursorum/core/sampler.hpp"
#include "cursorum/core/space.hpp"

namespace cursorum::detail {

/// All that has an effect on later frames of a sampler, but for clicks in progress and the totals of motion.
struct CURSORUM_API FrameLevels {
    struct AxisLevel {
        DeviceId device;
        Axis axis;
        double value, shaped;
    };
    struct ContactLevel {
        DeviceId device;
        std::uint32_t contact;
        WindowPoint position;
        double pressure;
        std::int64_t begin;
    };

    /// Reads them; of holds, those of buttons that are kept. Does not allocate.
    void read(const Frame& frame, const ButtonSet& kept) noexcept;

    std::int64_t time = 0;
    std::array<HoldBeginning, hold_capacity> holds{};  // `hold_count` are in use, likewise below
    unsigned hold_count = 0;
    // Merged buttons that are down: since when, and whether they were found so.
    ButtonSet down, adopted;
    std::array<std::int64_t, button_capacity> since{};
    std::array<AxisLevel, axis_capacity> axes{};  // of all axes that were ever posted
    unsigned axis_count = 0;
    std::array<ContactLevel, contact_capacity> contacts{};  // by when they began
    unsigned contact_count = 0;
    std::array<DeviceId, device_capacity> connected{};  // by their numbers
    unsigned connected_count = 0;
    WindowPoint pointer{};
    bool has_pointer = false;
    ButtonSet locks;
    Distance wheel_carried{};  // turned, but not yet a whole step
};

/// How a frame was cut.
struct FrameCut {
    std::uint64_t serial = 0;    ///< of the sampler: one more than the frame before it, also after going back
    std::uint64_t restored = 0;  ///< how often it had gone back
    std::int64_t begin = 0, end = 0;
    bool has_gap = false, is_paused = false;
    std::int64_t pause = 0;  ///< when the pause began
};
CURSORUM_API FrameCut cut_of(const Frame& frame) noexcept;

/// Null if the timeline was made without.
CURSORUM_API Ledger* ledger_of(const Timeline& timeline, unsigned inlet) noexcept;
/// Where the ledger of an inlet ended when this frame was cut.
CURSORUM_API std::uint64_t ledger_end_of(const Frame& frame, unsigned inlet) noexcept;

}  // namespace cursorum::detail
