// Where an inlet keeps the values of axes: each axis of a device that was ever moved has a track for good, so that
// samplers can index them. Written by one thread, read by any.
#pragma once

#include <array>
#include <cstdint>
#include <memory>

#include "core/rings/single_writer.hpp"
#include "cursorum/core/axis.hpp"
#include "cursorum/core/event.hpp"

namespace cursorum::detail {

/// Maps each track to a device's axis. The inlet's thread binds tracks permanently; any thread may read. The two axes
/// of a stick have consecutive tracks, x first.
class TrackTable {
public:
    /// Track numbers from `first` up, at most `room` of them.
    TrackTable(unsigned first, unsigned room) : first_{first}, room_{room}, rows_{std::make_unique<Row[]>(room)} {}

    /// The inlet's thread: returns whether `count` more tracks fit.
    bool has_room_for(unsigned count) const noexcept { return used_.get() + count <= room_; }
    /// The inlet's thread: binds the next track. Precondition: it fits.
    unsigned bind(unsigned device, DeviceId id, Axis axis) noexcept {
        const std::uint32_t used = used_.get();
        rows_[used].owner.set(device | std::uint32_t{axis.number} << 8);
        rows_[used].id.set(id);
        rows_[used].next.set(heads_[axis.number].get());
        used_.publish(used + 1);
        heads_[axis.number].publish(used + 1);
        return first_ + used;
    }

    /// The tracks that are bound: `used` of them from `first` on.
    unsigned first() const noexcept { return first_; }
    unsigned used() const noexcept { return used_.look(); }

    /// visit(track, device, id): every device's track of the axis.
    template <typename Visit>
    void for_each(Axis axis, Visit&& visit) const {
        for (std::uint32_t at = heads_[axis.number].look(); at != 0; at = rows_[at - 1].next.get())
            visit(first_ + at - 1, rows_[at - 1].owner.get() & 0xFFU, rows_[at - 1].id.get());
    }
    /// visit(track, id, axis): all tracks.
    template <typename Visit>
    void for_each(Visit&& visit) const {
        for (std::uint32_t i = 0, used = used_.look(); i < used; ++i) {
            visit(first_ + i, rows_[i].id.get(), Axis{static_cast<std::uint8_t>(rows_[i].owner.get() >> 8)});
        }
    }

private:
    struct Row {
        SingleWriter<std::uint32_t> owner;  // the device's number, and the axis from bit 8 on
        SingleWriter<DeviceId> id;
        SingleWriter<std::uint32_t> next;  // index of another device's track of that axis, plus 1; 0: none
    };
    unsigned first_, room_;
    SingleWriter<std::uint32_t> used_;
    std::array<SingleWriter<std::uint32_t>, axis_kinds> heads_{};  // as `next`
    std::unique_ptr<Row[]> rows_;
};

}  // namespace cursorum::detail
