// The side of an inlet that others read: sizes of the rings, counters, and a consistent copy of all holds while the
// producer goes on writing.
#include "core/inlet/inlet_history.hpp"

namespace cursorum::detail {

InletHistory::InletHistory(const Numbers& numbers, const HistoryRoom& room)
    : numbers_{numbers},
      latest_{nanoseconds(earliest_time)},
      complete_until_{nanoseconds(earliest_time)},
      devices_{std::make_unique<Device[]>(numbers.device_room + 1U)},
      ring_{room.edges},
      holds_{hold_capacity},
      motions_{room.motions},
      axes_{room.axes},
      occasions_{room.occasions},
      texts_{room.texts},
      axis_table_{numbers.track_room},
      tracks_{numbers.first_track, numbers.track_room},
      contact_table_{numbers.contact_room},
      ledger_{room.ledger != 0 ? std::make_unique<Ledger>(room.ledger) : nullptr} {}

InletCounters InletHistory::counters() const noexcept {
    const auto count = [this](auto... outcomes) { return (outcomes_[static_cast<unsigned>(outcomes)].get() + ...); };
    return {.events = event_count_.all(ring_.published(), motions_.published()),
            .strays = count(Outcome::stray_release, Outcome::stray_device, Outcome::stray_connect, Outcome::stray_kind,
                            Outcome::stray_inlet, Outcome::stray_contact),
            .unknown = unknown_.get(),
            .ignored = count(Outcome::ignored),
            .refused = count(Outcome::refused_devices, Outcome::refused_holds, Outcome::refused_control,
                             Outcome::refused_value, Outcome::refused_axes, Outcome::refused_contacts),
            .system_repeats = count(Outcome::system_repeat, Outcome::adopted_repeat),
            .lost_releases = count(Outcome::lost_release),
            .backdated = backdated_.get(),
            .clamped = clamped_.get(),
            .ahead = ahead_.get(),
            .interruptions = count(Outcome::interrupted),
            .focus_losses = count(Outcome::focus_lost),
            .limited = limited_.get(),
            .source_overflows = source_overflows_.get(),
            .unread_devices = unread_devices_.get()};
}

bool InletHistory::try_copy_holds(HoldsCopy& copy) const noexcept {
    Slot last{};
    std::uint64_t about = 0;
    const bool is_whole = try_often([&] {
        about = event_count_.about_extra_slots();
        return holds_.try_read(ring_, numbers_.first_hold, numbers_.hold_room, copy.holds.data(), copy.position, last);
    });
    if (!is_whole) return false;
    copy.events = EventCount::up_to(copy.position, last.tag(), about);
    return true;
}

}  // namespace cursorum::detail
