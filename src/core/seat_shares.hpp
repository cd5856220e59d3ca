// Which devices a seat has, for the floors above.
#pragma once

#include <array>

#include "cursorum/core/export.hpp"
#include "cursorum/core/seats.hpp"

namespace cursorum::detail {

struct SeatShare {
    DeviceId device{};
    ButtonSet part{};    // the buttons that the seat has of it
    bool is_all = true;  // it has all of them, its axes and its pointer

    friend bool operator==(const SeatShare&, const SeatShare&) = default;
};
using SeatShares = std::array<SeatShare, share_capacity>;

struct CURSORUM_API SeatAccess {
    /// What the seat has in the frame that was read last, one for each device, by the devices' ids. Returns how many.
    static unsigned shares_of(const Seats& seats, unsigned seat, SeatShares& shares) noexcept;
};

}  // namespace cursorum::detail
