// Seats: which devices are whose.
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <initializer_list>
#include <optional>

#include "cursorum/core/frame.hpp"

namespace cursorum {

/// So many seats there can be, and so many devices or parts of devices given to them together.
inline constexpr unsigned seat_capacity = 8, share_capacity = 32;

/// The two halves of a keyboard for two people: the left one with the letters up to T, G and B, digits 1 to 5, Tab, the
/// left Shift, Control, Alt and Meta, Escape, F1 to F6, and the space bar; the right one with all other keys.
ButtonSet left_half() noexcept;
ButtonSet right_half() noexcept;

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

class Seats;

/// A frame as one seat's devices made it. Good as long as the frame it was made of.
class SeatFrame {
public:
    /// Merged over the seat's devices. A device that was moved here while a button was down: an adopt at the frame's
    /// start (no press, no repeats); one that was moved away: a cancel there. Costs by the frame's events.
    ButtonFigures operator[](Button button) const noexcept;
    /// One reading for any of several buttons, as Frame::any().
    ButtonFigures any(std::initializer_list<Button> buttons) const noexcept;
    /// The pointer and the wheel as the seat's mice and touch surfaces move them, and the clicks of their buttons. The
    /// pointer's position on the screen is everybody's. Lifetime: as long as the frame, and until the next
    /// Seats::read().
    PointerReading pointer() const noexcept;
    /// The longest of its devices' sticks.
    StickReading stick(Stick stick) const noexcept;
    /// The largest of its devices' triggers.
    AxisReading pull(Axis pull) const noexcept;
    /// Motion of all its mice together.
    Distance motion() const noexcept;

private:
    friend class Seats;
    SeatFrame(const Seats& seats, unsigned seat) noexcept : seats_{&seats}, seat_{seat} {}
    const Seats* seats_;
    unsigned seat_;
};

/// Gives devices, or halves of keyboards, to players, and reads frames for each of them.
///
///     Seats seats{2};
///     seats.offer({PadStart, Enter});
///     …
///     const Frame& frame = simulation.advance(cut);
///     seats.read(frame);
///     for (unsigned i = 0; i < seats.change_count(); ++i) if (seats.change(i).kind == SeatChange::Kind::away) pause();
///     if (seats[0][PadSouth].pressed()) …
///
/// One of these belongs to one sampler, and reads each of its frames once, in order. What is given or taken holds from
/// the start of the frame that is read next, so that nothing changes in the middle of one.
/// Threads: its sampler's. Nothing allocates; a plain value of 4 KB: copy it where the sampler is saved, copy it back
/// where that is restored.
class Seats {
public:
    /// `count`: 1 to seat_capacity.
    explicit Seats(unsigned count) noexcept;

    unsigned count() const noexcept { return count_; }

    /// The device belongs to that seat, and to no other any more. False, and nothing changes: no such seat, no room.
    bool give(DeviceId device, unsigned seat) noexcept { return give(device, seat, everything()); }
    /// Only these of its buttons (a half of a keyboard); what of it others have and does not overlap stays theirs.
    bool give(DeviceId device, unsigned seat, const ButtonSet& part) noexcept;
    /// The device belongs to nobody.
    void take_back(DeviceId device) noexcept;

    /// Offers the free seats: from now on, a press of one of these buttons on an unassigned device takes the first seat
    /// without a device. With `halves`, a keyboard is assigned by halves: the one with the key that was pressed.
    ///
    /// With `adopted`, a button that is adopted takes a seat as well: a pad that shows itself only by its first press
    /// is adopted by that, and would otherwise need a second one. Nothing fires.
    void offer(const ButtonSet& buttons, bool halves = false, bool adopted = false) noexcept;
    void end_offer() noexcept { offers_ = {}; }
    /// From now on, a device of this kind that connects and has no seat is given to the first seat without a device.
    void fill_with(DeviceKind kind, bool fill = true) noexcept;

    /// Reads a frame: afterwards seats and changes speak of it.
    void read(const Frame& frame) noexcept;

    /// What the last frame changed, in order.
    std::size_t change_count() const noexcept { return change_count_; }
    const SeatChange& change(std::size_t index) const noexcept { return changes_[index]; }

    /// The last frame for one seat. Before the first read() there is none: do not ask.
    SeatFrame operator[](unsigned seat) const noexcept { return {*this, seat}; }
    /// It has a device that is connected.
    bool has_device(unsigned seat) const noexcept;
    /// A device of it was unplugged and is not back yet.
    bool is_away(unsigned seat) const noexcept;
    /// The seat that has this button of this device; nothing if nobody has.
    std::optional<unsigned> seat_of(DeviceId device, Button button) const noexcept;
    /// The device that the seat used last, for the prompts on the screen. A press counts, a stick or trigger once it
    /// counts as pushed (so its noise never does), a mouse once it moves 4 pixels within a frame, or its wheel.
    std::optional<DeviceId> last_device(unsigned seat) const noexcept { return last_device_[seat]; }

private:
    friend class SeatFrame;

    struct Share {
        DeviceId device{};
        ButtonSet part;
        std::uint8_t seat = 0;
        bool is_used = false, is_away = false;
        bool is_new = false;   // from this frame's start on
        bool is_gone = false;  // until this frame's start
        bool is_next = false;  // from the next frame's start on
        bool ends = false;     // until the next frame's start
        std::int64_t since = 0;
    };

    static ButtonSet everything() noexcept;
    void report(SeatChange::Kind kind, unsigned seat, DeviceId device, Time time) noexcept;
    void settle(const Frame& frame) noexcept;
    void take_seats(const Frame& frame) noexcept;
    void fill(const DeviceChange& change) noexcept;
    void note_use(const Frame& frame) noexcept;
    bool is_free(unsigned seat) const noexcept;
    ButtonFigures figures(unsigned seat, const ButtonSet& keys, Button repeats_as) const noexcept;

    unsigned count_;
    const Frame* frame_ = nullptr;
    ButtonSet offers_;
    bool offers_halves_ = false, offers_to_adopted_ = false;
    std::uint8_t fills_with_ = 0;  // bit n: devices of kind n
    std::array<Share, share_capacity> shares_{};
    std::array<SeatChange, share_capacity> changes_{};
    std::size_t change_count_ = 0;
    std::array<std::optional<DeviceId>, seat_capacity> last_device_{};
    std::array<detail::DeviceBits, seat_capacity> pointing_{};  // devices whose mouse buttons are the seat's
};

}  // namespace cursorum
