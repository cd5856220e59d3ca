#include "core/inlet/inlet_history.hpp"

namespace cursorum::detail {

InletHistory::InletHistory(const Numbers& place, const HistoryRoom& room)
    : numbers_{place},
      latest_{nanoseconds(earliest_time)},
      complete_until_{nanoseconds(earliest_time)},
      devices_{std::make_unique<Device[]>(place.device_room + 1U)},
      ring_{room.edges},
      holds_{hold_capacity},
      motions_{room.motions},
      axes_{room.axes},
      occasions_{room.occasions},
      axis_table_{place.track_room},
      tracks_{place.first_track, place.track_room},
      contact_table_{place.contact_room} {}

InletCounters InletHistory::counters() const noexcept {
    const auto count = [this](auto... outcomes) { return (outcomes_[static_cast<unsigned>(outcomes)].get() + ...); };
    return {.events = ring_.published() - extra_slots_.get() + motions_.published() - extra_motions_.get() +
                      axes_alone_.get(),
            .strays = count(Outcome::stray_release, Outcome::stray_device, Outcome::stray_connect, Outcome::stray_kind,
                            Outcome::stray_inlet, Outcome::stray_contact),
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
            .limited = limited_.get()};
}

bool InletHistory::try_copy_holds(HoldsCopy& copy) const noexcept {
    Slot last{};
    std::uint64_t about = 0;
    const bool is_whole = try_often([&] {
        about = extra_slots_.get();
        return holds_.try_read(ring_, numbers_.first_hold, numbers_.hold_room, copy.holds.data(), copy.position, last);
    });
    if (!is_whole) return false;
    // The whole number that ends in the last slot's bits and is nearest to `about`, which is less than a round off.
    constexpr std::uint64_t half = std::uint64_t{1} << (extra_bits - 1);
    const std::uint64_t least = about - half;
    const std::uint64_t extra = least + ((extra_of(last.tag()) - least) & (2 * half - 1));
    copy.events = copy.position == 0 ? 0 : copy.position - extra;
    return true;
}

}  // namespace cursorum::detail
