// How clicks, drags, contacts, connects and lock keys' states are stored: seldom enough for 80 bytes each, with where
// and when each began.
#pragma once

#include <array>
#include <cstdint>

#include "core/buttons/edge_ring.hpp"
#include "core/rings/word_ring.hpp"
#include "core/rules/fixed_point.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/cursor_state.hpp"

namespace cursorum::detail {

/// A rare event with more data. It is counted elsewhere, as an axis's event is.
enum class OccasionKind : std::uint8_t {
    press,          ///< of a mouse button; it may become a click
    drag,           ///< the pointer moved far enough from the press
    release,        ///< a click, and the end of a drag
    cancel,         ///< no click; ends a drag without a drop
    contact_begin,  ///< of a touch surface
    contact_move,
    contact_end,
    contact_cancel,
    pointer_flags,  ///< outside or inside, and the cursor's state
    connect,
    disconnect,
    locks,  ///< which lock keys' states are on
};

/// The lock keys, as bits of OccasionSlot::begin[0] of a `locks`; the bit behind them is set
/// once the inlet has received any.
inline constexpr std::array<Button, 3> lock_keys{controls::CapsLock, controls::NumLock, controls::ScrollLock};
inline constexpr std::uint64_t locks_reported = std::uint64_t{1} << lock_keys.size();

struct OccasionSlot {
    std::int64_t time = 0;
    /// Device in the low 8 bits, then 8 bits kind, 16 bits place (in the table of presses or contacts), 16 bits button,
    /// 8 bits count of clicks, then the flags.
    std::uint64_t what = 0;
    /// Where the press was, or where the contact began. Of pointer flags: see set_pointer_flags().
    FixedDistance begin{};
    FixedDistance position{};  ///< now
    double measure = 0;        ///< of a press: the farthest from it, in square pixels; of a contact: its pressure
    std::int64_t begin_time = 0;
    std::uint64_t contact = 0;        ///< its id
    std::uint64_t late_at = in_time;  ///< as in AxisSlot

    static constexpr std::uint64_t virtual_bit = std::uint64_t{1} << 56, placed_bit = std::uint64_t{1} << 57,
                                   dragging_bit = std::uint64_t{1} << 58;
    static constexpr unsigned count_shift = 48;
    static constexpr std::uint64_t what_of(OccasionKind kind, unsigned place, unsigned button,
                                           unsigned count) noexcept {
        return std::uint64_t{static_cast<unsigned>(kind)} << 8 | std::uint64_t{place} << 16 |
               std::uint64_t{button} << 32 | std::uint64_t{count} << count_shift;
    }
    unsigned device() const noexcept { return static_cast<unsigned>(what & 0xFF); }
    OccasionKind kind() const noexcept { return static_cast<OccasionKind>(what >> 8 & 0xFF); }
    unsigned place() const noexcept { return static_cast<unsigned>(what >> 16 & 0xFFFF); }
    std::uint16_t button() const noexcept { return static_cast<std::uint16_t>(what >> 32); }
    unsigned count() const noexcept { return static_cast<unsigned>(what >> count_shift & 0xFF); }
    bool is_virtual() const noexcept { return (what & virtual_bit) != 0; }
    bool is_placed() const noexcept { return (what & placed_bit) != 0; }
    bool is_dragging() const noexcept { return (what & dragging_bit) != 0; }
    void set_pointer_flags(bool outside, const CursorState& cursor) noexcept {
        begin[0] = outside * 1U | cursor.hidden * 2U | static_cast<unsigned>(cursor.hold) << 2U;
    }
    bool outside() const noexcept { return (begin[0] & 1) != 0; }
    CursorState cursor() const noexcept { return {static_cast<CursorHold>(begin[0] >> 2), (begin[0] & 2) != 0}; }
    bool is_press() const noexcept { return kind() <= OccasionKind::cancel; }
    /// A device came or went.
    bool is_change() const noexcept { return kind() == OccasionKind::connect || kind() == OccasionKind::disconnect; }
    bool is_contact() const noexcept {
        return kind() >= OccasionKind::contact_begin && kind() <= OccasionKind::contact_cancel;
    }
    /// The press or contact continues after it.
    bool goes_on() const noexcept {
        const OccasionKind k = kind();
        return k == OccasionKind::press || k == OccasionKind::drag || k == OccasionKind::contact_begin ||
               k == OccasionKind::contact_move;
    }
};
static_assert(sizeof(OccasionSlot) == 10 * 8);

using OccasionRing = WordRing<OccasionSlot>;

}  // namespace cursorum::detail
