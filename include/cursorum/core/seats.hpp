// Seats: which devices belong to which player.
#pragma once

#include <cstddef>
#include <cstdint>
#include <initializer_list>
#include <optional>
#include <type_traits>

#include "cursorum/core/button_set.hpp"
#include "cursorum/core/detail/opaque.hpp"
#include "cursorum/core/edge.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/frame.hpp"

namespace cursorum {

/// Maximum number of seats, and of devices (or parts of devices) assigned to all seats together.
inline constexpr unsigned seat_capacity = 8, share_capacity = 32;

/// The two halves of a keyboard for two people: the left one with the letters up to T, G and B, digits 1 to 5, Tab, the
/// left Shift, Control, Alt and Meta, Escape, F1 to F6, and the space bar; the right one with all other keys.
CURSORUM_API ButtonSet left_half() noexcept;
CURSORUM_API ButtonSet right_half() noexcept;

/// What happened to a seat.
struct SeatChange {
    enum class Kind : std::uint8_t {
        taken,  ///< somebody pressed an offered button: the device is theirs from the next frame on
        given,  ///< the game gave it a device, from this frame's start on
        freed,  ///< a device does not belong to it any more, from this frame's start on
        away,   ///< a device of it was unplugged: a good moment to pause. The seat is kept for it
        back,   ///< that device is connected again
    };
    Kind kind{};
    unsigned seat = 0;
    DeviceId device{};
    Time time;
};

/// How a player joins: by pressing a button of a device that belongs to nobody.
struct SeatOffer {
    ButtonSet buttons;
    /// A keyboard is assigned by halves (left_half(), right_half()): the one with the key that was pressed.
    bool halves = false;
    /// A button that is adopted takes a seat as well: a pad that shows itself only by its first press is adopted by
    /// that press, and would otherwise need a second one. Nothing fires.
    bool adopted = false;
};

class SeatsCore;
namespace detail {
struct SeatAccess;
}

/// An edge of a seat's button.
struct SeatEdge {
    Edge edge;                ///< its key, and the device that made it
    bool of_adopted = false;  ///< of an end: the hold was adopted, so nobody pressed it
};

/// The part of a frame that one seat's devices contributed. Valid as long as that frame.
class CURSORUM_API SeatFrame {
public:
    /// One button, merged over the seat's devices. If a device was moved to this seat while the button was down, the
    /// button is adopted at the frame's start (no press, no repeats); if it was moved away, it is cancelled there.
    /// Cost: proportional to the frame's events.
    ButtonFigures operator[](Button button) const noexcept;
    /// One reading for any of several buttons, like Frame::any().
    ButtonFigures any(std::initializer_list<Button> buttons) const noexcept;
    /// Calls `visit(SeatEdge)` for each edge of the button as it is merged over the seat's devices, in order.
    template <typename Visit>
    void for_each_edge(Button button, Visit&& visit) const {
        using Own = std::remove_reference_t<Visit>;
        walk_edges(button, const_cast<void*>(static_cast<const void*>(&visit)),
                   [](void* to, const SeatEdge& edge) { (*static_cast<Own*>(to))(edge); });
    }
    /// The pointer and the wheel as moved by the seat's mice and touch surfaces, and the clicks of their buttons. All
    /// seats share the pointer's position on the screen. Valid as long as the frame, and until the next Seats::read().
    PointerReading pointer() const noexcept;
    /// Four buttons and a stick of its devices as one vector, like Frame::direction().
    DirectionReading direction(const DirectionButtons& buttons,
                               std::optional<Stick> stick = std::nullopt) const noexcept;
    /// The stick of its devices that is pushed farthest.
    StickReading stick(Stick stick) const noexcept;
    /// The trigger of its devices that is pulled farthest.
    AxisReading trigger(Axis trigger) const noexcept;
    /// The motion of all its mice together.
    Distance motion() const noexcept;

    /// Not for callers: seats make it.
    SeatFrame(const SeatsCore& seats, unsigned seat) noexcept : seats_{&seats}, seat_{seat} {}

private:
    void walk_edges(Button button, void* to, void (*visit)(void*, const SeatEdge&)) const;

    const SeatsCore* seats_;
    unsigned seat_;
};

/// Assigns devices, or halves of keyboards, to players, and reads frames for each player.
///
///     Seats seats{2};
///     seats.offer({.buttons = {PadStart, Enter}});
///     …
///     const Frame& frame = simulation.advance(cut);
///     seats.read(frame);
///     for (unsigned i = 0; i < seats.change_count(); ++i) if (seats.change(i).kind == SeatChange::Kind::away) pause();
///     if (seats[0][PadSouth].pressed()) …
///
/// Each object belongs to one sampler and reads each of its frames once, in order. Changes take effect at the start of
/// the frame that is read next, so that nothing changes in the middle of a frame.
/// Threads: the same as its sampler's; between two calls of read(), any number of threads may read the seats' frames at
/// the same time. Memory: a plain value of 4 KB; nothing allocates. Copy it when the sampler is
/// saved, and copy it back when the sampler is restored.
class CURSORUM_API Seats {
public:
    /// `count`: 1 to seat_capacity.
    explicit Seats(unsigned count) noexcept;

    unsigned count() const noexcept;

    /// Gives the device to that seat and takes it from any other. Returns false and changes nothing if the
    /// seat does not exist or the capacity is exceeded.
    bool give(DeviceId device, unsigned seat) noexcept;
    /// Gives only these buttons of the device (a half of a keyboard). Other seats keep the buttons that are not among
    /// them.
    bool give(DeviceId device, unsigned seat, const ButtonSet& part) noexcept;
    /// Takes the device from its seat: it belongs to nobody.
    void unassign(DeviceId device) noexcept;

    /// Offers the free seats until end_offer(): a press of one of the offered buttons on an unassigned device takes the
    /// first seat that has no device. A second call replaces the offer.
    void offer(const SeatOffer& offer) noexcept;
    void end_offer() noexcept;
    /// From now on, a device of this kind that connects and is unassigned is given to the first seat without a device.
    void fill_with(DeviceKind kind, bool fill = true) noexcept;

    /// Reads a frame. Afterwards, seats and changes refer to it.
    void read(const Frame& frame) noexcept;

    /// The changes of the last frame, in order.
    std::size_t change_count() const noexcept;
    const SeatChange& change(std::size_t index) const noexcept;

    /// The last frame for one seat. Precondition: read() has been called at least once.
    SeatFrame operator[](unsigned seat) const noexcept;
    /// Returns whether the seat has a connected device.
    bool has_device(unsigned seat) const noexcept;
    /// Returns whether a device of the seat was unplugged and is not back yet.
    bool is_away(unsigned seat) const noexcept;
    /// The seat that has this button of this device; nothing if it is unassigned.
    std::optional<unsigned> seat_of(DeviceId device, Button button) const noexcept;
    /// The device that the seat used last, for prompts on the screen. A press counts as use; so does a stick or trigger
    /// once it acts as a button (so noise never does), a mouse that moves 4 pixels within a frame, and a wheel.
    std::optional<DeviceId> last_device(unsigned seat) const noexcept;

private:
    friend struct detail::SeatAccess;
    detail::Opaque<3900> core_;
};

}  // namespace cursorum
