// What a sampler remembers from cut to cut, and what it knows of the frame between two. Not for callers.
#pragma once

#include <array>
#include <cstdint>
#include <type_traits>
#include <vector>

#include "cursorum/core/button_set.hpp"
#include "cursorum/core/inlet.hpp"
#include "cursorum/core/repeat.hpp"

namespace cursorum::detail {

/// What a device's edge did to the merged button.
enum class Effect : std::uint8_t {
    none,
    press,
    adopt,
    release,
    cancel,
    restart  ///< cancel, then press: pressed on one device while the others only adopted it
};

/// One entry of a frame, 16 bytes: a device's edge or a system repeat, and what it did to the merged button.
struct Record {
    std::int64_t time;   ///< effective
    std::uint32_t link;  ///< the same button's entry before this one in this frame, or no_link
    std::uint16_t button;
    std::uint8_t device;
    std::uint8_t what;  ///< SlotKind | Effect << 4

    SlotKind kind() const noexcept { return static_cast<SlotKind>(what & 0x0F); }
    Effect effect() const noexcept { return static_cast<Effect>(what >> 4); }
};
static_assert(sizeof(Record) == 16);
inline constexpr std::uint32_t no_link = 0xFFFFFFFF;

/// A button held on one device, as of the frame's start.
struct DeviceHold {
    std::int64_t start;
    std::uint16_t button;
    std::uint8_t device;
    bool pressed;
};

using HoldBits = std::array<std::uint64_t, hold_capacity / 64>;

inline constexpr unsigned repeat_settings = 16;

/// Everything a sampler remembers; trivially copyable, no pointers.
///
/// Two moments live side by side: what is known *now*, as far as events were taken (position … hold_pressed), and what
/// was true at the frame's start t0 (start, adopted, holds, held). The frame's records lead from one to the other;
/// committing them brings the second up to the first, which the next advance does and every save does on its copy.
struct SamplerState {
    std::int64_t t0 = 0, t1 = 0;
    std::int64_t effective = 0;  // of the last event taken, at least t0
    std::uint64_t position = 0;  // in the inlet's ring
    std::uint64_t events = 0;    // the inlet's count at that position
    std::uint64_t taken = 0, late = 0, lost = 0, overruns = 0, went_back = 0;

    ButtonSet::Words previous{}, current{}, pressed{}, ended{}, touched{};
    std::array<std::uint16_t, button_capacity> holders{};  // devices that hold it; high byte: of those, pressed
    std::array<bool, hold_capacity + 1> hold_pressed{};    // the last entry takes what concerns no hold

    std::array<std::int64_t, button_capacity + 1> start{};  // merged holds; the last entry likewise
    ButtonSet::Words adopted{};
    std::array<DeviceHold, hold_capacity> holds{};
    HoldBits held{};

    std::array<Repeat, repeat_settings> repeats{};
    std::array<std::uint8_t, button_capacity> repeat_of{};

    void erase_frame() noexcept {
        t0 = t1;
        previous = current;
        pressed = {};
        ended = {};
        touched = {};
    }
};
static_assert(std::is_trivially_copyable_v<SamplerState>);
static_assert(sizeof(SamplerState) <= 16 * 1024);

/// The entries of a frame and how to find a button's own.
struct FrameEntries {
    std::vector<Record> records;       // sized once; `count` are in use
    std::vector<std::uint16_t> holds;  // beside records
    std::uint32_t count = 0;
    std::array<std::uint32_t, button_capacity> last{};  // valid where the state's `touched` is set

    /// Brings the state from t0 to the last record.
    void commit(SamplerState& state) const noexcept;
};

}  // namespace cursorum::detail
