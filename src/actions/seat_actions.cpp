// One action reader for each seat, read together. The readers share nothing; a seat's frames are the parts of the
// sampler's that its devices made.
#include "cursorum/actions/seat_actions.hpp"

#include <algorithm>

namespace cursorum {

SeatActions::SeatActions(const Seats& seats, const Profile& profile) : seats_{&seats} {
    for (unsigned i = 0; i < seats.count(); ++i) readers_.push_back(std::make_unique<ActionReader>(profile));
}

SeatActions::SeatActions(const Seats& seats, std::span<const Profile> profiles) : seats_{&seats} {
    for (unsigned i = 0; i < seats.count(); ++i)
        readers_.push_back(std::make_unique<ActionReader>(i < profiles.size() ? profiles[i] : Profile{}));
}

void SeatActions::read(const Frame& frame) {
    for (unsigned i = 0; i < readers_.size(); ++i) readers_[i]->read(frame, *seats_, i);
}

std::optional<unsigned> SeatActions::first_to_press(ButtonAction action) const noexcept {
    std::optional<unsigned> first;
    Time when;
    for (unsigned i = 0; i < readers_.size(); ++i) {
        const auto pressed = (*readers_[i])[action].first_press();
        if (!pressed || (first && *pressed >= when)) continue;
        first = i;
        when = *pressed;
    }
    return first;
}

bool SeatActions::pauses() const noexcept {
    return std::any_of(readers_.begin(), readers_.end(), [](const auto& reader) { return reader->pauses(); });
}

bool SeatActions::any_down(ButtonAction action) const noexcept {
    for (const auto& reader : readers_)
        if ((*reader)[action].down()) return true;
    return false;
}

}  // namespace cursorum
