// The ledger of an inlet: its events as they were posted, with those that were ignored or refused, in the order in
// which they came. What rings of edges and values have is what the rules made of them; this is what they were made of.
#pragma once

#include <array>
#include <bit>
#include <cstddef>
#include <cstdint>
#include <string_view>

#include "core/motion/motion_fields.hpp"
#include "core/rings/single_writer.hpp"
#include "core/rings/slot_ring.hpp"
#include "cursorum/core/event.hpp"
#include "cursorum/core/export.hpp"

namespace cursorum::detail {

/// An event as read from a ledger. Its name, if it has one, is in `name`, so do not copy it without that.
struct LedgerEvent {
    Event event;
    /// Of an event of a button: which one it was is not kept, see Ledger::keep().
    bool is_nameless = false;
    std::array<char, 64> name{};
};

/// A ring of words of 8 bytes. Each event has two, its stamp and its head (what it is, its device and its control), and
/// then what its type needs: nothing for a button, a value for an axis, a pair of values for motion.
///
/// Threads: the inlet's thread notes, any thread reads, and one thread at a time chooses what is kept and takes names
/// away. No thread waits.
class CURSORUM_API Ledger {
public:
    /// `bytes` is a power of two.
    explicit Ledger(std::size_t bytes) : ring_{static_cast<std::uint32_t>(bytes / 8)} {}

    // ---- the inlet's thread. `stamp`: as the inlet accepted it.

    void note_button(std::int64_t stamp, DeviceId device, Button button, bool down, bool marked) noexcept {
        note(stamp, head(EventType::button, device, keeps(button) ? button.number : 0,
                         down * down_flag | marked * marked_flag));
    }
    void note_axis(std::int64_t stamp, DeviceId device, unsigned axis, double value) noexcept {
        note(stamp, head(EventType::axis, device, axis, 0), value);
    }
    void note_motion(std::int64_t stamp, DeviceId device, const MotionFields& moved) noexcept;
    /// The same of a distance alone, which is the most frequent.
    void note_distance(std::int64_t stamp, DeviceId device, double dx, double dy) noexcept {
        constexpr unsigned flags = MotionFields::motion;
        if (is_short(dx) && is_short(dy)) [[likely]]
            note(stamp, head(EventType::motion, device, 0, flags | short_motion_flag), short_pair(dx, dy));
        else
            note(stamp, head(EventType::motion, device, 0, flags), dx, dy);
    }
    /// `down` and `axes` may be absent. `adopts`: differences of buttons are adopts and cancels; likewise of axes.
    void note_state(std::int64_t stamp, DeviceId device, const ButtonSet* down, const AxisValues& axes, bool adopts,
                    bool adopts_axes) noexcept;
    /// Events of all other types, except for text, which is not kept.
    void note_other(std::int64_t stamp, const Event& event) noexcept;

    // ---- the thread that chooses

    /// From now on, events of other buttons have no names.
    void keep(const ButtonSet& buttons) noexcept {
        for (unsigned i = 0; i < button_words; ++i) kept_[i].set(buttons.words()[i]);
    }
    /// Takes the names of some buttons away from an event that was noted.
    void take_names(std::uint64_t position, const ButtonSet& buttons) noexcept;

    // ---- any thread. Positions count words.

    std::uint64_t end() const noexcept { return ring_.published(); }
    std::uint64_t capacity() const noexcept { return ring_.capacity(); }
    bool still_has(std::uint64_t position) const noexcept { return ring_.still_has(position); }
    /// What has to be known of an event to pass over it.
    struct Glance {
        std::int64_t stamp;
        std::uint64_t next;  ///< where the next event is
        EventType type;
        std::uint16_t control;  ///< a button or axis; 0 for a button whose name is not kept
        bool is_flagged;        ///< of focus: focused; of a button: down
    };
    /// Precondition: an event begins at `position`, which is before end(). It may be torn until still_has() confirms
    /// it.
    Glance glance(std::uint64_t position) const noexcept {
        const std::uint64_t what = ring_.first_word(position + 1);
        return {static_cast<std::int64_t>(ring_.first_word(position)), position + 2 + (what >> length_shift & 0xFF),
                static_cast<EventType>(what & type_mask), static_cast<std::uint16_t>(what >> control_shift & 0xFFF),
                (what >> flags_shift & down_flag) != 0};
    }
    /// The event at a position. Returns false if it was overwritten.
    bool read(std::uint64_t position, LedgerEvent& event) const noexcept;

private:
    // The head: type 4, words that follow 8, flags 8, control 12 bits, device.
    static constexpr std::uint64_t type_mask = 15;
    static constexpr unsigned length_shift = 4, flags_shift = 12, control_shift = 20, device_shift = 32;
    static constexpr unsigned down_flag = 1, marked_flag = 2;     // button, focus
    static constexpr unsigned down_set_flag = 1, adopt_flag = 2;  // state
    static constexpr unsigned inside_flag = 1, has_inside_flag = 2, has_cursor_flag = 4, hidden_flag = 8;  // pointer
    static constexpr unsigned short_motion_flag = 32, short_position_flag = 64, short_raw_flag = 128;  // motion, wheel
    static_assert(button_capacity <= 1U << 12);

    /// Two values that are exact as 32-bit numbers share one word.
    static bool is_short(double value) noexcept { return static_cast<double>(static_cast<float>(value)) == value; }
    static std::uint64_t short_pair(double x, double y) noexcept {
        return std::bit_cast<std::uint32_t>(static_cast<float>(x)) |
               std::uint64_t{std::bit_cast<std::uint32_t>(static_cast<float>(y))} << 32;
    }
    static std::uint64_t head(EventType type, DeviceId device, unsigned control, unsigned flags) noexcept {
        return static_cast<std::uint64_t>(type) | std::uint64_t{flags} << flags_shift |
               std::uint64_t{control} << control_shift |
               std::uint64_t{static_cast<std::uint32_t>(device)} << device_shift;
    }
    template <typename... Values>
    void note(std::int64_t stamp, std::uint64_t head, Values... values) noexcept {
        ring_.write_together(static_cast<std::uint64_t>(stamp), head | std::uint64_t{sizeof...(values)} << length_shift,
                             std::bit_cast<std::uint64_t>(values)...);
    }
    /// The same with any number of words, which are written by `write`.
    template <typename Write>
    void note_long(std::int64_t stamp, std::uint64_t head, unsigned words, Write&& write) noexcept {
        ring_.write({static_cast<std::uint64_t>(stamp)});
        ring_.write({head | std::uint64_t{words} << length_shift});
        write();
        ring_.publish();
    }
    void write_set(const ButtonSet& buttons) noexcept {
        for (unsigned i = 0; i < button_words; ++i) ring_.write({buttons.words()[i]});
    }
    bool keeps(Button button) const noexcept {
        return button.number < button_capacity && (kept_[button.number / 64].get() >> button.number % 64 & 1) != 0;
    }

    SlotRing<1> ring_;
    std::array<SingleWriter<std::uint64_t>, button_words> kept_{};
};

}  // namespace cursorum::detail
